"""The public names of the package, and the modules that it loads."""

import doctest
import subprocess
import sys
import unittest

import lighten


class PublicNames(unittest.TestCase):
    def test_all_is_there_and_sorted_by_kind(self) -> None:
        for name in lighten.__all__:
            with self.subTest(name=name):
                self.assertTrue(hasattr(lighten, name))

    def test_the_steps_of_the_work_are_there(self) -> None:
        steps = {"weigh", "plan", "estimate", "make_copy", "prove"}
        self.assertLessEqual(steps, set(lighten.__all__))

    def test_importing_it_loads_no_heavy_library(self) -> None:
        heavy = "{'pikepdf', 'pyvips', 'pypdfium2', 'PIL', 'django', 'deflate'}"
        code = f"import sys, lighten; print(sorted({heavy} & set(sys.modules)))"
        ran = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=False
        )
        self.assertEqual(ran.stdout.strip(), "[]", ran.stderr)

    def test_example_of_its_docstring_runs(self) -> None:
        self.assertEqual(doctest.testmod(lighten).failed, 0)
