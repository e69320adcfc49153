"""Which pictures become layers, and what comes of those that cannot."""

import unittest
from dataclasses import replace

import numpy as np

from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.treatments import ColourChange, Filter, FilterKind, PictureTreatment
from lighten.pictures.coding.coded import decode_coded
from lighten.pictures.recoding.recode import recode, saved_bytes
from lighten.pictures.recoding.recode_job import RecodeJob
from lighten.pictures.recoding.recoded_bytes import recoded_from_bytes, recoded_to_bytes
from tests.core.pictures.recoding.test_recode import jpeg
from tests.core.pictures.scans.pages import PPI, print_page, scanned

_LAYERS = PictureTreatment(coding=PictureCoding.LAYERS, finest_ppi=150, quality=75)
_PAGE = scanned(print_page())


def job(pixels: np.ndarray = _PAGE) -> RecodeJob:
    height, width = pixels.shape[:2]
    return RecodeJob(
        picture=jpeg(pixels, 90),
        picture_class=PictureClass.PAGE_SCAN,
        target_px=(width // 2, height // 2),
        treatment=_LAYERS,
        shown_px=(width * 100 // PPI, height * 100 // PPI),
        may_be_layers=True,
        may_be_jbig2=True,
    )


class Coded(unittest.TestCase):
    def test_layers_come_back_from_bytes_as_they_were(self) -> None:
        red = np.array(_PAGE)
        red[:300] = np.minimum(red[:300], np.array([255, 90, 90]) + (red[:300] > 128) * 255)
        for pixels in (_PAGE, red):
            recoded = recode(job(pixels))
            self.assertIsNotNone(recoded.layers)
            self.assertEqual(recoded_from_bytes(recoded_to_bytes(recoded)), recoded)
            assert recoded.layers is not None
            saved = job(pixels).picture.weight - recoded.layers.weight
            self.assertEqual(saved_bytes(job(pixels), recoded), saved)

    def test_the_same_page_gives_the_same_bytes(self) -> None:
        self.assertEqual(recode(job()), recode(job()))

    def test_a_page_made_grey_has_grey_layers(self) -> None:
        grey = replace(job(), treatment=replace(_LAYERS, colour=ColourChange.GREY))
        layers = recode(grey).layers
        assert layers is not None
        self.assertEqual(layers.paper.colours, 1)

    def test_filters_come_first(self) -> None:
        whiten = Filter(kind=FilterKind.WHITEN_PAPER, strength=1)
        layers = recode(replace(job(), treatment=replace(_LAYERS, filters=(whiten,)))).layers
        assert layers is not None
        self.assertGreater(float(decode_coded(layers.paper).mean()), 253)
        self.assertLess(float(_PAGE[:50].mean()), 246)

    def test_all_else_becomes_one_picture(self) -> None:
        photo = replace(job(), picture_class=PictureClass.PHOTO)
        nowhere = replace(job(), shown_px=None)
        elsewhere = replace(job(), may_be_layers=False)
        cut = replace(job(), cut=(0.0, 0.0, 0.5, 0.5), target_px=(200, 200))
        bitonal = replace(job(), treatment=replace(_LAYERS, colour=ColourChange.BITONAL))
        foreign = replace(job(), picture=replace(jpeg(_PAGE, 90), is_foreign=True))
        for other in (photo, nowhere, elsewhere, cut, bitonal, foreign):
            recoded = recode(other)
            self.assertIsNone(recoded.layers)

    def test_a_page_that_wins_little_stays_one_picture(self) -> None:
        light = job()
        tight = replace(light.picture, weight=recode(light).layers.weight + 1000)  # type: ignore[union-attr]
        self.assertIsNone(recode(replace(light, picture=tight)).layers)
