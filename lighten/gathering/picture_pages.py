"""Pages of a PDF that show one picture each."""

from dataclasses import dataclass, replace
from pathlib import Path

import pikepdf

from lighten.codecs.flate import Effort
from lighten.formats.pdf.pictures.put_pictures import new_picture
from lighten.gathering.loose_pictures import LoosePicture
from lighten.gathering.page_sizes import PageSize, placed_on, sheet_pt
from lighten.gathering.turns import UPRIGHT, Turn, is_on_its_side, turned
from lighten.model.errors import UnreadableFileError
from lighten.pictures.coding.coded import CodedPicture
from lighten.pictures.coding.decode import UNREADABLE, decode, decode_on_white, decode_opacity
from lighten.pictures.coding.encode import encode_as_jpeg
from lighten.pictures.coding.encode_exactly import encode_exactly
from lighten.pictures.coding.stored import StoredCoding, StoredPicture
from lighten.pictures.pixels.page_corners import Corners, find_page_corners, flattened_page
from lighten.pictures.pixels.upright import upright

__all__ = ["PageTurn", "PicturePages"]

_OPAQUE = 255
# Hardly distinguishable from its source at any size (common practice, no source).
_FINE_QUALITY = 95


@dataclass(frozen=True, slots=True, kw_only=True)
class PageTurn:
    """Treatment of a picture on its way to a page. degrees: further, clockwise.

    corners: of the sheet in it that is to be the page, if only that. finds_sheet: it is looked for.
    """

    degrees: int = 0
    corners: Corners | None = None
    finds_sheet: bool = False


class PicturePages:
    """A document that grows by pages."""

    def __init__(self, page: PageSize) -> None:
        self._pdf, self._page = pikepdf.new(), page

    def __len__(self) -> int:
        return len(self._pdf.pages)

    def add(self, picture: LoosePicture, look: PageTurn) -> str:
        """Add a page for a picture; return a remark for people or "".

        Raises: UnreadableFileError; ValueError but for right angles and corners of a sheet.
        """
        try:
            picture, remark = _flattened(picture, look)
            stream, more = _stream(self._pdf, picture)
        except UNREADABLE as error:
            raise UnreadableFileError(
                f"{picture.name}: its pixels cannot be read. Fetch or save it again, and try that "
                "file."
            ) from error
        turn = turned(UPRIGHT[picture.orientation], look.degrees)
        self._show(stream, picture, turn)
        return remark or more

    def save(self, out: Path) -> None:
        self._pdf.save(out, object_stream_mode=pikepdf.ObjectStreamMode.generate)

    def _show(self, stream: pikepdf.Stream, picture: LoosePicture, turn: Turn) -> None:
        size_px = picture.stored.width_px, picture.stored.height_px
        is_scanned = self._page is PageSize.SCANNED
        own_pt = picture.scanned_pt if is_scanned else picture.shown_pt
        if is_on_its_side(turn):
            size_px, own_pt = (size_px[1], size_px[0]), (own_pt[1], own_pt[0])
        placed = placed_on(self._page, own_pt, size_px)
        left, low, right, high = placed.box_pt
        drawing = (
            f"q {right - left:.4f} 0 0 {high - low:.4f} {left:.4f} {low:.4f} cm "
            f"{' '.join(map(str, turn))} cm /P Do Q"
        )
        page = self._pdf.add_blank_page(page_size=placed.page_pt)
        page.obj.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=stream))
        page.obj.Contents = self._pdf.make_stream(drawing.encode())


def _flattened(picture: LoosePicture, look: PageTurn) -> tuple[LoosePicture, str]:
    """Return the sheet alone where one was photographed, and a remark. Raises: as `decode`."""
    if look.corners is None and not look.finds_sheet:
        return picture, ""
    pixels = upright(decode_on_white(picture.stored), picture.orientation)
    if pixels.ndim == 3 and pixels.shape[2] == 4:
        return picture, ""
    corners = look.corners or find_page_corners(pixels)
    if corners is None:
        return picture, ""
    flat = flattened_page(pixels, corners)
    height, width = flat.shape[:2]
    # As large as it was in the photo, unless it has the shape of what offices use.
    points_per_px = picture.shown_pt[0] / picture.stored.width_px
    own_pt = sheet_pt((width, height)) or (width * points_per_px, height * points_per_px)
    stored = StoredPicture(
        data=flat.tobytes(),
        weight=picture.stored.weight,
        coding=StoredCoding.RAW,
        width_px=width,
        height_px=height,
        bits=8,
        colours=1 if flat.ndim == 2 else 3,
        profile=picture.stored.profile,
    )
    page = replace(
        picture,
        stored=stored,
        coded=None,
        shown_pt=own_pt,
        scanned_pt=own_pt,
        orientation=1,
    )
    return page, "straightened to the sheet of paper in it"


def _stream(pdf: pikepdf.Pdf, picture: LoosePicture) -> tuple[pikepdf.Stream, str]:
    """Return the picture as a PDF object, and a remark for people or ""."""
    stored, coded = picture.stored, picture.coded
    if coded is not None:
        # Its bytes go in unchanged. Reading it small reads all of them, and so reports damage now.
        decode(stored, at_least=(1, 1))
        shown = new_picture(pdf, coded, profile=stored.profile, is_inverted=picture.is_inverted)
        return shown, ""
    pixels = decode(stored)
    opacity = decode_opacity(stored) if stored.has_opacity else None
    mask: CodedPicture | None = None
    if opacity is not None and opacity.min() < _OPAQUE:
        # A mask is plain grey, without a palette (ISO 32000-1, 11.6.5.3).
        mask = encode_exactly(opacity, may_have_palette=False, effort=Effort.BRIEF)
    remark = "16 bits a colour became 8, as many as screens show" if picture.is_deep else ""
    if picture.was_lossy:
        coded = encode_as_jpeg(pixels, quality=_FINE_QUALITY, floor=0.0, has_edges=True)
        remark = "became a fine JPEG, as no PDF can hold it as it is"
    else:
        coded = encode_exactly(pixels, may_be_jbig2=True, effort=Effort.BRIEF)
    return new_picture(pdf, coded, profile=stored.profile, mask=mask), remark
