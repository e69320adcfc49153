"""A few damaged files of each kind through the whole core; `make fuzz` tries thousands."""

from benchmarks.fuzz import try_input
from benchmarks.fuzzing.seeds import write_seeds
from tests.builders import FolderCase

_INPUTS_A_SEED = 3


class DamagedFiles(FolderCase):
    def test_are_refused_or_copied_soundly(self) -> None:
        seeds = dict.fromkeys(write_seeds(self.folder / "seeds"))
        for at, seed in enumerate(seeds):
            for number in range(_INPUTS_A_SEED):
                with self.subTest(seed=seed.name, number=number):
                    found = try_input(seed, 1000 * at + number, self.folder)
                    self.assertIn(found.what, ("copy", "refused"), found.detail)
