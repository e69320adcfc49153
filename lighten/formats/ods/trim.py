"""Removal of formats past the data of an OpenDocument workbook.

Equal rows and cells are written once with a repeat count, and programs write them to the
end of the sheet. Source: ISO/IEC 26300 part 1, 9.1.3 (rows), 9.1.4 (cells), 19.679 and 19.681.
"""

from collections.abc import Collection, Iterator
from typing import Any

from lighten.containers.xml_parts import attribute, local_name
from lighten.model.kinds import ExtraKind

__all__ = ["trim_tables"]

_CELLS = ("table-cell", "covered-table-cell")
_SHOWN = (
    "background-color",
    "border",
    "border-top",
    "border-bottom",
    "border-left",
    "border-right",
)


def trim_tables(root: Any, dropped: Collection[ExtraKind]) -> None:
    """Remove blank rows and cells after the last content that show nothing."""
    if ExtraKind.PAST_FORMATS not in dropped:
        return
    plain = {"", "Default", *_plain_styles(root)}
    for table in root.iterfind("{*}body/{*}spreadsheet/{*}table"):
        rows = list(table.iterchildren("{*}table-row"))
        while rows and _is_idle_row(rows[-1], plain):
            row = rows.pop()
            # A table has one row at least (9.1.2).
            if next(table.iter("{*}table-row")) is row:
                break
            table.remove(row)
        for row in table.iter("{*}table-row"):
            cells = [cell for cell in row if local_name(cell) in _CELLS]
            while len(cells) > 1 and _is_idle_cell(cells[-1], plain):
                row.remove(cells.pop())


def _plain_styles(root: Any) -> Iterator[str]:
    """Return automatic cell styles that show nothing in blank cells."""
    for style in root.iterfind("{*}automatic-styles/{*}style"):
        properties = style.find("{*}table-cell-properties")
        attributes = {} if properties is None else dict(properties.attrib)
        is_shown = any(
            key.rpartition("}")[2] in _SHOWN and value not in ("none", "transparent")
            for key, value in attributes.items()
        )
        rests_on_more = attribute(style, "parent-style-name") not in ("", "Default")
        if not (is_shown or rests_on_more or style.find("{*}map") is not None):
            yield attribute(style, "name")


def _is_idle_row(row: Any, plain: Collection[str]) -> bool:
    """Return whether a row is empty and not hidden."""
    return attribute(row, "visibility") in ("", "visible") and all(
        local_name(cell) in _CELLS and _is_idle_cell(cell, plain) for cell in row
    )


def _is_idle_cell(cell: Any, plain: Collection[str]) -> bool:
    attributes = {key.rpartition("}")[2] for key in cell.attrib}
    is_blank = not len(cell) and attributes <= {"style-name", "number-columns-repeated"}
    is_own = local_name(cell) == "table-cell"
    return is_blank and is_own and attribute(cell, "style-name") in plain
