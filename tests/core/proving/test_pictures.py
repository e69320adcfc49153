"""One picture of two documents side by side, on scikit-image's photo."""

from unittest import TestCase

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from skimage import data

from lighten.model.proofs import PictureProof
from lighten.proving.pictures import PicturePair, compare_picture
from lighten.proving.treated import Intent

_PHOTO = np.asarray(Image.fromarray(data.coffee()).crop((0, 0, 600, 400)))


class _Reading:
    """A reading of a document that holds one picture."""

    def __init__(self, pixels: NDArray[np.uint8]) -> None:
        self._pixels = pixels

    def fingerprint(self, _part_id: str) -> bytes:
        return self._pixels.tobytes()

    def picture(self, _part_id: str, _at_least: object = None) -> NDArray[np.uint8]:
        return self._pixels


def _proof(copy: NDArray[np.uint8], shown_pt: tuple[float, float]) -> PictureProof:
    pair = PicturePair(
        part_id="p",
        name="a picture",
        shown_pt=shown_pt,
        intent=Intent.SAME_LOOKS,
        holds_text=False,
        is_framed=True,
    )
    return compare_picture(pair, _Reading(_PHOTO), _Reading(copy))  # type: ignore[arg-type] # no more is asked of them


def _at(width: int, height: int) -> NDArray[np.uint8]:
    small = Image.fromarray(_PHOTO).resize((width, height), Image.Resampling.LANCZOS)
    return np.asarray(small)


class Pairs(TestCase):
    def test_pairs_of_one_picture_are_the_same(self) -> None:
        proof = _proof(_PHOTO.copy(), (144.0, 96.0))
        self.assertEqual((proof.likeness, proof.score, proof.faults), (1.0, 100.0, ()))

    def test_pairs_are_judged_over_the_pixels_that_the_copy_has(self) -> None:
        """144 pt at 150 ppi are 300 pixels; a copy of 301 is as good as one of 300."""
        sizes = ((300, 200), (301, 201))
        scores = [_proof(_at(*size), (144.0, 96.0)).close_score or 0.0 for size in sizes]
        self.assertGreater(min(scores), 85.0)
        self.assertLess(abs(scores[0] - scores[1]), 3.0)

    def test_pairs_of_a_copy_with_too_few_pixels_are_judged_as_they_are_shown(self) -> None:
        """At 100 ppi on a screen, where fewer pixels show less than to a close look at 150."""
        proof = _proof(_at(150, 100), (144.0, 96.0))
        assert proof.score is not None and proof.close_score is not None
        self.assertLess(proof.close_score, 70.0)
        self.assertLess(proof.close_score, proof.score)
