"""Fewer pixels for the same picture."""

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

__all__ = ["resample", "resample_opaque", "resample_seen"]

Samples = TypeVar("Samples", np.uint8, np.uint16)


def resample(pixels: NDArray[Samples], size_px: tuple[int, int]) -> NDArray[Samples]:
    """The picture at `size_px` (width, height), with a Lanczos window of three lobes.

    pixels: (height, width) or (height, width, n), uint8 or uint16; comes back as it is if the size
    is its own.
    """
    if (pixels.shape[1], pixels.shape[0]) == size_px:
        return pixels
    import pyvips

    width_px, height_px = size_px
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels))
    if pixels.dtype == np.uint16:  # which `thumbnail_image` would cut to 8 bits
        across, down = width_px / image.width, height_px / image.height
        small = image.resize(across, vscale=down, kernel="lanczos3").numpy()
    else:
        small = image.thumbnail_image(width_px, height=height_px, size="force").numpy()
    return np.asarray(small if pixels.ndim == 3 else small.reshape(height_px, width_px))


def resample_opaque(
    pixels: NDArray[np.uint8], opacity: NDArray[np.uint8], size_px: tuple[int, int]
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Resample colours and opacity to `size_px`; transparent pixels give no colour.

    pixels: (height, width[, 3]); opacity: (height, width); both uint8, as they come back.
    """
    import pyvips

    channels = pixels[..., None] if pixels.ndim == 2 else pixels
    planes = np.ascontiguousarray(np.concatenate([channels, opacity[..., None]], axis=2))
    kind = "b-w" if pixels.ndim == 2 else "srgb"
    image = pyvips.Image.new_from_array(planes).copy(interpretation=kind)
    # The library multiplies colours by opacity before it mixes them, and divides again after.
    small = image.thumbnail_image(size_px[0], height=size_px[1], size="force").numpy()
    colours = np.ascontiguousarray(small[..., :-1])
    return (colours[..., 0] if pixels.ndim == 2 else colours), np.ascontiguousarray(small[..., -1])


def resample_seen(
    pixels: NDArray[np.uint8], visible: NDArray[np.bool_], size_px: tuple[int, int]
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Resample the visible part to `size_px`, with the coverage of each pixel, 0 to 255.

    pixels: (height, width[, n]) uint8. What is hidden gives no colour to its neighbours: colours
    are weighted by `visible`, and hidden places take the mean of the others.
    """
    width_px, height_px = size_px
    seen = resample(np.where(visible, 255, 0).astype(np.uint8), size_px)
    channels = pixels[..., None] if pixels.ndim == 2 else pixels
    mean = channels[visible].mean(axis=0) if visible.any() else np.full(channels.shape[2], 255.0)
    out = np.empty((height_px, width_px, channels.shape[2]), np.uint8)
    for channel in range(channels.shape[2]):
        # Hidden places as the mean of the visible: the window then moves colours towards it only.
        filled = np.where(visible, channels[..., channel], mean[channel]).astype(np.uint8)
        blended = resample(filled, size_px).astype(np.float64)
        share = np.maximum(seen / 255.0, 1 / 255)
        own = mean[channel] + (blended - mean[channel]) / share
        out[..., channel] = np.clip(np.where(seen > 0, own, mean[channel]), 0, 255).round()
    return (out[..., 0] if pixels.ndim == 2 else out), seen
