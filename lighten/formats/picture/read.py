"""A picture file through a reader that had no part in writing it."""

import hashlib
import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.heic import open_heic
from lighten.formats.picture.open_file import PICTURE_ID
from lighten.model.errors import UnreadableFileError
from lighten.model.source import Source
from lighten.pictures.files import kind_of_picture
from lighten.pictures.metadata.carried import as_text, is_prose
from lighten.pictures.metadata.exif import CAPTIONS
from lighten.pictures.metadata.exif_directories import (
    EXIF_POINTER,
    MAKERS_NOTE,
    PLACE_POINTER,
    POINTERS,
)
from lighten.pictures.pixels.colours import through_profile

__all__ = ["PictureReading", "read_picture"]

# The list of pictures in the index of a JPEG of several (CIPA DC-007, 5.2.3.3).
_ENTRIES = 0xB002
_KINDS = ("JPEG", "PNG", "WEBP", "GIF", "BMP")
# What changes with the size of the picture, says where something lies, or goes with a safe extra.
_NOT_PRESERVED = {
    *(0x0100, 0x0101, 0xA002, 0xA003, 0x011A, 0x011B, 0x0128, 0x0112, 0x0213),
    *(0x0201, 0x0202, *POINTERS, MAKERS_NOTE, 0xA000, 0xA001, 0x9000),
}


class PictureReading:
    """Pixels and tags as Pillow reads them, colours through littlecms."""

    readers = ("pixels and descriptions: Pillow", "colours: littlecms")

    def __init__(self, image: Any, name: str, digest: str, heic_pictures: int) -> None:
        """digest: of the whole file. heic_pictures: how many a HEIC holds; 0 for other kinds."""
        self._image, self._name, self._digest = image, name, digest
        self._heic_pictures = heic_pictures

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        exif = self._image.getexif()
        captions: list[str] = []
        camera: list[str] = []
        for directory in (exif, exif.get_ifd(EXIF_POINTER)):
            for tag, value in directory.items():
                if tag not in _NOT_PRESERVED:
                    group = captions if tag in CAPTIONS else camera
                    group.append(f"{tag:#06x} {value!r}")
        place = [f"{tag:#06x} {value!r}" for tag, value in exif.get_ifd(PLACE_POINTER).items()]
        captions += self._texts()
        return {
            "descriptions": tuple(sorted(captions)),
            "camera data": tuple(sorted(camera)),
            "location": tuple(sorted(place)),
            "further pictures": tuple(self._further()),
        }

    def _further(self) -> Iterator[str]:
        """Name each picture besides the first and its thumbnails, by what it holds."""
        entries = (getattr(self._image, "mpinfo", None) or {}).get(_ENTRIES, ())
        kinds = [entry["Attribute"]["MPType"] for entry in entries]
        count = self._heic_pictures or getattr(self._image, "n_frames", 1)
        for number in range(1, count):
            if kinds and kinds[number].startswith("Large Thumbnail"):
                continue
            if self._heic_pictures:
                yield f"{number + 1}"
                continue
            yield f"{number + 1} {self._pixels_of(number)}"
        if count > 1 and not self._heic_pictures:
            self._image.seek(0)

    def _pixels_of(self, number: int) -> str:
        """Return a digest of the pixels of a further picture, or words where it cannot be read."""
        try:
            self._image.seek(number)
            return hashlib.sha256(self._image.tobytes()).hexdigest()
        except (OSError, ValueError, EOFError):  # an index that points to nothing
            return "cannot be read"

    def picture(self, part_id: str, least_px: tuple[int, int] | None = None) -> NDArray[np.uint8]:
        """Return the whole picture; see `PicturesReading`."""
        from PIL import Image, ImageOps

        if part_id != PICTURE_ID:
            raise KeyError(part_id)
        try:
            shown = ImageOps.exif_transpose(_as_srgb(self._image))
            if shown.mode in ("RGBA", "LA", "PA") or "transparency" in shown.info:
                seen = Image.new("RGBA", shown.size, "white")
                seen.alpha_composite(shown.convert("RGBA"))
                shown = seen
            return np.asarray(shown.convert("RGB"))
        except (OSError, ValueError, SyntaxError, EOFError) as error:
            raise UnreadableFileError(f"{self._name}: cannot be drawn ({error}).") from error

    def fingerprint(self, part_id: str) -> str:
        """See `PicturesReading`."""
        if part_id != PICTURE_ID:
            raise KeyError(part_id)
        return self._digest

    def _texts(self) -> list[str]:
        """Return the captions that people wrote, equal in every kind of file."""
        if self._image.format == "JPEG":
            segments = self._image.applist
            return [as_text(content) for name, content in segments if name == "COM"]
        if self._image.format == "GIF":
            comment = self._image.info.get("comment")
            return [as_text(comment)] if comment else []
        texts = getattr(self._image, "text", {}) or {}
        return [
            str(text) if key == "Comment" else f"{key}: {text}"
            for key, text in texts.items()
            if is_prose(key)
        ]


@contextmanager
def read_picture(source: Source) -> Iterator[PictureReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    import warnings

    from PIL import Image, UnidentifiedImageError

    content = source.path.read_bytes()

    try:
        with warnings.catch_warnings():
            # How many pixels are too many was decided when it was weighed.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image, heic_pictures = _opened(content)
            image.load()
    except (OSError, UnidentifiedImageError, ValueError, SyntaxError, EOFError) as error:
        raise UnreadableFileError(
            f"{source.name}: a second reader cannot open it ({error})."
        ) from error
    with image:
        digest = hashlib.sha256(content).hexdigest()
        yield PictureReading(image, source.name, digest, heic_pictures)


def _opened(content: bytes) -> tuple[Any, int]:
    """Return the first picture, and of a HEIC how many there are."""
    from PIL import Image

    if kind_of_picture(content[:32]) == "heic":
        opened = open_heic(content)
        return opened.to_pillow(), len(opened)
    return Image.open(io.BytesIO(content), formats=_KINDS), 0


def _as_srgb(image: Any) -> Any:
    """The picture through its own profile; deep greys by their upper 8 bits."""
    from PIL import Image

    if image.mode.startswith("I"):
        image = Image.fromarray((np.asarray(image) >> 8).astype(np.uint8))
    profile = image.info.get("icc_profile")
    if not profile or image.mode not in ("L", "RGB", "CMYK"):
        return image
    try:
        shown = Image.fromarray(through_profile(np.asarray(image), profile))
    except ValueError:
        return image  # as readers show what has a profile they cannot use
    if "exif" in image.info:
        shown.info["exif"] = image.info["exif"]
    return shown
