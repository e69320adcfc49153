"""A stored picture as a reader shows it, by Pillow: for proofs, so that nothing here wrote it."""

import io
import warnings

import numpy as np
from numpy.typing import NDArray

from lighten.containers.pictures.metafiles import is_metafile, wrapped_bitmap
from lighten.model.errors import UnreadableFileError
from lighten.pictures.pixels.colours import through_profile

__all__ = ["read_pixels"]

_KINDS = ("JPEG", "PNG", "WEBP", "GIF", "BMP", "TIFF")


def read_pixels(
    content: bytes, name: str, least_px: tuple[int, int] | None = None
) -> NDArray[np.uint8]:
    """Decode as stored, without turning, on white where it is transparent, in sRGB.

    least_px: what is enough across and down; a JPEG may then come at a half, a quarter or an
    eighth. Returns (height, width, 3) uint8. Raises: UnreadableFileError.
    """
    from PIL import Image, UnidentifiedImageError

    if is_metafile(content):
        content = wrapped_bitmap(content) or content
    try:
        with warnings.catch_warnings():
            # How many pixels are too many was decided when it was weighed.
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(content), formats=_KINDS) as image:
                if least_px is not None:
                    image.draft(None, least_px)
                image.load()
                return _as_srgb(image)
    except (OSError, UnidentifiedImageError, ValueError, SyntaxError, EOFError) as error:
        raise UnreadableFileError(f"{name} cannot be drawn ({error}).") from error


def _as_srgb(image: "Image.Image") -> NDArray[np.uint8]:  # type: ignore[name-defined] # noqa: F821
    from PIL import Image

    if image.mode.startswith("I"):
        image = Image.fromarray((np.asarray(image) >> 8).astype(np.uint8))
    profile = image.info.get("icc_profile", b"")
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        plain = image.convert("RGBA")
        shown = Image.fromarray(_through(profile, plain.convert("RGB")))
        shown.putalpha(plain.getchannel("A"))
        seen = Image.new("RGBA", image.size, "white")
        seen.alpha_composite(shown)
        return np.asarray(seen.convert("RGB"))
    return _through(profile, image)


def _through(profile: bytes, image: "Image.Image") -> NDArray[np.uint8]:  # type: ignore[name-defined] # noqa: F821
    if profile and image.mode in ("L", "RGB", "CMYK"):
        try:
            return through_profile(np.asarray(image), profile)
        except ValueError:
            pass  # as readers show what has a profile they cannot use
    return np.asarray(image if image.mode == "RGB" else image.convert("RGB"))
