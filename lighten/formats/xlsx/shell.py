"""A sheet without its rows: columns, merged cells, rules and whatever else stands around them.

Source: ECMA-376 part 1, 18.3.1.99 (the order in which it stands).
"""

from collections.abc import Collection

import numpy as np
from numpy.typing import NDArray

from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.formats.xlsx.cells.trim import Extent
from lighten.weights import column_letters

__all__ = ["rewrite_shell"]

_ROWS = "{*}sheetData"
_OPENED, _CLOSED = b"<sheetData>", b"</sheetData>"


def rewrite_shell(
    shell: bytes,
    *,
    styles: NDArray[np.int32],
    extent: Extent | None,
    gone: Collection[str],
) -> tuple[bytes, bytes]:
    """What stands before the rows, with the tag that opens them, and after.

    styles: new numbers. extent: how far the sheet goes now; None for as it was. gone: ids of
    relationships to what is left out. Raises: as `parse_xml`.
    """
    root = parse_xml(shell, "a sheet", "")
    for column in root.iterfind("{*}cols/{*}col"):
        told = column.get("style")
        if told is not None and int(told) < len(styles):
            new = int(styles[int(told)])
            if new:
                column.set("style", str(new))
            else:
                del column.attrib["style"]
    dimension = root.find("{*}dimension")
    if dimension is not None and extent is not None:
        dimension.set("ref", _reference(extent))
    for setup in root.iter("{*}pageSetup"):
        for key, value in list(setup.attrib.items()):
            if key.endswith("}id") and value in gone:
                del setup.attrib[key]
    rows = root.find(_ROWS)
    if rows is None:
        return write_xml(root), b""
    # Whichever way an empty one is written, this is found again.
    rows.text = "\n"
    before, mark, after = write_xml(root).partition(_OPENED + b"\n" + _CLOSED)
    if not mark:
        raise ValueError("a sheet whose rows have attributes")
    return before + _OPENED, _CLOSED + after


def _reference(extent: Extent) -> str:
    last = f"{column_letters(extent.column)}{extent.row}" if extent.column and extent.row else "A1"
    return last if last == "A1" else f"A1:{last}"
