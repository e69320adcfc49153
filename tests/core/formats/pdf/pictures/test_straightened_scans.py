"""Scans straightened, with the words that were recognised on them, as poppler reads them."""

import math
import re
import subprocess
from dataclasses import replace

import numpy as np
import pikepdf
from PIL import Image, ImageDraw, ImageFont

from lighten import (
    Filter,
    FilterKind,
    Order,
    PictureClass,
    Preset,
    Source,
    Verdict,
    make,
    preset_named,
    weigh,
)
from tests.builders import FolderCase, PdfBuilder, Show

_PPI, _WIDTH, _HEIGHT = 150, 400.0, 300.0
_SIZE_PT = 14
_LINES = [f"Ring {4711 + number} warbler moulted at the reed bed" for number in range(9)]
_SKEW = 2.0


def _top(line: int) -> float:
    """Return the distance of a line's letters from the upper edge, in points."""
    return 30 + 28.0 * line


def _scan() -> np.ndarray:
    """The lines, turned by `_SKEW` degrees against the clock."""
    px = _PPI / 72
    image = Image.new("L", (round(_WIDTH * px), round(_HEIGHT * px)), 238)
    draw, font = ImageDraw.Draw(image), ImageFont.load_default(_SIZE_PT * px)
    for number, words in enumerate(_LINES):
        draw.text((40 * px, _top(number) * px), words, fill=30, font=font)
    turned = image.rotate(_SKEW, Image.Resampling.BICUBIC, fillcolor=238)
    grain = np.random.default_rng(1).normal(0, 3, (image.height, image.width))
    return np.clip(np.asarray(turned) + grain, 0, 255).astype(np.uint8)


def _placed(x: float, y: float) -> tuple[float, float]:
    """Return the position on the scan of a point of the level page, turned about its middle."""
    angle = math.radians(_SKEW)
    off = x - _WIDTH / 2, y - _HEIGHT / 2
    return (
        _WIDTH / 2 + off[0] * math.cos(angle) - off[1] * math.sin(angle),
        _HEIGHT / 2 + off[0] * math.sin(angle) + off[1] * math.cos(angle),
    )


class Straightened(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        angle = math.radians(_SKEW)
        cosine, sine = math.cos(angle), math.sin(angle)
        words = "BT 3 Tr /F1 12 Tf "
        for number, line in enumerate(_LINES):
            x, y = _placed(40, _HEIGHT - _top(number) - _SIZE_PT)
            words += f"{cosine:.5f} {sine:.5f} {-sine:.5f} {cosine:.5f} {x:.3f} {y:.3f} Tm "
            words += f"({line}) Tj "
        x, y = _placed(100, _HEIGHT - _top(4) - 7)
        link = pikepdf.Dictionary(
            Type=pikepdf.Name.Annot,
            Subtype=pikepdf.Name.Link,
            Rect=[x - 20, y - 8, x + 20, y + 8],
            A=pikepdf.Dictionary(S=pikepdf.Name.URI, URI=pikepdf.String("https://example.org/")),
        )
        builder = PdfBuilder().jpeg("Scan", _scan(), 92)
        builder.page(
            Show("Scan", (_WIDTH, 0, 0, _HEIGHT, 0, 0)),
            size=(_WIDTH, _HEIGHT),
            content=(words + "ET\n").encode(),
            Annots=[link],
        )
        self.source = Source(path=builder.save(self.folder / "scan.pdf"))

    def preset(self, name: str) -> Preset:
        preset = preset_named(name)
        pages = preset.treatment.pictures[PictureClass.PAGE_SCAN]
        straight = replace(pages, filters=(Filter(kind=FilterKind.STRAIGHTEN),))
        pictures = {**preset.treatment.pictures, PictureClass.PAGE_SCAN: straight}
        return replace(preset, treatment=replace(preset.treatment, pictures=pictures))

    def test_words_and_links_stay_on_what_they_stand_for(self) -> None:
        for name in ("reading-desk", "scan-stack"):
            with self.subTest(name):
                out = self.folder / f"{name}.pdf"
                made = make(self.source, weigh(self.source), Order(preset=self.preset(name)), out)
                assert made.copy.path is not None and made.proof is not None
                self.assertIs(made.proof.verdict, Verdict.CLOSE, made.proof.reasons)
                self.assertTrue(any(outcome.turned_degrees for outcome in made.copy.outcomes))
                command = ["pdftotext", "-bbox", out, "-"]
                told = subprocess.run(command, check=True, capture_output=True, text=True).stdout
                found = r'xMin="([\d.]+)" yMin="([\d.]+)" .*yMax="([\d.]+)">Ring<'
                lines = [tuple(map(float, one)) for one in re.findall(found, told)]
                self.assertEqual(len(lines), len(_LINES))
                for number, (left, top, low) in enumerate(lines):
                    self.assertAlmostEqual(left, 40, delta=1.2)
                    self.assertAlmostEqual((top + low) / 2, _top(number) + 10, delta=3)
                with pikepdf.open(out) as pdf:
                    sides = [float(side) for side in pdf.pages[0].Annots[0].Rect]
                self.assertAlmostEqual((sides[0] + sides[2]) / 2, 100, delta=1)
                self.assertAlmostEqual((sides[1] + sides[3]) / 2, _HEIGHT - _top(4) - 7, delta=1)

    def test_the_scan_itself_lies_level_where_it_lay(self) -> None:
        """Rows of ink, drawn by poppler, as the level page has them."""
        out = self.folder / "copy.pdf"
        order = Order(preset=self.preset("reading-desk"))
        make(self.source, weigh(self.source), order, out)
        command = ["pdftoppm", "-r", "72", "-gray", "-png", "-singlefile", out, self.folder / "p"]
        subprocess.run(command, check=True, capture_output=True)
        with Image.open(self.folder / "p.png") as image:
            dark = (np.asarray(image) < 120).sum(axis=1)
        rows = [_top(number) for number in range(len(_LINES))]
        inked = np.concatenate([np.arange(round(top) + 2, round(top) + 17) for top in rows])
        self.assertGreater(dark[inked].sum(), 0.97 * dark.sum())
