"""Extras of a package as parts of its weight sheet."""

from collections.abc import Collection, Iterator, Mapping, Sequence

from lighten.containers.package_document import PackageDocument
from lighten.model.extras import EXTRAS
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.weights import Part

__all__ = ["extra_parts"]


def extra_parts(
    document: PackageDocument,
    kinds: Collection[ExtraKind],
    within: Mapping[str, Mapping[ExtraKind, int]],
    pictures: Sequence[Part],
) -> Iterator[Part]:
    """Return a part for each kind of extra, in the given order.

    within: by member, the bytes of extras that are only a part of it. pictures: the parts of the
    document's, in its order; what their members weigh beyond them is what pictures carry.
    """
    members = document.package.archive.members
    weights = {
        kind: sum(members[name].weight for name in document.members_of(kind)) for kind in kinds
    }
    for extras in within.values():
        for kind, weight in extras.items():
            weights[kind] += weight
    weights[ExtraKind.PICTURE_METADATA] = sum(
        members[picture.member].weight - part.size_bytes
        for picture, part in zip(document.pictures, pictures, strict=True)
    )
    for kind in kinds:
        yield Part(
            id=f"extra:{kind}",
            kind=PartKind.EXTRA,
            size_bytes=weights[kind],
            name=EXTRAS[kind].title,
            extra=kind,
        )
