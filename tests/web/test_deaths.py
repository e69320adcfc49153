"""A whole installation with something killed in it; `benchmarks/kill.py` does it longer."""

import random
import tempfile
import unittest
from pathlib import Path

from benchmarks.installation import Installation
from benchmarks.kill import KILLED, MOMENTS, Strain

_PORT = 8973


class Deaths(unittest.TestCase):
    def test_killed_processes_lose_nothing_leave_nothing_and_stop_nobody(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            place = Installation(Path(folder), _PORT, people=1)
            place.start()
            self.addCleanup(place.stop)
            strain = Strain(place, random.Random(7))
            self.addCleanup(strain.close)
            hits = 0
            # Each moment and each kind once: what is at work just then is killed.
            for moment, kind in zip(MOMENTS, ("server", *KILLED[:3], "everything"), strict=True):
                with self.subTest(moment=moment, kind=kind):
                    seconds, faults = strain.go_through(moment, kind)
                    self.assertEqual(faults, [])
                    hits += seconds is not None
            # But for a job, there is one of each at any moment.
            self.assertGreaterEqual(hits, 4)
            # What nobody is at any more is swept away at a start.
            place.kill()
            place.start()
            place.stop()
            self.assertEqual(list(strain.faults()), [])
