"""Layered drawings, written member by member as OpenRaster 0.0.5 has them."""

import io
import zipfile
from collections.abc import Mapping
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from lighten import Source
from tests.builders import chart, landscape

__all__ = ["as_png", "drawing", "sketch", "write_ora"]

Pixels = NDArray[np.uint8]


def as_png(pixels: Pixels) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


def write_ora(
    path: Path,
    stack: str,
    members: Mapping[str, bytes],
    *,
    size: tuple[int, int],
    merged: Pixels | None = None,
) -> Source:
    """stack: what stands within the root stack, the uppermost layer first."""
    with zipfile.ZipFile(path, "w") as file:
        file.writestr("mimetype", "image/openraster", zipfile.ZIP_STORED)
        image = (
            f'<?xml version="1.0"?><image version="0.0.5" w="{size[0]}" h="{size[1]}" '
            f'xres="150" yres="150"><stack>{stack}</stack></image>'
        )
        file.writestr("stack.xml", image, zipfile.ZIP_DEFLATED)
        for name, content in members.items():
            file.writestr(name, content)
        if merged is not None:
            file.writestr("mergedimage.png", as_png(merged))
            thumbnail = Image.fromarray(merged)
            thumbnail.thumbnail((256, 256))
            file.writestr("Thumbnails/thumbnail.png", as_png(np.asarray(thumbnail)))
    return Source(path=path)


def sketch(width: int, height: int, seed: int) -> Pixels:
    """Strokes of a soft brush on nothing: (height, width, 4)."""
    random = np.random.default_rng(seed)
    down, across = np.mgrid[:height, :width].astype(np.float32)
    opacity = np.zeros((height, width), np.float32)
    for _ in range(6):
        x, y, reach = random.uniform(0, width), random.uniform(0, height), random.uniform(20, 90)
        far = np.hypot(across - x, down - y)
        opacity = np.maximum(opacity, np.clip(1.4 - far / reach, 0, 1))
    colour = np.broadcast_to(random.integers(0, 256, 3), (height, width, 3))
    return np.dstack([colour, np.rint(opacity * 255)]).astype(np.uint8)


def drawing(
    path: Path, *, merged: Pixels | None = None, size: tuple[int, int] = (480, 320)
) -> Source:
    """A photo below, a chart in a group, strokes, and a sketch that is hidden."""
    width, height = size
    members = {
        "data/paper.png": as_png(landscape(width, height, 3)),
        "data/chart.png": as_png(chart(200, 120, 2)),
        "data/strokes.png": as_png(sketch(width, height, 5)),
        "data/sketch.png": as_png(sketch(width, height, 9)),
        "data/history.bin": bytes(5000),
    }
    stack = (
        '<layer name="Sketch" src="data/sketch.png" visibility="hidden"/>'
        '<layer name="Strokes" src="data/strokes.png" opacity="0.8"/>'
        '<stack name="Figures" opacity="0.9">'
        '<layer name="Chart" src="data/chart.png" x="40" y="30"/></stack>'
        '<layer name="Paper" src="data/paper.png"/>'
    )
    return write_ora(path, stack, members, size=size, merged=merged)
