"""Fit against uniform settings at equal bytes, and estimates against copies: `make bench-fit`.

For each file: what one fineness and quality for all pictures make of it, and what a fit makes with
just as many bytes for its limit. Looks by a library that is not ours, at the size at which each
picture is shown.
"""

import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import pikepdf
from PIL import Image

from benchmarks.files import make_mixed_book
from benchmarks.looks import ssimulacra2
from lighten import (
    CodingCache,
    DoesNotFitError,
    FitOrder,
    FitRules,
    Order,
    PictureClass,
    Preset,
    Source,
    Trials,
    WeightSheet,
    estimate,
    make,
    make_copy,
    plan,
    preset_named,
    run_trials,
    weigh,
)

_GENERATED = 6
_SETTINGS = ((150.0, 75), (110.0, 60))
_SHOWN_PPI = 150.0
_LOOKED_AT = 30
_EXACT = 99.9


@dataclass(frozen=True, slots=True)
class Looks:
    """Scores of the pictures of one copy."""

    scores: np.ndarray

    def __str__(self) -> str:
        low = np.percentile(self.scores, 5)
        return f"{self.scores.mean():6.1f} {low:6.1f} {self.scores.min():6.1f}"


def main(names: list[str]) -> None:
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        paths = [Path(name) for name in names]
        for number in range(0 if names else _GENERATED):
            path = folder / f"mixed-{number}.pdf"
            make_mixed_book(path, seed=number)
            paths.append(path)
        print("file, setting: bytes uniform, fitted; scores (mean, 5th, worst) uniform | fitted")
        gains = [gain for path in paths for gain in _compare(path, folder)]
        print(f"mean gain {np.mean(gains):+.1f} over {len(gains)} comparisons")


def _compare(path: Path, folder: Path) -> Iterator[float]:
    source = Source(path=path)
    sheet = weigh(source)
    cache = CodingCache(folder / f"{path.stem}.codings", most_bytes=2_000_000_000)
    started, trials = time.monotonic(), Trials()
    for _, so_far in run_trials(source, sheet, None, folder, cache=cache):
        trials = so_far
    trials_s = time.monotonic() - started
    for ppi, quality in _SETTINGS:
        uniform, fitted = (folder / f"{path.stem}-{quality}-{kind}" for kind in ("one", "fit"))
        preset = _uniform(ppi, quality)
        chosen = plan(sheet, preset, may_end_signature=True)
        started = time.monotonic()
        copy = make_copy(source, sheet, chosen, uniform)
        plain_s = time.monotonic() - started
        if copy.path is None:
            continue
        known_trials = trials
        for _, so_far in run_trials(source, sheet, chosen, folder, cache=cache, earlier=trials):
            known_trials = so_far
        likely = estimate(sheet, chosen, known_trials)
        off = likely.size_bytes / copy.bytes_after - 1
        is_inside = likely.low_bytes <= copy.bytes_after <= likely.high_bytes
        started = time.monotonic()
        try:
            limit = FitOrder(limit_bytes=copy.bytes_after, rules=FitRules(floor=0))
            order = Order(fit=limit, may_end_signature=True)
            made = make(source, sheet, order, fitted, trials=trials, cache=cache).copy
        except DoesNotFitError as error:
            print(f"{path.name} {ppi:.0f}/{quality}: {error.message}")
            continue
        fit_s = time.monotonic() - started
        ours, theirs = _looks(sheet, path, fitted), _looks(sheet, path, uniform)
        # Nothing is shared out among pictures that both keep exactly.
        is_lossy = np.minimum(ours.scores, theirs.scores) < _EXACT
        ours, theirs = Looks(ours.scores[is_lossy]), Looks(theirs.scores[is_lossy])
        gain = float(ours.scores.mean() - theirs.scores.mean())
        print(
            f"{path.name} {ppi:.0f}/{quality}: {copy.bytes_after:,} {made.bytes_after:,}; "
            f"{theirs} | {ours}; {gain:+.1f}; trials {trials_s:.1f} s, copy {plain_s:.1f} s, "
            f"fit and proof {fit_s:.1f} s; estimate {off:+.1%}{'' if is_inside else ' OUTSIDE'}",
            flush=True,
        )
        yield gain


def _uniform(ppi: float, quality: int) -> Preset:
    """One fineness and quality for whatever is no line art."""
    desk = preset_named("reading-desk")
    pictures = {
        name: replace(own, finest_ppi=ppi, quality=quality, floor=0.0)
        if name not in (PictureClass.BITONAL, PictureClass.MASK)
        else own
        for name, own in desk.treatment.pictures.items()
    }
    return replace(desk, treatment=replace(desk.treatment, pictures=pictures))


def _looks(sheet: WeightSheet, original: Path, copy: Path) -> Looks:
    """Each shown picture of the copy beside its original, at the size it is shown at."""
    scores = []
    with pikepdf.open(original) as one, pikepdf.open(copy) as other:
        pairs = list(_pairs(one, other, sheet))
        for before, after, size in pairs[:: max(1, len(pairs) // _LOOKED_AT)]:
            scores.append(ssimulacra2(_shown(before, size), _shown(after, size)))
    return Looks(np.array(scores))


def _pairs(
    one: pikepdf.Pdf, other: pikepdf.Pdf, sheet: WeightSheet
) -> Iterator[tuple[Image.Image, Image.Image, tuple[int, int]]]:
    shown = {
        part.id.partition(":")[2]: part.picture.largest_display_pt
        for part in sheet.parts
        if part.picture is not None
    }
    for page, page_two in zip(one.pages, other.pages, strict=True):
        for name, picture in _pictures(page):
            points = shown.get(f"{picture.objgen[0]}-{picture.objgen[1]}")
            other_picture = page_two.resources.XObject[name]
            if points is None or not isinstance(other_picture, pikepdf.Stream):
                continue
            try:
                before = pikepdf.PdfImage(picture).as_pil_image()
                after = pikepdf.PdfImage(other_picture).as_pil_image()
            except (pikepdf.PdfError, NotImplementedError, ValueError, KeyError, OSError):
                continue
            width, height = (round(side / 72 * _SHOWN_PPI) for side in points)
            size = (min(before.width, width), min(before.height, height))
            if min(size) > 32:
                yield before, after, size


def _pictures(page: pikepdf.Page) -> Iterator[tuple[str, pikepdf.Stream]]:
    for name, form in page.resources.get("/XObject", pikepdf.Dictionary()).items():
        if isinstance(form, pikepdf.Stream) and form.get("/Subtype") == "/Image":
            yield name, form


def _shown(image: Image.Image, size: tuple[int, int]) -> Image.Image:
    return image.convert("RGB").resize(size, Image.Resampling.BICUBIC)


if __name__ == "__main__":
    main(sys.argv[1:])
