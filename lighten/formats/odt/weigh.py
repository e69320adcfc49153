"""The weight sheet of an OpenDocument text."""

import posixpath
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from lighten.containers.archive import Archive
from lighten.containers.changes import Rewrite
from lighten.containers.extra_parts import extra_parts
from lighten.containers.fonts import font_coding
from lighten.containers.odf import Frame, OdfPackage, open_package, picture_frames
from lighten.containers.odf.frames import is_one_of_several, length_pt
from lighten.containers.pictures import (
    MemberPicture,
    Showing,
    group_pictures,
    member_picture,
    weigh_members,
)
from lighten.containers.pictures.member_file import natural_size_pt
from lighten.containers.xml_parts import local_name, write_xml
from lighten.containers.xml_weights import weight_within
from lighten.errors import UnreadableFileError
from lighten.formats.odt.clean_story import (
    clean_settings,
    clean_story,
    unused_styles,
    without_comments,
    without_traces,
)
from lighten.formats.odt.kinds import KINDS, ODT_EXTRAS, TEMPLATE
from lighten.pictures.files import BadPictureError
from lighten.source import Progress, Source
from lighten.weights import (
    ExtraKind,
    FontFacts,
    Part,
    PartKind,
    WeightSheet,
    with_structure,
)

__all__ = ["STORIES", "OpenText", "open_text", "weigh_odt"]

STORIES = ("content.xml", "styles.xml")
_PAGE_PT = (482.0, 728.0)  # what the margins usual on A4 leave
_LOOKED_BACK = 400  # paragraphs and tables
_EMPTY_BYTES = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenText:
    """A package and what is known of it before anything is weighed.

    pictures: in the order of their first showing, those that nothing shows last.
    unused: families and names of styles.
    """

    package: OdfPackage
    media_type: str
    pictures: tuple[MemberPicture, ...]
    unused: frozenset[tuple[str, str]]

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Members that are nothing but extras of that kind."""
        if extra is ExtraKind.REPEATS:
            return frozenset(name for picture in self.pictures for name in picture.repeats)
        return frozenset(
            name
            for name, member in self.package.archive.members.items()
            if _whole_extra(name, member.size_bytes) is extra
        )


def _whole_extra(name: str, size_bytes: int) -> ExtraKind | None:
    """What a member is where it is nothing but an extra."""
    if name.startswith("Thumbnails/"):
        return ExtraKind.THUMBNAILS
    if name.startswith("ObjectReplacements/") and not name.endswith("/"):
        return ExtraKind.OBJECT_IMAGES
    is_empty = name.startswith("Configurations2/") and size_bytes <= _EMPTY_BYTES
    if is_empty or name == "layout-cache":
        return ExtraKind.VIEW_SETTINGS
    return ExtraKind.METADATA if name == "meta.xml" else None


def open_text(source: Source) -> OpenText:
    """Raises: as `open_package`."""
    package = open_package(source)
    media_type = package.archive.content("mimetype").decode("ascii", "replace").strip()
    if media_type not in {kind.media_type for kind in KINDS}:
        raise UnreadableFileError(
            f"{source.name}: says that it is {media_type[:60]!r}, which is no text. Fetch or save "
            "it again, and try that file."
        )
    keeps_styles = media_type == TEMPLATE or any(
        name.startswith(("Basic/", "Scripts/")) for name in package.archive.members
    )
    members = [name for name in package.archive.members if _is_picture(package, name)]
    roots = [package.root(name) for name in STORIES if name in package.archive.members]
    return OpenText(
        package=package,
        media_type=media_type,
        pictures=group_pictures(package.archive, members, _showings(package)),
        unused=frozenset() if keeps_styles else unused_styles(roots),
    )


def weigh_odt(source: Source, progress: Progress) -> WeightSheet:
    """Every member a part, extras within members apart, adding up to the file.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError, UnsupportedFileError.
    """
    document = open_text(source)
    package, archive = document.package, document.package.archive
    archive.check()
    progress(0.3)
    pictures = weigh_members(
        archive,
        document.pictures,
        _page_size(package),
        lambda share: progress(0.3 + 0.5 * share),
    )
    extras = {
        extra: sum(archive.members[name].weight for name in document.members_of(extra))
        for extra in ODT_EXTRAS
    }
    within = _weights_within(document)
    for weights in within.values():
        for extra, weight in weights.items():
            extras[extra] += weight
    extras[ExtraKind.PICTURE_METADATA] = sum(
        archive.members[picture.member].weight - part.size_bytes
        for picture, part in zip(document.pictures, pictures, strict=True)
    )
    parts = [*pictures, *_other_parts(document, within), *extra_parts(ODT_EXTRAS, extras)]
    progress(1.0)
    return WeightSheet(
        format="odt",
        media_type=document.media_type,
        size_bytes=archive.size_bytes,
        pages=None,
        parts=with_structure(parts, archive.size_bytes),
        is_signed=package.is_signed,
    )


def _showings(package: OdfPackage) -> Iterator[tuple[str, str, Showing]]:
    """The place of each showing of a picture, the member shown there, and how."""
    page = _page_size(package)
    for story in STORIES:
        if story in package.archive.members:
            for frame in picture_frames(package.root(story)):
                if frame.target in package.archive.members:
                    yield f"{story}#{frame.place}", frame.target, _showing(package, frame, page)


def _is_picture(package: OdfPackage, name: str) -> bool:
    """By its place: pictures of objects and previews lie elsewhere."""
    is_told = package.media_types.get(name, "").startswith("image/")
    return (
        (name.startswith("Pictures/") or is_told)
        and not name.endswith("/")
        and not (name.startswith(("Thumbnails/", "ObjectReplacements/")))
    )


def _showing(package: OdfPackage, frame: Frame, page: tuple[float, float]) -> Showing:
    width, height = frame.width_pt, frame.height_pt
    holder = frame.element.getparent()
    relative = next(
        (value for key, value in holder.attrib.items() if key.endswith("}rel-width")), ""
    )
    if width is None and height is None and relative.endswith("%"):
        width = page[0]
    visible = (0.0, 0.0, 1.0, 1.0)
    if frame.clip is not None and (size := _natural_size(package, frame.clipped_by)) is not None:
        top, right, bottom, left = frame.clip
        visible = (left / size[0], top / size[1], 1 - right / size[0], 1 - bottom / size[1])
        across, down = visible[2] - visible[0], visible[3] - visible[1]
        if min(across, down) > 0:
            width, height = width and width / across, height and height / down
        if min(across, down) <= 0 or is_one_of_several(frame):
            visible = (0.0, 0.0, 1.0, 1.0)
    return Showing(
        width_pt=width,
        height_pt=height,
        visible=visible,
        near=words_near(frame.element),
        is_tiled=frame.is_tiled,
    )


def _natural_size(package: OdfPackage, member: str) -> tuple[float, float] | None:
    try:
        file = member_picture(package.archive.content(member))
    except BadPictureError:
        return None
    return natural_size_pt(file) if file is not None else None


def words_near(element: Any) -> str:
    """The nearest heading before an element of the text, or else what stands by it."""
    outermost = None
    for above in (element, *element.iterancestors()):
        if local_name(above) == "text" and local_name(above.getparent()) == "body":
            break
        outermost = above
    if outermost is None or outermost.getparent() is None:
        return ""
    before = ""
    for number, sibling in enumerate((outermost, *outermost.itersiblings(preceding=True))):
        if number > _LOOKED_BACK or not isinstance(sibling.tag, str):
            break
        words = "".join(sibling.itertext()).strip() if local_name(sibling) in ("p", "h") else ""
        if words and local_name(sibling) == "h":
            return words
        before = before or words
    if before:
        return before
    after = next(outermost.itersiblings("{*}p", "{*}h"), None)
    return "".join(after.itertext()).strip() if after is not None else ""


def _page_size(package: OdfPackage) -> tuple[float, float]:
    """Width and height of the first page between its margins, in points."""
    if "styles.xml" not in package.archive.members:
        return _PAGE_PT
    layout = next(package.root("styles.xml").iter("{*}page-layout-properties"), None)
    if layout is None:
        return _PAGE_PT
    told = {key.rpartition("}")[2]: value for key, value in layout.attrib.items()}
    width, height = (length_pt(told.get(name, "")) for name in ("page-width", "page-height"))
    if width is None or height is None:
        return _PAGE_PT
    left, right, top, bottom = (
        length_pt(told.get(f"margin-{side}", told.get("margin", ""))) or 0.0
        for side in ("left", "right", "top", "bottom")
    )
    inner = (width - left - right, height - top - bottom)
    return inner if min(inner) > 0 else _PAGE_PT


def _weights_within(document: OpenText) -> dict[str, dict[ExtraKind, int]]:
    """By member, the weight of extras that are only a part of it."""
    archive = document.package.archive
    without: dict[str, dict[ExtraKind, Rewrite]] = {
        "content.xml": {
            ExtraKind.EDITING_TRACES: without_traces,
            ExtraKind.NOTES: without_comments,
        },
        "styles.xml": {
            ExtraKind.EDITING_TRACES: without_traces,
            ExtraKind.UNUSED_STYLES: partial(clean_story, dropped=(), unused=document.unused),
        },
        "settings.xml": {
            extra: partial(clean_settings, dropped=(extra,))
            for extra in (ExtraKind.PRINTER_SETTINGS, ExtraKind.VIEW_SETTINGS)
        },
    }
    within: dict[str, dict[ExtraKind, int]] = {}
    for name, changes in without.items():
        if name in archive.members:
            content = archive.content(name)
            if name != "content.xml":
                content = write_xml(document.package.root(name))
            weights = {
                extra: weight_within(archive.members[name], content, change(content))
                for extra, change in changes.items()
                if extra is not ExtraKind.UNUSED_STYLES or document.unused
            }
            within[name] = {extra: weight for extra, weight in weights.items() if weight}
    return within


def font_facts(archive: Archive, member: str) -> FontFacts | None:
    """Of a font that is brought along; None for other members."""
    if not member.startswith("Fonts/") or archive.members[member].is_folder:
        return None
    coding = font_coding(archive.content(member))
    if coding is None:
        return None
    return FontFacts(coding=coding, is_subset=False, is_brought_along=True)


def _other_parts(
    document: OpenText, within: Mapping[str, Mapping[ExtraKind, int]]
) -> Iterator[Part]:
    """A part for each member that is no picture, no extra and no structure."""
    taken = {picture.member for picture in document.pictures}
    for extra in ODT_EXTRAS:
        taken |= document.members_of(extra)
    for name, member in document.package.archive.members.items():
        if name in taken or member.is_folder or name in ("mimetype", "META-INF/manifest.xml"):
            continue
        kind, title = _kind_of(document.package, name)
        facts = font_facts(document.package.archive, name)
        yield Part(
            id=name,
            kind=PartKind.FONT if facts else kind,
            font=facts,
            size_bytes=member.weight - sum(within.get(name, {}).values()),
            name=title,
        )


_TITLES = {
    "content.xml": (PartKind.TEXT, "The text"),
    "styles.xml": (PartKind.STYLES, "Styles, headers and footers"),
    "settings.xml": (PartKind.STYLES, "Settings"),
    "manifest.rdf": (PartKind.STYLES, "Data about the text"),
}


def _kind_of(package: OdfPackage, name: str) -> tuple[PartKind, str]:
    if name in _TITLES:
        return _TITLES[name]
    told = package.media_types.get(name, "")
    if told.startswith(("audio/", "video/")) or name.startswith("Media/"):
        return PartKind.MEDIA, posixpath.basename(name)
    if name.startswith(("Basic/", "Scripts/")):
        return PartKind.EMBEDDED, f"Macros ({posixpath.basename(name)})"
    return PartKind.EMBEDDED, name
