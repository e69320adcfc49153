"""The picture that a drawing shows: its own program's where it is right, else put together here."""

from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.containers.open_forms import kept_form
from lighten.formats.ora.flatten import flatten, read_layer
from lighten.formats.ora.stack import MERGED, Drawing, open_drawing
from lighten.model.errors import UnreadableFileError
from lighten.model.source import Source

__all__ = ["flattened", "merged_by_its_program"]

# Of 255: programs round between layers, each in its own way.
_MOST_OFF, _MOST_OFF_ON_AVERAGE = 24, 1.0
_MM_PER_INCH = 25.4


def flattened(source: Source) -> Source:
    """The flattened picture as a PNG file. Raises: as `open_drawing` and `flatten`."""
    path = kept_form(source, ".png", partial(_write, source))
    return replace(source, path=path, password="", shown_as=source.name)


def merged_by_its_program(source: Source) -> Source:
    """Return the merged picture that the drawing program stored, else our own. Raises: as
    `flattened`.
    """
    drawing = open_drawing(source)
    if MERGED not in drawing.archive.members:
        return flattened(source)

    def write(path: Path) -> None:
        path.write_bytes(drawing.archive.content(MERGED))

    path = kept_form(source, "-merged.png", write)
    return replace(source, path=path, password="", shown_as=source.name)


def _is_merged_rightly(drawing: Drawing, flat: NDArray[np.uint8]) -> bool:
    """Return whether the stored merged picture matches the layers."""
    try:
        merged = read_layer(drawing, MERGED)
    except UnreadableFileError:
        return False
    if merged.shape != flat.shape:
        return False
    worst, total = 0.0, 0.0
    for row in range(0, len(flat), 256):
        ours, theirs = (_on_white(pixels[row : row + 256]) for pixels in (flat, merged))
        off = np.abs(ours - theirs)
        worst, total = max(worst, float(off.max())), total + float(off.sum())
    return worst <= _MOST_OFF and total / flat[..., :3].size <= _MOST_OFF_ON_AVERAGE


def _on_white(pixels: NDArray[np.uint8]) -> NDArray[np.float32]:
    opacity = pixels[..., 3:].astype(np.float32) / np.float32(255)
    shown: NDArray[np.float32] = pixels[..., :3] * opacity + 255 * (1 - opacity)
    return shown


def _write(source: Source, path: Path) -> None:
    drawing = open_drawing(source)
    flat = flatten(drawing)
    if _is_merged_rightly(drawing, flat):
        path.write_bytes(drawing.archive.content(MERGED))
        return
    _write_png(flat, drawing.dots, path)


def _write_png(flat: NDArray[np.uint8], dots: tuple[int, int] | None, path: Path) -> None:
    import pyvips

    is_opaque = bool((flat[..., 3] == 255).all())
    pixels = np.ascontiguousarray(flat[..., :3]) if is_opaque else flat
    image = pyvips.Image.new_from_array(pixels).copy(interpretation="srgb")
    if dots is not None:
        image = image.copy(xres=dots[0] / _MM_PER_INCH, yres=dots[1] / _MM_PER_INCH)
    partial_path = path.with_suffix(".partial")
    partial_path.write_bytes(image.pngsave_buffer(compression=6, filter="all"))
    partial_path.replace(path)
