"""A TIFF file through a reader that had no part in writing it."""

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.tiff import decode_tiff
from lighten.formats.tiff import tags
from lighten.formats.tiff.directories import Directory, TiffFile
from lighten.formats.tiff.open_file import open_tiff
from lighten.formats.tiff.page import TiffPage, pages_of
from lighten.formats.tiff.stored_page import as_written
from lighten.model.errors import UnreadableFileError
from lighten.model.kinds import ExtraKind
from lighten.model.source import Source
from lighten.pictures.pixels.colours import plain_inks, through_profile
from lighten.pictures.pixels.upright import upright

__all__ = ["TiffReading", "read_tiff"]

_UNREADABLE = (OSError, ValueError, SyntaxError, EOFError, KeyError)
_PRESERVED = {
    ExtraKind.METADATA: "descriptions",
    ExtraKind.CAMERA_DATA: "camera data",
    ExtraKind.LOCATION: "location",
}
# Told otherwise where the size changes, or pointing at bytes.
_NOT_PRESERVED = {tags.MAKERS_NOTE, 40962, 40963, *tags.SUBDIRECTORIES}


class TiffReading:
    """Pixels as Pillow reads them; what it cannot read, as libtiff does through another library."""

    readers = ("pixels and tags: Pillow, with libtiff", "rare pages: libvips")

    def __init__(self, file: TiffFile, source: Source) -> None:
        self._file, self._source = file, source
        self._pages = {page.id: page for page in pages_of(file)}

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        features: dict[str, list[str]] = {name: [] for name in _PRESERVED.values()}
        others: list[str] = []
        for page in self._pages.values():
            for name, value in self._described(page.directory):
                (others if name is None else features[name]).append(f"{page.id} {value}")
        return {
            "pages": tuple(_size_text(page) for page in self._pages.values()),
            "page names and numbers": tuple(others),
            **{name: tuple(values) for name, values in features.items()},
        }

    def picture(self, part_id: str, least_px: tuple[int, int] | None = None) -> NDArray[np.uint8]:
        """Return the whole picture; see `PicturesReading`."""
        page = self._pages[part_id]
        try:
            pixels = self._by_pillow(page)
        except _UNREADABLE:
            try:
                pixels = _shown(decode_tiff(as_written(self._file, page)), page)
            except ValueError as error:
                raise UnreadableFileError(
                    f"{self._source.name}: page {page.number} cannot be drawn ({error})."
                ) from error
        return upright(pixels, page.orientation)

    def fingerprint(self, part_id: str) -> str:
        """See `PicturesReading`."""
        page = self._pages[part_id]
        digest = hashlib.sha256(page.profile)
        digest.update(repr((page.width_px, page.height_px, page.orientation)).encode())
        digest.update(as_written(self._file, page))
        return digest.hexdigest()

    def _by_pillow(self, page: TiffPage) -> NDArray[np.uint8]:
        """Decode as stored, on white where it is transparent."""
        import io
        import warnings

        from PIL import Image

        with warnings.catch_warnings():
            # How many pixels are too many was decided when it was weighed.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(as_written(self._file, page)), formats=["TIFF"]) as image:
                image.load()
                return _as_light(image, page)

    def _described(self, directory: Directory) -> Iterator[tuple[str | None, str]]:
        """Return the values besides pixels, by kind; values that are merely kept have none."""
        for tag, entry in directory.entries.items():
            if tag in tags.OF_PIXELS | _NOT_PRESERVED or tag in directory.below:
                continue
            if tag in (tags.XRESOLUTION, tags.YRESOLUTION, tags.RESOLUTION_UNIT, tags.PROFILE):
                continue
            extra = tags.extra_of_tag(tag)
            if extra in _PRESERVED or extra is None:
                value = hashlib.sha256(self._file.raw(entry)).hexdigest()[:16]
                yield (_PRESERVED[extra] if extra else None), f"{tag} {value}"
        for tag, name in ((tags.EXIF, "camera data"), (tags.GPS, "location")):
            for below in directory.below.get(tag, ()):
                for inner_tag, entry in below.entries.items():
                    if inner_tag not in _NOT_PRESERVED:
                        value = hashlib.sha256(self._file.raw(entry)).hexdigest()[:16]
                        yield name, f"{inner_tag} {value}"


@contextmanager
def read_tiff(source: Source) -> Iterator[TiffReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    with open_tiff(source) as file:
        yield TiffReading(file, source)


def _size_text(page: TiffPage) -> str:
    """Describe the size of a page on paper, or in pixels where it has no resolution."""
    if page.own_pt is None:
        return "no size declared"
    return " x ".join(f"{round(side)}" for side in page.own_pt)


def _as_light(image: Any, page: TiffPage) -> NDArray[np.uint8]:
    if image.mode.startswith("I"):
        return (np.asarray(image) >> 8).astype(np.uint8)
    if image.mode in ("RGBA", "LA", "PA"):
        return _shown(np.asarray(image.convert("RGBA")), page)
    if image.mode == "CMYK":
        return _shown(np.asarray(image), page)
    return _shown(np.asarray(image.convert("L" if image.mode in ("1", "L") else "RGB")), page)


def _shown(samples: NDArray[np.uint8] | NDArray[np.uint16], page: TiffPage) -> NDArray[np.uint8]:
    """Convert samples to sRGB, (height, width, 3), through the page's own profile."""
    if samples.dtype == np.uint16:
        samples = samples >> np.uint16(8)
    pixels = samples.astype(np.uint8)
    count = 1 if pixels.ndim == 2 else pixels.shape[2]
    if page.extra_samples and count in (2, 4):
        share = pixels[..., -1:].astype(np.uint16)
        colours = pixels[..., :-1].astype(np.uint16)
        pixels = ((colours * share + 255 * (255 - share)) // 255).astype(np.uint8)
        pixels = pixels[..., 0] if count == 2 else pixels
        count -= 1
    if page.profile and count in (1, 3, 4):
        # What has a profile that they cannot use, readers show without.
        with suppress(ValueError):
            pixels = through_profile(pixels, page.profile)
    if pixels.ndim == 3 and pixels.shape[2] == 4:
        pixels = plain_inks(pixels)
    return pixels if pixels.ndim == 3 else np.repeat(pixels[..., None], 3, axis=2)
