"""The weight sheet of an OpenDocument."""

import posixpath
from collections.abc import Iterator
from functools import partial

from lighten.containers.archive import Archive
from lighten.containers.changes import Rewrite
from lighten.containers.fonts import font_coding
from lighten.containers.odf.clean_story import (
    clean_settings,
    without_comments,
    without_traces,
)
from lighten.containers.odf.documents import OpenDocument, open_document, page_size
from lighten.containers.odf.family import OdfFamily
from lighten.containers.odf.package import OdfPackage
from lighten.containers.weigh_package import Within, weigh_package
from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.containers.xml_weights import weight_within
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.source import Progress, Source
from lighten.model.weights import FontFacts, Part, WeightSheet

__all__ = ["font_facts", "weigh_document"]


def weigh_document(source: Source, family: OdfFamily, progress: Progress) -> WeightSheet:
    """Every member a part, extras within members apart, adding up to the file.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError, UnsupportedFileError.
    """
    document = open_document(source, family)
    return weigh_package(
        document,
        format_name=family.name,
        extras=family.extras,
        unsized_pt=page_size(document.package, family),
        within=lambda: _weights_within(document, family),
        other_parts=lambda within: _other_parts(document, family, within),
        progress=progress,
    )


def _weights_within(document: OpenDocument, family: OdfFamily) -> dict[str, dict[ExtraKind, int]]:
    """Return, by member, the weight of extras that are only a part of it."""
    archive = document.package.archive
    without: dict[str, dict[ExtraKind, Rewrite]] = {
        "content.xml": {
            ExtraKind.EDITING_TRACES: without_traces,
            ExtraKind.NOTES: without_comments,
            **{extra: partial(_without, family=family, extra=extra) for extra in family.own_extras},
        },
        "styles.xml": {
            ExtraKind.EDITING_TRACES: without_traces,
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
            }
            within[name] = {extra: weight for extra, weight in weights.items() if weight}
    return within


def _without(content: bytes, *, family: OdfFamily, extra: ExtraKind) -> bytes:
    root = parse_xml(content, "content.xml", "")
    family.clean(root, (extra,))
    return write_xml(root)


def font_facts(archive: Archive, member: str) -> FontFacts | None:
    """Return the facts of an embedded font; None for other members."""
    if not member.startswith("Fonts/") or archive.members[member].is_folder:
        return None
    coding = font_coding(archive.content(member))
    if coding is None:
        return None
    return FontFacts(coding=coding, is_subset=False, is_brought_along=True)


def _other_parts(document: OpenDocument, family: OdfFamily, within: Within) -> Iterator[Part]:
    """A part for each member that is no picture, no extra and no structure."""
    taken = {picture.member for picture in document.pictures}
    for extra in family.extras:
        taken |= document.members_of(extra)
    for name, member in document.package.archive.members.items():
        if name in taken or member.is_folder or name in ("mimetype", "META-INF/manifest.xml"):
            continue
        kind, title = _kind_of(document.package, family, name)
        facts = font_facts(document.package.archive, name)
        is_extra = kind is PartKind.MEDIA and ExtraKind.MEDIA in family.extras
        yield Part(
            id=name,
            removed_with=ExtraKind.MEDIA if is_extra else None,
            kind=PartKind.FONT if facts else kind,
            font=facts,
            size_bytes=member.weight - sum(within.get(name, {}).values()),
            name=title,
        )


def _kind_of(package: OdfPackage, family: OdfFamily, name: str) -> tuple[PartKind, str]:
    if name in family.titles:
        return family.titles[name]
    media_type = package.media_types.get(name, "")
    if media_type.startswith(("audio/", "video/")) or name.startswith("Media/"):
        return PartKind.MEDIA, posixpath.basename(name)
    if name.startswith(("Basic/", "Scripts/")):
        return PartKind.EMBEDDED, f"Macros ({posixpath.basename(name)})"
    return PartKind.EMBEDDED, name
