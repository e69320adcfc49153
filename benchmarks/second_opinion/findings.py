"""Findings of a comparison, and the judgement of a verdict by them."""

import shutil
import subprocess
from collections import Counter
from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Comparison", "Judgement", "block_step", "differences", "judge", "run"]

# The mean of a channel over a block of 8 x 8 pixels that somebody sees has changed, of 255.
BLOCK_PX = 8
_LONGEST_S = 120

Comparison = Callable[[Path, Path], Iterator[str]]
Pixels = NDArray[np.int16]


class Judgement(StrEnum):
    """Judgement of a verdict by the findings of independent readers."""

    RIGHT = "right"
    FALSE_COMFORT = "false comfort"  # same or close, and something is lost
    FALSE_ALARM = "false alarm"  # check, and no reader finds anything
    REFUSED = "refused"
    NO_COPY = "no copy"


@dataclass(frozen=True, slots=True)
class Run:
    """Exit code and output of a program."""

    code: int
    output: bytes

    @property
    def text(self) -> str:
        return self.output.decode("utf-8", "replace")


def run(*command: str | Path) -> Run:
    """Run a reader. A program that is not installed, or takes too long, finds nothing: code -1."""
    if shutil.which(str(command[0])) is None:
        return Run(-1, b"")
    try:
        ran = subprocess.run(command, capture_output=True, timeout=_LONGEST_S, check=False)
    except subprocess.TimeoutExpired:
        return Run(-1, b"")
    return Run(ran.returncode, ran.stdout)


def judge(verdict: str | None, found: Sequence[str]) -> Judgement:
    """verdict: None where there is no copy. found: what was lost, by independent readers."""
    if verdict is None:
        return Judgement.NO_COPY
    if verdict in ("same", "close"):
        return Judgement.FALSE_COMFORT if found else Judgement.RIGHT
    return Judgement.RIGHT if found else Judgement.FALSE_ALARM


def differences(what: str, before: Iterable[Hashable], after: Iterable[Hashable]) -> Iterator[str]:
    """Say what was lost of a list of things, and what was added."""
    old, new = Counter(before), Counter(after)
    lost, added = list((old - new).elements()), list((new - old).elements())
    if lost or added:
        yield f"{what}: lost {_some(lost)}, added {_some(added)}"


def _some(values: list[Any]) -> str:
    return f"{len(values)} {values[:4]!r}"[:200]


def block_step(before: Pixels, after: Pixels) -> float:
    """The largest difference of a block's mean in any channel. Both (height, width, 3) int16."""
    rows, columns = (side // BLOCK_PX for side in before.shape[:2])
    off = before - after
    if not rows or not columns:
        return float(np.abs(off.mean(axis=(0, 1))).max())
    cut = off[: rows * BLOCK_PX, : columns * BLOCK_PX]
    means = cut.reshape(rows, BLOCK_PX, columns, BLOCK_PX, 3).mean(axis=(1, 3))
    return float(np.abs(means).max())
