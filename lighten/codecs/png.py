"""PNG (RFC 2083): whole files, written as tightly as is worth the time, and packed again."""

from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

__all__ = ["decode_png", "encode_png", "glimpse_png", "repack_png"]

Samples = TypeVar("Samples", np.uint8, np.uint16)

# Up to there all filters are tried in full, about a second a megapixel; beyond, a few by a cheap
# comparison, and one of them in full, about as long (a wallpaper of 15 megapixels: .807 of its
# bytes in 33 s, where the usual levels stay at .815 to .838 in 15 to 31).
_SEARCHED_UP_TO_PX = 1_500_000
_FULL_SEARCH, _ONE_TRY = 4, 1
# Two filters leave .6 % more than the full search (seven screenshots and drawings) in a quarter of
# its time: enough where fewer pixels or a JPEG were in question as well.
_TIGHTEST_DEFLATE, _SOON_DEFLATE, _QUICK_DEFLATE = 12, 9, 7
# Flat colours come to a kilobyte or two in any way, and the tightest takes six times as long.
_FLAT_BYTES_A_PIXEL = 0.05
_GLIMPSED_ROWS = 256


def encode_png(
    pixels: NDArray[np.uint8] | NDArray[np.uint16],
    opacity: NDArray[np.uint8] | NDArray[np.uint16] | None = None,
    *,
    is_brief: bool = False,
    is_draft: bool = False,
) -> bytes:
    """Encode every pixel exactly, in the bit depth and colour type that is smallest.

    pixels: (height, width) grey or (height, width, 3) RGB; opacity: (height, width), or None;
    both uint8, or both uint16. is_brief, is_draft: as `repack_png`.
    """
    import pyvips

    planes = [pixels[..., None] if pixels.ndim == 2 else pixels]
    if opacity is not None:
        planes.append(opacity[..., None])
    image = pyvips.Image.new_from_array(np.ascontiguousarray(np.concatenate(planes, axis=2)))
    is_deep = pixels.dtype == np.uint16
    grey, colour = ("grey16", "rgb16") if is_deep else ("b-w", "srgb")
    image = image.copy(interpretation=grey if pixels.ndim == 2 else colour)
    data: bytes = image.pngsave_buffer(compression=1, filter="all", keep="none")
    count = pixels.shape[0] * pixels.shape[1]
    return repack_png(data, pixels=count, is_brief=is_brief, is_draft=is_draft)


def repack_png(
    data: bytes, *, pixels: int, is_brief: bool = False, is_draft: bool = False
) -> bytes:
    """Write the same pixels, bit for bit, in fewer bytes; chunks besides them are dropped.

    pixels: how many it has, which sets how much time is taken. is_brief: a short search; is_draft:
    quickly, about a tenth heavier. Raises: ValueError if damaged.
    """
    import oxipng

    filters = oxipng.RowFilter
    is_flat = len(data) < pixels * _FLAT_BYTES_A_PIXEL
    searching: dict[str, Any] = {}
    if is_draft:
        searching = {"filter": [filters.Bigrams], "deflate": _deflate(_QUICK_DEFLATE)}
    elif is_brief:
        searching = {
            "filter": [filters.NoOp, filters.Bigrams],
            "fast_evaluation": True,
            "deflate": _deflate(_SOON_DEFLATE if is_flat else _TIGHTEST_DEFLATE),
        }
    elif pixels > _SEARCHED_UP_TO_PX:
        searching = {
            "filter": [filters.NoOp, filters.Bigrams, filters.Brute],
            "fast_evaluation": True,
            "deflate": _deflate(_TIGHTEST_DEFLATE),
        }
    try:
        packed = oxipng.optimize_from_memory(
            data,
            level=_ONE_TRY if searching else _FULL_SEARCH,
            strip=oxipng.StripChunks.all(),
            # See-through pixels keep the colours that an editor could bring back.
            optimize_alpha=False,
            **searching,
        )
    except oxipng.PngError as error:
        raise ValueError(f"a PNG that cannot be read ({error})") from error
    return bytes(packed)


def _deflate(level: int) -> Any:
    import oxipng

    return oxipng.Deflaters.libdeflater(level)


def decode_png(
    data: bytes,
) -> tuple[NDArray[np.uint8] | NDArray[np.uint16], NDArray[np.uint8] | NDArray[np.uint16] | None]:
    """Decode pixels and opacity (None if absent); palettes and low bit depths become 8 bits.

    Returns (height, width) grey or (height, width, 3) RGB, and (height, width); uint8, or uint16
    where it has 16 bits. Raises: ValueError if damaged or cut short.
    """
    import pyvips

    try:
        samples = pyvips.Image.pngload_buffer(data, fail_on="truncated").numpy()
    except pyvips.Error as error:
        raise ValueError("a PNG that is damaged or cut short") from error
    return _colours_and_opacity(samples)


def glimpse_png(data: bytes) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """The colours of a band across the picture, a third of the way down; less than the whole.

    Returns as `decode_png`, without opacity. Raises: ValueError if damaged.
    """
    import pyvips

    try:
        image = pyvips.Image.pngload_buffer(data, access="sequential")
        # All above the band must be decoded as well.
        top = image.height // 3
        rows = min(image.height - top, max(_GLIMPSED_ROWS, image.height // 6))
        samples = image.crop(0, top, image.width, rows).numpy()
    except pyvips.Error as error:
        raise ValueError("a PNG that is damaged or cut short") from error
    return _colours_and_opacity(samples)[0]


def _colours_and_opacity(
    samples: NDArray[Samples],
) -> tuple[NDArray[Samples], NDArray[Samples] | None]:
    if samples.ndim == 2:
        samples = samples[..., None]
    count = samples.shape[2]
    opacity = np.ascontiguousarray(samples[..., -1]) if count in (2, 4) else None
    colours = samples[..., : count - (opacity is not None)]
    return np.ascontiguousarray(colours[..., 0] if colours.shape[2] == 1 else colours), opacity
