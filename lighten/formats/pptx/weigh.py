"""The weight sheet of a presentation."""

from dataclasses import replace
from functools import partial

from lighten.containers.changes import Rewrite
from lighten.containers.opc.document import other_parts
from lighten.containers.weigh_package import Within, weigh_package
from lighten.containers.xml_weights import weight_within
from lighten.formats.pptx.clean_slide import without_sites, without_traces
from lighten.formats.pptx.fonts import embedded_fonts
from lighten.formats.pptx.kinds import PPTX_EXTRAS
from lighten.formats.pptx.member_kinds import kind_of_slide_member
from lighten.formats.pptx.open_file import Presentation, open_presentation
from lighten.model.kinds import ExtraKind
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

__all__ = ["weigh_pptx"]

_WITHIN: dict[ExtraKind, Rewrite] = {
    ExtraKind.EDITING_TRACES: without_traces,
    ExtraKind.CONNECTION_SITES: without_sites,
}


def weigh_pptx(source: Source, progress: Progress) -> WeightSheet:
    """Every member a part, extras within members apart, adding up to the file.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError, UnsupportedFileError.
    """
    document = open_presentation(source)
    sheet = weigh_package(
        document,
        format_name="pptx",
        extras=PPTX_EXTRAS,
        unsized_pt=document.deck.size_pt,
        within=lambda: _weights_within(document),
        other_parts=lambda within: other_parts(
            document,
            PPTX_EXTRAS,
            within,
            partial(kind_of_slide_member, document),
            embedded_fonts(document.package),
        ),
        progress=progress,
    )
    members = {picture.id: picture.member for picture in document.pictures}
    parts = tuple(
        replace(part, removed_with=document.removed_with.get(members.get(part.id, part.id)))
        for part in sheet.parts
    )
    return replace(sheet, parts=parts)


def _weights_within(document: Presentation) -> Within:
    archive = document.package.archive
    within: dict[str, dict[ExtraKind, int]] = {}
    whole = frozenset().union(*(document.members_of(extra) for extra in PPTX_EXTRAS))
    for name in document.stories:
        if name in whole:
            continue
        content = archive.content(name)
        weights = {
            extra: weight_within(archive.members[name], content, without(content))
            for extra, without in _WITHIN.items()
        }
        within[name] = {extra: weight for extra, weight in weights.items() if weight}
    return within
