"""Pictures as pdfium has them: stored, and drawn over just so many pixels."""

import subprocess

import numpy as np
from PIL import Image

from lighten import Source
from lighten.formats.pdf.read import read_pdf
from tests.builders import FolderCase, PdfBuilder, Show, landscape

PHOTO = landscape(300, 200, 2)
BOX = (72.0, 400.0, 216.0, 496.0)


class Places(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        builder = PdfBuilder().flate("A", PHOTO).page(Show("A", (144, 0, 0, 96, 72, 400)))
        self.source = Source(path=builder.save(self.folder / "a.pdf"))

    def test_a_region_at_the_embedded_resolution_is_returned_pixel_by_pixel(self) -> None:
        """As poppler's pdfimages has it."""
        subprocess.run(["pdfimages", "-png", "a.pdf", "p"], cwd=self.folder, check=True)
        theirs = np.asarray(Image.open(self.folder / "p-000.png").convert("RGB"))
        with read_pdf(self.source) as reading:
            ours = reading.embedded_image(1, BOX)
        assert ours is not None
        np.testing.assert_array_equal(ours, theirs)
        np.testing.assert_array_equal(ours, PHOTO)

    def test_nothing_is_stored_where_no_picture_fits(self) -> None:
        with read_pdf(self.source) as reading:
            self.assertIsNone(reading.embedded_image(1, (72, 400, 180, 496)))

    def test_a_place_of_its_own_size_is_nearly_the_picture(self) -> None:
        with read_pdf(self.source) as reading:
            drawn = reading.render_region_at_size(1, BOX, (300, 200))
        self.assertLess(np.abs(drawn.astype(int) - PHOTO).mean(), 1.0)
