"""Preloading of everything that workers need, in the process that they are forked from.

`python -m lighten.worker_start` after an installation compiles it before anybody waits for it.
"""

import deflate
import numpy as np
import pikepdf
import PIL.Image
import pypdfium2
import pyvips

from lighten.codecs.jbig2 import encode_jbig2
from lighten.codecs.row_filters import filtered_rows
from lighten.formats.pdf import edit, read, weigh
from lighten.formats.pdf.fonts.type1 import FILE_KEY, decrypted
from lighten.model.preset_json import preset_from_json, preset_to_json
from lighten.model.presets import preset_named
from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.pixels.planes import as_rgb, luma
from lighten.pictures.recoding.recode_all import recode_all
from lighten.pictures.scans.split_page import PictureFineness, split_page
from lighten.pictures.scores.likeness import compare
from lighten.pictures.scores.visible_loss import Judge
from lighten.proving.pages import compare_pages

__all__ = [
    "compare_pages",
    "deflate",
    "edit",
    "pikepdf",
    "pypdfium2",
    "pyvips",
    "read",
    "recode_all",
    "weigh",
]

PIL.Image.preinit()
preset_from_json(preset_to_json(preset_named("post")))

# Lines across it, so that every step of the search runs.
_SAMPLE = np.full((64, 64, 3), 240, np.uint8)
_SAMPLE[8::9] = 20
Judge([_SAMPLE]).score([_SAMPLE])
find_faults(_SAMPLE, _SAMPLE // 2 + 100, ppi=100)
compare(_SAMPLE, _SAMPLE)
filtered_rows(_SAMPLE[..., 0], 1)
encode_jbig2(np.tile(np.kron(np.eye(4), np.ones((4, 4))), (9, 9)) > 0)
as_rgb(_SAMPLE)
luma(_SAMPLE)
decrypted(b"sample", FILE_KEY)


def compile_layers() -> None:
    """Compile the separation of pages into layers. Not on import: pyvips starts threads for it, and
    a process that is forked from one that has them waits for them forever.
    """
    page = np.tile(_SAMPLE, (3, 3, 1))
    for pixels in (page, np.ascontiguousarray(page[..., 0])):
        split_page(pixels, 100, PictureFineness(ppi=100, quality=75), may_be_jbig2=True)


if __name__ == "__main__":
    compile_layers()
