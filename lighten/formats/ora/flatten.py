"""Layers put together to the picture that they show."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from lighten.formats.ora.blend import clears_outside, composite
from lighten.formats.ora.stack import Drawing, Group, Layer
from lighten.model.errors import UnreadableFileError

__all__ = ["flatten", "read_layer"]

# Rows that are worked on at a time; between layers, colours are kept in 16 bits.
_ROWS = 128
_DEEP = np.float32(65535)

Pixels = NDArray[np.uint8]
Canvas = NDArray[np.uint16]


def flatten(drawing: Drawing) -> Pixels:
    """Flatten the layers: (height, width, 4) uint8, colours not multiplied by opacity.

    Raises: UnreadableFileError for a layer that is no picture.
    """
    canvas: Canvas = np.zeros((drawing.height_px, drawing.width_px, 4), np.uint16)
    _put_all(drawing, drawing.root, canvas)
    pixels = _of_canvas(canvas)
    flat = np.empty(canvas.shape, np.uint8)
    for top in range(0, len(canvas), _ROWS):
        colour, opacity = pixels(slice(top, top + _ROWS), slice(None))
        flat[top : top + _ROWS, :, :3] = np.rint(np.clip(colour, 0, 1) * 255)
        flat[top : top + _ROWS, :, 3] = np.rint(opacity[..., 0] * 255)
    return flat


def read_layer(drawing: Drawing, member: str) -> Pixels:
    """Decode a layer: (height, width, 4) uint8. Raises: UnreadableFileError, LimitExceededError."""
    import pyvips

    if member not in drawing.archive.members:
        raise UnreadableFileError(
            f"{drawing.archive.shown_as}: a layer ({member or 'without a name'}) is missing in it. "
            "Save it again in the program it came from, and try that file."
        )
    try:
        image = pyvips.Image.pngload_buffer(drawing.archive.content(member))
        if image.format == "ushort":
            image = (image >> 8).cast("uchar")
        image = image.colourspace("srgb")
        if not image.hasalpha():
            image = image.bandjoin(255)
        pixels: Pixels = image.cast("uchar").numpy()
    except pyvips.Error as error:
        raise UnreadableFileError(
            f"{drawing.archive.shown_as}: a layer ({member}) is no picture that can be read. Save "
            "it again in the program it came from, and try that file."
        ) from error
    return pixels


def _put_all(drawing: Drawing, group: Group, canvas: Canvas) -> None:
    """Composite the children onto the canvas, the lowest first."""
    for child in reversed(group.children):
        if not child.is_visible:
            continue
        if isinstance(child, Layer):
            pixels = read_layer(drawing, child.member)
            _put(child, canvas, (child.x, child.y), pixels.shape[:2], _of_layer(pixels))
        elif child.is_isolated:
            inner: Canvas = np.zeros_like(canvas)
            _put_all(drawing, child, inner)
            _put(child, canvas, (0, 0), canvas.shape[:2], _of_canvas(inner))
        else:
            _put_all(drawing, child, canvas)


# Colours and opacity of some rows and columns.
_Source = Callable[[slice, slice], tuple[NDArray[np.float32], NDArray[np.float32]]]


def _of_layer(pixels: Pixels) -> _Source:
    def some(rows: slice, columns: slice) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        part = pixels[rows, columns].astype(np.float32) / np.float32(255)
        return part[..., :3], part[..., 3:]

    return some


def _of_canvas(canvas: Canvas) -> _Source:
    def some(rows: slice, columns: slice) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        part = canvas[rows, columns].astype(np.float32) / _DEEP
        opacity = part[..., 3:]
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(opacity > 0, part[..., :3] / opacity, 0), opacity

    return some


def _put(
    child: Layer | Group,
    canvas: Canvas,
    at: tuple[int, int],
    shape: tuple[int, ...],
    some: _Source,
) -> None:
    height, width = canvas.shape[:2]
    left, right = max(0, at[0]), min(width, at[0] + shape[1])
    top, bottom = max(0, at[1]), min(height, at[1] + shape[0])
    if clears_outside(child.operation):
        inside = np.zeros((height, width), np.bool_)
        inside[max(0, top) : max(0, bottom), max(0, left) : max(0, right)] = True
        canvas[~inside] = 0
    if left >= right or top >= bottom:
        return
    columns = slice(left - at[0], right - at[0])
    for first in range(top, bottom, _ROWS):
        last = min(bottom, first + _ROWS)
        colour, opacity = some(slice(first - at[1], last - at[1]), columns)
        below = canvas[first:last, left:right].astype(np.float32) / _DEEP
        seen = composite(child.operation, below, colour, opacity * np.float32(child.opacity))
        canvas[first:last, left:right] = np.rint(np.clip(seen, 0, 1) * _DEEP)
