"""The weight sheet of a text document."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from lighten.containers.extra_parts import extra_parts
from lighten.containers.opc import OpcPackage, open_package
from lighten.containers.pictures import MemberPicture, Showing, group_pictures, weigh_members
from lighten.containers.xml_weights import weight_within
from lighten.errors import PasswordNeededError
from lighten.formats.docx.clean_story import without_drawing_copies, without_traces
from lighten.formats.docx.definitions import (
    Definitions,
    drop_definitions,
    unused_definitions,
)
from lighten.formats.docx.fonts import embedded_fonts
from lighten.formats.docx.kinds import DOCX_EXTRAS, KIND_BY_MAIN_TYPE, is_template
from lighten.formats.docx.member_kinds import kind_of_member
from lighten.formats.docx.stories import (
    picture_showings,
    story_members,
    style_names,
    words_near,
)
from lighten.source import Progress, Source
from lighten.weights import ExtraKind, Part, PartKind, WeightSheet, with_structure

__all__ = ["TextDocument", "open_text_document", "weigh_docx"]

_OLE_MARK = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
_PAGE_PT = (453.0, 700.0)  # what the margins usual on A4 leave
_TWENTIETHS = 20.0
_PICTURE_ENDINGS = (".png", ".jpg", ".jpeg", ".jpe", ".gif", ".bmp", ".tif", ".tiff", ".webp")
_METAFILE_ENDINGS = (".emf", ".wmf")


@dataclass(frozen=True, slots=True, kw_only=True)
class TextDocument:
    """A package and what is known of it before anything is weighed.

    pictures: in the order of their first showing, those that nothing shows last.
    """

    package: OpcPackage
    media_type: str
    stories: tuple[str, ...]
    pictures: tuple[MemberPicture, ...]
    unused: Definitions
    leftovers: frozenset[str]

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Members that are nothing but extras of that kind."""
        match extra:
            case ExtraKind.LEFTOVERS:
                return self.leftovers
            case ExtraKind.REPEATS:
                return frozenset(name for picture in self.pictures for name in picture.repeats)
        is_such = _WHOLE_EXTRAS.get(extra)
        if is_such is None:
            return frozenset()
        return frozenset(
            name
            for name in self.package.archive.members
            if is_such(name, self.package.content_type(name)) and name not in self.leftovers
        )


_WHOLE_EXTRAS: dict[ExtraKind, Callable[[str, str], bool]] = {
    ExtraKind.THUMBNAILS: lambda name, _: name.startswith("docProps/thumbnail"),
    ExtraKind.PRINTER_SETTINGS: lambda name, told: (
        "printerSettings" in told or "/printerSettings" in name
    ),
    ExtraKind.METADATA: lambda name, _: (
        name in ("docProps/core.xml", "docProps/app.xml", "docProps/custom.xml")
    ),
    ExtraKind.NOTES: lambda name, told: "comments" in told.lower(),
}


def open_text_document(source: Source) -> TextDocument:
    """Raises: as `open_package`; PasswordNeededError if it is locked."""
    with source.path.open("rb") as file:
        if file.read(len(_OLE_MARK)) == _OLE_MARK:
            raise PasswordNeededError(
                f"{source.name}: is locked with a password, which only its own program can open. "
                "Save it there without one, and try that file."
            )
    package = open_package(source)
    stories = tuple(story_members(package))
    media_type = KIND_BY_MAIN_TYPE.get(
        package.content_type(package.main), next(iter(KIND_BY_MAIN_TYPE.values()))
    ).media_type
    # Macros may ask for styles by name, and building blocks have styles of their own by like names.
    keeps_styles = is_template(media_type) or any(
        name.endswith("vbaProject.bin") or "/glossary/" in name for name in package.archive.members
    )
    pictures = group_pictures(package.archive, _picture_members(package), _showings(package))
    members = {name for one in pictures for name in (one.member, *one.repeats)}
    return TextDocument(
        package=package,
        media_type=media_type,
        stories=stories,
        pictures=pictures,
        unused=Definitions() if keeps_styles else unused_definitions(package, stories),
        leftovers=frozenset(_leftovers(package) - members),
    )


def weigh_docx(source: Source, progress: Progress) -> WeightSheet:
    """Every member a part, extras within members apart, adding up to the file.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError, UnsupportedFileError.
    """
    document = open_text_document(source)
    package = document.package
    package.archive.check()
    progress(0.3)
    pictures = weigh_members(
        package.archive,
        document.pictures,
        _page_size(package),
        lambda share: progress(0.3 + 0.5 * share),
    )
    within = _weights_within(document)
    metadata = _picture_metadata(document, pictures)
    extras = {
        extra: sum(package.archive.members[name].weight for name in document.members_of(extra))
        for extra in DOCX_EXTRAS
    }
    for weights in within.values():
        for extra, weight in weights.items():
            extras[extra] += weight
    extras[ExtraKind.PICTURE_METADATA] = metadata
    parts = [*pictures, *_other_parts(document, within), *extra_parts(DOCX_EXTRAS, extras)]
    progress(1.0)
    return WeightSheet(
        format="docx",
        media_type=document.media_type,
        size_bytes=package.archive.size_bytes,
        pages=None,
        parts=with_structure(parts, package.archive.size_bytes),
        is_signed=package.is_signed,
    )


def _showings(package: OpcPackage) -> Iterator[tuple[str, str, Showing]]:
    """The place of each showing of a picture, the member shown there, and how."""
    names = style_names(package)
    for member, reference, target in picture_showings(package):
        showing = Showing(
            width_pt=reference.width_pt,
            height_pt=reference.height_pt,
            visible=reference.visible,
            near=words_near(reference.element, names),
            is_tiled=reference.is_tiled,
        )
        yield f"{member}#{reference.place}", target, showing


def _picture_members(package: OpcPackage) -> list[str]:
    """Members that are pictures by what is said of them, but for previews of the document."""
    return [
        name
        for name in package.archive.members
        if not name.startswith("docProps/")
        and (
            package.content_type(name).startswith("image/")
            or name.lower().endswith((*_PICTURE_ENDINGS, *_METAFILE_ENDINGS))
        )
    ]


def _leftovers(package: OpcPackage) -> set[str]:
    """Members nothing leads to, of kinds that are known to be led to."""
    known = ("/media/", "/embeddings/", "/charts/", "/diagrams/", "/fonts/")
    return {
        name
        for name in package.archive.members
        if name not in package.used
        and any(folder in name for folder in known)
        and "_rels/" not in name
    }


def _page_size(package: OpcPackage) -> tuple[float, float]:
    """Width and height between the margins, in points."""
    section = next(package.root(package.main).iter("{*}sectPr"), None)
    size = section.find("{*}pgSz") if section is not None else None
    margins = section.find("{*}pgMar") if section is not None else None
    if size is None or margins is None:
        return _PAGE_PT
    told = {
        key.rpartition("}")[2]: value
        for element in (size, margins)
        for key, value in element.attrib.items()
    }
    try:
        width = float(told["w"]) - float(told["left"]) - float(told["right"])
        height = float(told["h"]) - abs(float(told["top"])) - abs(float(told["bottom"]))
    except (KeyError, ValueError):
        return _PAGE_PT
    return (width / _TWENTIETHS, height / _TWENTIETHS) if min(width, height) > 0 else _PAGE_PT


def _weights_within(document: TextDocument) -> dict[str, dict[ExtraKind, int]]:
    """By member, the weight of extras that are only a part of it."""
    within: dict[str, dict[ExtraKind, int]] = {}
    archive = document.package.archive
    for name in document.stories:
        content = archive.content(name)
        weights = {
            extra: weight_within(archive.members[name], content, without(content))
            for extra, without in (
                (ExtraKind.EDITING_TRACES, without_traces),
                (ExtraKind.DRAWING_COPIES, without_drawing_copies),
            )
        }
        told = document.package.content_type(name)
        if document.unused and told.endswith(("styles+xml", "numbering+xml")):
            left = drop_definitions(content, document.unused)
            weights[ExtraKind.UNUSED_STYLES] = weight_within(archive.members[name], content, left)
        within[name] = {extra: weight for extra, weight in weights.items() if weight}
    return within


def _picture_metadata(document: TextDocument, parts: list[Part]) -> int:
    """What pictures carry that is no part of the picture."""
    weights = document.package.archive.members
    told = zip(document.pictures, parts, strict=True)
    return sum(weights[picture.member].weight - part.size_bytes for picture, part in told)


def _other_parts(document: TextDocument, within: dict[str, dict[ExtraKind, int]]) -> Iterator[Part]:
    """A part for each member that is no picture, no extra and no structure."""
    package = document.package
    taken = {picture.member for picture in document.pictures}
    fonts = embedded_fonts(package)
    for extra in DOCX_EXTRAS:
        taken |= document.members_of(extra)
    for name, member in package.archive.members.items():
        if name in taken or member.is_folder or name.endswith(".rels"):
            continue
        kind, title = kind_of_member(package, name)
        facts = fonts[name].facts if name in fonts else None
        if facts is not None:
            kind, title = PartKind.FONT, fonts[name].title
        if kind is not PartKind.STRUCTURE:
            yield Part(
                id=name,
                kind=kind,
                size_bytes=member.weight - sum(within.get(name, {}).values()),
                name=title,
                font=facts,
            )
