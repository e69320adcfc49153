"""One picture, from its stored bytes to lighter ones, without any document around it."""

import io
import unittest
import zlib
from dataclasses import replace
from pathlib import Path
from unittest.mock import patch

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from skimage import data

from lighten.model.kinds import PictureClass
from lighten.model.plans import Action
from lighten.model.treatments import ColourChange, PictureTreatment
from lighten.parallel import Workers
from lighten.pictures.coding.coded import Coding, Holder, decode_coded
from lighten.pictures.coding.stored import StoredCoding, StoredPicture
from lighten.pictures.recoding.candidates import best_candidate
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.pictures.recoding.drafts import DraftJob, draft_all
from lighten.pictures.recoding.recode import RecodeJob, recode, saved_bytes
from lighten.pictures.recoding.recoded_bytes import job_key, recoded_from_bytes, recoded_to_bytes
from lighten.pictures.scores.likeness import likeness
from tests.builders import FolderCase, Pixels, as_jpeg, chart

_PHOTO = data.astronaut()
_EXACT = PictureTreatment(quality=None)
_GOOD = PictureTreatment(quality=75)


def raw(pixels: Pixels) -> StoredPicture:
    """Samples as they are, row by row."""
    return StoredPicture(
        data=pixels.tobytes(),
        weight=pixels.nbytes,
        coding=StoredCoding.RAW,
        width_px=pixels.shape[1],
        height_px=pixels.shape[0],
        bits=8,
        colours=1 if pixels.ndim == 2 else pixels.shape[2],
    )


def jpeg(pixels: Pixels, quality: int) -> StoredPicture:
    coded = as_jpeg(pixels, quality)
    return replace(raw(pixels), data=coded, weight=len(coded), coding=StoredCoding.JPEG)


def job(
    picture: StoredPicture,
    treatment: PictureTreatment = _GOOD,
    target_px: tuple[int, int] | None = None,
    picture_class: PictureClass = PictureClass.PHOTO,
) -> RecodeJob:
    return RecodeJob(
        picture=picture, picture_class=picture_class, target_px=target_px, treatment=treatment
    )


class Candidates(unittest.TestCase):
    def test_a_photo_becomes_a_jpeg_that_pillow_reads(self) -> None:
        coded = best_candidate(job(raw(_PHOTO))).coded
        self.assertIs(coded.coding, Coding.JPEG)
        with Image.open(io.BytesIO(coded.data)) as image:
            self.assertGreater(likeness(np.asarray(image), _PHOTO), 0.9)

    def test_a_drawing_keeps_every_pixel(self) -> None:
        pixels = chart(400, 300, seed=3)
        coded = best_candidate(job(raw(pixels), picture_class=PictureClass.GRAPHIC)).coded
        self.assertTrue(np.array_equal(decode_coded(coded), pixels))

    def test_grey_that_was_stored_as_colour_becomes_grey(self) -> None:
        grey = np.repeat(data.camera()[..., None], 3, axis=2)
        self.assertEqual(best_candidate(job(raw(grey))).coded.colours, 1)

    def test_colour_becomes_grey_when_asked(self) -> None:
        treatment = replace(_GOOD, colour=ColourChange.GREY)
        grey = decode_coded(best_candidate(job(raw(_PHOTO), treatment)).coded)
        expected = np.asarray(Image.fromarray(_PHOTO).convert("L"), int)
        self.assertLess(np.abs(grey.astype(int) - expected).mean(), 4)

    def test_fewer_pixels_are_those_asked_for(self) -> None:
        candidate = best_candidate(job(raw(_PHOTO), target_px=(200, 200)))
        self.assertTrue(candidate.is_resampled)
        shrunk = np.asarray(Image.fromarray(_PHOTO).resize((200, 200), Image.Resampling.BOX))
        self.assertGreater(likeness(decode_coded(candidate.coded), shrunk), 0.9)


class Recoding(unittest.TestCase):
    @given(
        seed=st.integers(0, 10_000),
        width=st.integers(1, 60),
        height=st.integers(1, 60),
        quality=st.sampled_from((None, 20, 75, 95)),
    )
    def test_recoding_is_never_heavier_and_says_why(
        self, seed: int, width: int, height: int, quality: int | None
    ) -> None:
        rng = np.random.default_rng(seed)
        pixels = rng.integers(0, rng.integers(2, 256), (height, width, 3)).astype(np.uint8)
        asked = job(raw(pixels), PictureTreatment(quality=quality))
        recoded = recode(asked)
        self.assertTrue(recoded.reason)
        self.assertGreaterEqual(saved_bytes(asked, recoded), 0)
        if quality is None and recoded.picture is not None:
            self.assertTrue(np.array_equal(decode_coded(recoded.picture), pixels))

    def test_recoding_of_a_small_jpeg_leaves_it(self) -> None:
        recoded = recode(job(jpeg(_PHOTO, 30), replace(_GOOD, quality=90)))
        self.assertIs(recoded.action, Action.KEEP)
        self.assertIsNone(recoded.picture)

    def test_recoding_of_damaged_bytes_leaves_them_and_says_so(self) -> None:
        for content in (b"", b"\xff\xd8\xff\xe0 no picture"):
            broken = replace(jpeg(_PHOTO, 80), data=content)
            recoded = recode(job(broken))
            self.assertIs(recoded.action, Action.KEEP)
            self.assertIn("kept", recoded.reason)

    def test_recoding_without_loss_keeps_the_samples_of_a_jpeg(self) -> None:
        stored = jpeg(_PHOTO, 85)
        recoded = recode(replace(job(stored, _EXACT), may_repack=True, holder=Holder.FILE))
        assert recoded.picture is not None
        self.assertLess(recoded.picture.weight, stored.weight)
        before, after = (
            np.asarray(Image.open(io.BytesIO(content)))
            for content in (stored.data, recoded.picture.data)
        )
        self.assertTrue(np.array_equal(before, after))


class Kept(FolderCase):
    def test_results_come_back_from_bytes_as_they_were(self) -> None:
        for asked in (job(raw(_PHOTO)), job(jpeg(_PHOTO, 30))):
            recoded = recode(asked)
            self.assertEqual(recoded_from_bytes(recoded_to_bytes(recoded)), recoded)

    def test_bytes_that_are_something_else_are_refused(self) -> None:
        for content in (b"", b"{}", b"no json\n", recoded_to_bytes(recode(job(raw(_PHOTO))))[:-1]):
            with self.assertRaises((ValueError, KeyError)):
                recoded_from_bytes(content)

    def test_keys_differ_with_all_that_changes_the_bytes(self) -> None:
        first = job(raw(_PHOTO))
        others = (
            job(raw(_PHOTO[::-1].copy())),
            replace(first, target_px=(100, 100)),
            replace(first, treatment=replace(_GOOD, quality=74)),
            replace(first, holder=Holder.FILE),
            replace(first, is_draft=True),
        )
        self.assertEqual(job_key(first), job_key(job(raw(_PHOTO))))
        self.assertEqual(len({job_key(one) for one in (first, *others)}), 6)
        self.assertEqual(job_key(replace(first, replacement=Path("other.png"))), "")

    def test_lossless_pictures_become_lossy_only_where_that_saves_enough(self) -> None:
        """Grain makes JPEG the lighter; an even page with a few grey strokes does not."""
        rng = np.random.default_rng(7)
        page = np.full((400, 400), 250, np.uint8)
        page[::16, 40:360] = rng.integers(0, 9, (25, 320)) * 20
        grain = rng.integers(0, 256, (400, 400)).astype(np.uint8)
        for pixels, coding in ((page, Coding.FLATE), (grain, Coding.JPEG)):
            with self.subTest(coding=coding):
                packed = zlib.compress(pixels.tobytes(), 9)
                stored = replace(raw(pixels), coding=StoredCoding.FLATE, data=packed)
                stored = replace(stored, weight=len(packed))
                treatment = PictureTreatment(quality=80, least_score=65)
                asked = replace(job(stored, treatment), picture_class=PictureClass.PAGE_SCAN)
                recoded = recode(asked)
                if recoded.picture is not None:
                    self.assertIs(recoded.picture.coding, coding)
                else:
                    self.assertIs(coding, Coding.FLATE)

    def test_drafts_estimate_weight_and_score_and_are_made_once(self) -> None:
        codings = tuple(
            replace(job(raw(_PHOTO), PictureTreatment(quality=quality)), is_draft=True)
            for quality in (40, 80)
        )
        asked = [DraftJob(codings=codings, shown_px=(512, 512))]
        workers = Workers()
        self.addCleanup(workers.close)
        cache = CodingCache(self.folder / "codings.sqlite3", most_bytes=1_000_000)
        ((coarse, fine),) = draft_all(asked, workers, cache)
        assert coarse.score is not None and fine.score is not None
        self.assertLess(coarse.score, fine.score)
        final = saved_bytes(codings[1], recode(replace(codings[1], is_draft=False)))
        weight, foretold = _PHOTO.nbytes - final, _PHOTO.nbytes - fine.saved_bytes
        self.assertAlmostEqual(foretold / weight, 1, delta=0.1)
        with patch(
            "lighten.pictures.recoding.drafts.recode", side_effect=AssertionError("coded again")
        ):
            self.assertEqual(list(draft_all(asked, workers, cache)), [(coarse, fine)])
