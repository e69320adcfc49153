"""Processes that jobs are done in, and what they are forked from."""

import os
import signal
import subprocess
import sys
import time
import unittest
from pathlib import Path
from unittest.mock import patch

from web.jobs.nursery import JobProcess, Nursery

# A worker with a job that waits to be told what to do; says its process number.
_WORKER = """
import sys, time
import django
django.setup()
from web.jobs.nursery import Nursery
nursery = Nursery()
print(nursery.start().pid, flush=True)
time.sleep(60)
"""


def _is_there(pid: int) -> bool:
    """And no zombie, which its parent has only not asked after yet."""
    try:
        return "\nState:\tZ" not in Path(f"/proc/{pid}/status").read_text()
    except OSError:
        return False


def _parent_of(job: JobProcess) -> int:
    status = Path(f"/proc/{job.pid}/status").read_text()
    return next(int(line.split()[1]) for line in status.split("\n") if line.startswith("PPid"))


def _is_gone_soon(pid: int) -> bool:
    until = time.monotonic() + 30
    while _is_there(pid) and time.monotonic() < until:
        time.sleep(0.02)
    return not _is_there(pid)


class Jobs(unittest.TestCase):
    nursery: Nursery

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.nursery = Nursery()
        cls.addClassCleanup(cls.nursery.close)

    def start(self) -> JobProcess:
        job = self.nursery.start()
        self.addCleanup(job.end)
        return job

    def test_jobs_are_forked_from_one_process_that_has_loaded_the_core(self) -> None:
        self.assertEqual(_parent_of(self.start()), _parent_of(self.start()))

    def test_jobs_are_at_work_until_they_have_ended(self) -> None:
        job = self.start()
        self.assertIsNone(job.poll())
        job.kill()
        self.assertEqual(job.wait(5), -signal.SIGKILL)

    def test_jobs_leave_no_process_behind(self) -> None:
        job = self.start()
        job.end()
        self.assertFalse(_is_there(job.pid))

    def test_jobs_end_by_themselves_without_a_message(self) -> None:
        job = self.start()
        job.stdin.close()
        self.assertEqual(job.wait(5), 0)

    def test_jobs_begin_again_after_what_they_are_forked_from_was_killed(self) -> None:
        job = self.start()
        os.kill(_parent_of(job), signal.SIGKILL)
        self.assertTrue(_is_gone_soon(job.pid))
        self.assertEqual(job.poll(), -signal.SIGKILL)
        self.assertIsNone(self.start().poll())

    def test_jobs_begin_elsewhere_where_what_they_are_forked_from_hangs(self) -> None:
        nursery = Nursery()
        self.addCleanup(nursery.close)
        stuck = _parent_of(nursery.start())
        assert nursery._parent is not None
        nursery._parent._control.settimeout(0.2)
        os.kill(stuck, signal.SIGSTOP)
        with patch("web.jobs.nursery._ENDING_S", 0.2):
            self.assertIsNone(nursery.start().poll())
        self.assertTrue(_is_gone_soon(stuck))

    def test_jobs_go_with_the_worker_that_they_were_started_for(self) -> None:
        worker = subprocess.Popen(
            [sys.executable, "-c", _WORKER],
            stdout=subprocess.PIPE,
            env={**os.environ, "DJANGO_SETTINGS_MODULE": "config.settings"},
        )
        assert worker.stdout is not None
        with worker, worker.stdout:
            pid = int(worker.stdout.readline())
            self.assertTrue(_is_there(pid))
            worker.kill()
        self.assertTrue(_is_gone_soon(pid))
