"""Fewer colours: grey, two tones, small palettes."""

import io
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from lighten.model.treatments import ColourChange, PictureTreatment
from lighten.pictures.pixels.bitonal import divide

__all__ = ["as_rgb", "change_colours", "is_srgb", "plain_inks", "through_profile", "to_grey"]

# Of 255; what rounding in tables does to some darks.
_UNSEEN_STEP = 2
_PALETTE_SIZES = {ColourChange.COLOURS_256: 256, ColourChange.COLOURS_16: 16}


def change_colours(pixels: NDArray[np.uint8], treatment: PictureTreatment) -> NDArray[np.uint8]:
    """The picture in the colours that are asked for.

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8; the same comes back, two tones
    as grey of 0 and 255.
    """
    match treatment.colour:
        case ColourChange.GREY:
            return to_grey(pixels)
        case ColourChange.BITONAL:
            black = divide(to_grey(pixels), treatment.bitonal_method, threshold=treatment.threshold)
            return np.where(black, 0, 255).astype(np.uint8)
        case ColourChange.COLOURS_256 | ColourChange.COLOURS_16:
            return _in_few(pixels, _PALETTE_SIZES[treatment.colour])
        case _:
            return pixels


def as_rgb(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return grey as three equal channels, and colours unchanged."""
    return np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels


def to_grey(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Convert sRGB to luma by ITU-R BT.601, rounded: (height, width) uint8."""
    from PIL import Image

    if pixels.ndim == 2:
        return pixels
    return np.asarray(Image.fromarray(pixels).convert("L"))


def through_profile(pixels: NDArray[np.uint8], profile: bytes) -> NDArray[np.uint8]:
    """Convert colours by their own profile to sRGB: (height, width, 3) uint8.

    pixels: (height, width) grey, (height, width, 3) or 4 inks, 255 full ink; uint8. Relative
    colorimetric with the black point kept, as readers show it.
    Raises: ValueError if the profile cannot be used.
    """
    from PIL import Image, ImageCms

    is_inks = pixels.ndim == 3 and pixels.shape[2] == 4
    image = Image.fromarray(pixels, mode="CMYK") if is_inks else Image.fromarray(pixels)
    try:
        shown = ImageCms.profileToProfile(
            image,
            ImageCms.ImageCmsProfile(io.BytesIO(profile)),
            ImageCms.createProfile("sRGB"),
            renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
            outputMode="RGB",
            flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
        )
    except (ImageCms.PyCMSError, OSError) as error:
        raise ValueError("its colour profile cannot be used") from error
    assert shown is not None
    return np.asarray(shown)


@lru_cache(maxsize=64)
def is_srgb(profile: bytes) -> bool:
    """Return whether a profile is sRGB to within invisible steps."""
    steps = np.linspace(0, 255, 9).astype(np.uint8)
    colours = np.stack(np.meshgrid(steps, steps, steps), axis=-1).reshape(27, 27, 3)
    try:
        shown = through_profile(colours, profile)
    except ValueError:
        return False
    moved = np.abs(shown.astype(np.int16) - colours)
    return shown.shape == colours.shape and int(moved.max()) <= _UNSEEN_STEP


def plain_inks(inks: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Convert uncalibrated CMYK to RGB, approximately: (height, width, 3) uint8.

    inks: (height, width, 4) uint8, 255 is full ink. Source: ISO 32000-1, 10.3.5.
    Raises: ValueError for other than four inks.
    """
    if inks.ndim != 3 or inks.shape[2] != 4:
        raise ValueError("its colours cannot be shown")
    paper = 255 - inks.astype(np.uint16)
    return np.asarray(paper[..., :3] * paper[..., 3:] // 255, np.uint8)


def _in_few(pixels: NDArray[np.uint8], count: int) -> NDArray[np.uint8]:
    """Reduce the picture to its best colours, without dithering."""
    from PIL import Image

    image = Image.fromarray(pixels).convert("RGB")
    method = Image.Quantize.MEDIANCUT
    few = image.quantize(count, method=method, kmeans=2, dither=Image.Dither.NONE).convert("RGB")
    return to_grey(np.asarray(few)) if pixels.ndim == 2 else np.asarray(few)
