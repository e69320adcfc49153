"""Work on several cores, results in the order of the jobs."""

import multiprocessing
import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from contextlib import contextmanager
from typing import TypeVar

__all__ = ["Workers", "open_workers"]

Job = TypeVar("Job")
Result = TypeVar("Result")

# Few jobs wait at a time: each may hold the pixels of a large picture.
_JOBS_PER_WORKER = 3
# Loaded once, before workers are forked from the process that starts them.
_PRELOADED = ["numpy", "PIL.Image", "PIL.JpegImagePlugin", "pikepdf", "pypdfium2"]


class Workers:
    """Workers that start with the first job; with one worker all is done in place.

    Processes, so that they never wait for one another; or threads, which start at once, for
    short jobs whose libraries let go of the interpreter.
    """

    def __init__(self, count: int, *, are_threads: bool = False) -> None:
        self.count = count
        self._are_threads = are_threads
        self._pool: Executor | None = None

    def run(self, work: Callable[[Job], Result], jobs: Iterable[Job]) -> Iterator[Result]:
        """The results of `work`, in the order of `jobs`.

        `work` is a module's function, and jobs and results can be pickled. An error of a job is
        raised where its result would be.
        """
        if self.count < 2:
            yield from map(work, jobs)
            return
        waiting: deque[Future[Result]] = deque()
        for job in jobs:
            waiting.append(self._started().submit(work, job))
            if len(waiting) >= self.count * _JOBS_PER_WORKER:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()

    def close(self) -> None:
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=True)

    def _started(self) -> Executor:
        if self._pool is None and self._are_threads:
            self._pool = ThreadPoolExecutor(self.count)
        elif self._pool is None:
            # Not "fork": the parent may have threads of the picture library running.
            context = multiprocessing.get_context("forkserver")
            context.set_forkserver_preload(_PRELOADED)
            self._pool = ProcessPoolExecutor(
                self.count, mp_context=context, initializer=_keep_to_one_core
            )
        return self._pool


def _keep_to_one_core() -> None:
    """The picture library would start threads of its own in every process."""
    os.environ["VIPS_CONCURRENCY"] = "1"


@contextmanager
def open_workers(count: int | None = None, *, are_threads: bool = False) -> Iterator[Workers]:
    """Workers for one piece of work, as many as there are cores unless `count` says otherwise."""
    workers = Workers(count or len(os.sched_getaffinity(0)), are_threads=are_threads)
    try:
        yield workers
    finally:
        workers.close()
