"""Places of two documents as pictures, against what pdfium and poppler draw of the whole."""

import subprocess
from pathlib import Path

import numpy as np
from PIL import Image

from lighten import Source, make_copy, plan, preset_named, weigh
from lighten.model.errors import UnreadableFileError
from lighten.proving.side_by_side import Place, read_both
from tests.builders import FolderCase
from tests.core.formats.pdf.samples import report


class SideBySide(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.source = report(self.folder / "report.pdf")
        sheet = weigh(self.source)
        self.copy = self.folder / "copy.pdf"
        make_copy(self.source, sheet, plan(sheet, preset_named("feather")), self.copy)

    def drawn(self, side: str, *, page: int = 1, dpi: float = 72, box: object = None) -> np.ndarray:
        out = self.folder / "drawn.png"
        with read_both(self.source, self.copy) as both:
            place = Place(page=page, box=box)  # type: ignore[arg-type]
            both.draw(side, place, dpi, out)
        return np.asarray(Image.open(out))

    def test_a_place_is_that_part_of_the_page(self) -> None:
        whole = self.drawn("original", dpi=144)
        left, low, right, high = 72, 400, 288, 544
        place = self.drawn("original", dpi=144, box=(left, low, right, high))
        self.assertEqual(place.shape, (288, 432, 3))
        top = round((792 - high) * 2)
        part = whole[top : top + 288, left * 2 : right * 2]
        self.assertLess(np.abs(part.astype(int) - place).mean(), 3)

    def test_the_place_is_where_poppler_draws_it(self) -> None:
        stem = self.folder / "poppler"
        window = ["-x", "72", "-y", str(792 - 544), "-W", "216", "-H", "144"]
        page = ["-png", "-r", "72", "-f", "1", "-l", "1", "-singlefile"]
        subprocess.run(["pdftoppm", *page, *window, self.source.path, stem], check=True)
        theirs = np.asarray(Image.open(stem.with_suffix(".png")).convert("RGB")).astype(int)
        ours = self.drawn("original", box=(72, 400, 288, 544))
        self.assertLess(np.abs(theirs - ours).mean(), 6)

    def test_differences_show_where_they_are_and_nowhere_else(self) -> None:
        heat = self.drawn("difference", dpi=72)
        self.assertEqual(heat.shape[2], 4)
        strength = heat[..., 3]
        picture = strength[792 - 544 : 792 - 400, 72:288]
        self.assertGreater(picture.mean(), 5)
        self.assertEqual(strength[:100].max(), 0)

    def test_pages_that_are_not_there_are_said(self) -> None:
        for page in (0, 3):
            with self.assertRaises(UnreadableFileError):
                self.drawn("copy", page=page)

    def test_a_picture_file_has_no_pages_and_none_are_laid_out(self) -> None:
        picture = Source(path=self.folder / "chart.png")
        Image.new("RGB", (40, 30)).save(picture.path)
        with read_both(picture, picture.path) as both, self.assertRaises(UnreadableFileError):
            both.draw("original", Place(page=1), 72, self.folder / "drawn.png")

    def test_side_by_side_neither_file_is_written_to(self) -> None:
        before = self.source.path.read_bytes(), Path(self.copy).read_bytes()
        self.drawn("difference")
        self.assertEqual(before, (self.source.path.read_bytes(), self.copy.read_bytes()))
        self.assertEqual(Source(path=self.copy).name, "copy.pdf")
