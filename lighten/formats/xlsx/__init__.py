"""Workbooks of ECMA-376: .xlsx, .xlsm, .xltx, .xltm."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from lighten.containers.package_offers import package_offers
from lighten.contract import Editing, Offers, PicturesReading
from lighten.formats.xlsx.kinds import KINDS, XLSX_EXTRAS
from lighten.source import Progress, Source
from lighten.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT"]

_OFFERS = package_offers(KINDS, XLSX_EXTRAS, can_be_laid_out=False, has_fonts=False)


@dataclass(frozen=True, slots=True)
class _Workbooks:
    """The format as the registry lists it; libraries are loaded when they are used."""

    name: str = "xlsx"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        from lighten.formats.xlsx.recognise import is_workbook

        return is_workbook(source)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.xlsx.weigh import weigh_xlsx

        return weigh_xlsx(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.xlsx.edit import edit_xlsx

        return edit_xlsx(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.xlsx.read import read_xlsx

        return read_xlsx(source)


FORMAT = _Workbooks()
