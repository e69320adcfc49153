"""An OpenDocument workbook through a reader that had no part in writing it.

Source: ISO/IEC 26300 part 1, clause 9 (tables); 9.1.4 and 19.385 (cells and their values).
"""

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from lighten.containers.odf.reading import OdfReading, attribute_value
from lighten.containers.zip_reading import open_zip
from lighten.model.errors import UnreadableFileError
from lighten.model.source import Source

__all__ = ["OdsReading", "read_ods"]

_COUNTED = {
    "content-validation": "validations",
    "conditional-format": "conditional formats",
    "named-range": "names",
    "named-expression": "names",
    "database-range": "ranges",
    "a": "links",
    "annotation": "comments",
    "frame": "frames",
}


class OdsReading(OdfReading):
    """Its promises are the cells of each sheet by place, value, formula and look."""

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        """See `Reading`."""
        features: dict[str, list[str]] = {
            "sheets": [],
            "sheets' cells": [],
            "blank formats": [],
            "formats past the data": [],
            "columns": [],
            **{kind: [] for kind in _COUNTED.values()},
        }
        looks = self.automatic("content.xml")
        body = self.tree("content.xml").find("{*}body/{*}spreadsheet")
        if body is None:
            raise UnreadableFileError(f"{self._name}: holds no sheets.")
        for table in body.iterchildren("{*}table"):
            name = attribute_value(table, "name")
            look = looks.get(attribute_value(table, "style-name"), "")
            features["sheets"].append(f"{name} {look} {attribute_value(table, 'print-ranges')}")
            self._look_through(name, table, looks, features)
        for element in body.iter(*(f"{{*}}{name}" for name in _COUNTED)):
            kind = _COUNTED[element.tag.split("}")[-1]]
            attributes = sorted(
                (key.split("}")[-1], value)
                for key, value in element.attrib.items()
                if not key.endswith("style-name")
            )
            features[kind].append(f"{attributes} {''.join(element.itertext())}")
        return {
            **{kind: tuple(entries) for kind, entries in features.items()},
            "embedded files": tuple(self.embedded()),
            "broken references": self.dangling(),
        }

    def _look_through(
        self, name: str, table: Any, looks: dict[str, str], features: dict[str, list[str]]
    ) -> None:
        filled, blank = hashlib.sha256(), []
        count = last_row = last_column = row_number = 0
        for column in table.iter("{*}table-column"):
            own, cells = (
                attribute_value(column, "style-name"),
                attribute_value(column, "default-cell-style-name"),
            )
            rest = [
                attribute_value(column, key) for key in ("number-columns-repeated", "visibility")
            ]
            features["columns"].append(
                f"{name} {looks.get(own, own)} {looks.get(cells, cells)} {rest}"
            )
        for row in table.iter("{*}table-row"):
            times = int(attribute_value(row, "number-rows-repeated") or 1)
            column_number = 0
            for cell in row.iterchildren("{*}table-cell", "{*}covered-table-cell"):
                across = int(attribute_value(cell, "number-columns-repeated") or 1)
                style = attribute_value(cell, "style-name")
                place = f"{row_number}+{times} {column_number}+{across}"
                look = looks.get(style, style)
                value = _value_of(cell)
                if value:
                    filled.update(f"{place} {look} {value}".encode())
                    count += times * across
                    last_row = row_number + times
                    last_column = max(last_column, column_number + across)
                elif style:
                    blank.append((row_number, column_number, f"{place} {look}"))
                column_number += across
            row_number += times
        features["sheets' cells"].append(f"{name}: {count} {filled.hexdigest()}")
        for row_at, column_at, formatted in blank:
            is_past = row_at >= last_row or column_at >= last_column
            kind = "formats past the data" if is_past else "blank formats"
            features[kind].append(f"{name}: {formatted}")


@contextmanager
def read_ods(source: Source) -> Iterator[OdsReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    with open_zip(source.path, source.name) as file:
        yield OdsReading(file, source.name)


def _value_of(cell: Any) -> str:
    """Return the content of a cell without its style and repeat count; "" for none."""
    attributes = sorted(
        (key.split("}")[-1], value)
        for key, value in cell.attrib.items()
        if not key.endswith(("style-name", "number-columns-repeated"))
    )
    return f"{attributes} {_text_of(cell)}" if attributes or len(cell) else ""


def _text_of(cell: Any) -> str:
    return "\n".join("".join(one.itertext()) for one in cell.iterchildren("{*}p"))
