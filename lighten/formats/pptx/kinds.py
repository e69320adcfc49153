"""The kinds of presentations of ECMA-376, and the extras that they may have."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["KINDS", "KIND_BY_MAIN_TYPE", "PPTX_EXTRAS", "is_template"]

_OFFICE = "application/vnd.openxmlformats-officedocument.presentationml"
_MACROS = "application/vnd.ms-powerpoint"
KINDS = (
    FileKind(title="slides", media_type=f"{_OFFICE}.presentation", suffixes=(".pptx",)),
    FileKind(
        title="slides with macros",
        media_type=f"{_MACROS}.presentation.macroEnabled.12",
        suffixes=(".pptm",),
    ),
    FileKind(title="template for slides", media_type=f"{_OFFICE}.template", suffixes=(".potx",)),
    FileKind(
        title="template for slides with macros",
        media_type=f"{_MACROS}.template.macroEnabled.12",
        suffixes=(".potm",),
    ),
    FileKind(title="slide show", media_type=f"{_OFFICE}.slideshow", suffixes=(".ppsx",)),
    FileKind(
        title="slide show with macros",
        media_type=f"{_MACROS}.slideshow.macroEnabled.12",
        suffixes=(".ppsm",),
    ),
)
# By the content type of the member that the document begins with.
KIND_BY_MAIN_TYPE = {
    f"{_OFFICE}.presentation.main+xml": KINDS[0],
    f"{_MACROS}.presentation.macroEnabled.main+xml": KINDS[1],
    f"{_OFFICE}.template.main+xml": KINDS[2],
    f"{_MACROS}.template.macroEnabled.main+xml": KINDS[3],
    f"{_OFFICE}.slideshow.main+xml": KINDS[4],
    f"{_MACROS}.slideshow.macroEnabled.main+xml": KINDS[5],
}
# In the order in which sheets list them.
PPTX_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.REPEATS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PICTURE_METADATA,
    ExtraKind.EDITING_TRACES,
    ExtraKind.CONNECTION_SITES,
    ExtraKind.PRINTER_SETTINGS,
    ExtraKind.VIEW_SETTINGS,
    ExtraKind.UNUSED_LAYOUTS,
    ExtraKind.MEDIA,
    ExtraKind.NOTES,
    ExtraKind.SPEAKER_NOTES,
    ExtraKind.METADATA,
)


def is_template(media_type: str) -> bool:
    """True for templates, which exist for their layouts, used or not."""
    return media_type in (KINDS[2].media_type, KINDS[3].media_type)
