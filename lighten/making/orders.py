"""Orders for copies of a document, and their results."""

import itertools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path, PurePath

from lighten.model.fit_rules import FitRules
from lighten.model.plans import Copy, PartException
from lighten.model.presets import DEFAULT_PRESET, Preset
from lighten.model.proofs import Proof
from lighten.planning.fit.fit import Fit

__all__ = ["FitOrder", "Naming", "Order", "OrderResult", "Piece", "numbered_names"]


# What file systems take in common use (POSIX.1-2017, NAME_MAX, as Linux has it), and what a number
# after a name takes of it.
_LONGEST_NAME_BYTES, _ROOM_FOR_NUMBER = 255, 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Naming:
    """Rule for the names of copies. prefix, suffix: put around the stem."""

    prefix: str = ""
    suffix: str = "-light"

    def copy_name(self, name: str, ending: str, piece: str = "") -> str:
        """Return the name of the copy of a file called `name`.

        ending: of the copy, with the dot. piece: "-1-of-3" and the like, for one piece of it.
        """
        around = len(f"{self.prefix}{self.suffix}{piece}{ending}".encode())
        stem = _shortened(PurePath(name).stem, _LONGEST_NAME_BYTES - _ROOM_FOR_NUMBER - around)
        return f"{self.prefix}{stem}{self.suffix}{piece}{ending}"

    def may_be_copy(self, name: str) -> bool:
        """Return whether a name may be that of a copy made here, whole or a piece."""
        stem = re.sub(r"(-\d+-of-\d+)?( \d+)?$", "", PurePath(name).stem)
        is_named = stem.startswith(self.prefix) and stem.endswith(self.suffix)
        return bool(self.prefix or self.suffix) and is_named


def _shortened(text: str, most_bytes: int) -> str:
    """Return as much of the beginning as fits into so many bytes of UTF-8."""
    return text.encode()[: max(1, most_bytes)].decode(errors="ignore")


def numbered_names(name: str) -> Iterator[str]:
    """Yield the name, then numbered variants, for names that are taken."""
    yield name
    path = PurePath(name)
    for number in itertools.count(2):
        yield f"{path.stem} {number}{path.suffix}"


@dataclass(frozen=True, slots=True, kw_only=True)
class FitOrder:
    """Order for the gentlest copy within a limit. limit_bytes: of the copy, as a file.

    may_split: what cannot meet it comes in numbered pieces that do.
    """

    limit_bytes: int
    rules: FitRules = field(default_factory=FitRules)
    may_split: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """A copy as it is asked for: by a preset, or, where `fit` is set, by a limit.

    exceptions: by part id, pictures that are treated otherwise.
    may_end_signature: a person said that a signature may end.
    may_blur_text: pages held as pictures may go below what text can be read at.
    lays_out: the proof lays out to pages what has none of its own, where an office suite is.
    """

    preset: Preset = DEFAULT_PRESET
    fit: FitOrder | None = None
    exceptions: Mapping[str, PartException] = field(default_factory=dict)
    may_end_signature: bool = False
    may_blur_text: bool = False
    lays_out: bool = False
    naming: Naming = field(default_factory=Naming)


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """The pages `first` to `last` of a copy, counted from 1, as a file of their own."""

    path: Path
    first: int
    last: int
    size_bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderResult:
    """Result of an order.

    proof: None where no copy was lighter. name: what the copy is to be called.
    fit: what was decided for a limit, where there was one. pieces: of a copy that was split.
    """

    copy: Copy
    proof: Proof | None
    name: str
    fit: Fit | None = None
    pieces: tuple[Piece, ...] = ()
