"""Layered drawings flattened; held against pyora, Pillow, and W3C Compositing Level 1."""

import shutil
import unittest
import zipfile
from pathlib import Path

import numpy as np
import pikepdf
import pyora
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from pyora.Render import Renderer

from lighten import (
    Action,
    Order,
    PageColours,
    PageSize,
    PartKind,
    RasterTreatment,
    Source,
    Verdict,
    gather,
    make,
    preset_named,
    rasterise,
    weigh,
)
from lighten.formats.ora.blend import OPERATIONS, composite
from lighten.formats.ora.flatten import flatten
from lighten.formats.ora.stack import open_drawing
from lighten.model.errors import LimitExceededError, UnreadableFileError
from tests.builders import FolderCase, landscape
from tests.core.formats.ora.samples import as_png, drawing, sketch, write_ora


def merged_by_pyora(source: Source) -> np.ndarray:
    """Merge the layers by pyora, which opens no file without a merged picture."""
    whole = source.path.with_suffix(".whole.ora")
    shutil.copy(source.path, whole)
    with zipfile.ZipFile(whole, "a") as file:
        if "mergedimage.png" not in file.namelist():
            file.writestr("mergedimage.png", as_png(np.zeros((8, 8, 4), np.uint8)))
    project = pyora.Project.load(str(whole))
    whole.unlink()
    return np.asarray(Renderer(project).render())


class Drawings(FolderCase):
    def drawing(self) -> Source:
        """With the picture that another program merged."""
        plain = drawing(self.folder / "plain.ora")
        merged = merged_by_pyora(plain)
        return drawing(self.folder / "drawing.ora", merged=merged)

    def test_drawings_are_flattened_as_another_program_flattens_them(self) -> None:
        source = drawing(self.folder / "drawing.ora")
        ours, theirs = flatten(open_drawing(source)), merged_by_pyora(source)
        off = np.abs(ours.astype(np.int16) - theirs)
        self.assertLessEqual(off.max(), 1)

    def test_drawings_weigh_by_layer_to_the_byte(self) -> None:
        source = self.drawing()
        sheet = weigh(source)
        self.assertEqual(sum(part.size_bytes for part in sheet.parts), source.path.stat().st_size)
        layers = {part.name: part for part in sheet.parts if part.kind is PartKind.LAYER}
        self.assertEqual(
            set(layers),
            {"Sketch, hidden", "Strokes", "Chart", "Paper", "Preview thumbnail"}
            | {"What its program kept for itself"},
        )
        self.assertGreater(layers["Paper"].size_bytes, layers["Strokes"].size_bytes)
        self.assertEqual(sheet.parts[0].kind, PartKind.PICTURE)
        self.assertIn("4 layers become one picture", " ".join(sheet.remarks))

    def test_drawings_become_one_picture_that_shows_the_same(self) -> None:
        source = self.drawing()
        for preset, ending in (("as-it-was", ".png"), ("reading-desk", ".jpg")):
            with self.subTest(preset=preset):
                out = self.folder / f"copy-{preset}"
                made = make(source, weigh(source), Order(preset=preset_named(preset)), out)
                assert made.copy.path is not None and made.proof is not None
                self.assertEqual(Path(made.name).suffix, ending)
                self.assertIsNot(made.proof.verdict, Verdict.CHECK, made.proof.reasons)
                self.assertLess(made.copy.bytes_after, made.copy.bytes_before)
                self.assertEqual(
                    sum(outcome.bytes_after for outcome in made.copy.outcomes),
                    made.copy.bytes_after,
                )
                dropped = [one for one in made.copy.outcomes if one.action is Action.DROP]
                self.assertEqual(len(dropped), 6)
                with Image.open(out) as copy:
                    self.assertEqual(copy.size, (480, 320))
                    if preset == "as-it-was":
                        shown = np.asarray(copy.convert("RGB"))
                        merged = merged_by_pyora(source)[..., :3]
                        self.assertLessEqual(np.abs(shown.astype(np.int16) - merged).max(), 1)

    def test_drawings_without_a_merged_picture_are_put_together_here(self) -> None:
        source = drawing(self.folder / "drawing.ora")
        out = self.folder / "copy"
        made = make(source, weigh(source), Order(preset=preset_named("post")), out)
        assert made.proof is not None
        self.assertIsNot(made.proof.verdict, Verdict.CHECK, made.proof.reasons)

    def test_drawings_with_a_wrong_merged_picture_have_the_verdict_check(self) -> None:
        """Two programs disagree what the layers show: a person has to say who is right."""
        wrong = np.dstack([landscape(480, 320, 40), np.full((320, 480), 255, np.uint8)])
        source = drawing(self.folder / "drawing.ora", merged=wrong)
        out = self.folder / "copy"
        made = make(source, weigh(source), Order(preset=preset_named("post")), out)
        if made.proof is not None:
            self.assertIs(made.proof.verdict, Verdict.CHECK)

    def test_drawings_that_are_damaged_are_refused_with_what_to_do(self) -> None:
        size = (40, 30)
        layer = '<layer src="data/a.png"/>'
        good = {"data/a.png": as_png(sketch(40, 30, 1))}
        cases = {
            "layer \\(data/a.png\\) is missing": (layer, {}, size),
            "is no picture that can be read": (layer, {"data/a.png": b"no picture"}, size),
            "does not say how large": (layer, good, (0, 0)),
        }
        for at, (message, (stack, members, told)) in enumerate(cases.items()):
            source = write_ora(self.folder / f"{at}.ora", stack, members, size=told)
            with self.subTest(message), self.assertRaisesRegex(UnreadableFileError, message):
                weigh(source)
        huge = write_ora(self.folder / "huge.ora", layer, good, size=(60_000, 60_000))
        with self.assertRaisesRegex(LimitExceededError, "more than can be flattened"):
            weigh(huge)

    def test_layers_may_hang_over_the_edge(self) -> None:
        members = {"a.png": as_png(sketch(60, 60, 1)), "b.png": as_png(landscape(40, 30, 2))}
        stack = '<layer src="a.png" x="-20" y="15"/><layer src="b.png"/>'
        source = write_ora(self.folder / "edge.ora", stack, members, size=(40, 30))
        off = flatten(open_drawing(source)).astype(np.int16) - merged_by_pyora(source)
        self.assertLessEqual(np.abs(off).max(), 1)


class Operations(unittest.TestCase):
    def blended(self, operation: str, below: float, own: float) -> float:
        """Blend two opaque greys."""
        opaque = np.ones((1, 1, 1), np.float32)
        backdrop = np.concatenate([np.full((1, 1, 3), below, np.float32), opaque], axis=-1)
        seen = composite(operation, backdrop, np.full((1, 1, 3), own, np.float32), opaque)
        return float(seen[0, 0, 0])

    def test_operations_are_those_of_the_standard(self) -> None:
        """Values worked out by hand from W3C Compositing Level 1, clause 10.1."""
        expected = {
            "svg:src-over": 0.8,
            "svg:multiply": 0.4 * 0.8,
            "svg:screen": 0.4 + 0.8 - 0.32,
            "svg:overlay": 2 * 0.4 * 0.8,
            "svg:darken": 0.4,
            "svg:lighten": 0.8,
            "svg:color-dodge": 1.0,
            "svg:color-burn": 1 - 0.6 / 0.8,
            "svg:hard-light": 0.4 + 0.6 - 0.24,
            "svg:soft-light": 0.4 + 0.6 * (0.4**0.5 - 0.4),
            "svg:difference": 0.4,
            "svg:luminosity": 0.8,
            "svg:plus": 1.0,
        }
        for operation, value in expected.items():
            with self.subTest(operation):
                self.assertAlmostEqual(self.blended(operation, 0.4, 0.8), value, places=5)

    @settings(deadline=None, max_examples=60)
    @given(
        st.sampled_from(sorted(OPERATIONS)),
        st.lists(st.floats(0, 1, width=32), min_size=8, max_size=8),
    )
    def test_operations_stay_within_colours_and_opacity(
        self, operation: str, values: list[float]
    ) -> None:
        told = np.array(values, np.float32)
        opacity = told[3:4].reshape(1, 1, 1)
        below = np.concatenate([told[:3].reshape(1, 1, 3) * opacity, opacity], axis=-1)
        seen = composite(operation, below, told[4:7].reshape(1, 1, 3), told[7:].reshape(1, 1, 1))
        self.assertTrue(np.isfinite(seen).all())
        self.assertGreaterEqual(float(seen.min()), -1e-4)
        self.assertLessEqual(float(seen.max()), 1 + 1e-4)

    @settings(deadline=None, max_examples=30)
    @given(st.sampled_from(sorted(OPERATIONS - {"svg:dst-in", "svg:dst-atop"})))
    def test_operations_of_a_layer_that_is_not_there_change_nothing(self, operation: str) -> None:
        below = np.array([[[0.2, 0.1, 0.3, 0.5]]], np.float32)
        nothing = np.zeros((1, 1, 1), np.float32)
        seen = composite(operation, below, np.ones((1, 1, 3), np.float32), nothing)
        np.testing.assert_allclose(seen, below, atol=1e-6)


class OtherWays(FolderCase):
    def test_other_ways_of_a_drawing_lead_to_a_page_and_to_a_tiff(self) -> None:
        source = drawing(self.folder / "drawing.ora")
        gather([source], self.folder / "page.pdf", page=PageSize.OWN)
        wanted = RasterTreatment(colours=PageColours.ALL, ppi=150)
        made = rasterise(source, self.folder / "page.tif", wanted)
        with Image.open(made.paths[0]) as page:
            self.assertEqual(page.size[0] / page.size[1], 480 / 320)
        with pikepdf.Pdf.open(self.folder / "page.pdf") as pdf:
            self.assertEqual(len(pdf.pages), 1)
