"""The weight sheet of a text document."""

from functools import partial

from lighten.containers.opc import OpcPackage
from lighten.containers.opc.document import other_parts
from lighten.containers.weigh_package import weigh_package
from lighten.containers.xml_weights import weight_within
from lighten.formats.docx.clean_story import without_drawing_copies, without_traces
from lighten.formats.docx.definitions import drop_definitions
from lighten.formats.docx.fonts import embedded_fonts
from lighten.formats.docx.kinds import DOCX_EXTRAS
from lighten.formats.docx.member_kinds import kind_of_text_member
from lighten.formats.docx.open_file import TextDocument, open_text_document
from lighten.model.kinds import ExtraKind
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

__all__ = ["weigh_docx"]

_PAGE_PT = (453.0, 700.0)  # what the margins usual on A4 leave
_TWENTIETHS = 20.0


def weigh_docx(source: Source, progress: Progress) -> WeightSheet:
    """Every member a part, extras within members apart, adding up to the file.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError, UnsupportedFileError.
    """
    document = open_text_document(source)
    return weigh_package(
        document,
        format_name="docx",
        extras=DOCX_EXTRAS,
        unsized_pt=_page_size(document.package),
        within=lambda: _weights_within(document),
        other_parts=lambda within: other_parts(
            document,
            DOCX_EXTRAS,
            within,
            partial(kind_of_text_member, document.package),
            embedded_fonts(document.package),
        ),
        progress=progress,
    )


def _page_size(package: OpcPackage) -> tuple[float, float]:
    """Return width and height between the margins, in points."""
    section = next(package.root(package.main).iter("{*}sectPr"), None)
    size = section.find("{*}pgSz") if section is not None else None
    margins = section.find("{*}pgMar") if section is not None else None
    if size is None or margins is None:
        return _PAGE_PT
    sides = {
        key.rpartition("}")[2]: value
        for element in (size, margins)
        for key, value in element.attrib.items()
    }
    try:
        width = float(sides["w"]) - float(sides["left"]) - float(sides["right"])
        height = float(sides["h"]) - abs(float(sides["top"])) - abs(float(sides["bottom"]))
    except (KeyError, ValueError):
        return _PAGE_PT
    return (width / _TWENTIETHS, height / _TWENTIETHS) if min(width, height) > 0 else _PAGE_PT


def _weights_within(document: TextDocument) -> dict[str, dict[ExtraKind, int]]:
    """Return, by member, the weight of extras that are only a part of it."""
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
        content_type = document.package.content_type(name)
        if document.unused and content_type.endswith(("styles+xml", "numbering+xml")):
            left = drop_definitions(content, document.unused)
            weights[ExtraKind.UNUSED_STYLES] = weight_within(archive.members[name], content, left)
        within[name] = {extra: weight for extra, weight in weights.items() if weight}
    return within
