"""Pen strokes with fewer points look the same to two readers, and weigh less."""

import math
import subprocess

import numpy as np
import pikepdf
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from lighten import (
    DrawingTreatment,
    Preset,
    Source,
    Treatment,
    Verdict,
    make_proved_copy,
    plan,
    weigh,
)
from lighten.formats.pdf.pages.simplify_paths import simplify
from lighten.planning.switch_savings import switch_savings
from tests.builders import FolderCase


def handwriting(*, pressure: bool) -> bytes:
    """Forty wavy strokes, a point every 0.6 pt, plain or as outlines of changing width."""
    lines = ["0.1 0.1 0.4 rg 0.1 0.1 0.4 RG 1.2 w"]
    for row in range(40):
        across = np.arange(0, 400, 0.6)
        high = 760 - 17 * row + 5 * np.sin(across / 9 + row)
        if not pressure:
            points = list(zip(60 + across, high, strict=True))
        else:
            half = 0.6 + 0.3 * np.sin(across / 30)
            there = list(zip(60 + across, high + half, strict=True))
            points = there + list(zip(60 + across, high - half, strict=True))[::-1]
        drawn = [f"{x:.5f} {y:.5f} {'l' if n else 'm'}" for n, (x, y) in enumerate(points)]
        lines += [*drawn, "f" if pressure else "S"]
    return "\n".join(lines).encode()


class Strokes(FolderCase):
    def source(self, content: bytes) -> Source:
        pdf = pikepdf.new()
        pdf.add_blank_page(page_size=(595, 842))
        pdf.pages[0].Contents = pdf.make_stream(content)
        path = self.folder / "a.pdf"
        pdf.save(path, compress_streams=False)
        return Source(path=path)

    def lighten(self, source: Source, wanted: DrawingTreatment) -> tuple[float, str]:
        sheet = weigh(source)
        preset = Preset(
            name="pen", title="Pen", description="", treatment=Treatment(drawing=wanted)
        )
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(source, sheet, plan(sheet, preset), out)
        assert proof is not None, copy.reasons
        self.assertIsNot(proof.verdict, Verdict.CHECK, proof.reasons)
        return copy.bytes_after / copy.bytes_before, out.name

    def test_strokes_weigh_less_than_half(self) -> None:
        """DOMAIN: 182 kB with pressure, 92 kB without (common practice, no source)."""
        for pressure, wanted in (
            (False, DrawingTreatment(tolerance_pt=0.1)),
            (True, DrawingTreatment(tolerance_pt=0.1)),
            (True, DrawingTreatment(tolerance_pt=0.1, constant_width=True)),
        ):
            with self.subTest(pressure=pressure, wanted=wanted):
                (self.folder / "b.pdf").unlink(missing_ok=True)
                plain = self.source(handwriting(pressure=pressure))
                with pikepdf.open(plain.path) as pdf:
                    pdf.save(self.folder / "packed.pdf")
                source = Source(path=self.folder / "packed.pdf")
                share, _ = self.lighten(source, wanted)
                self.assertLess(share, 0.5)

    def test_look_the_same_to_poppler(self) -> None:
        source = self.source(handwriting(pressure=True))
        self.lighten(source, DrawingTreatment(tolerance_pt=0.05))
        drawn = []
        for name in ("a", "b"):
            subprocess.run(
                ["pdftoppm", "-r", "72", "-gray", "-singlefile", f"{name}.pdf", name],
                cwd=self.folder,
                check=True,
            )
            drawn.append(np.asarray(Image.open(self.folder / f"{name}.pgm"), np.int16))
        self.assertLess(np.abs(drawn[0] - drawn[1]).mean(), 1.0)

    def test_ordinary_drawing_stays_unless_asked(self) -> None:
        star = " ".join(
            f"{300 + 200 * math.cos(n * 2.4):.5f} {400 + 200 * math.sin(n * 2.4):.5f} "
            f"{'l' if n else 'm'}"
            for n in range(40)
        )
        source = self.source(f"{star} S".encode() + b"\n" * 5000)
        self.lighten(source, DrawingTreatment(tolerance_pt=2))
        with pikepdf.open(self.folder / "b.pdf") as pdf:
            self.assertEqual(pdf.pages[0].Contents.read_bytes().strip(), f"{star} S".encode())


class Simplified(FolderCase):
    @given(
        st.lists(st.tuples(st.floats(-500, 500), st.floats(-500, 500)), min_size=2, max_size=60),
        st.floats(0.01, 20),
    )
    def test_lines_pass_every_point_within_the_tolerance(
        self, points: list[tuple[float, float]], tolerance: float
    ) -> None:
        """What Douglas & Peucker (1973) promise."""
        line = np.array(points)
        kept = simplify(line, tolerance)
        np.testing.assert_array_equal(kept[[0, -1]], line[[0, -1]])
        for x, y in points:
            nearest = min(_distance((x, y), kept[n], kept[n + 1]) for n in range(len(kept) - 1))
            self.assertLessEqual(nearest, tolerance + 1e-6)


def _distance(point: tuple[float, float], start: np.ndarray, end: np.ndarray) -> float:
    along = end - start
    length = float(along @ along)
    share = 0.0 if length == 0 else min(1.0, max(0.0, float((point - start) @ along) / length))
    return math.dist(point, start + share * along)


class Worth(FolderCase):
    def test_simplifying_is_worth_it_for_strokes_and_not_for_text(self) -> None:
        for content, is_worth in ((handwriting(pressure=False), True), (b"BT ET " * 9000, False)):
            with self.subTest(is_worth=is_worth):
                pdf = pikepdf.new()
                pdf.add_blank_page(page_size=(595, 842))
                pdf.pages[0].Contents = pdf.make_stream(content)
                path = self.folder / "a.pdf"
                pdf.save(path, compress_streams=False)
                found = switch_savings(weigh(Source(path=path)))["drawing"]
                self.assertEqual(found > 10_000, is_worth, found)
