"""One page against another: strict outside treated pictures, measured inside them."""

from dataclasses import dataclass
from unittest import TestCase

import numpy as np
from numpy.typing import NDArray
from skimage import data

from lighten.contract import PageView
from lighten.model.errors import UnreadableFileError
from lighten.model.proofs import PageProof
from lighten.proving.pages import _compare
from lighten.proving.permitted_losses import PermittedLosses
from lighten.proving.treated_boxes import TreatedBox

PAGE = np.full((400, 300, 3), 250, np.uint8)
PICTURE = np.asarray(data.astronaut()[:160, :200], np.uint8)
# In points at 72 dpi, from the lower left: rows 40 to 200, columns 48 to 248.
_PLACE = (48, 200, 248, 360)
BOX = TreatedBox(part_id="picture:1-0", name="picture 1-0", box=_PLACE, visible_box=_PLACE)


def page_with(picture: NDArray[np.uint8] = PICTURE) -> NDArray[np.uint8]:
    page = PAGE.copy()
    page[40:200, 48:248] = picture
    return page


@dataclass
class Shown:
    """A document of one page, as a reader would show it; None cannot be drawn."""

    pixels: NDArray[np.uint8] | None
    text: str = "reed warbler"
    page_sizes: tuple[tuple[float, float], ...] = ((300.0, 400.0),)
    preserved_features = {}

    def annotation_boxes(self, page: int, kinds: object) -> tuple[()]:
        return ()

    def view(self, page: int, dpi: float) -> PageView:
        if self.pixels is None:
            raise UnreadableFileError(f"page {page} cannot be drawn")
        return PageView(pixels=self.pixels, dpi=72, text=self.text)


def compare(one: Shown, other: Shown) -> PageProof:
    return _compare(one, other, 1, (BOX,), PermittedLosses())  # type: ignore[arg-type]


class Pages(TestCase):
    def test_pages_that_are_equal_have_no_fault(self) -> None:
        proof = compare(Shown(page_with()), Shown(page_with()))
        self.assertEqual((proof.likeness, proof.stray, proof.faults), (1.0, 0.0, ()))

    def test_a_softer_picture_is_measured_and_let_pass(self) -> None:
        soft = (PICTURE // 4 * 4 + 2).astype(np.uint8)
        proof = compare(Shown(page_with()), Shown(page_with(soft)))
        self.assertEqual(proof.faults, ())
        self.assertTrue(0.9 < proof.pictures[0].likeness < 1)

    def test_the_same_change_outside_a_picture_is_a_fault(self) -> None:
        page = page_with()
        page[300:340, 100:180] = 0
        proof = compare(Shown(page_with()), Shown(page))
        self.assertIn("outside the treated pictures", proof.faults[0])
        self.assertGreater(proof.stray, 0.001)

    def test_one_lost_letter_outside_a_picture_is_a_fault(self) -> None:
        """A letter of 9 point is hardly a thousandth of this page, and all of its block."""
        page = page_with()
        page[300:309, 104:110] = 40
        proof = compare(Shown(page), Shown(page_with()))
        self.assertIn("page 1", proof.faults[0])
        self.assertLess(proof.stray, 0.001)

    def test_a_letter_drawn_a_little_darker_is_none(self) -> None:
        page, other = page_with(), page_with()
        page[300:309, 104:110] = 40
        other[300:309, 104:110] = 30
        self.assertEqual(compare(Shown(page), Shown(other)).faults, ())

    def test_a_picture_turned_pale_has_lost_what_it_shows(self) -> None:
        pale = (PICTURE // 4 + 190).astype(np.uint8)
        proof = compare(Shown(page_with()), Shown(page_with(pale)))
        self.assertIn("picture 1-0 has lost what it shows", proof.faults[0])

    def test_a_picture_moved_by_a_few_points_is_noticed(self) -> None:
        moved = np.roll(PICTURE, 9, axis=1)
        proof = compare(Shown(page_with()), Shown(page_with(moved)))
        self.assertTrue(proof.faults)

    def test_other_text_is_a_fault_though_it_looks_the_same(self) -> None:
        proof = compare(Shown(page_with()), Shown(page_with(), text="sedge warbler"))
        self.assertEqual(proof.faults, ("page 1: its text is not the same",))
        self.assertFalse(proof.is_text_same)

    def test_a_page_that_cannot_be_drawn_is_a_fault(self) -> None:
        proof = compare(Shown(page_with()), Shown(None))
        self.assertIn("cannot be drawn in the copy", proof.faults[0])
        proof = compare(Shown(None), Shown(page_with()))
        self.assertIn("cannot be drawn in the original", proof.faults[0])

    def test_a_page_of_another_size_is_a_fault(self) -> None:
        proof = compare(Shown(page_with()), Shown(page_with()[:-8]))
        self.assertIn("another size", proof.faults[0])
