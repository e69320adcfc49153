"""A worker of this machine; the first of them takes up again what was left under way."""

import fcntl
from typing import Any

from django.conf import settings
from django_tasks_db.management.commands import db_worker

from web.satchels.recovery import take_up_again


class Command(db_worker.Command):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        settings.WORKERS_LOCK_PATH.parent.mkdir(parents=True, exist_ok=True)
        with settings.WORKERS_LOCK_PATH.open("w") as lock:
            if _is_first(lock):
                taken_up = take_up_again()
                self.stdout.write(f"{taken_up} pieces of work are taken up again")
            # Held as long as this worker lives, whatever it dies of.
            fcntl.flock(lock, fcntl.LOCK_SH)
            super().handle(*args, **options)


def _is_first(lock: Any) -> bool:
    """No other worker of this machine holds the lock."""
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True
