"""Damaged files of every format through the whole core: `python -m benchmarks.fuzz`.

Each input is a small sound file with a few faults planted by a seed: bytes turned, cut out,
doubled; or objects, elements and members of a file given other values. It is weighed, copied and
proved. What must never happen is counted:

* foreign: an exception left that is none of ours;
* unforeseen: a file was refused for a reason that nobody thought of, which may be a fault of ours;
* hung: it took longer than 20 s, or its process died;
* touched: the original was changed;
* unopenable: a copy was kept that another library cannot open, or in which it finds another
  number of pages.
"""

import argparse
import collections
import contextlib
import hashlib
import multiprocessing
import os
import shutil
import tempfile
import time
import traceback
from collections.abc import Iterator
from dataclasses import dataclass
from multiprocessing.connection import Connection, wait
from pathlib import Path

from benchmarks.fuzzing.mutations import mutated
from benchmarks.fuzzing.readers import is_as_readable
from benchmarks.fuzzing.seeds import write_seeds
from lighten import (
    LightenError,
    Order,
    Source,
    UnforeseenDamageError,
    make,
    preset_named,
    weigh,
)

LONGEST_S = 20.0
# A step of ours that fails must be seen, and not be left out of the copy.
os.environ.setdefault("GREEN_SATCHEL_STRICT", "1")
_PRESETS = ("post", "as-it-was", "feather", "scan-stack")
# A process of its own is begun anew after so many, so that what one leaves behind is no other's.
_INPUTS_A_PROCESS = 200


@dataclass(frozen=True, slots=True)
class Found:
    """Result of one input. what: "copy", "refused", or one of the counts above."""

    number: int
    seed: str
    what: str
    detail: str = ""
    seconds: float = 0.0


def try_input(seed: Path, number: int, folder: Path) -> Found:
    """Damage a copy of the seed by its number, and take it through the core."""
    began = time.monotonic()
    damaged = folder / f"input-{number}{seed.suffix}"
    damaged.write_bytes(mutated(seed.read_bytes(), seed.suffix, number))
    before = hashlib.sha256(damaged.read_bytes()).digest()
    what, detail = _through_the_core(damaged, folder / f"copy-{number}", number)
    if hashlib.sha256(damaged.read_bytes()).digest() != before:
        what = "touched"
    if what in ("copy", "refused"):
        damaged.unlink()
    return Found(number, seed.name, what, detail, time.monotonic() - began)


def _through_the_core(damaged: Path, out: Path, number: int) -> tuple[str, str]:
    source = Source(path=damaged)
    order = Order(preset=preset_named(_PRESETS[number % len(_PRESETS)]))
    try:
        made = make(source, weigh(source), order, out)
    except UnforeseenDamageError:
        # Refused, but it is to be mended all the same.
        return "unforeseen", traceback.format_exc()
    except LightenError as error:
        return "refused", error.code
    except Exception:
        return "foreign", traceback.format_exc()
    if made.copy.path is None:
        return "refused", "no copy"
    # What came out may be of another kind than what went in.
    reason = is_as_readable(damaged, made.copy.path, made.name)
    made.copy.path.unlink()
    return ("unopenable", reason) if reason else ("copy", made.proof.verdict if made.proof else "")


def _work(orders: Connection, folder: Path) -> None:
    """Try inputs in a worker process, and report the result of each."""
    with Path(os.devnull).open("w") as nothing, contextlib.redirect_stderr(nothing):
        os.dup2(nothing.fileno(), 2)
        while (order := orders.recv()) is not None:
            seed, number = order
            orders.send(try_input(seed, number, folder))


class _Worker:
    """A process that tries one input at a time."""

    def __init__(self, folder: Path) -> None:
        self.connection, theirs = multiprocessing.Pipe()
        self._process = multiprocessing.Process(target=_work, args=(theirs, folder), daemon=False)
        self._process.start()
        theirs.close()
        self.order: tuple[Path, int] | None = None
        self.since, self.count = time.monotonic(), 0

    def tell(self, seed: Path, number: int) -> None:
        self.order, self.since, self.count = (seed, number), time.monotonic(), self.count + 1
        self.connection.send(self.order)

    def end(self) -> None:
        self._process.kill()
        self._process.join()


def run(seeds: list[Path], numbers: range, folder: Path, processes: int) -> Iterator[Found]:
    """Every input, as it is done."""
    waiting = iter(numbers)
    workers = [_Worker(folder) for _ in range(processes)]

    def next_input(worker: _Worker) -> None:
        number = next(waiting, None)
        worker.order = None
        if number is not None:
            worker.tell(seeds[number % len(seeds)], number)

    for worker in workers:
        next_input(worker)
    while busy := [worker for worker in workers if worker.order]:
        ready = wait([worker.connection for worker in busy], timeout=0.5)
        for at, worker in enumerate(workers):
            if not worker.order:
                continue
            seed, number = worker.order
            found: Found | None = None
            if worker.connection in ready:
                try:
                    found = worker.connection.recv()
                except EOFError:
                    found = Found(number, seed.name, "hung", "its process died")
            elif time.monotonic() - worker.since > LONGEST_S:
                found = Found(number, seed.name, "hung", f"longer than {LONGEST_S:.0f} s")
            if found is None:
                continue
            yield found
            if found.what == "hung" or worker.count >= _INPUTS_A_PROCESS:
                worker.end()
                workers[at] = worker = _Worker(folder)
            next_input(worker)
    for worker in workers:
        worker.end()


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--inputs", type=int, default=2000)
    parser.add_argument("--first", type=int, default=0, help="the number of the first input")
    parser.add_argument("--processes", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--keep", type=Path, help="a folder for inputs that found something")
    parser.add_argument("--formats", nargs="*", help="endings, without the dot")
    parser.add_argument("seeds", nargs="*", type=Path, help="files instead of the made ones")
    options = parser.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="fuzz-"))
    began = time.monotonic()
    seeds = options.seeds or write_seeds(folder / "seeds")
    if options.formats:
        seeds = [seed for seed in seeds if seed.suffix[1:] in options.formats]
    counts: collections.Counter[str] = collections.Counter()
    by_place: collections.Counter[str] = collections.Counter()
    try:
        numbers = range(options.first, options.first + options.inputs)
        for found in run(seeds, numbers, folder, options.processes):
            counts[found.what] += 1
            if found.what in ("copy", "refused"):
                counts[f"{found.what}: {found.detail}"] += 1
                continue
            last = found.detail.strip().splitlines()[-1] if found.detail else ""
            print(f"{found.number:6} {found.seed:14} {found.what}: {last}", flush=True)
            place = [line.strip() for line in found.detail.splitlines() if "lighten/" in line]
            by_place[f"{place[-1].split('lighten/')[-1] if place else ''} {last[:80]}"] += 1
            if options.keep:
                options.keep.mkdir(parents=True, exist_ok=True)
                for path in folder.glob(f"input-{found.number}.*"):
                    shutil.copy(path, options.keep)
                (options.keep / f"input-{found.number}.txt").write_text(found.detail)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    print()
    for where, count in by_place.most_common():
        print(f"{count:5} {where}")
    print(f"{options.inputs} inputs in {time.monotonic() - began:.0f} s")
    for what, count in sorted(counts.items()):
        print(f"{count:6} {what}")
    bad = ("foreign", "unforeseen", "hung", "touched", "unopenable")
    return 1 if any(counts[what] for what in bad) else 0


if __name__ == "__main__":
    raise SystemExit(main())
