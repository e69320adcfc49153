"""Work on several cores."""

import os
import subprocess
import sys
import threading
import time
import unittest
from collections.abc import Callable, Iterator

from lighten.parallel import Workers, keep_workers, open_workers

_LONG_S, _SHORT_S = 60.0, 0.1


def square_slowly(number: int) -> int:
    """Later jobs finish first."""
    time.sleep(0.02 / (number + 1))
    return number * number


def where(_job: int) -> int:
    return os.getpid()


def fail_at_three(number: int) -> int:
    if number == 3:
        raise ValueError("three")
    return number


def ways(workers: Workers) -> Iterator[Callable[..., Iterator[int]]]:
    yield workers.in_threads
    yield lambda work, jobs: workers.in_processes(work, jobs, seconds=_SHORT_S)
    yield lambda work, jobs: workers.in_processes(work, jobs, seconds=_LONG_S)


@unittest.skipIf(len(os.sched_getaffinity(0)) < 2, "one core has nobody to share with")
class Working(unittest.TestCase):
    def test_working_gives_results_in_the_order_of_jobs(self) -> None:
        with open_workers() as workers:
            for run in ways(workers):
                with self.subTest(run=run):
                    found = list(run(square_slowly, range(12)))
                    self.assertEqual(found, [number * number for number in range(12)])

    def test_working_in_processes_is_worth_it_for_long_work_only_until_they_are_there(self) -> None:
        with open_workers() as workers:
            for seconds, are_here in ((_SHORT_S, True), (_LONG_S, False), (_SHORT_S, False)):
                with self.subTest(seconds=seconds, are_here=are_here):
                    found = set(workers.in_processes(where, range(4), seconds=seconds))
                    self.assertEqual(os.getpid() in found, are_here)

    def test_working_raises_the_error_of_a_job_in_its_place(self) -> None:
        with open_workers() as workers:
            for run in ways(workers):
                with self.subTest(run=run):
                    results = run(fail_at_three, range(9))
                    self.assertEqual([next(results) for _ in range(3)], [0, 1, 2])
                    with self.assertRaisesRegex(ValueError, "three"):
                        next(results)

    def test_working_takes_few_jobs_at_a_time(self) -> None:
        taken = []

        def jobs() -> Iterator[int]:
            for number in range(100):
                taken.append(number)
                yield number

        with open_workers() as workers:
            results = workers.in_threads(square_slowly, jobs())
            next(results)
            self.assertLess(len(taken), 20)
            del results

    def test_kept_workers_are_the_same_within_and_gone_after(self) -> None:
        before = threading.active_count()
        with keep_workers():
            with open_workers() as first:
                list(first.in_threads(where, range(9)))
            with open_workers() as second:
                self.assertIs(first, second)
        self.assertEqual(threading.active_count(), before)


# Whoever waits for a thread that only its parent had is ended after ten seconds.
_FORKED = """
import os, signal
from lighten import prepare_to_work
prepare_to_work()
import numpy as np
import pyvips
pid = os.fork()
if pid == 0:
    signal.alarm(10)
    pixels = np.full((3000, 3000, 3), 200, np.uint8)
    pyvips.Image.new_from_array(pixels).resize(0.3).jpegsave_buffer()
    os._exit(0)
raise SystemExit(os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]))
"""


class Preparing(unittest.TestCase):
    def test_a_process_forked_afterwards_does_not_wait_for_threads_of_its_parent(self) -> None:
        done = subprocess.run([sys.executable, "-c", _FORKED], check=False)
        self.assertEqual(done.returncode, 0)
