"""A package through eyes that had no part in writing it: members by Python's zipfile and lxml."""

import io
import zipfile
import zlib
from functools import cached_property
from pathlib import Path
from typing import Any
from xml.parsers import expat

import numpy as np
from numpy.typing import NDArray

from lighten.model.errors import UnreadableFileError

__all__ = ["Sight", "ZipReading", "crop_to", "name_of", "open_zip"]

# Left, top, right and bottom of what is seen of a picture, as shares of its sides.
Sight = tuple[float, float, float, float]
# So near a whole pixel nothing is gained, and so many take long.
_ALIGNED_PX, _MOST_SHIFTED_PX = 0.02, 4_000_000


class ZipReading:
    """Second reading of a ZIP package; kinds of packages add their own features."""

    readers = ("members: Python's zipfile and lxml", "pictures: Pillow")

    def __init__(self, file: zipfile.ZipFile, name: str) -> None:
        self._file, self._name = file, name
        self._trees: dict[str, Any] = {}

    @cached_property
    def members(self) -> frozenset[str]:
        return frozenset(self._file.namelist())

    def content(self, member: str) -> bytes:
        """Return the content of a member. Raises: UnreadableFileError; KeyError."""
        try:
            return self._file.read(member)
        except (zipfile.BadZipFile, ValueError, OSError) as error:
            raise UnreadableFileError(f"{self._name}: {member} cannot be read.") from error

    def tree(self, member: str) -> Any:
        """The root of an XML member. Raises: UnreadableFileError."""
        from lxml import etree

        if member not in self._trees:
            parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
            try:
                self._trees[member] = etree.fromstring(self.content(member), parser)
            except (etree.XMLSyntaxError, KeyError, ValueError) as error:
                raise UnreadableFileError(f"{self._name}: {member} cannot be read.") from error
        return self._trees[member]

    @cached_property
    def malformed(self) -> frozenset[str]:
        """See `MembersReading`."""
        xml = (name for name in self.members if name.endswith((".xml", ".rels")))
        return frozenset(name for name in xml if not self._is_well_formed(name))

    def _is_well_formed(self, member: str) -> bool:
        parser = expat.ParserCreate()
        try:
            with self._file.open(member) as file:
                parser.ParseFile(file)
        except (expat.ExpatError, zipfile.BadZipFile, ValueError, OSError, EOFError, zlib.error):
            return False
        return True

    def mark(self, member: str) -> tuple[int, int]:
        """Return a mark that is equal for members of equal content."""
        entry = self._file.getinfo(member)
        return entry.CRC, entry.file_size


def name_of(element: Any) -> str:
    """Return an element's name without its namespace; "" for comments and instructions."""
    return element.tag.split("}")[-1] if isinstance(element.tag, str) else ""


def crop_to(pixels: NDArray[np.uint8], sight: Sight) -> NDArray[np.uint8]:
    """Return the visible part: (height, width, 3) uint8, at least one pixel in both directions.

    Where its edges lie between pixels, as they do on a screen: a picture that was cut has others
    than its original, and would lie beside it. Of large pictures nobody sees half a pixel.
    """
    if sight == (0.0, 0.0, 1.0, 1.0):
        return pixels
    height, width = pixels.shape[:2]
    left, top = min(sight[0] * width, width - 1), min(sight[1] * height, height - 1)
    right = min(max(sight[2] * width, left + 1), width)
    bottom = min(max(sight[3] * height, top + 1), height)
    across, down = max(1, round(right) - round(left)), max(1, round(bottom) - round(top))
    off_px = max(abs(side - round(side)) for side in (left, top, right, bottom))
    if off_px < _ALIGNED_PX or across * down > _MOST_SHIFTED_PX:
        rows, columns = (slice(round(a), round(a) + n) for a, n in ((top, down), (left, across)))
        return np.ascontiguousarray(pixels[rows, columns])
    from PIL import Image

    whole, box = Image.fromarray(pixels), (left, top, right, bottom)
    return np.asarray(whole.resize((across, down), Image.Resampling.LANCZOS, box=box))


def open_zip(path: Path, name: str) -> zipfile.ZipFile:
    """Open a ZIP archive for reading. Raises: UnreadableFileError."""
    try:
        return zipfile.ZipFile(io.BytesIO(path.read_bytes()))
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise UnreadableFileError(f"{name}: a second reader cannot open it ({error}).") from error
