"""Slides of ECMA-376: .pptx, .pptm, .potx, .potm, .ppsx, .ppsm."""

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from lighten.containers.legacy_format import LegacyFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import Editing, FileKind, Offers, PicturesReading
from lighten.formats.pptx.kinds import KINDS, PPTX_EXTRAS
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT", "OLD_FORMAT"]

_OFFERS = package_offers(KINDS, PPTX_EXTRAS)


@dataclass(frozen=True, slots=True)
class _Slides:
    """The format as the registry lists it; libraries are loaded when they are used."""

    name: str = "pptx"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        from lighten.formats.pptx.recognise import is_presentation

        return is_presentation(source)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.pptx.weigh import weigh_pptx

        return weigh_pptx(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.pptx.edit import edit_pptx

        return edit_pptx(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.pptx.read import read_pptx

        return read_pptx(source)


def _read_old(path: Path, _opened: Path) -> Mapping[str, tuple[str, ...]]:
    from lighten.containers.legacy_office.words import words_by_suite

    return words_by_suite(path, "odp")


FORMAT = _Slides()
OLD_FORMAT = LegacyFormat(
    name="ppt",
    kind=FileKind(
        title="old slides",
        media_type="application/vnd.ms-powerpoint",
        suffixes=(".ppt", ".pps", ".pot"),
    ),
    streams=("PowerPoint Document",),
    becomes=FORMAT,
    target="pptx:Impress MS PowerPoint 2007 XML",
    target_with_macros="pptm:Impress MS PowerPoint 2007 XML VBA",
    read_again=_read_old,
)
