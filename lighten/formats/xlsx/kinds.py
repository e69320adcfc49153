"""The kinds of workbooks of ECMA-376, and the extras that they may have."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["KINDS", "KIND_BY_MAIN_TYPE", "XLSX_EXTRAS"]

_OFFICE = "application/vnd.openxmlformats-officedocument.spreadsheetml"
_MACROS = "application/vnd.ms-excel"
KINDS = (
    FileKind(title="workbook", media_type=f"{_OFFICE}.sheet", suffixes=(".xlsx",)),
    FileKind(
        title="workbook with macros",
        media_type=f"{_MACROS}.sheet.macroEnabled.12",
        suffixes=(".xlsm",),
    ),
    FileKind(title="workbook template", media_type=f"{_OFFICE}.template", suffixes=(".xltx",)),
    FileKind(
        title="workbook template with macros",
        media_type=f"{_MACROS}.template.macroEnabled.12",
        suffixes=(".xltm",),
    ),
)
# By the content type of the member that the document begins with.
KIND_BY_MAIN_TYPE = {
    f"{_OFFICE}.sheet.main+xml": KINDS[0],
    f"{_MACROS}.sheet.macroEnabled.main+xml": KINDS[1],
    f"{_OFFICE}.template.main+xml": KINDS[2],
    f"{_MACROS}.template.macroEnabled.main+xml": KINDS[3],
}
# In the order in which sheets list them.
XLSX_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.REPEATS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PICTURE_METADATA,
    ExtraKind.CELL_SPELLING,
    ExtraKind.UNUSED_CELL_STYLES,
    ExtraKind.CALCULATION_ORDER,
    ExtraKind.PRINTER_SETTINGS,
    ExtraKind.PAST_FORMATS,
    ExtraKind.PAST_FILLS,
    ExtraKind.STRAY_NAMES,
    ExtraKind.IDLE_RULES,
    ExtraKind.OTHER_WORKBOOKS,
    ExtraKind.CELL_PLACES,
    ExtraKind.PIVOT_RECORDS,
    ExtraKind.METADATA,
)
