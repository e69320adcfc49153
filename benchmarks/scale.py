"""Throughput by number of workers: `python -m benchmarks.scale [--documents 24]`.

One installation on PostgreSQL and Redis, on the loopback; its workers are machines of their own,
each with a working folder of its own and kept to one core, in turn. Prints documents weighed and
copied a minute, and the ratio to one worker, against the cores that there are.
"""

import argparse
import os
import random
import sys
import tempfile
import time
from contextlib import ExitStack
from pathlib import Path

from benchmarks.installation import Installation
from benchmarks.kill import Strain
from benchmarks.machines import WorkerMachine, are_there, shared_servers

_PORT = 8975


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--documents", type=int, default=24)
    parser.add_argument("--workers", type=int, nargs="+", default=[1, 2, 4])
    options = parser.parse_args()
    if not are_there():
        print("This needs Debian's redis-server and postgresql.", file=sys.stderr)
        return 1
    cores = sorted(os.sched_getaffinity(0))
    alone = 0.0
    for count in options.workers:
        rate = _documents_a_minute(options.documents, count, cores)
        alone = alone or rate
        print(
            f"{count} workers, {min(count, len(cores))} cores: {rate:5.1f} documents a minute, "
            f"{rate / alone:.2f} times one worker",
            flush=True,
        )
    return 0


def _documents_a_minute(documents: int, workers: int, cores: list[int]) -> float:
    with ExitStack() as stack:
        folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        shared = stack.enter_context(shared_servers(folder))
        # What others do meanwhile is not what is measured.
        shared = {**shared, "GREEN_SATCHEL_TRIALS": "0"}
        place = Installation(folder / "server", _PORT, people=1, workers=0, shared=shared)
        place.start()
        stack.callback(place.stop)
        strain = Strain(place, random.Random(1))
        stack.callback(strain.close)
        satchel = strain.convert_with_office(documents)
        for number in range(workers):
            core = cores[number % len(cores)]
            machine = WorkerMachine(place, folder / f"machine {number}", core=core)
            stack.callback(machine.stop)
        place.wait_for_workers(workers)
        began = time.monotonic()
        strain.until_weighed(satchel)
        strain.start_copies(satchel)
        strain.until_copied(satchel)
        return documents * 60 / (time.monotonic() - began)


if __name__ == "__main__":
    sys.exit(main())
