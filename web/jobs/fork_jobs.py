"""Process that loads the core once and forks for each job, so that jobs begin at once.

`python -m web.jobs.fork_jobs N` speaks over the socket of that number. What it is told, and says:
"start", with the files that are the job's standard input and output: its process number;
"look N": its exit status, or "" while it is at work; "end N": the same, of a job that has been
ended with all that it started. It ends, and each of its jobs, once nobody holds the other end.
Knows the core and no Django.
"""

import contextlib
import ctypes
import os
import signal
import socket
import sys

from lighten import prepare_to_work
from web.jobs.process import main as do_job

_LONGEST_MESSAGE, _FILES = 64, 2
# A job goes with what it was forked from, whatever that dies of (prctl(2)).
_PR_SET_PDEATHSIG = 1


def main(number: int) -> int:
    # Whoever started this is told to stop by the terminal as well, and lets go of it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    prepare_to_work()
    at_work: set[int] = set()
    with socket.socket(fileno=number) as control:
        while True:
            message, files, _, _ = socket.recv_fds(control, _LONGEST_MESSAGE, _FILES)
            if not message:
                break
            verb, _, job = message.decode().partition(" ")
            if verb == "start":
                pid = _fork(files, control)
                at_work.add(pid)
                said = str(pid)
            else:
                is_left = verb == "look" and _is_at_work(int(job))
                said = "" if is_left else _end(int(job))
                if said:
                    at_work.discard(int(job))
            control.send(said.encode() or b" ")
    for pid in at_work:
        _end(pid)
    return 0


def _fork(files: list[int], control: socket.socket) -> int:
    parent = os.getpid()
    pid = os.fork()
    if pid == 0:
        _become_job(files, control, parent)
    for file in files:
        os.close(file)
    return pid


def _become_job(files: list[int], control: socket.socket, parent: int) -> None:
    """Do one job and end the process. Never returns."""
    status = 1
    try:
        control.close()
        os.setsid()
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
        # The signal does not come from a parent that died before it was asked for.
        if os.getppid() != parent:
            os._exit(status)
        signal.signal(signal.SIGINT, signal.SIG_DFL)
        for place, file in enumerate(files):
            os.dup2(file, place)
            os.close(file)
        status = do_job()
        sys.stdout.flush()
    except BaseException:  # noqa: BLE001 # whatever it is, this forks no jobs
        sys.excepthook(*sys.exc_info())
    finally:
        os._exit(status)


def _is_at_work(pid: int) -> bool:
    """Return whether a job is at work. An ended one is not reaped: its number stays taken."""
    return os.waitid(os.P_PID, pid, os.WEXITED | os.WNOHANG | os.WNOWAIT) is None


def _end(pid: int) -> str:
    """End a job with all its processes; return its exit status, its own if it had ended already."""
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(pid, signal.SIGKILL)
    # One that had not yet become the first of a group of its own.
    os.kill(pid, signal.SIGKILL)
    _, status = os.waitpid(pid, 0)
    return str(os.waitstatus_to_exitcode(status))


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1])))
