"""Nine of ten copies lie inside the band that was foretold: over generated documents."""

import numpy as np

from benchmarks.files import make_mixed_book
from lighten import Source, estimate, make_copy, plan, preset_named, weigh
from lighten.making.run_trials import run_trials
from lighten.pictures.recoding.coding_cache import CodingCache
from tests.builders import FolderCase


class Bands(FolderCase):
    def test_bands_hold_nine_of_ten_copies_while_trials_land_and_after(self) -> None:
        inside, off = [], []
        for seed in range(2):
            path = self.folder / f"{seed}.pdf"
            make_mixed_book(path, seed=seed + 70, pictures=12)
            source = Source(path=path)
            sheet = weigh(source)
            cache = CodingCache(self.folder / "codings", most_bytes=100_000_000)
            for name in ("print-room", "reading-desk", "post", "feather"):
                chosen = plan(sheet, preset_named(name))
                weight = make_copy(
                    source, sheet, chosen, self.folder / f"{seed}-{name}", cache=cache
                ).bytes_after
                seen = [
                    estimate(sheet, chosen, trials)
                    for _, trials in run_trials(source, sheet, chosen, self.folder, cache=cache)
                ]
                inside += [
                    likely.low_bytes <= weight <= likely.high_bytes
                    for likely in (seen[0], seen[len(seen) // 2], seen[-1])
                ]
                off.append(abs(seen[-1].size_bytes / weight - 1))
        self.assertGreaterEqual(np.mean(inside), 0.9)
        self.assertLess(np.percentile(off, 95), 0.06)
