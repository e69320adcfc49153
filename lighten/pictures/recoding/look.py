"""Classification of a stored picture by its pixels, in a worker."""

from dataclasses import dataclass

from lighten.model.kinds import PictureClass
from lighten.pictures.coding.decode import UNREADABLE, decode, glimpse
from lighten.pictures.coding.encode_exactly import exact_palette
from lighten.pictures.coding.stored import StoredPicture
from lighten.pictures.pixels.classify import classify, classify_alone

__all__ = ["LookJob", "look_at"]


@dataclass(frozen=True, slots=True, kw_only=True)
class LookJob:
    """A picture to be classified.

    is_page: it covers the page it is shown on. is_alone: it is on no page, and may be one itself.
    """

    picture: StoredPicture
    is_page: bool = False
    is_alone: bool = False


def look_at(job: LookJob) -> PictureClass | None:
    """Classify a picture by its pixels; None if they cannot be decoded."""
    try:
        pixels = glimpse(job.picture)
        # Two tones in a part of it are a hint only.
        if (
            not job.picture.is_lossy
            and exact_palette(pixels, most=2) is not None
            and exact_palette(decode(job.picture), most=2) is not None
        ):
            return PictureClass.BITONAL
    except UNREADABLE:
        return None
    if pixels.ndim == 3 and pixels.shape[2] == 4:
        return PictureClass.PHOTO  # inks, whose tones are no light
    return classify_alone(pixels) if job.is_alone else classify(pixels, is_page=job.is_page)
