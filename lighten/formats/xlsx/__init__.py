"""Workbooks of ECMA-376: .xlsx, .xlsm, .xltx, .xltm."""

import re
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from lighten.containers.legacy_format import LegacyFormat
from lighten.containers.package_format import PackageFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import Editing, FileKind, PicturesReading
from lighten.formats.xlsx.kinds import KINDS, XLSX_EXTRAS
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT", "LEGACY_FORMAT"]


def _weigh(source: Source, progress: Progress) -> WeightSheet:
    from lighten.formats.xlsx.weigh import weigh_xlsx

    return weigh_xlsx(source, progress)


def _edit(source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
    from lighten.formats.xlsx.edit import edit_xlsx

    return edit_xlsx(source, sheet)


def _read(source: Source) -> "AbstractContextManager[PicturesReading]":
    from lighten.formats.xlsx.read import read_xlsx

    return read_xlsx(source)


def _read_legacy(path: Path, opened: Path) -> Mapping[str, tuple[str, ...]]:
    from lighten.formats.xlsx.read_legacy import rows_by_sheet

    return rows_by_sheet(path, opened)


FORMAT = PackageFormat(
    name="xlsx",
    offers=package_offers(KINDS, XLSX_EXTRAS, can_be_laid_out=False, has_fonts=False),
    own_member=re.compile(rb"xl/(?:workbook|worksheets/|styles|sharedStrings|media/|theme/)"),
    weighing=_weigh,
    editing=_edit,
    reading=_read,
)
LEGACY_FORMAT = LegacyFormat(
    name="xls",
    kind=FileKind(
        title="legacy workbook", media_type="application/vnd.ms-excel", suffixes=(".xls", ".xlt")
    ),
    streams=("Workbook", "Book"),
    becomes=FORMAT,
    target="xlsx:Calc MS Excel 2007 XML",
    target_with_macros="xlsm:Calc MS Excel 2007 VBA XML",
    read_again=_read_legacy,
)
