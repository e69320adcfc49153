"""Two files of which nothing is known but what they show."""

import io

import numpy as np
import pikepdf
from PIL import Image

from lighten import Source, Verdict, prove_any_two
from lighten.model.errors import UnsupportedFileError
from tests.builders import FolderCase, PdfBuilder, Show, landscape, logbook, text_page

PAGE = logbook(1240, 1754, 3)


class AnyTwo(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        builder = PdfBuilder().jpeg("Page", PAGE, 92).jpeg("Photo", landscape(900, 600, 1), 92)
        builder.page(Show("Page", (595, 0, 0, 842, 0, 0)))
        builder.page(Show("Photo", (216, 0, 0, 144, 72, 400)), content=text_page("Fen"))
        self.original = Source(path=builder.save(self.folder / "a.pdf"))

    def copy_with(self, page: np.ndarray, *, words: bytes = b"Fen") -> Source:
        """As another program might have made it: fewer pixels, other objects."""
        path = self.folder / "b.pdf"
        with pikepdf.open(self.original.path) as pdf:
            picture = pdf.pages[0].obj.Resources.XObject["/Page"]
            small = Image.fromarray(page).resize((930, 1316), Image.Resampling.LANCZOS)
            coded = io.BytesIO()
            small.save(coded, "JPEG", quality=75)
            picture.write(coded.getvalue(), filter=pikepdf.Name.DCTDecode)
            picture.Width, picture.Height = small.size
            content = pdf.pages[1].Contents
            content.write(content.read_bytes().replace(b"Fen", words))
            pdf.save(path, object_stream_mode=pikepdf.ObjectStreamMode.generate)
        return Source(path=path)

    def test_a_sound_copy_of_another_program_is_close(self) -> None:
        proof = prove_any_two(self.original, self.copy_with(PAGE))
        self.assertIs(proof.verdict, Verdict.CLOSE, proof.reasons)

    def test_a_wiped_word_is_found_on_its_page(self) -> None:
        wiped = PAGE.copy()
        ink = np.argwhere(wiped[600:900, 300:900].min(axis=2) < 90)
        row, column = ink[len(ink) // 2] + (600, 300)
        wiped[row - 16 : row + 16, column - 24 : column + 24] = np.median(wiped, axis=(0, 1))
        proof = prove_any_two(self.original, self.copy_with(wiped))
        self.assertIs(proof.verdict, Verdict.CHECK)
        self.assertRegex(proof.reasons[0], r"page 1: in Picture \d+ ink is missing")
        self.assertEqual(proof.pages[1].faults, ())

    def test_other_words_are_found(self) -> None:
        proof = prove_any_two(self.original, self.copy_with(PAGE, words=b"Fan"))
        self.assertIn("page 2: its text is not the same", proof.reasons)

    def test_a_file_is_the_same_as_itself(self) -> None:
        self.assertIs(prove_any_two(self.original, self.original).verdict, Verdict.SAME)

    def test_two_kinds_cannot_be_compared(self) -> None:
        path = self.folder / "c.jpg"
        Image.fromarray(PAGE).save(path, "JPEG")
        with self.assertRaisesRegex(UnsupportedFileError, "another kind of file"):
            prove_any_two(self.original, Source(path=path))
