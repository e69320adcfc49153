"""Check the guarantees for every copy of files of your own: `python -m benchmarks.promises
FILE...`.

For each file and each preset: the estimate, with all trials made, against the copy; the copy made
twice, the second time by the command in another process, for the same bytes; never heavier than
the original; and whether the first proof was passed. Ends with how many estimates lay outside
their band, and the 95th percentile of their errors.
"""

import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from lighten import (
    PRESETS,
    CodingCache,
    LightenError,
    Order,
    Preset,
    Source,
    WeightSheet,
    estimate,
    keep_workers,
    make,
    plan_order,
    run_trials,
    weigh,
)

_MOST_KEPT_BYTES = 2_000_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """One copy. error: of its estimate, as a share of the copy. finer: pictures coded again."""

    bytes_before: int
    bytes_after: int
    error: float
    is_in_band: bool
    is_same: bool
    finer: int
    verdict: str


def main() -> None:
    print(
        "| file | preset | bytes | estimate off | in its band | same bytes twice | finer | proof |"
    )
    print("|---" * 8 + "|")
    held = []
    for name in sys.argv[1:]:
        source = Source(path=Path(name))
        try:
            sheet = weigh(source)
        except LightenError as error:
            print(f"| {source.name} | – | {error.message} |" + " – |" * 5)
            continue
        for preset in PRESETS:
            one = _hold(source, sheet, preset)
            held.append(one)
            print(
                f"| {source.name} | {preset.title} | {one.bytes_after / one.bytes_before:.3f} "
                f"| {one.error:+.1%} | {_word(one.is_in_band)} | {_word(one.is_same)} "
                f"| {one.finer} | {one.verdict} |",
                flush=True,
            )
    errors = np.abs([one.error for one in held])
    heavier = sum(one.bytes_after > one.bytes_before for one in held)
    half, most = np.median(errors), np.percentile(errors, 95)
    print(f"\n{len(held)} copies: heavier {heavier},")
    print(f"other bytes the second time {sum(not one.is_same for one in held)},")
    print(f"estimates outside their band {sum(not one.is_in_band for one in held)},")
    print(f"their errors: half below {half:.2%}, 95 in 100 below {most:.2%}")


def _hold(source: Source, sheet: WeightSheet, preset: Preset) -> Held:
    order = Order(preset=preset, may_end_signature=True)
    chosen = plan_order(sheet, order)
    with tempfile.TemporaryDirectory() as place, keep_workers():
        folder = Path(place)
        cache = CodingCache(folder / "codings", most_bytes=_MOST_KEPT_BYTES)
        *_, (_, trials) = run_trials(source, sheet, chosen, folder, cache=cache)
        likely = estimate(sheet, chosen, trials)
        made = make(source, sheet, order, folder / "copy")
        after = made.copy.bytes_after
        command = Path(sys.executable).with_name("green-satchel")
        again = folder / "again"
        options = ["--preset", preset.name, "--out", str(again), "--allow-signed"]
        subprocess.run([command, "lighten", source.path, *options], capture_output=True, check=True)
        others = list(again.glob("*")) if again.exists() else []
        is_same = (
            others[0].read_bytes() == made.copy.path.read_bytes()
            if made.copy.path is not None and others
            else made.copy.path is None and not others
        )
    return Held(
        bytes_before=sheet.size_bytes,
        bytes_after=after,
        error=likely.size_bytes / after - 1,
        is_in_band=likely.low_bytes <= after <= likely.high_bytes,
        is_same=is_same,
        finer=sum("failed the proof" in outcome.reason for outcome in made.copy.outcomes),
        verdict=str(made.proof.verdict) if made.proof else "–",
    )


def _word(is_so: bool) -> str:
    return "yes" if is_so else "**no**"


if __name__ == "__main__":
    main()
