"""The least score of a treatment is reached, as another library measures it."""

import io
import unittest
from dataclasses import replace

import numpy as np
from PIL import Image
from skimage import data

from benchmarks.looks import ssimulacra2
from lighten.model.kinds import PictureClass
from lighten.model.treatments import ColourChange, PictureTreatment
from lighten.pictures.coding.stored import StoredCoding, StoredPicture
from lighten.pictures.recoding.recode import recode
from lighten.pictures.recoding.recode_job import RecodeJob
from tests.builders import Pixels, as_jpeg


def job(pixels: Pixels, least_score: float) -> RecodeJob:
    """To a third of the pixels, coarsely; shown at two thirds."""
    coded = as_jpeg(pixels, 97)
    height, width = pixels.shape[:2]
    return RecodeJob(
        picture=StoredPicture(
            data=coded,
            weight=len(coded),
            coding=StoredCoding.JPEG,
            width_px=width,
            height_px=height,
            bits=8,
            colours=3,
        ),
        picture_class=PictureClass.PHOTO,
        target_px=(width // 3, height // 3),
        shown_px=(width * 2 // 3, height * 2 // 3),
        treatment=PictureTreatment(quality=40, least_score=least_score),
    )


def score_of(pixels: Pixels, work: RecodeJob) -> float:
    recoded = recode(work)
    assert recoded.picture is not None and work.shown_px is not None
    with Image.open(io.BytesIO(recoded.picture.data)) as image:
        shown = image.resize(work.shown_px, Image.Resampling.BICUBIC)
    before = Image.fromarray(pixels).resize(work.shown_px, Image.Resampling.BICUBIC)
    return ssimulacra2(before, shown)


class LeastScore(unittest.TestCase):
    def test_least_score_is_reached_by_more_quality_and_more_pixels(self) -> None:
        for pixels in (np.asarray(data.astronaut()), np.asarray(data.coffee())):
            for least in (45.0, 65.0):
                with self.subTest(least=least, shape=pixels.shape):
                    work = job(pixels, least)
                    self.assertLess(score_of(pixels, job(pixels, 0.0)), least)
                    # A few places of a picture score some points beside the whole.
                    self.assertGreater(score_of(pixels, work), least - 6)

    def test_least_score_costs_no_more_than_it_takes(self) -> None:
        pixels = np.asarray(data.astronaut())
        weights = []
        for least in (0.0, 30.0, 50.0, 70.0):
            picture = recode(job(pixels, least)).picture
            assert picture is not None
            weights.append(picture.weight)
        self.assertEqual(weights, sorted(weights))

    def test_least_score_is_no_measure_of_what_is_to_look_otherwise(self) -> None:
        work = job(np.asarray(data.coffee()), 80.0)
        grey = replace(work.treatment, colour=ColourChange.GREY)
        picture = recode(replace(work, treatment=grey)).picture
        assert picture is not None
        self.assertEqual((picture.width_px, picture.height_px), work.target_px)

    def test_least_score_is_held_by_what_is_left_of_a_cut_picture(self) -> None:
        half = (0.0, 0.0, 0.5, 0.5)
        work = replace(job(np.asarray(data.coffee()), 65.0), cut=half, target_px=(100, 66))
        picture = recode(work).picture
        assert picture is not None
        self.assertTrue(100 < picture.width_px <= 300)
