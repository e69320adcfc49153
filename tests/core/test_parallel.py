"""Work on several cores."""

import os
import time
import unittest

from lighten.parallel import open_workers


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


class Workers(unittest.TestCase):
    def test_give_results_in_the_order_of_jobs(self) -> None:
        for count, are_threads in ((1, False), (2, False), (2, True)):
            with (
                self.subTest(count=count, are_threads=are_threads),
                open_workers(count, are_threads=are_threads) as workers,
            ):
                found = list(workers.run(square_slowly, range(12)))
                self.assertEqual(found, [number * number for number in range(12)])

    def test_are_other_processes(self) -> None:
        with open_workers(2) as workers:
            self.assertNotIn(os.getpid(), set(workers.run(where, range(4))))

    def test_alone_work_in_place(self) -> None:
        with open_workers(1) as workers:
            self.assertEqual(set(workers.run(where, range(4))), {os.getpid()})

    def test_raise_the_error_of_a_job_in_its_place(self) -> None:
        with open_workers(2) as workers:
            results = workers.run(fail_at_three, range(9))
            self.assertEqual([next(results) for _ in range(3)], [0, 1, 2])
            with self.assertRaisesRegex(ValueError, "three"):
                next(results)

    def test_take_few_jobs_at_a_time(self) -> None:
        taken = []

        def jobs():  # type: ignore[no-untyped-def]
            for number in range(100):
                taken.append(number)
                yield number

        with open_workers(2) as workers:
            results = workers.run(square_slowly, jobs())
            next(results)
            self.assertLess(len(taken), 20)
            results.close()
