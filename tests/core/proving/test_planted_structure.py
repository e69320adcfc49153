"""Faults of structure and of words, planted in copies that passed their proof, are found."""

import itertools

from benchmarks.planted_structure import KINDS
from tests.builders import FolderCase

_MOST = 10


class PlantedStructure(FolderCase):
    def test_every_planted_fault_is_found(self) -> None:
        for kind, plant in KINDS.items():
            with self.subTest(kind):
                folder = self.folder / kind
                folder.mkdir()
                seen = list(itertools.islice(plant(folder, 4), _MOST))
                self.assertGreaterEqual(len(seen), 3)
                self.assertEqual(seen.count(False), 0)
