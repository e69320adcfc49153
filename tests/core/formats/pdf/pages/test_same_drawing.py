"""Pages that need not be drawn: what has to be equal on them, and what may differ."""

import io
import tempfile
import unittest
import zlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pikepdf
from reportlab.pdfgen.canvas import Canvas

from lighten import Source, Verdict, make_copy, plan, preset_named, prove, weigh
from lighten.formats.pdf.pages.same_drawing import SameDrawing

NAME = pikepdf.Name
PAGES, CHANGED = 12, 6
Change = Callable[[pikepdf.Pdf, pikepdf.Page], None]


def a_document() -> bytes:
    """Pages with text, a picture, a form, a state, a link and a stamp, all shared by name only."""
    data = io.BytesIO()
    canvas = Canvas(data, invariant=1)
    for number in range(PAGES):
        canvas.drawString(90, 700, f"Sheet {number}, north gate")
        canvas.showPage()
    canvas.save()
    with pikepdf.open(io.BytesIO(data.getvalue())) as pdf:
        for page in pdf.pages:
            _furnish(pdf, page)
        out = io.BytesIO()
        pdf.save(out)
    return out.getvalue()


def _furnish(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
    pixels = np.repeat(np.arange(40, dtype=np.uint8) * 6, 30).reshape(40, 30)
    picture = pdf.make_stream(
        pixels.tobytes(),
        Type=NAME.XObject,
        Subtype=NAME.Image,
        Width=30,
        Height=40,
        BitsPerComponent=8,
        ColorSpace=NAME.DeviceGray,
    )
    form = pdf.make_stream(b"0 0 20 20 re f", Subtype=NAME.Form, BBox=[0, 0, 20, 20])
    page.obj.Resources.XObject = pikepdf.Dictionary(P=picture, F=form)
    page.obj.Resources.ExtGState = pikepdf.Dictionary(G=pikepdf.Dictionary(ca=0.5))
    page.contents_add(b"/G gs q 90 0 0 120 90 400 cm /P Do Q /F Do")
    look = pdf.make_stream(b"1 0 0 rg 0 0 9 9 re f", Subtype=NAME.Form, BBox=[0, 0, 9, 9])
    page.obj.Annots = pikepdf.Array(
        [
            pikepdf.Dictionary(Subtype=NAME.Link, Rect=[9, 9, 60, 20], Border=[0, 0, 1]),
            pikepdf.Dictionary(
                Subtype=NAME.Stamp, Rect=[9, 30, 60, 50], AP=pikepdf.Dictionary(N=look), M="D:1"
            ),
        ]
    )


def picture_of(page: pikepdf.Page) -> pikepdf.Stream:
    return page.obj.Resources.XObject.P


def font_of(page: pikepdf.Page) -> pikepdf.Dictionary:
    return next(iter(page.obj.Resources.Font.values()))


def own_resources(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
    font = pdf.make_indirect(pikepdf.Dictionary(dict(font_of(page).items())))
    page.obj.Resources.Font = pikepdf.Dictionary(dict.fromkeys(page.obj.Resources.Font, font))


def _change_font(key: str, value: object) -> Change:
    def change(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
        own_resources(pdf, page)
        font_of(page)[key] = value

    return change


def _replace_contents(old: bytes, new: bytes) -> Change:
    def change(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
        page.contents_coalesce()
        whole = page.obj.Contents.read_bytes()
        assert old in whole
        page.obj.Contents.write(whole.replace(old, new))

    return change


def _hide_layer(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
    pdf.Root.OCProperties = pikepdf.Dictionary(OCGs=[], D=pikepdf.Dictionary())


def _with_palette(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
    picture = picture_of(page)
    levels = np.frombuffer(picture.read_bytes(), np.uint8) // 6
    picture.write(levels.tobytes())
    entries = bytes(level * 6 for level in range(40))
    picture.ColorSpace = pikepdf.Array([NAME.Indexed, NAME.DeviceGray, 39, pikepdf.String(entries)])


def _set(path: Callable[[pikepdf.Page], pikepdf.Object], key: str, value: object) -> Change:
    def change(pdf: pikepdf.Pdf, page: pikepdf.Page) -> None:
        path(page)[key] = value

    return change


def _is_page(page: pikepdf.Page) -> pikepdf.Object:
    return page.obj


DIFFERENCES: dict[str, Change] = {
    "a number in the contents": _replace_contents(b"90 0 0 120", b"90 0 0 121"),
    "another word": _replace_contents(b"north", b"south"),
    "a turned page": _set(_is_page, "/Rotate", 90),
    "a cropped page": _set(_is_page, "/CropBox", pikepdf.Array([0, 0, 500, 700])),
    "a form": lambda pdf, page: page.obj.Resources.XObject.F.write(b"0 0 20 21 re f"),
    "opacity": _set(lambda page: page.obj.Resources.ExtGState.G, "/ca", 0.4),
    "a link's border": _set(lambda page: page.obj.Annots[0], "/Border", pikepdf.Array([0, 0, 3])),
    "a stamp's place": _set(
        lambda page: page.obj.Annots[1], "/Rect", pikepdf.Array([9, 40, 60, 60])
    ),
    "a stamp's looks": lambda pdf, page: page.obj.Annots[1].AP.N.write(b"0 1 0 rg 0 0 9 9 re f"),
    "a stamp that is gone": lambda pdf, page: page.obj.Annots.__delitem__(1),
    "inverted samples": _set(picture_of, "/Decode", pikepdf.Array([1, 0])),
    "a sample": lambda pdf, page: picture_of(page).write(b"\x01" + bytes(30 * 40 - 1)),
    "another colour space": _set(
        picture_of,
        "/ColorSpace",
        pikepdf.Array([NAME.CalGray, pikepdf.Dictionary(WhitePoint=[1, 1, 1], Gamma=2.2)]),
    ),
    "smoothing": _set(picture_of, "/Interpolate", True),
    "a mask": lambda pdf, page: picture_of(page).__setitem__("/Mask", pikepdf.Array([0, 6])),
    "widths of a font": _change_font("/Widths", pikepdf.Array([500])),
    "a font's encoding": _change_font("/Encoding", NAME.MacRomanEncoding),
    "another font": _change_font("/BaseFont", NAME("/Courier")),
}

NO_DIFFERENCES: dict[str, Change] = {
    "packing": lambda pdf, page: picture_of(page).write(
        zlib.compress(picture_of(page).read_bytes(), 1), filter=NAME.FlateDecode
    ),
    "a palette of the same samples": _with_palette,
    "metadata": lambda pdf, page: page.obj.__setitem__("/Metadata", pdf.make_stream(b"<x/>")),
    "private data": _set(_is_page, "/PieceInfo", pikepdf.Dictionary()),
    "a thumbnail": lambda pdf, page: page.obj.__setitem__("/Thumb", pdf.make_stream(b"")),
    "a date": _set(_is_page, "/LastModified", pikepdf.String("D:2026")),
    "places in the structure": _set(_is_page, "/StructParents", 3),
    "a producer's note": _set(picture_of, "/PTEX.PageNumber", 4),
    "a link's target": _set(lambda page: page.obj.Annots[0], "/Dest", pikepdf.String("there")),
    "an annotation's date": _set(lambda page: page.obj.Annots[1], "/M", pikepdf.String("D:2")),
    "the tag of a subset": _change_font("/BaseFont", NAME("/ABCDEF+Helvetica")),
}


_PASSED_OVER = (
    *("/Parent", "/Metadata", "/PieceInfo", "/StructParent", "/StructParents", "/Thumb"),
    *("/LastModified", "/PTEX.FileName", "/PTEX.InfoDict", "/PTEX.PageNumber"),
)
_PASSED_OVER_IN_ANNOTATIONS = (
    *("/P", "/Popup", "/IRT", "/A", "/AA", "/PA", "/Dest", "/NM", "/M", "/Kids"),
)


class Pages(unittest.TestCase):
    def setUp(self) -> None:
        self.original = a_document()

    def equal_pages(self, change: Change) -> dict[int, bool]:
        with (
            pikepdf.open(io.BytesIO(self.original)) as before,
            pikepdf.open(io.BytesIO(self.original)) as copy,
        ):
            change(copy, copy.pages[CHANGED - 1])
            out = io.BytesIO()
            copy.save(out)
            with pikepdf.open(io.BytesIO(out.getvalue())) as after:
                return dict(SameDrawing(before, after).equal_pages(range(1, PAGES + 1)))

    def test_a_difference_on_a_page_is_found_on_that_page_alone(self) -> None:
        others = set(range(1, PAGES + 1)) - {CHANGED}
        for name, change in DIFFERENCES.items():
            with self.subTest(name):
                self.assertEqual(set(self.equal_pages(change)), others)

    def test_packing_and_descriptions_may_differ(self) -> None:
        for name, change in NO_DIFFERENCES.items():
            with self.subTest(name):
                self.assertEqual(set(self.equal_pages(change)), set(range(1, PAGES + 1)))

    def test_each_entry_that_is_passed_over_may_differ(self) -> None:
        value = pikepdf.String("x")
        for where, keys in (
            (picture_of, _PASSED_OVER),
            (lambda page: page.obj.Annots[1], (*_PASSED_OVER, *_PASSED_OVER_IN_ANNOTATIONS)),
        ):
            for key in keys:
                with self.subTest(key):
                    self.assertIn(CHANGED, self.equal_pages(_set(where, key, value)))

    def test_layers_of_the_document_concern_every_page(self) -> None:
        self.assertEqual(self.equal_pages(_hide_layer), {})

    def test_resources_that_lead_back_to_themselves_are_compared_whole(self) -> None:
        """Forms that use the resources of their page: a change in one reaches all others."""
        with pikepdf.open(io.BytesIO(self.original)) as pdf:
            shared = pdf.make_indirect(pikepdf.Dictionary(dict(pdf.pages[0].Resources.items())))
            for page in pdf.pages:
                page.obj.Resources = shared
            shared.XObject.F.Resources = shared
            out = io.BytesIO()
            pdf.save(out)
        self.original = out.getvalue()
        changed = DIFFERENCES["a sample"]
        self.assertEqual(self.equal_pages(changed), {})


class Copies(unittest.TestCase):
    def test_a_page_in_the_middle_that_changed_is_a_fault(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path, out = Path(folder) / "sheets.pdf", Path(folder) / "copy.pdf"
            path.write_bytes(a_document())
            source = Source(path=path)
            sheet = weigh(source)
            copy = make_copy(source, sheet, plan(sheet, preset_named("Post")), out)
            proof = prove(source, Source(path=out), sheet, copy.outcomes)
            self.assertIs(proof.verdict, Verdict.SAME)
            for name in ("another word", "inverted samples", "a stamp's place"):
                with self.subTest(name), pikepdf.open(out) as pdf:
                    DIFFERENCES[name](pdf, pdf.pages[CHANGED - 1])
                    faulty = Path(folder) / "faulty.pdf"
                    pdf.save(faulty)
                    proof = prove(source, Source(path=faulty), sheet, copy.outcomes)
                    self.assertIs(proof.verdict, Verdict.CHECK)
                    self.assertTrue(proof.pages[CHANGED - 1].faults)

    def test_the_proof_says_that_pages_were_not_drawn(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path, out = Path(folder) / "sheets.pdf", Path(folder) / "copy.pdf"
            path.write_bytes(a_document())
            source = Source(path=path)
            sheet = weigh(source)
            copy = make_copy(source, sheet, plan(sheet, preset_named("Post")), out)
            proof = prove(source, Source(path=out), sheet, copy.outcomes)
        self.assertTrue(any("not drawn" in reader for reader in proof.readers))
