"""The kinds of workbooks of ISO/IEC 26300, and the extras that they may have."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["KINDS", "ODS_EXTRAS", "TEMPLATE"]

_SHEETS = "application/vnd.oasis.opendocument.spreadsheet"
TEMPLATE = f"{_SHEETS}-template"
KINDS = (
    FileKind(title="OpenDocument workbook", media_type=_SHEETS, suffixes=(".ods",)),
    FileKind(title="OpenDocument workbook template", media_type=TEMPLATE, suffixes=(".ots",)),
)
# In the order in which sheets list them.
ODS_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.REPEATS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PICTURE_METADATA,
    ExtraKind.PRINTER_SETTINGS,
    ExtraKind.VIEW_SETTINGS,
    ExtraKind.PAST_FORMATS,
    ExtraKind.NOTES,
    ExtraKind.OBJECT_IMAGES,
    ExtraKind.METADATA,
)
