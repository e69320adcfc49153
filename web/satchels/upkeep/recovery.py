"""Work that was under way when its worker went is taken up again."""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from web.queue.engine import task_queue
from web.queue.task_queue import BegunTask
from web.satchels.models import Copy, Document, Run
from web.satchels.tasks import is_awaited, make_copy, share_limit, try_document, weigh_document

__all__ = ["take_up_again", "take_up_from_the_dead", "take_up_lost"]

# What ended its worker so often is the cause of it.
_MOST_TRIES = 3
# A task is put into the queue a moment after its document or copy.
_LOST_AFTER_S = 60.0
_GIVEN_UP = (
    "The work on it broke off three times, and was given up. Other documents are not affected. Try "
    "again, and if that fails as well, save it anew with the program that made it."
)


@transaction.atomic
def take_up_again() -> int:
    """Return interrupted tasks to the queue, with their documents and copies.

    Only while no worker runs: what one is at would be done twice. How many documents and copies
    wait now that did not before.
    """
    for task in task_queue().begun():
        _hand_back(task)
    documents = Document.objects.filter(state=Document.State.WEIGHING).update(
        state=Document.State.WAITING, progress=0
    )
    copies = Copy.objects.filter(state=Copy.State.WORKING).update(
        state=Copy.State.WAITING, progress=0
    )
    _enqueue_lost(Document.objects.all(), Copy.objects.all())
    return documents + copies


@transaction.atomic
def take_up_from_the_dead() -> int:
    """Return tasks of dead workers to the queue while others go on; return how many."""
    queue, count = task_queue(), 0
    for task in list(queue.begun()):
        if task.worker and queue.is_alive(task.worker):
            continue
        count += 1
        _hand_back(task)
        weighing = Document.objects.filter(pk__in=task.about, state=Document.State.WEIGHING)
        weighing.update(state=Document.State.WAITING, progress=0)
        working = Copy.objects.filter(pk__in=task.about, state=Copy.State.WORKING)
        working.update(state=Copy.State.WAITING, progress=0)
    return count


@transaction.atomic
def take_up_lost(after_s: float = _LOST_AFTER_S) -> None:
    """Queue a task for work that has waited long without one.

    A task is lost that was just taken from the queue when its worker or the queue ended.
    """
    moment = timezone.now() - timedelta(seconds=after_s)
    _enqueue_lost(
        Document.objects.filter(changed_at__lt=moment), Copy.objects.filter(changed_at__lt=moment)
    )


def _enqueue_lost(documents: QuerySet[Document], copies: QuerySet[Copy]) -> None:
    """Queue tasks for rows that wait without one."""
    waiting = documents.filter(state=Document.State.WAITING)
    for pk in _without_task(waiting):
        weigh_document.enqueue(pk)
    lost = copies.filter(pk__in=_without_task(copies.filter(state=Copy.State.WAITING)))
    # Those of a shared limit wait for one task of their run, which has each of them made.
    shared = Run.objects.filter(copies__in=lost, fit__is_shared=True).distinct()
    for pk in _without_task(shared):
        share_limit.enqueue(pk)
    for copy in lost.exclude(run__in=shared):
        make_copy.enqueue(str(copy.pk))
    # Trials give way to all others, and are begun again by the last of them.
    if settings.HAS_TRIALS and not is_awaited():
        untried = documents.filter(state=Document.State.WEIGHED, trial_progress__lt=1)
        for pk in _without_task(untried):
            try_document.enqueue(pk)


def _hand_back(task: BegunTask) -> None:
    """To the queue, or as failed if it has broken off too often."""
    if task.tries < _MOST_TRIES:
        task_queue().hand_back(task)
        return
    task_queue().give_up(task)
    for document in Document.objects.filter(pk__in=task.about, state=Document.State.WEIGHING):
        document.fail("gave_up", f"{document.name}: {_GIVEN_UP}")
    for copy in Copy.objects.filter(pk__in=task.about, state=Copy.State.WORKING):
        copy.finish(Copy.State.FAILED, error_code="gave_up", error_message=_GIVEN_UP)


def _without_task(rows: QuerySet[Any]) -> list[str]:
    """Return ids without a waiting or running task."""
    ids = [str(pk) for pk in rows.values_list("pk", flat=True)]
    if not ids:
        return []
    queue = task_queue()
    about = queue.waiting_about().union(*(task.about for task in queue.begun()))
    return [id_ for id_ in ids if id_ not in about]
