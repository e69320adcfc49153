"""The poster of an open day as a drawing program leaves it: layers, one of them hidden."""

import io
import zipfile
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

from demo.scenery import camera_photo

__all__ = ["make_poster"]

_SIZE = (1500, 2100)
_STACK = (
    '<?xml version="1.0" encoding="UTF-8"?><image version="0.0.5" w="1500" h="2100" xres="150" '
    'yres="150"><stack><layer name="First sketch" src="data/layer0.png" visibility="hidden"/>'
    '<layer name="Words" src="data/layer1.png"/>'
    '<layer name="Shade behind the words" src="data/layer2.png" opacity="0.7"/>'
    '<layer name="Reed bed" src="data/layer3.png"/></stack></image>'
)
_WORDS = (
    ("Open day", 190, 300),
    ("at Harrow Fen", 110, 520),
    ("14 September, from 10 to 4", 74, 1820),
)


def make_poster(path: Path) -> None:
    scene = Image.fromarray(camera_photo(*_SIZE, seed=91)).convert("RGBA")
    shade = Image.new("RGBA", _SIZE, (12, 40, 28, 0))
    shade.putalpha(_words(255).getchannel("A").filter(ImageFilter.GaussianBlur(26)))
    words = _words(255)
    sketch = Image.fromarray(np.asarray(_words(90)).copy()).rotate(3, fillcolor=(0, 0, 0, 0))
    merged = scene.copy()
    faint = shade.copy()
    faint.putalpha(shade.getchannel("A").point([round(level * 0.7) for level in range(256)]))
    for layer in (faint, words):
        merged.alpha_composite(layer)
    members = {f"data/layer{at}.png": one for at, one in enumerate((sketch, words, shade, scene))}
    thumbnail = merged.copy()
    thumbnail.thumbnail((256, 256))
    with zipfile.ZipFile(path, "w") as file:
        _put(file, "mimetype", b"image/openraster", zipfile.ZIP_STORED)
        _put(file, "stack.xml", _STACK.encode(), zipfile.ZIP_DEFLATED)
        for name, image in {
            **members,
            "mergedimage.png": merged,
            "Thumbnails/thumbnail.png": thumbnail,
        }.items():
            coded = io.BytesIO()
            image.save(coded, "PNG", compress_level=1)
            _put(file, name, coded.getvalue(), zipfile.ZIP_STORED)


def _words(opacity: int) -> Image.Image:
    layer = Image.new("RGBA", _SIZE, (250, 246, 232, 0))
    pen = ImageDraw.Draw(layer)
    for words, size, top in _WORDS:
        font = ImageFont.load_default(size)
        pen.text((_SIZE[0] / 2, top), words, (250, 246, 232, opacity), font, anchor="mm")
    return layer


def _put(file: zipfile.ZipFile, name: str, content: bytes, method: int) -> None:
    """Without the hour, so that it is the same every time."""
    file.writestr(zipfile.ZipInfo(name), content, method)
