"""Job of recoding one picture, with everything that another process needs."""

from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.flate import Effort
from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.treatments import PictureTreatment
from lighten.pictures.coding.coded import Holder
from lighten.pictures.coding.stored import StoredPicture

__all__ = ["Cut", "RecodeJob", "cut_out", "within_cut"]

Cut = tuple[float, float, float, float]
Samples = TypeVar("Samples", np.uint8, np.uint16, np.bool_)


@dataclass(frozen=True, slots=True, kw_only=True)
class RecodeJob:
    """Job for one picture and the soft mask that follows it.

    has_matte: the picture is blended with its mask already, so both must stay in step.
    target_px, mask_target_px: width and height to resample to, or None; of what `cut` leaves.
    replacement: a picture file to take the pixels from instead.
    holder: what the result is to stand in; a file holds opacity within and has no inks but in JPEG.
    shown_px: width and height it is shown at on a screen, of the whole, or None where it is not.
    may_repack: its own coding may be packed tighter where no new one is lighter.
    may_be_jbig2, may_be_layers: what it stands in may hold two tones in JBIG2; or a page as layers.
    skew: how far its lines of text rise, in degrees, where somebody has to know how far
        straightening turns it; or None. is_draft: coded quickly, to learn what it will weigh.
    decoded: its pixels, no fewer than the target's, where somebody has decoded them already.
    words_px: the fewest pixels across that keep its words readable, where that is known; 0 for no
        words. orientation: in which readers show it (Exif 2.32), where its file declares one.
    reference: what its looks are held against, where `decoded` has been made smaller.
    """

    picture: StoredPicture
    mask: StoredPicture | None = None
    has_matte: bool = False
    picture_class: PictureClass
    target_px: tuple[int, int] | None
    mask_target_px: tuple[int, int] | None = None
    treatment: PictureTreatment
    cut: Cut | None = None
    replacement: Path | None = None
    shown_px: tuple[int, int] | None = None
    holder: Holder = Holder.STREAM
    may_repack: bool = False
    may_be_jbig2: bool = False
    may_be_layers: bool = False
    skew: float | None = None
    is_draft: bool = False
    decoded: NDArray[np.uint8] | None = None
    reference: NDArray[np.uint8] | None = None
    words_px: int | None = None
    orientation: int = 1

    @property
    def is_exact(self) -> bool:
        """Return whether only lossless codings may be used."""
        return self.treatment.quality is None or self.treatment.coding is PictureCoding.LOSSLESS

    @property
    def effort(self) -> Effort:
        """Return the effort of lossless coding: the longest where nothing else was asked for."""
        return Effort.BEST if self.is_exact else Effort.BRIEF


def cut_out(job: RecodeJob, pixels: NDArray[Samples]) -> NDArray[Samples]:
    """Cut pixels to `job.cut`, outwards to whole pixels."""
    if job.cut is None:
        return pixels
    height, width = pixels.shape[:2]
    left, top, right, bottom = job.cut
    rows = slice(round(top * height), max(round(top * height) + 1, round(bottom * height)))
    columns = slice(round(left * width), max(round(left * width) + 1, round(right * width)))
    return np.ascontiguousarray(pixels[rows, columns])


def within_cut(target_px: tuple[int, int] | None, cut: Cut | None) -> tuple[int, int] | None:
    """The target of a whole picture, as that of the part that stays."""
    if target_px is None or cut is None:
        return target_px
    left, top, right, bottom = cut
    return (
        max(1, round(target_px[0] * (right - left))),
        max(1, round(target_px[1] * (bottom - top))),
    )
