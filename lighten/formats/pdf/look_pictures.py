"""What a picture of a PDF is, by its pixels; runs in a worker."""

from dataclasses import dataclass

from lighten.formats.pdf.decode_pictures import UNREADABLE, decode, glimpse
from lighten.formats.pdf.stored_pictures import StoredPicture
from lighten.pictures.classify import classify
from lighten.pictures.encode import exact_palette
from lighten.weights import PictureClass

__all__ = ["LookJob", "look_at"]


@dataclass(frozen=True, slots=True, kw_only=True)
class LookJob:
    """A picture to be told the class of."""

    picture: StoredPicture
    is_page: bool


def look_at(job: LookJob) -> PictureClass | None:
    """The class of a picture by its pixels; None if they cannot be decoded."""
    try:
        pixels = glimpse(job.picture)
        # Two tones in a part of it are a hint only.
        if (
            not job.picture.is_lossy
            and exact_palette(pixels, most=2) is not None
            and exact_palette(decode(job.picture), most=2) is not None
        ):
            return PictureClass.TWO_TONE
    except UNREADABLE:
        return None
    return classify(pixels, is_page=job.is_page)
