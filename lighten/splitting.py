"""A copy in numbered pieces that each fit a limit."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from lighten.coding_store import CodingStore
from lighten.contract import Progress, Source, no_progress
from lighten.errors import DoesNotFitError, LightenError
from lighten.fitted import make_fitted_copy
from lighten.planning import Fit, FitRules
from lighten.plans import Copy, PictureException
from lighten.proofs import Proof
from lighten.registry import format_named
from lighten.trials import Trials
from lighten.weights import WeightSheet

__all__ = ["Piece", "make_pieces", "name_pieces", "piece_as_json", "split_copy"]

# Of several pieces' limits together, what a copy may weigh that is to be cut at page ends.
_FILLED = 0.96
_STEP_DOWN = 0.8
_CHECKED_DPI = 50.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """The pages `first` to `last` of a copy, counted from 1, as a file of their own."""

    path: Path
    first: int
    last: int
    size_bytes: int


def piece_as_json(piece: Piece) -> dict[str, str | int]:
    return {
        "path": str(piece.path),
        "first": piece.first,
        "last": piece.last,
        "bytes": piece.size_bytes,
    }


def make_pieces(
    source: Source,
    sheet: WeightSheet,
    trials: Trials,
    limit_bytes: int,
    out: Path,
    *,
    lightest_bytes: int,
    rules: FitRules | None = None,
    exceptions: Mapping[str, PictureException] | None = None,
    may_end_signature: bool = False,
    progress: Progress = no_progress,
    store: CodingStore | None = None,
) -> tuple[Copy, Proof | None, Fit, tuple[Piece, ...]]:
    """A whole copy at `out`, as gentle as the fewest pieces allow, and those beside it.

    lightest_bytes: of the whole, as `DoesNotFitError` told.
    Raises: as `make_fitted_copy`; DoesNotFitError if a single page is too heavy.
    """
    count = max(2, -int(-lightest_bytes // (limit_bytes * _FILLED)))
    target = count * limit_bytes * _FILLED
    while True:
        copy, proof, fitted = make_fitted_copy(
            source,
            sheet,
            trials,
            int(target),
            out,
            rules=rules,
            exceptions=exceptions,
            may_end_signature=may_end_signature,
            progress=lambda share: progress(share * 0.8),
            store=store,
        )
        whole = replace(source, path=copy.path or source.path, shown_as=source.name)
        try:
            pieces = split_copy(
                whole, sheet.format, limit_bytes, out, lambda share: progress(0.8 + share * 0.2)
            )
        except LightenError as error:
            out.unlink(missing_ok=True)
            if not isinstance(error, DoesNotFitError) or target <= lightest_bytes:
                raise
            # A page that holds much of the weight must come down by itself: all go further.
            target = max(target * _STEP_DOWN, lightest_bytes)
        else:
            return copy, proof, fitted, pieces


def split_copy(
    copy: Source, format_name: str, limit_bytes: int, out: Path, progress: Progress = no_progress
) -> tuple[Piece, ...]:
    """`copy` cut at page ends into pieces of at most `limit_bytes`, each checked against it.

    They stand beside `out`, named after it: report-1-of-3.pdf. Raises: DoesNotFitError if a
    single page is too heavy; LightenError if a piece does not show what the copy shows.
    """
    format_ = format_named(format_name)
    with format_.read(copy) as reading:
        pages = len(reading.page_sizes)
    with TemporaryDirectory(dir=out.parent, prefix=".split-") as place:
        found: list[Piece] = []
        while not found or found[-1].last < pages:
            first = found[-1].last + 1 if found else 1
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
                    "helps. Let pictures look worse, or hand it over by a link.",
                    lightest_bytes=limit_bytes + 1,
                )
            _check(copy, format_name, piece)
            found.append(piece)
            progress(piece.last / pages)
        return name_pieces(tuple(found), out)


def _longest(
    write: Callable[[int], Piece], first: int, pages: int, limit_bytes: int, *, guess: int
) -> Piece | None:
    """The piece with most pages that fits, by halving what is open; None if not one page does."""
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
    format_named(format_name).excerpt(copy, first, last, path)
    return Piece(path=path, first=first, last=last, size_bytes=path.stat().st_size)


def _check(copy: Source, format_name: str, piece: Piece) -> None:
    """Every page of the piece has the text and the looks that it has in the copy."""
    format_ = format_named(format_name)
    with format_.read(copy) as whole, format_.read(replace(copy, path=piece.path)) as part:
        is_same = len(part.page_sizes) == piece.last - piece.first + 1
        for page in range(piece.first, piece.last + 1) if is_same else ():
            before = whole.view(page, _CHECKED_DPI)
            after = part.view(page - piece.first + 1, _CHECKED_DPI)
            is_same = is_same and before.text == after.text
            is_same = is_same and np.array_equal(before.pixels, after.pixels)
    if not is_same:
        raise LightenError(
            f"{copy.name}: pages {piece.first} to {piece.last} do not look the same on their "
            "own, so it was not split. Hand it over by a link instead."
        )


def name_pieces(pieces: tuple[Piece, ...], out: Path) -> tuple[Piece, ...]:
    """The pieces beside `out` and named after it; what stood there gives way."""
    named = []
    for number, piece in enumerate(pieces, start=1):
        path = out.with_name(f"{out.stem}-{number}-of-{len(pieces)}{out.suffix}")
        piece.path.replace(path)
        named.append(replace(piece, path=path))
    return tuple(named)
