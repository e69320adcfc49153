"""A worker; the first of them takes up again what was left under way."""

import fcntl
import io
import logging
import os
import socket
import threading
import time
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import OperationalError, connections
from django.utils.crypto import get_random_string
from django_tasks.signals import task_started

from web.disk_room import free_bytes
from web.jobs.apps import nursery
from web.queue.engine import task_queue
from web.satchels.upkeep.leftovers import sweep_leftovers
from web.satchels.upkeep.recovery import take_up_again, take_up_from_the_dead, take_up_lost

logger = logging.getLogger(__name__)
_LOOKED_EVERY_S, _SWEPT_EVERY_S = 8.0, 3600.0
_ROOM_ASKED_EVERY_S = 5.0


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument(
            "--interval",
            type=float,
            default=1.0,
            help="seconds from one look at the queue to another",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        queue, worker = task_queue(), f"{socket.gethostname()}-{os.getpid()}-{get_random_string(6)}"
        settings.WORKERS_LOCK_PATH.parent.mkdir(parents=True, exist_ok=True)
        with settings.WORKERS_LOCK_PATH.open("w") as lock:
            if _is_first(lock) and not queue.living_workers():
                taken_up = take_up_again()
                sweep_leftovers()
                _forget_old()
                self.stdout.write(f"{taken_up} pieces of work are taken up again")
            # Held as long as this worker lives, whatever it dies of.
            fcntl.flock(lock, fcntl.LOCK_SH)
            task_started.connect(_wait_for_room)
            nursery().warm()
            with queue.kept_alive(worker):
                threading.Thread(target=_look_for_the_dead, daemon=True).start()
                queue.work(worker, options["interval"])


def _wait_for_room(**_described: Any) -> None:
    """Wait before a task until the disk has room for its result."""
    is_declared = False
    while free_bytes() < settings.DISK_RESERVE_BYTES // 2:
        if not is_declared:
            logger.warning("the disk is full: work waits until there is room again")
            is_declared = True
        time.sleep(_ROOM_ASKED_EVERY_S)


def _look_for_the_dead() -> None:
    """Now and then, as long as this worker lives."""
    pause, swept_at = threading.Event(), time.monotonic()
    while not pause.wait(_LOOKED_EVERY_S):
        if time.monotonic() - swept_at > _SWEPT_EVERY_S:
            swept_at = time.monotonic()
            sweep_leftovers()
            _forget_old()
        try:
            if count := take_up_from_the_dead():
                logger.warning("%s tasks of workers that are gone are taken up again", count)
            take_up_lost()
        except task_queue().errors:
            logger.info("the queue did not answer; workers that are gone are looked for later")
        finally:
            connections.close_all()


def _forget_old() -> None:
    """Delete satchels that nobody has changed for the set number of days, in every installation."""
    try:
        call_command("forget_old", stdout=io.StringIO())
    except OperationalError:
        logger.info("the database was busy; what is old is deleted later")


def _is_first(lock: Any) -> bool:
    """No other worker of this machine holds the lock."""
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True
