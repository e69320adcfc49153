"""Progress of work, and the time left."""

import time
import unittest
from unittest.mock import patch

from lighten.model.source import TimeLeft, share_of


class Progress(unittest.TestCase):
    def test_progress_of_a_part_is_a_share_of_the_whole_and_says_what_is_done(self) -> None:
        told: list[tuple[float, str]] = []
        whole = lambda share, doing="", /: told.append((round(share, 3), doing))  # noqa: E731
        part = share_of(share_of(whole, 0.5, 1, "proving"), 0.2, 0.6)
        part(0.5)
        part(1, "reading")
        self.assertEqual(told, [(0.7, "proving"), (0.8, "reading")])

    def test_time_left_is_estimated_from_the_time_taken(self) -> None:
        with patch.object(time, "monotonic", side_effect=[100.0, 100.1, 103.0, 104.0, 112.0]):
            left = TimeLeft()
            foretold = [left.after(share) for share in (0.1, 0.01, 0.25, 1.0)]
        self.assertEqual(foretold, [None, None, 12.0, 0.0])
