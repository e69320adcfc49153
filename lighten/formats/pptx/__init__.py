"""Slides of ECMA-376: .pptx, .pptm, .potx, .potm, .ppsx, .ppsm."""

import re
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from lighten.containers.legacy_format import LegacyFormat
from lighten.containers.package_format import PackageFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import Editing, FileKind, PicturesReading
from lighten.formats.pptx.kinds import KINDS, PPTX_EXTRAS
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT", "LEGACY_FORMAT"]


def _weigh(source: Source, progress: Progress) -> WeightSheet:
    from lighten.formats.pptx.weigh import weigh_pptx

    return weigh_pptx(source, progress)


def _edit(source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
    from lighten.formats.pptx.edit import edit_pptx

    return edit_pptx(source, sheet)


def _read(source: Source) -> "AbstractContextManager[PicturesReading]":
    from lighten.formats.pptx.read import read_pptx

    return read_pptx(source)


def _read_legacy(path: Path, _opened: Path) -> Mapping[str, tuple[str, ...]]:
    from lighten.containers.legacy_office.words import words_by_suite

    return words_by_suite(path, "odp")


FORMAT = PackageFormat(
    name="pptx",
    offers=package_offers(KINDS, PPTX_EXTRAS),
    own_member=re.compile(
        rb"ppt/(?:presentation|slides/|slideLayouts/|slideMasters/|media/|theme/)"
    ),
    weighing=_weigh,
    editing=_edit,
    reading=_read,
)
LEGACY_FORMAT = LegacyFormat(
    name="ppt",
    kind=FileKind(
        title="legacy slides",
        media_type="application/vnd.ms-powerpoint",
        suffixes=(".ppt", ".pps", ".pot"),
    ),
    streams=("PowerPoint Document",),
    becomes=FORMAT,
    target="pptx:Impress MS PowerPoint 2007 XML",
    target_with_macros="pptm:Impress MS PowerPoint 2007 XML VBA",
    read_again=_read_legacy,
)
