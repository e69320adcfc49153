"""A few damaged files of each kind through the whole core; `make fuzz` tries thousands."""

import functools
from collections.abc import Callable

from benchmarks.fuzz import try_input
from benchmarks.fuzzing.seeds import SEEDS
from tests.builders import FolderCase

_INPUTS_A_SEED = 4


class DamagedFiles(FolderCase):
    def refused_or_sound(self, name: str, at: int) -> None:
        SEEDS[name](self.folder / name)
        for number in range(1000 * at, 1000 * at + _INPUTS_A_SEED):
            with self.subTest(number=number):
                found = try_input(self.folder / name, number, self.folder)
                self.assertIn(found.what, ("copy", "refused"), found.detail)


def _test(name: str, at: int) -> Callable[[DamagedFiles], None]:
    return functools.partialmethod(DamagedFiles.refused_or_sound, name, at)  # type: ignore[return-value] # binds as one


# One of each, so that none takes long.
for _at, _name in enumerate(SEEDS):
    _words = f"test_of_{_name.replace('.', '_')}_are_sound_or_refused"
    setattr(DamagedFiles, _words, _test(_name, _at))
