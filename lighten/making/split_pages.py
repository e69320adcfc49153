"""A copy in numbered pieces that each fit a limit."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from lighten.contract import PagedReading, Splittable
from lighten.making.fit_to_limit import make_fitted_copy
from lighten.making.orders import Order, Piece
from lighten.model.errors import DoesNotFitError, LightenError
from lighten.model.plans import Copy
from lighten.model.proofs import Proof
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.trials import Trials
from lighten.model.weights import WeightSheet
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.planning.fit.fit import Fit
from lighten.registry import format_named, format_of

__all__ = ["make_pieces", "name_pieces", "split_copy", "take_pages"]

# Of several pieces' limits together, what a copy may weigh that is to be cut at page ends.
_FILLED = 0.96
_STEP_DOWN = 0.8
_CHECKED_DPI = 50.0


def make_pieces(
    source: Source,
    sheet: WeightSheet,
    trials: Trials,
    order: Order,
    out: Path,
    *,
    progress: Progress = no_progress,
    lightest_bytes: int,
    cache: CodingCache | None = None,
) -> tuple[Copy, Proof | None, Fit, tuple[Piece, ...]]:
    """Make a whole copy at `out`, as gentle as the fewest pieces allow, and the pieces beside it.

    lightest_bytes: of the whole, as in `DoesNotFitError`.
    Raises: as `make_fitted_copy`; DoesNotFitError if a single page is too heavy.
    """
    assert order.fit is not None
    limit_bytes = order.fit.limit_bytes
    count = max(2, -int(-lightest_bytes // (limit_bytes * _FILLED)))
    target = count * limit_bytes * _FILLED
    while True:
        whole_order = replace(order, fit=replace(order.fit, limit_bytes=int(target)))
        copy, proof, fitted = make_fitted_copy(
            source,
            sheet,
            trials,
            whole_order,
            out,
            progress=share_of(progress, 0, 0.8),
            cache=cache,
        )
        whole = replace(source, path=copy.path or source.path, shown_as=source.name)
        try:
            pieces = split_copy(
                whole, sheet.format, limit_bytes, out, share_of(progress, 0.8, 1, "dividing")
            )
        except LightenError as error:
            out.unlink(missing_ok=True)
            if not isinstance(error, DoesNotFitError) or target <= lightest_bytes:
                raise
            # A page that holds much of the weight must come down by itself: all go further.
            target = max(target * _STEP_DOWN, lightest_bytes)
        else:
            return copy, proof, fitted, pieces


def take_pages(source: Source, first: int, last: int, out: Path) -> None:
    """Write some pages of a document, counted from 1, to a file of their own at `out`.

    Raises: LightenError for a kind of document that has no pages to cut it at.
    """
    _splittable(format_of(source).name).excerpt(source, first, last, out)


def split_copy(
    copy: Source, format_name: str, limit_bytes: int, out: Path, progress: Progress = no_progress
) -> tuple[Piece, ...]:
    """Split `copy` at pages into pieces of at most `limit_bytes`, each proved against it.

    They stand beside `out`, named after it: report-1-of-3.pdf. Raises: DoesNotFitError if a
    single page is too heavy; LightenError if a piece does not show what the copy shows.
    """
    format_ = _splittable(format_name)
    with format_.read(copy) as reading:
        assert isinstance(reading, PagedReading)
        pages = len(reading.page_sizes)
    with TemporaryDirectory(dir=out.parent, prefix=".split-") as place:
        pieces: list[Piece] = []
        while not pieces or pieces[-1].last < pages:
            first = pieces[-1].last + 1 if pieces else 1
            piece = _longest(
                lambda last, first=first: _write(  # type: ignore[misc] # bound here
                    copy, format_name, first, last, Path(place)
                ),
                first,
                pages,
                limit_bytes,
                guess=first + round(pages * limit_bytes / copy.path.stat().st_size) - 1,
            )
            if piece is None:
                raise DoesNotFitError(
                    f"{copy.name}: page {first} alone is heavier than the limit, so no split "
                    "helps. Permit a lower score, or share it by a link.",
                    lightest_bytes=limit_bytes + 1,
                )
            _check(copy, format_name, piece)
            pieces.append(piece)
            progress(piece.last / pages)
        return name_pieces(tuple(pieces), out)


def _splittable(format_name: str) -> Splittable:
    """Return the format as one that splits. Raises: LightenError for documents without pages."""
    format_ = format_named(format_name)
    if not isinstance(format_, Splittable):
        raise LightenError("This kind of file cannot be cut into pieces.")
    return format_


def _longest(
    write: Callable[[int], Piece], first: int, pages: int, limit_bytes: int, *, guess: int
) -> Piece | None:
    """Return the longest piece that fits, by bisection; None if one page does not fit."""
    best: Piece | None = None
    least, most = first, pages
    last = max(first, min(guess, pages))
    while least <= most:
        piece = write(last)
        if piece.size_bytes <= limit_bytes:
            if best is not None:
                best.path.unlink()
            best, least = piece, last + 1
        else:
            piece.path.unlink()
            most = last - 1
        last = (least + most) // 2
    return best


def _write(copy: Source, format_name: str, first: int, last: int, place: Path) -> Piece:
    path = place / f"{first}-{last}"
    _splittable(format_name).excerpt(copy, first, last, path)
    return Piece(path=path, first=first, last=last, size_bytes=path.stat().st_size)


def _check(copy: Source, format_name: str, piece: Piece) -> None:
    """Check that every page of the piece has the copy's text and appearance."""
    format_ = _splittable(format_name)
    with format_.read(copy) as whole, format_.read(replace(copy, path=piece.path)) as part:
        assert isinstance(whole, PagedReading) and isinstance(part, PagedReading)
        is_same = len(part.page_sizes) == piece.last - piece.first + 1
        for page in range(piece.first, piece.last + 1) if is_same else ():
            before = whole.view(page, _CHECKED_DPI)
            after = part.view(page - piece.first + 1, _CHECKED_DPI)
            is_same = is_same and before.text == after.text
            is_same = is_same and np.array_equal(before.pixels, after.pixels)
    if not is_same:
        raise LightenError(
            f"{copy.name}: pages {piece.first} to {piece.last} do not look the same on their "
            "own, so it was not split. Share it by a link instead."
        )


def name_pieces(pieces: tuple[Piece, ...], out: Path) -> tuple[Piece, ...]:
    """Rename the pieces after `out`; existing files are replaced."""
    named = []
    for number, piece in enumerate(pieces, start=1):
        path = out.with_name(f"{out.stem}-{number}-of-{len(pieces)}{out.suffix}")
        piece.path.replace(path)
        named.append(replace(piece, path=path))
    return tuple(named)
