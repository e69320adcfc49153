"""Small TIFF files as scanners and programs write them, by Pillow and libtiff."""

import io
import shutil
import subprocess
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from lighten import Source
from lighten.formats.tiff.write import Field, PageToWrite, write_tiff
from tests.builders import landscape, print_of
from tests.core.formats.picture.samples import srgb_profile

__all__ = ["has_tools", "lines", "pages_of", "private_file", "scanned", "variant", "with_preview"]

Pixels = NDArray[np.uint8]
has_tools = unittest.skipUnless(shutil.which("tiffcp"), "libtiff's tools are not installed here")
_BYTES, _LONG = 1, 4


def lines(words: str = "Ring 4711 moulted", seed: int = 1) -> Image.Image:
    """A page of print of two tones."""
    return Image.fromarray(~print_of(words, seed))


def pages_of(path: Path, *images: Image.Image, **options: Any) -> Source:
    """A page for each, as Pillow writes them, with libtiff where it is asked for a coding."""
    first, *others = images
    settings = {"dpi": (150, 150), **options}
    first.save(path, "TIFF", save_all=True, append_images=others, **settings)
    return Source(path=path)


def scanned(path: Path) -> Source:
    """What a scanner leaves: two tones, greys and colours, untidily packed, and words about it."""
    colour = Image.fromarray(landscape(300, 200, 3))
    return pages_of(
        path,
        lines(),
        colour.convert("L"),
        colour,
        compression="packbits",
        description="Log of the north reed bed",
        software="Scan program 2",
        icc_profile=srgb_profile(),
    )


def variant(source: Source, out: Path, *options: str) -> Source:
    """The same pages as libtiff's own `tiffcp` lays them out by its options."""
    command = ["tiffcp", *options, str(source.path), str(out)]
    subprocess.run(command, check=True, capture_output=True)
    return Source(path=out)


def private_file(path: Path, tag: int, value: bytes = b"x" * 40) -> Source:
    """A page with a tag of some program's own."""
    page = _grey_page()
    told = {**page.fields, tag: Field(type=_BYTES, data=value)}
    return _written(path, replace(page, fields=told))


def with_preview(path: Path) -> Source:
    """A page and a smaller version of it, marked as such (TIFF 6.0, section 8: NewSubfileType)."""
    page = _grey_page()
    is_reduced = Field(type=_LONG, data=(1).to_bytes(4, "little"))
    return _written(path, page, replace(page, fields={**page.fields, 254: is_reduced}))


def _written(path: Path, *pages: PageToWrite) -> Source:
    out = io.BytesIO()
    write_tiff(pages, out, most_bytes=0)
    path.write_bytes(out.getvalue())
    return Source(path=path)


def _grey_page() -> PageToWrite:
    """A page of 40 x 30 greys, not compressed, by the numbers of TIFF 6.0, section 4."""
    pixels = np.asarray(Image.fromarray(landscape(40, 30, 1)).convert("L"))
    told = {256: 40, 257: 30, 258: 8, 259: 1, 262: 1, 277: 1, 278: 30}
    fields = {tag: Field(type=3, data=value.to_bytes(2, "little")) for tag, value in told.items()}
    return PageToWrite(fields=fields, chunks=(pixels.tobytes(),))
