"""Work on several cores, results in the order of the jobs."""

import multiprocessing
import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from contextlib import contextmanager
from contextvars import ContextVar
from multiprocessing import forkserver
from typing import TypeVar

__all__ = ["Workers", "keep_workers", "open_workers"]

Job = TypeVar("Job")
Result = TypeVar("Result")

# Few jobs wait at a time: each may hold the pixels of a large picture.
_JOBS_PER_WORKER = 3
# Loaded once, before workers are forked from the process that starts them.
_PRELOADED = ["lighten.worker_start"]
# They take a second to start, beside other work.
_WORTH_STARTING_AHEAD_BYTES = 1_000_000
_kept: ContextVar["Workers | None"] = ContextVar("kept", default=None)


class Workers:
    """Workers that start with the first job; with one worker all is done in place.

    Processes, so that they never wait for one another; or threads, which start at once and share
    what they work on, for jobs whose libraries let go of the interpreter.
    """

    def __init__(self, count: int, *, are_threads: bool = False) -> None:
        self.count = count
        self._are_threads = are_threads
        self._processes: Executor | None = None
        self._threads: Executor | None = None

    def run(
        self,
        work: Callable[[Job], Result],
        jobs: Iterable[Job],
        *,
        suits_thread: Callable[[Job], bool] | None = None,
    ) -> Iterator[Result]:
        """The results of `work`, in the order of `jobs`.

        `work` is a module's function, and jobs and results can be pickled. An error of a job is
        raised where its result would be. suits_thread: jobs that lose nothing in a thread.
        """
        if self.count < 2:
            yield from map(work, jobs)
            return
        waiting: deque[Future[Result]] = deque()
        try:
            for job in jobs:
                in_thread = self._are_threads or (suits_thread is not None and suits_thread(job))
                pool = self._started_threads() if in_thread else self._started_processes()
                waiting.append(pool.submit(work, job))
                if len(waiting) >= self.count * _JOBS_PER_WORKER:
                    yield waiting.popleft().result()
            while waiting:
                yield waiting.popleft().result()
        finally:
            for future in waiting:
                future.cancel()

    def close(self) -> None:
        for pool in (self._processes, self._threads):
            if pool is not None:
                pool.shutdown(cancel_futures=True)

    def _started_threads(self) -> Executor:
        if self._threads is None:
            self._threads = ThreadPoolExecutor(self.count)
        return self._threads

    def _started_processes(self) -> Executor:
        if self._processes is None:
            # Not "fork": the parent may have threads of the picture library running.
            self._processes = ProcessPoolExecutor(
                self.count, mp_context=_context(), initializer=_keep_to_one_core
            )
        return self._processes


def _context() -> "multiprocessing.context.ForkServerContext":
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(_PRELOADED)
    return context


def _keep_to_one_core() -> None:
    """The picture library would start threads of its own in every process."""
    os.environ["VIPS_CONCURRENCY"] = "1"


@contextmanager
def open_workers(count: int | None = None, *, are_threads: bool = False) -> Iterator[Workers]:
    """Workers for one piece of work, as many as there are cores unless `count` says otherwise.

    Processes that somebody keeps (see `keep_workers`) are used, and go on.
    """
    kept = _kept.get()
    if kept is not None and count is None and not are_threads:
        yield kept
        return
    workers = Workers(count or len(os.sched_getaffinity(0)), are_threads=are_threads)
    try:
        yield workers
    finally:
        workers.close()


@contextmanager
def keep_workers(*, work_bytes: int = 0) -> Iterator[None]:
    """One set of processes for all pieces of work within, whoever opens workers for them.

    work_bytes: of the heaviest file that is about to be worked on; where it is worth it, what they
    are forked from loads what they need while other things are done.
    """
    if _kept.get() is not None:
        yield
        return
    workers = Workers(len(os.sched_getaffinity(0)))
    if work_bytes > _WORTH_STARTING_AHEAD_BYTES and workers.count > 1:
        _context()
        forkserver.ensure_running()
    token = _kept.set(workers)
    try:
        yield
    finally:
        _kept.reset(token)
        workers.close()
