"""A picture as a file stores it, taken out of the file: what the engine works on."""

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.bitonal import BitonalParameters

__all__ = ["Rendering", "StoredCoding", "StoredPicture"]


class StoredCoding(StrEnum):
    """Coding of `StoredPicture.data`."""

    RAW = "raw"  # samples, row by row
    FLATE = "flate"  # the same in Deflate, perhaps with a predictor
    JPEG = "jpeg"
    JPEG_2000 = "jpeg-2000"
    CCITT = "ccitt"
    JBIG2 = "jbig2"
    PNG = "png"
    BITMAP_FILE = "bitmap-file"  # GIF, BMP or lossless WebP: a whole file, every pixel exact
    WEBP = "webp"  # with loss
    HEIC = "heic"
    TIFF = "tiff"  # a whole file of one page, every pixel exact
    LOSSY_TIFF = "lossy-tiff"  # the same with loss
    UNKNOWN = "unknown"


_LOSSY = (
    StoredCoding.JPEG,
    StoredCoding.JPEG_2000,
    StoredCoding.WEBP,
    StoredCoding.HEIC,
    StoredCoding.LOSSY_TIFF,
)


class Rendering(Protocol):
    """A reader's own eyes, for colours whose samples are not light. Can be pickled."""

    @property
    def key(self) -> bytes:
        """Return a key that is equal for renderings with equal results."""

    def pixels(self, width_px: int, height_px: int) -> NDArray[np.uint8]:
        """Return the pixels as rendered: (height, width, 3) uint8, sRGB. Raises: ValueError."""


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredPicture:
    """The coded bytes and all that is needed to decode them; can be sent to another process.

    weight: bytes it has in the file, which are fewer than `data` where that was unpacked.
    bits: a sample. colours: samples a pixel (1 with a palette), without opacity.
    palette: entries of `entry_colours` bytes, or None. predictor: as ISO 32000-1 table 10, or 1.
    has_own_colours: calibrated, so that equal red, green and blue need not be a plain grey.
    is_foreign: samples are inks or Lab, not grey or red, green, blue.
    has_inverted_inks: 255 is no ink, as JPEG files with Adobe's mark have it.
    is_stretched: a table beside the picture gives its samples another meaning, and goes on to.
    is_stencil: one bit that paints or does not.
    bitonal: of the codings that need it. profile: of inks, an ICC profile or none.
    colour_key: lowest and highest sample of what is see-through, per colour; or None.
    has_opacity: its coding says how opaque each pixel is, besides its colours.
    rendering: how a reader shows it, for new colours of foreign or stretched samples; or None.
    """

    data: bytes
    weight: int
    coding: StoredCoding
    width_px: int
    height_px: int
    bits: int
    colours: int
    predictor: int = 1
    palette: bytes | None = None
    entry_colours: int = 1
    has_own_colours: bool = False
    is_foreign: bool = False
    has_inverted_inks: bool = False
    is_stretched: bool = False
    is_mask: bool = False
    bitonal: BitonalParameters = field(default_factory=BitonalParameters)
    profile: bytes = b""
    colour_key: tuple[int, ...] | None = None
    has_opacity: bool = False
    rendering: Rendering | None = None

    @property
    def is_lossy(self) -> bool:
        return self.coding in _LOSSY

    @property
    def is_packed(self) -> bool:
        """Return whether the picture is already compressed by Deflate or better."""
        return self.coding in (StoredCoding.FLATE, StoredCoding.PNG)
