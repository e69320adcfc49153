"""Loops compiled once and loaded without their compiler, against numpy."""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lighten.compiled import FOLDER_SETTING, _keep, _places_for, compiled, jit_helper

Floats = np.ndarray


@jit_helper
def _half(value):  # type: ignore[no-untyped-def] # one number in, one out
    return value * np.float32(0.5)


@compiled
def _blend(
    planes: tuple[Floats, Floats], weights: tuple[float, ...], by: float, out: Floats
) -> None:
    one, other = planes
    height, width = out.shape
    for y in range(height):
        for x in range(width):
            mixed = one[y, x] * weights[0] + other[y, x] * weights[1]
            out[y, x] = _half(mixed) + np.float32(by)


@compiled
def _hoard(plane: Floats, out: Floats) -> None:
    out[:] = np.cumsum(plane)


class Compiled(unittest.TestCase):
    @settings(max_examples=20)
    @given(st.integers(1, 40), st.integers(1, 40), st.floats(-9, 9, width=32))
    def test_loops_fill_what_they_are_given(self, height: int, width: int, by: float) -> None:
        rng = np.random.default_rng(height * 41 + width)
        one, other = rng.random((2, height, width), np.float32)
        weights, out = (np.float32(0.25), np.float32(2)), np.empty_like(one)
        _blend((one, other), weights, by, out)
        np.testing.assert_allclose(out, (one * 0.25 + other * 2) / 2 + by, rtol=1e-5, atol=1e-5)

    def test_other_kinds_of_arrays_are_other_code(self) -> None:
        levels = np.arange(12, dtype=np.uint8).reshape(3, 4)
        out = np.empty((3, 4), np.float64)
        _blend((levels, levels), (np.float32(1), np.float32(1)), 0.5, out)
        np.testing.assert_allclose(out, levels + 0.5)

    def test_unsupported_arguments_are_refused(self) -> None:
        plane, out = np.zeros((8, 8), np.float32), np.zeros((8, 8), np.float32)
        weights = (np.float32(1), np.float32(1))
        with self.assertRaisesRegex(ValueError, "one piece"):
            _blend((plane[:, ::2], plane), weights, 0.0, out)
        with self.assertRaisesRegex(TypeError, "takes no str"):
            _blend((plane, plane), weights, "0", out)  # type: ignore[arg-type] # on purpose
        with self.assertRaisesRegex(TypeError, "may not make arrays"):
            _hoard(plane[0], out[0])

    def test_another_numba_is_called_through_its_own_dispatcher(self) -> None:
        loop = compiled(_blend.function)
        plane, out = np.ones((5, 7), np.float32), np.empty((5, 7), np.float32)
        with (
            tempfile.TemporaryDirectory() as folder,
            patch("lighten.compiled.TRIED_NUMBA", ((0, 1), (0, 2))),
            patch("lighten.compiled._places_for", return_value=[Path(folder) / "none"]),
        ):
            loop((plane, plane), (np.float32(1), np.float32(1)), 0.5, out)
        np.testing.assert_allclose(out, 1.5)
        self.assertEqual(loop._known, {})

    def test_a_cache_that_cannot_lie_beside_its_module_lies_in_the_users_folder(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            patch.dict(os.environ, {FOLDER_SETTING: str(Path(folder) / "own")}),
        ):
            beside, own = _places_for(_blend.function, (0.0,))
            self.assertEqual((beside.parent.name, own.parent.name), ("__pycache__", "own"))
            nowhere = Path(folder) / "a file" / beside.name
            nowhere.parent.touch()
            _keep([nowhere, own], b"code")
            self.assertEqual(own.read_bytes(), b"code")
            # Where nothing can be written it is compiled again the next time.
            _keep([nowhere], b"code")

    def test_an_installation_compiles_all_that_a_copy_needs(self) -> None:
        """Nobody waits for the compiler: it is not even loaded."""
        code = """
import sys
from pathlib import Path
from lighten import Order, Source, make, weigh
from tests.core.formats.pdf.samples import report
import lighten.worker_start
source = report(Path(sys.argv[1]) / "a.pdf")
made = make(source, weigh(source), Order(), Path(sys.argv[1]) / "b.pdf")
assert made.proof is not None and made.proof.verdict == "close", made.proof
assert "numba" not in sys.modules
"""
        with tempfile.TemporaryDirectory() as folder:
            command = [sys.executable, "-c", code, folder]
            done = subprocess.run(command, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
