"""JPEG repacking in separate processes, as the library refuses a file by ending its process.

This file by itself is such a process: it is sent a JPEG at a time, each with its
length before it, it answers likewise, with nothing for one that it cannot pack.
"""

import atexit
import struct
import subprocess
import sys
from queue import Empty, SimpleQueue
from typing import IO

__all__ = ["repack_beside"]

_LENGTH = struct.Struct(">Q")
_idle: "SimpleQueue[subprocess.Popen[bytes]]" = SimpleQueue()


@atexit.register
def _end_idle() -> None:
    while not _idle.empty():
        _idle.get_nowait().communicate()


def repack_beside(data: bytes) -> bytes:
    """See `repack_jpeg`. As many processes as threads ask at a time are started, and kept.

    Raises: OSError if it is damaged.
    """
    try:
        process = _idle.get_nowait()
    except Empty:
        process = subprocess.Popen(
            # Not as a module of the core, all of which would be loaded.
            [sys.executable, "-P", __file__],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
    assert process.stdin is not None and process.stdout is not None
    try:
        _tell(process.stdin, data)
        packed = _hear(process.stdout)
    except (OSError, EOFError) as error:
        process.kill()
        process.communicate()
        raise OSError("a damaged JPEG") from error
    _idle.put(process)
    if not packed:
        raise OSError("a damaged JPEG")
    return packed


def _tell(pipe: IO[bytes], data: bytes) -> None:
    pipe.write(_LENGTH.pack(len(data)))
    pipe.write(data)
    pipe.flush()


def _hear(pipe: IO[bytes]) -> bytes:
    """Read an answer of the helper process. Raises: EOFError where that process ended."""
    head = pipe.read(_LENGTH.size)
    if len(head) < _LENGTH.size:
        raise EOFError
    (length,) = _LENGTH.unpack(head)
    data = pipe.read(length)
    if len(data) < length:
        raise EOFError
    return data


def _serve() -> None:
    import mozjpeg_lossless_optimization as lossless

    while True:
        try:
            data = _hear(sys.stdin.buffer)
        except EOFError:
            return
        try:
            packed = bytes(lossless.optimize(data, copy=lossless.COPY_MARKERS.NONE))
        except (RuntimeError, ValueError, TypeError):
            packed = b""
        _tell(sys.stdout.buffer, packed)


if __name__ == "__main__":
    _serve()
