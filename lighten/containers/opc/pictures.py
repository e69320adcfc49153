"""The pictures of a package of ECMA-376: which members they are, and where they are shown."""

from collections.abc import Iterable, Iterator

from lighten.containers.opc.drawings import Reference, picture_references
from lighten.containers.opc.package import OpcPackage
from lighten.containers.pictures import MemberPicture, Showing, group_pictures
from lighten.model.errors import UnreadableFileError

__all__ = ["picture_showings", "pictures_and_leftovers"]

_ENDINGS = (".png", ".jpg", ".jpeg", ".jpe", ".gif", ".bmp", ".tif", ".tiff", ".webp")
_METAFILE_ENDINGS = (".emf", ".wmf")
# Where members lie that are there only because something leads to them.
_LED_TO = ("/media/", "/embeddings/", "/charts/", "/diagrams/", "/fonts/")


def pictures_and_leftovers(
    package: OpcPackage, showings: Iterable[tuple[str, str, Showing]]
) -> tuple[tuple[MemberPicture, ...], frozenset[str]]:
    """Return the pictures, unused ones last, and other unreferenced members.

    showings: as `group_pictures` has them.
    """
    known = list(showings)
    pictures = group_pictures(
        package.archive, _picture_members(package), known, frozenset(_used_otherwise(package))
    )
    members = {name for picture in pictures for name in (picture.member, *picture.repeats)}
    return pictures, frozenset(_leftover_members(package) - members)


def _used_otherwise(package: OpcPackage) -> Iterator[str]:
    """Yield pictures in use by a relationship whose element is not known to show a picture."""
    known = {(member, reference.id) for member, reference, _ in picture_showings(package)}
    for member, link in package.used_relations("image"):
        if (member, link.id) not in known:
            yield link.target


def _picture_members(package: OpcPackage) -> list[str]:
    """Return the members declared as pictures, without previews of the document."""
    return [
        name
        for name in package.archive.members
        if not name.startswith("docProps/")
        and (
            package.content_type(name).startswith("image/")
            or name.lower().endswith((*_ENDINGS, *_METAFILE_ENDINGS))
        )
    ]


def picture_showings(package: OpcPackage) -> Iterator[tuple[str, Reference, str]]:
    """Every showing of a picture of the package: the member that shows it, how, and which one."""
    showing = [
        member
        for member, links in package.relationships.items()
        if member in package.archive.members
        and package.is_xml(member)
        and any(link.kind == "image" and not link.is_external for link in links)
    ]
    for member in sorted(showing, key=lambda name: (name != package.main, name)):
        links = package.names_of(member)
        try:
            root = package.root(member)
        except UnreadableFileError:
            if package.is_vml(member):
                # Its pictures are in use all the same, and stay as they are.
                continue
            raise
        for reference in picture_references(root):
            link = links.get(reference.id)
            if link is not None and not link.is_external and link.target in package.archive.members:
                yield member, reference, link.target


def _leftover_members(package: OpcPackage) -> set[str]:
    """Return unreachable members of kinds that are only used through relationships."""
    return {
        name
        for name in package.archive.members
        if name not in package.used
        and any(folder in name for folder in _LED_TO)
        and "_rels/" not in name
    }
