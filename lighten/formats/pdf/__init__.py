"""PDF: ISO 32000-1 and -2."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from lighten.coding_store import CodingStore
from lighten.contract import Progress, Reading, Source
from lighten.plans import Decision, Outcome, Plan
from lighten.trials import Trial
from lighten.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    import numpy as np
    from numpy.typing import NDArray

__all__ = ["FORMAT"]

# Readers look for the mark in the first kilobyte (ISO 32000-1, annex H.3.4.1).
_MARK = b"%PDF-"
_MARK_WITHIN = 1024


@dataclass(frozen=True, slots=True)
class _Pdf:
    """The format as the registry lists it; the object library is loaded when it is used."""

    name: str = "pdf"
    suffix: str = ".pdf"
    media_type: str = "application/pdf"

    def recognises(self, head: bytes) -> bool:
        return _MARK in head[:_MARK_WITHIN]

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.pdf.weigh import weigh_pdf

        return weigh_pdf(source, progress)

    def try_out(
        self,
        source: Source,
        sheet: WeightSheet,
        asked: Mapping[str, tuple[Decision, ...]],
        store: CodingStore | None,
        *,
        for_good: bool,
    ) -> Iterator[tuple[str, tuple[Trial, ...]]]:
        from lighten.formats.pdf.try_out import try_out_pictures

        return try_out_pictures(source, sheet, asked, store, for_good=for_good)

    def write(
        self,
        source: Source,
        sheet: WeightSheet,
        plan: Plan,
        out: Path,
        progress: Progress,
        *,
        store: CodingStore | None,
    ) -> tuple[Outcome, ...]:
        from lighten.formats.pdf.rewrite import write_pdf

        return write_pdf(source, sheet, plan, out, progress, store=store)

    def thumbnail(self, source: Source, part_id: str, longest_px: int) -> "NDArray[np.uint8]":
        from lighten.formats.pdf.thumbnails import draw_thumbnail

        return draw_thumbnail(source, part_id, longest_px)

    def excerpt(self, source: Source, first: int, last: int, out: Path) -> None:
        from lighten.formats.pdf.excerpt import write_excerpt

        write_excerpt(source, first, last, out)

    def read(self, source: Source) -> "AbstractContextManager[Reading]":
        from lighten.formats.pdf.reading import read_pdf

        return read_pdf(source)


FORMAT = _Pdf()
