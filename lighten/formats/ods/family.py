"""Features of OpenDocument workbooks beyond those of every OpenDocument."""

from typing import Any

from lighten.containers.odf.family import OdfFamily
from lighten.formats.ods.kinds import KINDS, ODS_EXTRAS
from lighten.formats.ods.trim import trim_tables
from lighten.model.kinds import ExtraKind, PartKind

__all__ = ["SHEETS"]


def _sheet_of(element: Any) -> str:
    """Return the sheet of an element, by its visible name."""
    table = next(element.iterancestors("{*}table"), None)
    if table is None:
        return ""
    name = next((value for key, value in table.attrib.items() if key.endswith("}name")), "")
    return f"sheet {name}"


SHEETS = OdfFamily(
    name="ods",
    noun="workbook",
    kinds=KINDS,
    extras=ODS_EXTRAS,
    words_near=_sheet_of,
    page_pt=(960.0, 540.0),  # a window's worth of cells
    titles={
        "content.xml": (PartKind.CELLS, "Sheets"),
        "styles.xml": (PartKind.STYLES, "Styles, headers and footers"),
        "settings.xml": (PartKind.STYLES, "Settings"),
        "manifest.rdf": (PartKind.STYLES, "Data about the workbook"),
    },
    clean=trim_tables,
    own_extras=(ExtraKind.PAST_FORMATS,),
)
