"""Work that was under way when workers of this machine went is taken up again."""

from collections.abc import Callable, Iterable

from django.conf import settings
from django.db import transaction
from django_tasks import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from web.satchels.models import Copy, Document, Run
from web.satchels.tasks import make_copy, share_limit, try_document, weigh_document

__all__ = ["take_up_again", "take_up_from_the_dead"]

# What ended its worker so often is the cause of it.
_MOST_TRIES = 3
_GIVEN_UP = (
    "The work on it broke off three times, and was given up. Other documents are not affected. Try "
    "again, and if that fails as well, save it anew with the program that made it."
)


@transaction.atomic
def take_up_again() -> int:
    """Tasks that were running go back to the queue, and their documents and copies with them.

    Only while no worker runs: what one is at would be done twice. How many documents and copies
    wait now that did not before.
    """
    for task in DBTaskResult.objects.filter(status=TaskResultStatus.RUNNING):
        _hand_back(task)
    documents = Document.objects.filter(state=Document.State.WEIGHING).update(
        state=Document.State.WAITING, progress=0
    )
    copies = Copy.objects.filter(state=Copy.State.WORKING).update(
        state=Copy.State.WAITING, progress=0
    )
    # A worker that was told to stop twice gives its task up as failed.
    waiting_documents = Document.objects.filter(state=Document.State.WAITING)
    for pk in _without_task(waiting_documents.values_list("pk", flat=True)):
        weigh_document.enqueue(pk)
    waiting_copies = Copy.objects.filter(state=Copy.State.WAITING)
    # Those of a shared limit wait for one task of their run, which has each of them made.
    runs = waiting_copies.values_list("run", flat=True).distinct()
    shared = Run.objects.filter(pk__in=runs, fit__is_shared=True)
    for pk in _without_task(shared.values_list("pk", flat=True)):
        share_limit.enqueue(pk)
    alone = waiting_copies.exclude(run__in=shared)
    for pk in _without_task(alone.values_list("pk", flat=True)):
        make_copy.enqueue(pk)
    untried = Document.objects.filter(state=Document.State.WEIGHED, learned__lt=1)
    for pk in _without_task(untried.values_list("pk", flat=True) if settings.HAS_TRIALS else ()):
        try_document.enqueue(pk)
    return documents + copies


@transaction.atomic
def take_up_from_the_dead(is_alive: Callable[[str], bool]) -> int:
    """Tasks whose workers are gone go back to the queue, while others go on; how many.

    is_alive: tells of the name of a worker whether it is.
    """
    count = 0
    for task in DBTaskResult.objects.filter(status=TaskResultStatus.RUNNING):
        if task.worker_ids and is_alive(task.worker_ids[-1]):
            continue
        count += 1
        _hand_back(task)
        about = task.args_kwargs["args"]
        weighing = Document.objects.filter(pk__in=about, state=Document.State.WEIGHING)
        weighing.update(state=Document.State.WAITING, progress=0)
        working = Copy.objects.filter(pk__in=about, state=Copy.State.WORKING)
        working.update(state=Copy.State.WAITING, progress=0)
    return count


def _hand_back(task: "DBTaskResult[..., object]") -> None:
    """To the queue, or as failed if it has broken off too often."""
    if len(task.worker_ids) < _MOST_TRIES:
        DBTaskResult.objects.filter(pk=task.pk).update(
            status=TaskResultStatus.READY, started_at=None
        )
        return
    DBTaskResult.objects.filter(pk=task.pk).update(status=TaskResultStatus.FAILED)
    about = task.args_kwargs["args"]
    for document in Document.objects.filter(pk__in=about, state=Document.State.WEIGHING):
        document.fail("gave_up", f"{document.name}: {_GIVEN_UP}")
    for copy in Copy.objects.filter(pk__in=about, state=Copy.State.WORKING):
        copy.finish(Copy.State.FAILED, error_code="gave_up", error_message=_GIVEN_UP)


def _without_task(ids: Iterable[object]) -> list[str]:
    """Those that no task in the queue is about."""
    queued = DBTaskResult.objects.filter(status=TaskResultStatus.READY)
    about = {
        str(argument)
        for told in queued.values_list("args_kwargs", flat=True)
        for argument in told["args"]
    }
    return [str(id_) for id_ in ids if str(id_) not in about]
