"""The pages of a document as a TIFF, or as one each."""

import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from lighten.formats.tiff import tags
from lighten.formats.tiff.coded_page import pixel_fields
from lighten.formats.tiff.write import Field, PageToWrite, longs, ratio, shorts, write_tiff
from lighten.model.errors import TooCoarseError
from lighten.model.source import Progress, Source, no_progress
from lighten.model.treatments import FEWEST_TEXT_PPI, PageColours, RasterTreatment
from lighten.parallel import open_workers
from lighten.pictures.coding.coded import CodedPicture
from lighten.rasterising.drawn_pages import (
    DrawnPage,
    as_pdf,
    count_pages,
    drawn_pages,
    pages_of_pictures,
)
from lighten.rasterising.page_colours import ReducedPage, reduce_colours

__all__ = ["RasterPage", "Rasterised", "rasterise"]

Pixels = NDArray[np.uint8]

_ORDER, _INCH, _OF_SEVERAL, _PAGE_NUMBER = "<", 2, 2, 297
# About what a page takes one core, and as many of them as make opening the file again worth while.
_SECONDS_A_PAGE, _PAGES_A_BATCH = 0.4, 6


@dataclass(frozen=True, slots=True, kw_only=True)
class RasterPage:
    """One page. kind: how many colours it has kept, in words. remark: what it lost, or "".

    before, after: of the place that lost most, (height, width[, 3]) uint8; None where none did.
    """

    number: int
    width_px: int
    height_px: int
    ppi: float
    kind: str
    size_bytes: int
    remark: str = ""
    before: Pixels | None = field(default=None, repr=False, compare=False)
    after: Pixels | None = field(default=None, repr=False, compare=False)

    def draw_place(self, before: Path, after: Path) -> None:
        """Draw the worst region of a page before and after as PNG files; none without a loss."""
        from PIL import Image

        for pixels, path in ((self.before, before), (self.after, after)):
            if pixels is not None:
                Image.fromarray(pixels).save(path, "PNG")


@dataclass(frozen=True, slots=True, kw_only=True)
class Rasterised:
    """paths: the one file, or one a page, in order."""

    paths: tuple[Path, ...]
    pages: tuple[RasterPage, ...]

    @property
    def size_bytes(self) -> int:
        return sum(path.stat().st_size for path in self.paths)


def rasterise(
    source: Source,
    out: Path,
    wanted: RasterTreatment,
    progress: Progress = no_progress,
    *,
    each: bool = False,
    may_blur_text: bool = False,
    may_replace: bool = False,
) -> Rasterised:
    """Render the pages of a document and write them as TIFF at `out`.

    each: a file a page; "log.tif" becomes "log-001.tif" and so on. may_blur_text: also below what
    text can be read at. may_replace: what is there already gives way once all is made; the document
    itself never does.
    Raises: FileExistsError; TooCoarseError; as `drawn_pages`. Nothing is left behind then.
    """
    if not each:
        _check_free(out, source, may_replace=may_replace)
    with (
        tempfile.TemporaryDirectory(dir=out.parent, prefix=".rasterising-") as folder,
        _Spool(Path(folder)) as spool,
    ):
        for page in _reduced(source, wanted, progress, may_blur_text=may_blur_text):
            spool.add(page)
        groups = [[page] for page in spool.pages] if each else [spool.pages]
        names = _names(out, len(groups)) if each else [out]
        for name in names:
            _check_free(name, source, may_replace=may_replace)
        written = [Path(folder) / str(number) for number in range(len(groups))]
        for path, group in zip(written, groups, strict=True):
            spool.write(group, path)
        for path, name in zip(written, names, strict=True):
            path.replace(name)
    return Rasterised(paths=tuple(names), pages=tuple(page for page, _ in spool.pages))


def _check_free(name: Path, source: Source, *, may_replace: bool) -> None:
    if name.exists() and (not may_replace or name.samefile(source.path)):
        raise FileExistsError(name)


def _names(out: Path, count: int) -> list[Path]:
    digits = max(3, len(str(count)))
    return [
        out.with_name(f"{out.stem}-{number:0{digits}}{out.suffix}")
        for number in range(1, count + 1)
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Reduced:
    """A page coded; before, after: as of `RasterPage`."""

    ppi: float
    coded: CodedPicture
    kind: str
    remark: str
    before: Pixels | None
    after: Pixels | None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Batch:
    """Pages of a PDF, counted from 1, for one process."""

    source: Source
    first: int
    last: int
    wanted: RasterTreatment
    may_blur_text: bool


def _reduced(
    source: Source, wanted: RasterTreatment, progress: Progress, *, may_blur_text: bool
) -> Iterator[_Reduced]:
    """Yield many pages from processes, as each draws one at a time; few are encoded in threads."""
    with as_pdf(source) as pdf, open_workers() as workers:
        count = count_pages(pdf) if pdf is not None else 0
        seconds = count * _SECONDS_A_PAGE
        made: Iterator[_Reduced]
        if pdf is not None and workers.are_worth_it(seconds):
            batches = [
                _Batch(
                    source=pdf,
                    first=first,
                    last=min(count, first + _PAGES_A_BATCH - 1),
                    wanted=wanted,
                    may_blur_text=may_blur_text,
                )
                for first in range(1, count + 1, _PAGES_A_BATCH)
            ]
            in_batches = workers.in_processes(_reduce_batch, batches, seconds=seconds)
            made = (page for batch in in_batches for page in batch)
        else:
            pages = (
                pages_of_pictures(source, wanted.ppi)
                if pdf is None
                else drawn_pages(pdf, 1, count, wanted.ppi, in_greys=_in_greys(wanted))
            )
            checked = _readable(pages, source.name, may_blur_text=may_blur_text)
            made = workers.in_threads(partial(_reduce, wanted), checked)
        for number, reduced in enumerate(made, start=1):
            progress(number / max(number, count), f"page {number}")
            yield reduced


def _reduce_batch(batch: _Batch) -> list[_Reduced]:
    pages = drawn_pages(
        batch.source, batch.first, batch.last, batch.wanted.ppi, in_greys=_in_greys(batch.wanted)
    )
    checked = _readable(
        pages, batch.source.name, may_blur_text=batch.may_blur_text, first=batch.first
    )
    return [_reduce(batch.wanted, page) for page in checked]


def _in_greys(wanted: RasterTreatment) -> bool:
    return wanted.colours in (PageColours.BITONAL, PageColours.GREY)


def _readable(
    pages: Iterator[DrawnPage], name: str, *, may_blur_text: bool, first: int = 1
) -> Iterator[DrawnPage]:
    for number, page in enumerate(pages, start=first):
        if page.has_text and page.ppi < FEWEST_TEXT_PPI and not may_blur_text:
            raise TooCoarseError(
                f"{name}: page {number} has text on it, which nobody can read at {page.ppi:.0f} "
                f"ppi. Ask for {FEWEST_TEXT_PPI:.0f} or more, or say that text may blur."
            )
        yield page


def _reduce(wanted: RasterTreatment, drawn: DrawnPage) -> _Reduced:
    page = reduce_colours(drawn.pixels, drawn.ppi, wanted)
    before, after = _at_worst(drawn, page)
    return _Reduced(
        ppi=drawn.ppi,
        coded=page.coded,
        kind=page.kind,
        remark=page.remark,
        before=before,
        after=after,
    )


class _Spool:
    """Coded pages on disk until it is known how long the file will be."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / "spool"
        self.pages: list[tuple[RasterPage, PageToWrite]] = []
        self._size_bytes = 0

    def __enter__(self) -> "_Spool":
        self._file: BinaryIO = self._path.open("w+b")
        return self

    def __exit__(self, *_: object) -> None:
        self._file.close()

    def add(self, reduced: _Reduced) -> None:
        coded, ppi = reduced.coded, reduced.ppi
        chunk = _Chunk(self._file, self._size_bytes, len(coded.data))
        self._file.write(coded.data)
        self._size_bytes += len(coded.data)
        page = RasterPage(
            number=len(self.pages) + 1,
            width_px=coded.width_px,
            height_px=coded.height_px,
            ppi=ppi,
            kind=reduced.kind,
            size_bytes=coded.weight,
            remark=reduced.remark,
            before=reduced.before,
            after=reduced.after,
        )
        fields = {
            **pixel_fields(coded, _ORDER),
            tags.XRESOLUTION: ratio(_ORDER, ppi),
            tags.YRESOLUTION: ratio(_ORDER, ppi),
            tags.RESOLUTION_UNIT: shorts(_ORDER, _INCH),
        }
        self.pages.append((page, PageToWrite(fields=fields, chunks=chunk)))

    def write(self, pages: list[tuple[RasterPage, PageToWrite]], path: Path) -> None:
        numbered = (
            replace(page, fields={**page.fields, **_page_number(number, len(pages))})
            for number, (_, page) in enumerate(pages)
        )
        with path.open("wb") as out:
            write_tiff(numbered, out, order=_ORDER, most_bytes=self._size_bytes)


class _Chunk(Sequence[bytes]):
    """The one strip of a page, read when it is written."""

    def __init__(self, file: BinaryIO, start: int, size_bytes: int) -> None:
        self._file, self._start, self._size_bytes = file, start, size_bytes

    def __len__(self) -> int:
        return 1

    def __getitem__(self, index: object) -> bytes:  # type: ignore[override] # one item only
        if index != 0:
            raise IndexError(index)
        self._file.seek(self._start)
        return self._file.read(self._size_bytes)


def _page_number(number: int, count: int) -> dict[int, Field]:
    """Return the index of a page, counted from 0 (TIFF 6.0, section 12)."""
    if count == 1:
        return {}
    return {
        tags.NEW_SUBFILE: longs(_ORDER, _OF_SEVERAL),
        _PAGE_NUMBER: shorts(_ORDER, number, count),
    }


def _at_worst(drawn: DrawnPage, page: ReducedPage) -> tuple[Pixels | None, Pixels | None]:
    """Cut out about a word where the page has lost most, as drawn and as it is now."""
    if page.worst is None:
        return None, None
    left, top, width, height = page.worst
    left, top = max(0, left - width // 2), max(0, top - height // 4)
    rows, columns = slice(top, top + height + height // 2), slice(left, left + 2 * width)
    return drawn.pixels[rows, columns].copy(), page.pixels[rows, columns].copy()
