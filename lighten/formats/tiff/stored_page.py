"""The picture of a page for the engine, and what a page of a TIFF is made of."""

from lighten.formats.tiff import tags
from lighten.formats.tiff.directories import Directory, TiffFile
from lighten.formats.tiff.page import Compression, Photometric, TiffPage
from lighten.formats.tiff.write import Field, PageToWrite, write_tiff
from lighten.pictures.coding.stored import StoredCoding, StoredPicture

__all__ = ["as_written", "copied", "fields_of", "jpeg_of", "stored_page"]

_ROOM_BYTES = 100_000
# Lists of unused places in the file.
_OF_THE_FILE = {288, 289}
_PLACES = {tags.STRIP_OFFSETS, tags.STRIP_BYTES, tags.TILE_OFFSETS, tags.TILE_BYTES}
# Says whether three samples are RGB or YCbCr; last its number: 0 or 1 (ITU-T T.872, 6.5.3).
_COLOUR_MARK = b"\xff\xee\x00\x0eAdobe\x00\x64\x00\x00\x00\x00"
_RGB, _YCBCR = b"\x00", b"\x01"


def stored_page(file: TiffFile, page: TiffPage) -> StoredPicture:
    """Return the picture to decode: a JPEG as such, anything else as a TIFF of this page alone.

    Raises: OSError where it cannot be put together.
    """
    jpeg = jpeg_of(file, page)
    coding = StoredCoding.LOSSY_TIFF if page.is_lossy else StoredCoding.TIFF
    is_colour = page.photometric in (Photometric.PALETTE, Photometric.YCBCR)
    return StoredPicture(
        data=jpeg or as_written(file, page),
        weight=sum(length for _, length in page.chunks),
        coding=StoredCoding.JPEG if jpeg else coding,
        width_px=page.width_px,
        height_px=page.height_px,
        bits=max(8, page.bits),
        colours=3 if is_colour else page.colours + page.extra_samples,
        has_own_colours=bool(page.profile),
        is_foreign=page.photometric == Photometric.INKS,
        profile=page.profile,
    )


def as_written(file: TiffFile, page: TiffPage) -> bytes:
    """Return the page as a file of its own, with the tags of its pixels only."""
    import io

    out = io.BytesIO()
    fields = fields_of(file, page.directory, kept=tags.OF_PIXELS)
    whole = PageToWrite(fields=fields, chunks=_chunks(file, page), is_tiled=page.is_tiled)
    write_tiff([whole], out, order=file.order, most_bytes=_ROOM_BYTES)
    return out.getvalue()


def jpeg_of(file: TiffFile, page: TiffPage) -> bytes:
    """Return the JPEG of a page with one strip; b"" for others.

    Source: Technical Note 2 to TIFF 6.0: tables that strips share stand under a tag of their own.
    """
    if page.compression != Compression.JPEG or len(page.chunks) != 1 or page.is_tiled:
        return b""
    ((offset, length),) = page.chunks
    strip = file.data[offset : offset + length]
    shared = page.directory.entries.get(tags.JPEG_TABLES)
    tables = file.raw(shared)[2:-2] if shared is not None else b""
    mark = b""
    if page.colours == 3:
        mark = _COLOUR_MARK + (_YCBCR if page.photometric == Photometric.YCBCR else _RGB)
    return strip[:2] + mark + tables + strip[2:]


def fields_of(
    file: TiffFile, directory: Directory, *, kept: frozenset[int] | None = None
) -> dict[int, Field]:
    """Return the fields of a directory without offsets. kept: only these."""
    return {
        tag: Field(type=entry.type, data=file.raw(entry))
        for tag, entry in directory.entries.items()
        if tag not in _PLACES | _OF_THE_FILE
        and tag not in directory.below
        and (kept is None or tag in kept)
    }


def copied(file: TiffFile, directory: Directory, dropped: frozenset[int]) -> PageToWrite:
    """A directory with its pixels and all below it, without some tags."""
    is_tiled = tags.TILE_OFFSETS in directory.entries
    offsets = file.numbers(directory, tags.TILE_OFFSETS if is_tiled else tags.STRIP_OFFSETS)
    lengths = file.numbers(directory, tags.TILE_BYTES if is_tiled else tags.STRIP_BYTES)
    fields = fields_of(file, directory)
    return PageToWrite(
        fields={tag: value for tag, value in fields.items() if tag not in dropped},
        chunks=[
            file.data[offset : offset + length]
            for offset, length in zip(offsets, lengths, strict=False)
        ],
        is_tiled=is_tiled,
        below={
            tag: tuple(copied(file, one, dropped) for one in directories)
            for tag, directories in directory.below.items()
            if tag not in dropped
        },
    )


def _chunks(file: TiffFile, page: TiffPage) -> list[bytes]:
    return [file.data[offset : offset + length] for offset, length in page.chunks]
