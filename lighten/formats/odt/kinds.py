"""The kinds of text documents of ISO/IEC 26300, and the extras that they may have."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["KINDS", "ODT_EXTRAS", "TEMPLATE"]

_TEXT = "application/vnd.oasis.opendocument.text"
TEMPLATE = f"{_TEXT}-template"
KINDS = (
    FileKind(title="OpenDocument text", media_type=_TEXT, suffixes=(".odt",)),
    FileKind(title="OpenDocument template", media_type=TEMPLATE, suffixes=(".ott",)),
)
# In the order in which sheets list them.
ODT_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.REPEATS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PICTURE_METADATA,
    ExtraKind.EDITING_TRACES,
    ExtraKind.PRINTER_SETTINGS,
    ExtraKind.VIEW_SETTINGS,
    ExtraKind.NOTES,
    ExtraKind.OBJECT_IMAGES,
    ExtraKind.METADATA,
)
