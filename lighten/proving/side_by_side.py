"""Pages and pictures of a copy and its original, drawn as somebody looks at them."""

from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.contract import PagedReading, PicturesReading, Reading
from lighten.model.errors import UnreadableFileError
from lighten.model.proofs import Box
from lighten.model.source import Source
from lighten.office_suite import OfficeSuite
from lighten.pictures.pixels.planes import luma
from lighten.pictures.pixels.sizes import pixels_at
from lighten.proving.laid_out import lay_out_both
from lighten.registry import format_of

__all__ = ["Place", "SideBySide", "read_both"]

# Differences of light that the heat shows: from hardly visible to plain, of 255.
_COOL, _HOT = 2.0, 32.0
_RUST = (180, 71, 46)
_MOST_HEAT = 230

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A page, or a picture of a document without pages; the whole, or the `box` of it.

    page: counted from 1. part_id, size_pt: of a picture, and how large it is shown.
    box: in points from the lower left.
    """

    page: int | None = None
    part_id: str = ""
    size_pt: tuple[float, float] = (0.0, 0.0)
    box: Box | None = None


class SideBySide:
    """Two readings of one document."""

    def __init__(
        self,
        original: Reading,
        copy: Reading,
        lay_out: Callable[[], tuple[PagedReading, PagedReading] | None],
    ) -> None:
        """lay_out: the pages of both, for documents that have none of their own."""
        self._sides = {"original": original, "copy": copy}
        self._lay_out = lay_out
        self._laid_out: Mapping[str, PagedReading] | None = None
        self._pictures: dict[tuple[str, str], Pixels] = {}

    def draw(self, side: str, place: Place, dpi: float, out: Path | str) -> None:
        """The place as a PNG file at `out`.

        side: "original", "copy", or "difference": rust where they differ, see-through elsewhere.
        Raises: UnreadableFileError if it cannot be drawn.
        """
        from PIL import Image

        if side == "difference":
            pixels = _heat(self._pixels("original", place, dpi), self._pixels("copy", place, dpi))
        else:
            pixels = self._pixels(side, place, dpi)
        Image.fromarray(pixels).save(out, "PNG", compress_level=1)

    def _pixels(self, side: str, place: Place, dpi: float) -> Pixels:
        reading: Reading = self._sides[side]
        if place.page is not None and not isinstance(reading, PagedReading):
            reading = self._page_reading(side)
        if isinstance(reading, PagedReading) and place.page is not None:
            if place.box is None:
                return reading.view(place.page, dpi).pixels
            return reading.render_region(place.page, dpi, place.box)
        if isinstance(reading, PicturesReading) and place.part_id:
            return self._of_picture(reading, side, place, dpi)
        raise UnreadableFileError("There is no such place in this document.")

    def _page_reading(self, side: str) -> PagedReading:
        """Return a reading of pages, laid out on first use. Raises: UnreadableFileError."""
        if self._laid_out is None:
            both = self._lay_out()
            if both is None:
                raise UnreadableFileError("Its pages cannot be laid out here.")
            self._laid_out = dict(zip(self._sides, both, strict=True))
        return self._laid_out[side]

    def _of_picture(self, reading: PicturesReading, side: str, place: Place, dpi: float) -> Pixels:
        """Return a picture or its region at its shown size and `dpi`."""
        from PIL import Image

        key = (side, place.part_id)
        if key not in self._pictures:
            try:
                self._pictures = {**self._pictures, key: reading.picture(place.part_id)}
            except KeyError:
                raise UnreadableFileError("There is no such picture.") from None
        image = Image.fromarray(self._pictures[key])
        width_pt, height_pt = place.size_pt
        left, low, right, high = place.box or (0.0, 0.0, width_pt, height_pt)
        left, right = max(0.0, left), min(width_pt, right)
        low, high = max(0.0, low), min(height_pt, high)
        if right <= left or high <= low:
            raise UnreadableFileError("There is no such place on the picture.")
        across, down = image.width / width_pt, image.height / height_pt
        drawn = image.resize(
            pixels_at((right - left, high - low), dpi),
            Image.Resampling.BICUBIC,
            box=(
                left * across,
                (height_pt - high) * down,
                right * across,
                (height_pt - low) * down,
            ),
        )
        return np.asarray(drawn)


@contextmanager
def read_both(original: Source, copy: Path) -> Iterator[SideBySide]:
    """Open both files for reading. Raises: as `Format.read`."""
    format_ = format_of(original)
    copied = replace(original, path=copy)
    with ExitStack() as stack:
        before, after = (stack.enter_context(format_.read(one)) for one in (original, copied))

        def lay_out() -> tuple[PagedReading, PagedReading] | None:
            if not format_.offers.can_be_laid_out:
                return None
            media_type = format_.offers.kinds[0].media_type
            both = stack.enter_context(
                lay_out_both(original, copied, format_.name, media_type, OfficeSuite())
            )
            if both is None:
                return None
            readings = []
            for path in both:
                laid_out = Source(path=path, shown_as=original.name)
                reading = stack.enter_context(format_of(laid_out).read(laid_out))
                assert isinstance(reading, PagedReading)
                readings.append(reading)
            return readings[0], readings[1]

        yield SideBySide(before, after, lay_out)


def _heat(original: Pixels, copy: Pixels) -> Pixels:
    """Return a heat map of differences, (height, width, 4) uint8."""
    height = min(original.shape[0], copy.shape[0])
    width = min(original.shape[1], copy.shape[1])
    off = np.abs(luma(original[:height, :width]) - luma(copy[:height, :width]))
    strength = np.clip((off - _COOL) / (_HOT - _COOL), 0, 1) ** 0.6
    heat = np.empty((height, width, 4), np.uint8)
    heat[..., :3] = _RUST
    heat[..., 3] = (strength * _MOST_HEAT).astype(np.uint8)
    return heat
