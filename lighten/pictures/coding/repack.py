"""Lossless repacking of a picture in its own coding."""

from lighten.codecs.jpeg import repack_jpeg
from lighten.codecs.png import repack_png
from lighten.pictures.coding.coded import CodedPicture, Coding
from lighten.pictures.coding.stored import StoredCoding, StoredPicture

__all__ = ["repack"]


def repack(
    stored: StoredPicture, *, is_brief: bool = False, is_draft: bool = False
) -> CodedPicture | None:
    """Repack a picture with equal coefficients or samples; None if its coding has no such way.

    is_brief: after a short search; is_draft: quickly, to learn what it will weigh.
    Raises: ValueError or OSError if its bytes do not hold what they promise.
    """
    if stored.coding is StoredCoding.JPEG:
        data, coding = repack_jpeg(stored.data), Coding.JPEG
    elif stored.coding is StoredCoding.PNG:
        pixels = stored.width_px * stored.height_px
        data = repack_png(stored.data, pixels=pixels, is_brief=is_brief, is_draft=is_draft)
        coding = Coding.PNG
    else:
        return None
    return CodedPicture(
        coding=coding,
        data=data,
        width_px=stored.width_px,
        height_px=stored.height_px,
        colours=stored.colours,
        bits=stored.bits,
    )
