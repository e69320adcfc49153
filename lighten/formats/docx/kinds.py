"""The kinds of text documents of ECMA-376, and the extras that they may have."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["DOCX_EXTRAS", "KINDS", "KIND_BY_MAIN_TYPE", "is_template"]

_OFFICE = "application/vnd.openxmlformats-officedocument.wordprocessingml"
_MACROS = "application/vnd.ms-word"
KINDS = (
    FileKind(title="text document", media_type=f"{_OFFICE}.document", suffixes=(".docx",)),
    FileKind(
        title="text document with macros",
        media_type=f"{_MACROS}.document.macroEnabled.12",
        suffixes=(".docm",),
    ),
    FileKind(title="text template", media_type=f"{_OFFICE}.template", suffixes=(".dotx",)),
    FileKind(
        title="text template with macros",
        media_type=f"{_MACROS}.template.macroEnabled.12",
        suffixes=(".dotm",),
    ),
)
# By the content type of the member that the document begins with.
KIND_BY_MAIN_TYPE = {
    f"{_OFFICE}.document.main+xml": KINDS[0],
    f"{_MACROS}.document.macroEnabled.main+xml": KINDS[1],
    f"{_OFFICE}.template.main+xml": KINDS[2],
    f"{_MACROS}.template.macroEnabledTemplate.main+xml": KINDS[3],
}
# In the order in which sheets list them.
DOCX_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.REPEATS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PICTURE_METADATA,
    ExtraKind.EDITING_TRACES,
    ExtraKind.UNUSED_STYLES,
    ExtraKind.DRAWING_COPIES,
    ExtraKind.PRINTER_SETTINGS,
    ExtraKind.NOTES,
    ExtraKind.METADATA,
)


def is_template(media_type: str) -> bool:
    """True for templates, which exist for their styles, used or not."""
    return media_type in (KINDS[2].media_type, KINDS[3].media_type)
