"""The pictures of a file, each as what a page is made of."""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from lighten.formats.ora import layered_drawings
from lighten.formats.picture import FORMAT as PICTURE
from lighten.formats.picture.open_file import open_picture
from lighten.formats.picture.weigh import scanned_pt, shown_pt
from lighten.formats.tiff import FORMAT as TIFF
from lighten.formats.tiff import tags
from lighten.formats.tiff.directories import TiffFile
from lighten.formats.tiff.open_file import open_tiff
from lighten.formats.tiff.page import Compression, Photometric, TiffPage, pages_of
from lighten.formats.tiff.stored_page import jpeg_of, stored_page
from lighten.formats.tiff.weigh import assumed_pt, taken_at
from lighten.model.errors import UnreadableFileError
from lighten.model.source import Source
from lighten.pictures.coding.coded import CodedPicture, Coding
from lighten.pictures.coding.stored import StoredPicture
from lighten.pictures.files import coded_for_pdf, obstacle_of, stored_picture
from lighten.pictures.metadata.carried import exif_of
from lighten.pictures.metadata.exif import exif_orientation, exif_time

__all__ = ["LoosePicture", "loose_pictures"]

_LAYERED = layered_drawings(PICTURE)
# Four inks are stored as their lack where this marker stands (APP14; common practice, no source).
_ADOBE, _HEAD_BYTES = b"\xff\xee\x00\x0eAdobe", 4096
_BITS_FROM_THE_RIGHT = 2
_DEFLATE = (Compression.DEFLATE, Compression.OLD_DEFLATE)
# What each colour of a palette takes of a TIFF's, which has 16 bits.
_UPPER_8 = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class LoosePicture:
    """One picture of a file. name: of it, for messages.

    coded: in a coding that a PDF can hold as it is; None where there is none. is_inverted: its
    samples say how dark it is. shown_pt, scanned_pt: width and height that it is taken to be shown
    at, and that it was scanned from. was_lossy: its coding threw something away. orientation: 1 to
    8, see `lighten.pictures.pixels.upright`. taken_at: see `WeightSheet`.
    """

    name: str
    stored: StoredPicture
    coded: CodedPicture | None
    is_inverted: bool
    shown_pt: tuple[float, float]
    scanned_pt: tuple[float, float]
    orientation: int
    is_deep: bool
    was_lossy: bool
    taken_at: str


def loose_pictures(source: Source) -> Iterator[LoosePicture]:
    """Return the picture of a file, one for each page of a TIFF, or a flattened drawing.

    Raises: UnreadableFileError, LimitExceededError.
    """
    is_tiff = False
    with suppress(OSError):  # reported when it is opened below
        if _LAYERED.recognises(source):
            source = _LAYERED.convert(source)
        is_tiff = TIFF.recognises(source)
    if is_tiff:
        with open_tiff(source) as file:
            pages = pages_of(file)
            for page in pages:
                name = source.name if len(pages) == 1 else f"{source.name}, page {page.number}"
                yield _of_page(file, page, name)
    else:
        yield _of_picture(source)


def _of_picture(source: Source) -> LoosePicture:
    file = open_picture(source)
    if obstacle := obstacle_of(file):
        raise UnreadableFileError(
            f"{source.name}: cannot be put on a page: {obstacle}. Save it as a still PNG or JPEG, "
            "and try that file."
        )
    coded = coded_for_pdf(file)
    return LoosePicture(
        name=source.name,
        stored=stored_picture(file),
        coded=coded,
        is_inverted=coded is not None and file.colours == 4 and _ADOBE in coded.data[:_HEAD_BYTES],
        shown_pt=shown_pt(file),
        scanned_pt=scanned_pt(file),
        orientation=exif_orientation(exif_of(file)),
        is_deep=file.bits > 8,
        was_lossy=file.is_lossy,
        taken_at=exif_time(exif_of(file)),
    )


def _of_page(file: TiffFile, page: TiffPage, name: str) -> LoosePicture:
    if page.obstacle:
        raise UnreadableFileError(
            f"{name}: cannot be put on a page: {page.obstacle}. Export it as a PNG or a plain TIFF "
            "of 8 bits, and try that file."
        )
    coded = _coded(file, page)
    own_pt = page.own_pt or assumed_pt(page)
    return LoosePicture(
        name=name,
        stored=replace(
            stored_page(file, page),
            colours=3 if page.has_palette else page.colours,
            has_opacity=page.extra_samples > 0,
        ),
        coded=coded,
        is_inverted=coded is not None and _is_dark_high(page) != (coded.coding is Coding.GROUP_4),
        shown_pt=own_pt,
        scanned_pt=own_pt,
        orientation=page.orientation,
        is_deep=page.bits > 8,
        was_lossy=page.is_lossy,
        taken_at=taken_at(file, page.directory),
    )


def _is_dark_high(page: TiffPage) -> bool:
    return page.photometric == Photometric.WHITE_IS_ZERO


def _coded(file: TiffFile, page: TiffPage) -> CodedPicture | None:
    """The page's own bytes, where a PDF reads them as they are: Group 4, JPEG, Deflate."""
    if jpeg := jpeg_of(file, page):
        return _as_coded(page, Coding.JPEG, jpeg)
    is_plain = not (page.is_tiled or page.is_planar or page.extra_samples)
    if len(page.chunks) != 1 or not is_plain or page.bits > 8:
        return None
    ((offset, length),) = page.chunks
    data = file.data[offset : offset + length]
    if page.compression == Compression.GROUP_4 and page.bits == 1:
        if file.number(page.directory, tags.FILL_ORDER, 1) == _BITS_FROM_THE_RIGHT:
            bits = np.unpackbits(np.frombuffer(data, np.uint8), bitorder="little")
            data = np.packbits(bits).tobytes()
        return _as_coded(page, Coding.GROUP_4, data)
    is_declared = page.predictor == 1 or (page.predictor == 2 and page.bits == 8)
    if page.compression in _DEFLATE and is_declared:
        palette = _palette(file, page) if page.has_palette else None
        coded = _as_coded(page, Coding.FLATE, data)
        return replace(coded, palette=palette, colours=3) if palette else coded
    return None


def _as_coded(page: TiffPage, coding: Coding, data: bytes) -> CodedPicture:
    return CodedPicture(
        coding=coding,
        data=data,
        width_px=page.width_px,
        height_px=page.height_px,
        colours=page.colours,
        bits=page.bits,
        predictor=page.predictor if coding is Coding.FLATE else 1,
    )


def _palette(file: TiffFile, page: TiffPage) -> bytes:
    """Return palette entries in turn; a TIFF has all reds first (TIFF 6.0, section 5)."""
    colours = np.array(file.numbers(page.directory, tags.COLOUR_MAP), np.uint16)
    return (colours >> _UPPER_8).astype(np.uint8).reshape(3, -1).T.tobytes()
