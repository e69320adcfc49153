"""The pictures of a package, each once, with all its showings."""

from collections.abc import Collection, Iterable, Sequence

from lighten.containers.archive import Archive
from lighten.containers.pictures.weigh_members import MemberPicture, Showing
from lighten.containers.repeats import equal_members

__all__ = ["group_pictures"]


def group_pictures(
    archive: Archive,
    members: Sequence[str],
    showings: Iterable[tuple[str, str, Showing]],
    pinned: Collection[str] = (),
) -> tuple[MemberPicture, ...]:
    """Group equal pictures in the order of their first use; unused ones last.

    members: that are pictures. showings: the place of each, the member shown there, and how.
    pinned: members that something uses in a way that is not known here; they stay by themselves.
    """
    first = equal_members(archive, [name for name in members if name not in pinned])
    first |= {name: name for name in members if name in pinned}
    by_picture: dict[str, list[tuple[str, Showing]]] = {}
    for place, member, showing in showings:
        if member in first:
            by_picture.setdefault(first[member], []).append((place, showing))
    repeats: dict[str, list[str]] = {}
    for name, kept in first.items():
        if name != kept:
            repeats.setdefault(kept, []).append(name)
    unshown = [name for name in members if first[name] == name]
    return tuple(
        MemberPicture(
            id=by_picture[name][0][0] if name in by_picture else f"{name}#unused",
            member=name,
            showings=tuple(showing for _, showing in by_picture.get(name, ())),
            repeats=tuple(repeats.get(name, ())),
            is_pinned=name in pinned,
        )
        for name in dict.fromkeys([*by_picture, *unshown])
    )
