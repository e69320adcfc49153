"""What copies are called."""

from itertools import islice
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from lighten import Naming, numbered_names

_stems = st.text("abc 1-.", min_size=1, max_size=12).filter(lambda stem: stem.strip(" ."))


class Names(TestCase):
    @given(_stems, st.sampled_from(["", "-1-of-3", "-12-of-40"]), st.integers(0, 3))
    def test_names_of_copies_are_known_again(self, stem: str, piece: str, number: int) -> None:
        """Whole or a piece, and with the number of one that had the name of another."""
        naming = Naming()
        name = naming.copy_name(f"{stem}.png", ".jpg", piece)
        self.assertTrue(naming.may_be_copy(next(islice(numbered_names(name), number, None))))

    def test_names_of_originals_are_not_taken_for_copies(self) -> None:
        for name in ("report.pdf", "light.pdf", "report-light-final.pdf", "report 2.pdf"):
            self.assertFalse(Naming().may_be_copy(name))

    def test_names_that_are_taken_get_a_number_before_their_ending(self) -> None:
        names = list(islice(numbered_names("a.b-light.jpg"), 3))
        self.assertEqual(names, ["a.b-light.jpg", "a.b-light 2.jpg", "a.b-light 3.jpg"])
