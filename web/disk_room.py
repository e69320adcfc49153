"""Room on the disk of this machine: asked for before something is written, so nothing is half."""

import shutil
from pathlib import Path

from django.conf import settings

from web.problems import no_room

__all__ = ["check_room", "free_bytes"]

_MB = 1_000_000


def check_room(wanted_bytes: int) -> None:
    """Refuse content that would use up the disk reserve. Raises: Problem, with missing bytes."""
    missing = wanted_bytes + settings.DISK_RESERVE_BYTES - free_bytes()
    if missing > 0:
        raise no_room(f"{-(-missing // _MB):,} MB are missing")


def free_bytes() -> int:
    """Return the free bytes of the disk that holds originals and copies."""
    # The folder is made with the first file.
    there = Path(settings.MEDIA_ROOT)
    while not there.exists():
        there = there.parent
    return shutil.disk_usage(there).free
