"""Work on several cores, results in the order of the jobs."""

import importlib
import multiprocessing
import os
import signal
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from contextlib import contextmanager
from contextvars import ContextVar
from multiprocessing import forkserver
from typing import TypeVar

__all__ = [
    "SECONDS_A_FONT",
    "SECONDS_A_PAGE",
    "Workers",
    "keep_workers",
    "open_workers",
    "prepare_to_work",
]

Job = TypeVar("Job")
Result = TypeVar("Result")

# Few jobs wait at a time: each may hold the pixels of a large picture.
_JOBS_PER_WORKER = 3
# Loaded once, before workers are forked from the process that starts them.
_PRELOADED = ["lighten.worker_start"]
# Starting them takes about a second and a half of one core: what they must save, in seconds.
_WORTH_STARTING_S = 4.0
# About what one core takes for what is done in processes.
SECONDS_A_PAGE, SECONDS_A_FONT = 0.25, 0.05
_kept: ContextVar["Workers | None"] = ContextVar("kept", default=None)


class Workers:
    """Threads and processes, each started with the first job that is worth it.

    Threads share what they work on, for jobs whose libraries let go of the interpreter: pictures,
    packing. Processes never wait for one another, for jobs that are mostly Python, or that use a
    library that works on one thing at a time: fonts, pages.
    """

    def __init__(self) -> None:
        self._count = len(os.sched_getaffinity(0))
        self._threads: Executor | None = None
        self._processes: ProcessPoolExecutor | None = None

    def in_threads(self, work: Callable[[Job], Result], jobs: Iterable[Job]) -> Iterator[Result]:
        """The results of `work`, in the order of `jobs`; errors are raised in their places."""
        if self._threads is None:
            self._threads = ThreadPoolExecutor(self._count)
        return self._run(self._threads, work, jobs)

    def in_processes(
        self, work: Callable[[Job], Result], jobs: Iterable[Job], *, seconds: float
    ) -> Iterator[Result]:
        """Map as `in_threads`; `work` is a module's function, and jobs and results can be pickled.

        seconds: about how long it takes one core. What is not worth starting processes for is done
        in place.
        """
        if not self.are_worth_it(seconds):
            return map(work, jobs)
        if self._processes is None:
            # Not "fork": the parent may have threads of the picture library running.
            self._processes = ProcessPoolExecutor(
                self._count, mp_context=_context(), initializer=_begin_work
            )
        return self._run(self._processes, work, jobs)

    def are_worth_it(self, seconds: float) -> bool:
        """Return whether processes are quicker than one core for work of that length."""
        return self._count > 1 and (self._processes is not None or seconds > _WORTH_STARTING_S)

    def expect(self, seconds: float) -> None:
        """Let what processes are forked from load what they need, if it will be worth it.

        seconds: of the work to come, about, on one core.
        """
        if self.are_worth_it(seconds):
            _context()
            forkserver.ensure_running()

    def close(self) -> None:
        """Wait for what is under way, and end threads and processes."""
        for pool in (self._processes, self._threads):
            if pool is not None:
                pool.shutdown(cancel_futures=True)

    def abort(self) -> None:
        """End threads and processes without waiting for what is under way in them."""
        if self._processes is not None:
            for process in list((self._processes._processes or {}).values()):
                process.terminate()
        for pool in (self._processes, self._threads):
            if pool is not None:
                pool.shutdown(wait=False, cancel_futures=True)

    def _run(
        self, pool: Executor, work: Callable[[Job], Result], jobs: Iterable[Job]
    ) -> Iterator[Result]:
        waiting: deque[Future[Result]] = deque()
        try:
            for job in jobs:
                waiting.append(pool.submit(work, job))
                if len(waiting) >= self._count * _JOBS_PER_WORKER:
                    yield waiting.popleft().result()
            while waiting:
                yield waiting.popleft().result()
        finally:
            for future in waiting:
                future.cancel()


def _context() -> "multiprocessing.context.ForkServerContext":
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(_PRELOADED)
    return context


def _begin_work() -> None:
    """Prepare a worker process.

    The picture library would start threads of its own in every process. An interrupt from the
    keyboard reaches all processes of a terminal: the one that started them ends them.
    """
    os.environ["VIPS_CONCURRENCY"] = "1"
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def prepare_to_work() -> None:
    """Load what all work needs, so that processes that are forked from this one begin at once.

    Starts no thread of its own.
    """
    for name in _PRELOADED:
        importlib.import_module(name)


@contextmanager
def open_workers() -> Iterator[Workers]:
    """Open workers for one piece of work; kept workers (see `keep_workers`) stay open."""
    kept = _kept.get()
    if kept is not None:
        yield kept
        return
    workers = Workers()
    with _closing(workers):
        yield workers


@contextmanager
def keep_workers() -> Iterator[None]:
    """Share one set of workers among all work inside the block."""
    if _kept.get() is not None:
        yield
        return
    workers = Workers()
    token = _kept.set(workers)
    try:
        with _closing(workers):
            yield
    finally:
        _kept.reset(token)


@contextmanager
def _closing(workers: Workers) -> Iterator[None]:
    """Close workers afterwards; at once where the program is to end."""
    try:
        yield
    except (KeyboardInterrupt, SystemExit):
        workers.abort()
        raise
    except BaseException:
        workers.close()
        raise
    workers.close()
