"""A picture file read, by what it begins with."""

from collections.abc import Callable

from lighten.pictures.coding.coded import CodedPicture, Coding
from lighten.pictures.coding.stored import StoredCoding, StoredPicture
from lighten.pictures.files.blocks import PictureFile, Role
from lighten.pictures.files.gif_and_bmp import read_bmp, read_gif
from lighten.pictures.files.heic import is_heic, read_heic
from lighten.pictures.files.jpeg import read_jpeg
from lighten.pictures.files.png import MARK, read_png
from lighten.pictures.files.webp import read_webp

__all__ = [
    "coded_as_stored",
    "coded_for_pdf",
    "kind_of_picture",
    "read_picture_file",
    "stored_picture",
]

_READERS: dict[str, Callable[[bytes], PictureFile]] = {
    "jpeg": read_jpeg,
    "png": read_png,
    "webp": read_webp,
    "gif": read_gif,
    "bmp": read_bmp,
    "heic": read_heic,
}
_CODINGS = {"jpeg": Coding.JPEG, "png": Coding.PNG, "webp": Coding.WEBP}
# Each row says its own (ISO 32000-1, table 10).
_PNG_PREDICTOR = 15
# Of headers that a BMP may have after its first 14 bytes.
_BMP_HEADS = (12, 40, 52, 56, 64, 108, 124)


def kind_of_picture(head: bytes) -> str:
    """Return "jpeg", "png", "webp", "gif", "bmp" or "heic" by the first 32 bytes; "" for others."""
    if head.startswith(b"\xff\xd8\xff"):
        return "jpeg"
    if head.startswith(MARK):
        return "png"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "webp"
    if head[:6] in (b"GIF87a", b"GIF89a"):
        return "gif"
    if is_heic(head):
        return "heic"
    is_bmp = head[:2] == b"BM" and int.from_bytes(head[14:18], "little") in _BMP_HEADS
    return "bmp" if is_bmp else ""


def read_picture_file(data: bytes) -> PictureFile:
    """Read the blocks and facts of a file. Raises: BadPictureError if damaged or cut short;
    KeyError.
    """
    return _READERS[kind_of_picture(data[:32])](data)


def stored_picture(file: PictureFile) -> StoredPicture:
    """Return the picture for the engine, without metadata."""
    is_inks = file.kind == "jpeg" and file.colours == 4
    return StoredPicture(
        data=_picture_alone(file),
        weight=sum(block.size_bytes for block in file.of_role(Role.PICTURE)),
        coding=_coding(file),
        width_px=file.width_px,
        height_px=file.height_px,
        bits=file.bits,
        colours=file.colours,
        has_own_colours=bool(file.profile),
        is_foreign=is_inks,
        has_inverted_inks=is_inks,
        profile=file.profile,
        has_opacity=file.has_opacity,
    )


def coded_as_stored(file: PictureFile) -> CodedPicture | None:
    """Return the picture in its own coding; None for kinds that are only read here."""
    if file.kind not in _CODINGS:
        return None
    return CodedPicture(
        coding=_CODINGS[file.kind],
        data=_picture_alone(file),
        width_px=file.width_px,
        height_px=file.height_px,
        colours=file.colours,
        bits=file.bits,
    )


def coded_for_pdf(file: PictureFile) -> CodedPicture | None:
    """Return the picture in its own coding, if a PDF can hold that; else None.

    That is JPEG, and PNG but where it is interlaced or see-through: Deflate and predictors are the
    same in both (ISO 32000-1, 7.4.4.4).
    """
    if file.kind == "jpeg":
        return coded_as_stored(file)
    if file.kind != "png" or file.has_opacity or file.is_interlaced:
        return None
    chunks = [(block.name, file.content(block)) for block in file.of_role(Role.PICTURE)]
    palette = next((content for name, content in chunks if name == "PLTE"), None)
    return CodedPicture(
        coding=Coding.FLATE,
        data=b"".join(content for name, content in chunks if name == "IDAT"),
        width_px=file.width_px,
        height_px=file.height_px,
        colours=3 if file.has_palette else file.colours,
        bits=file.bits,
        palette=palette if file.has_palette else None,
        predictor=_PNG_PREDICTOR,
    )


def _picture_alone(file: PictureFile) -> bytes:
    """Return the picture without metadata."""
    if file.kind not in ("jpeg", "png"):
        return file.data
    parts = file.of_role(Role.PICTURE)
    return b"".join(file.data[block.start : block.end] for block in parts)


def _coding(file: PictureFile) -> StoredCoding:
    if file.kind == "jpeg":
        return StoredCoding.JPEG
    if file.kind == "png":
        return StoredCoding.PNG
    if file.kind == "heic":
        return StoredCoding.HEIC
    return StoredCoding.WEBP if file.is_lossy else StoredCoding.BITMAP_FILE
