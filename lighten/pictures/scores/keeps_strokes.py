"""Comparison of lines at fewer pixels with the original's."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.faults.fault import FaultKind
from lighten.pictures.faults.find_faults import MOST_READ_PPI, find_faults
from lighten.pictures.pixels.planes import luma, reduced
from lighten.pictures.pixels.sizes import SCREEN_PPI

__all__ = ["keeps_strokes"]

_INK = (FaultKind.LOST_INK, FaultKind.ADDED_INK)

Pixels = NDArray[np.uint8]


def keeps_strokes(original: Pixels, copy: Pixels, shown_px: tuple[int, int] | None) -> bool:
    """Return whether the proof will find every stroke of a bitonal picture unchanged.

    original, copy: (height, width) of 0 and 255. shown_px: as in `RecodeJob`; nothing is known to
    be lost of what is shown nowhere.
    """
    if shown_px is None or not shown_px[0]:
        return True
    ppi = copy.shape[1] / shown_px[0] * SCREEN_PPI
    # Divided anew, edges lie up to half a pixel beside where they lay.
    share = min(1.0, MOST_READ_PPI / ppi) / 2
    height, width = (max(1, round(side * share)) for side in copy.shape)
    before, after = (
        np.rint(reduced(luma(pixels), height, width)).astype(np.uint8)
        for pixels in (original, copy)
    )
    found = find_faults(before, after, ppi=ppi * share, judges_colour=False, is_drawn=True)
    return not any(fault.kind in _INK for fault in found)
