"""What workers need, loaded and compiled once by the process that they are forked from.

`python -m lighten.worker_start` after an installation compiles it before anybody waits for it.
"""

import numpy as np
import pikepdf
import PIL.Image
import PIL.JpegImagePlugin
import pypdfium2

from lighten.codecs.jbig2 import encode_jbig2
from lighten.codecs.row_filters import filtered_rows
from lighten.formats.pdf import edit, read
from lighten.formats.pdf.fonts.type1 import FILE_KEY, decrypted
from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.likeness import compare
from lighten.pictures.planes import as_rgb, luma
from lighten.pictures.recode_all import recode_all
from lighten.pictures.scans.split_page import PictureFineness, split_page
from lighten.pictures.visible_loss import Judge
from lighten.proving.pages import compare_pages

__all__ = [
    "PIL",
    "compare_pages",
    "edit",
    "pikepdf",
    "pypdfium2",
    "read",
    "recode_all",
]

# Lines across it, so that every step of the search runs.
_SAMPLE = np.full((64, 64, 3), 240, np.uint8)
_SAMPLE[8::9] = 20
Judge([_SAMPLE]).score([_SAMPLE])
find_faults(_SAMPLE, _SAMPLE // 2 + 100, ppi=100)
compare(_SAMPLE, _SAMPLE)
filtered_rows(_SAMPLE[..., 0], 1)
encode_jbig2(np.tile(np.kron(np.eye(4), np.ones((4, 4))), (9, 9)) > 0)
_PAGE = np.tile(_SAMPLE, (3, 3, 1))
for _page in (_PAGE, np.ascontiguousarray(_PAGE[..., 0])):
    split_page(_page, 100, PictureFineness(ppi=100, quality=75), may_be_jbig2=True)
as_rgb(_SAMPLE)
luma(_SAMPLE)
decrypted(b"sample", FILE_KEY)
