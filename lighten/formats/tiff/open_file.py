"""Opening a TIFF file: what may go wrong, what must be known before anything else."""

import mmap
from collections.abc import Iterator
from contextlib import contextmanager

from lighten.formats.tiff import tags
from lighten.formats.tiff.directories import TiffFile, read_directories
from lighten.model.errors import UnreadableFileError
from lighten.model.source import Source

__all__ = ["open_tiff"]


@contextmanager
def open_tiff(source: Source) -> Iterator[TiffFile]:
    """Read the directories of a TIFF over bytes that are loaded when needed.

    Raises: UnreadableFileError if damaged or cut short; LimitExceededError.
    """
    try:
        with (
            source.path.open("rb") as opened,
            mmap.mmap(opened.fileno(), 0, access=mmap.ACCESS_READ) as data,
        ):
            file = read_directories(data, source.name)
            _check_complete(file, source.name)
            yield file
    except OSError as error:
        reason = error.strerror or "it cannot be opened"
        raise UnreadableFileError(f"{source.name}: {reason}.") from error


def _check_complete(file: TiffFile, name: str) -> None:
    for number, directory in enumerate(file.pages, start=1):
        for offsets, lengths in (
            (tags.STRIP_OFFSETS, tags.STRIP_BYTES),
            (tags.TILE_OFFSETS, tags.TILE_BYTES),
        ):
            starts, sizes = file.numbers(directory, offsets), file.numbers(directory, lengths)
            if any(
                start + size > file.size_bytes for start, size in zip(starts, sizes, strict=False)
            ):
                raise UnreadableFileError(
                    f"{name}: is cut short: pixels of page {number} are missing. Fetch or save it "
                    "again, and try that file."
                )
