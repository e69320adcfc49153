"""Work that goes on in the background. Each task can run twice without harm.

Weighing comes before copies, copies before trials; trials under way give way to both.
"""

import logging
import time
import uuid
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django_tasks import task

from web.jobs.job_kinds import NamedPath, ProveJob
from web.jobs.runner import JobCancelledError, JobFailedError, Step, run_job
from web.queue.engine import task_queue
from web.queue.priorities import COPIES_THEN, TRIALS_LAST, TRIALS_SEEN, WEIGHING_FIRST
from web.satchels.jobs import lighten_job, try_job, weigh_job
from web.satchels.models import Copy, Document, ReturnedCopy, Run, Satchel
from web.satchels.sheets.estimates import keep_estimates
from web.satchels.sheets.orders import SatchelOrder, orders_of

__all__ = [
    "hasten_trials",
    "is_awaited",
    "make_copy",
    "prove_returned",
    "share_limit",
    "start_copies",
    "start_trials",
    "start_weighing",
    "try_document",
    "weigh_document",
]

logger = logging.getLogger(__name__)
_MOST_TURNS = 15
_UNTRIED: dict[str, Any] = {"state": Document.State.WEIGHED, "trial_progress__lt": 1}
# Somebody turns knobs while trials are made: so often they are made for what is ordered then.
_MOST_ROUNDS = 4
# All but what comes after the last trial.
_NEARLY = 0.99


@task(priority=WEIGHING_FIRST)
def weigh_document(document_id: str) -> None:
    """Fill in the weight sheet of a document, or the reason why there is none."""
    _weigh_document(document_id)
    _resume_trials()


def _weigh_document(document_id: str) -> None:
    document = Document.objects.filter(pk=document_id).first()
    if document is None or not document.begin_weighing():
        return

    def on_progress(step: Step) -> None:
        Document.objects.filter(pk=document_id).update(**step._asdict())

    def is_wanted() -> bool:
        return Document.objects.filter(pk=document_id).exists()

    try:
        weighed = run_job(
            document,
            weigh_job(document),
            on_progress=on_progress,
            is_wanted=is_wanted,
        )
    except Document.DoesNotExist:
        document.fail("gone", f"{document.name}: one of its pictures was removed. Gather again.")
    except JobFailedError as error:
        document.fail(error.code, error.message)
    except JobCancelledError:
        document.remove()
    else:
        document.finish_weighing(weighed["sheet"], weighed["savings"])
        document.refresh_from_db()
        keep_estimates(document, orders_of(document.satchel))


def start_weighing(document: Document) -> None:
    """Queue the weighing of a document. Its priority falls with the owner's queue length.

    Of an open satchel, only documents of open ones count: what its owner left elsewhere can wait.
    """
    satchel = document.satchel
    mine = Document.objects.filter(
        satchel__owner=satchel.owner_id, state__in=Document.State.unweighed()
    )
    if satchel.is_open:
        mine = mine.filter(satchel__in=Satchel.objects.filter(Satchel.opened()))
    priority = _in_turn(WEIGHING_FIRST, mine.count() - 1)
    weigh_document.using(priority=priority).enqueue(str(document.pk))


def _in_turn(first: int, waiting: int) -> int:
    """A priority up to ten lower, the more of one account wait already."""
    return first - min(_MOST_TURNS, max(0, waiting))


def start_trials(satchel: Satchel) -> None:
    """Queue trials of the present order for each document whose earlier trials are done."""
    for document in satchel.documents.filter(state=Document.State.WEIGHED).only(
        "pk", "trial_progress"
    ):
        # One that is still at it looks again by itself.
        is_done = Document.objects.filter(pk=document.pk, trial_progress=1).update(trial_progress=0)
        if is_done and settings.HAS_TRIALS:
            _enqueue_trials(satchel, document.pk)


def hasten_trials(satchel: Satchel) -> None:
    """Queue the missing trials of a bench that was opened before others'; running ones go on."""
    if not settings.HAS_TRIALS or is_awaited():
        return
    at_work = {about for task in task_queue().begun() for about in task.about}
    for pk in satchel.documents.filter(**_UNTRIED).values_list("pk", flat=True):
        if str(pk) not in at_work:
            _enqueue_trials(satchel, pk)


def _enqueue_trials(satchel: Satchel, document_pk: uuid.UUID) -> None:
    priority = TRIALS_SEEN if satchel.is_open else TRIALS_LAST
    try_document.using(priority=priority).enqueue(str(document_pk))


@task(priority=TRIALS_LAST)
def try_document(document_id: str) -> None:
    """Make trials of a document, until they are made for what is ordered then.

    Gives way to documents that wait to be weighed and to copies; the last of them has it begun
    again.
    """
    document = Document.objects.filter(pk=document_id, state=Document.State.WEIGHED).first()
    if document is None or document.trial_progress == 1:
        return
    orders = orders_of(document.satchel)
    for _ in range(_MOST_ROUNDS):
        tried = orders.current.key(document)
        try:
            _run_trials(document, orders.current)
        except JobCancelledError:
            if not is_awaited():
                # It gave way to what comes before it in the queue, and goes on after that.
                _enqueue_trials(document.satchel, document.pk)
            return
        except JobFailedError as error:
            # It would fail again: what is known so far has to do.
            logger.info("trials failed", extra={"code": error.code})
            break
        document.refresh_from_db()
        orders = orders_of(document.satchel)
        if orders.current.key(document) == tried:
            break
    # Worked out here, so that no page has to wait for it.
    keep_estimates(document, orders)
    Document.objects.filter(pk=document_id).update(trial_progress=1)


def _must_give_way(document: Document) -> bool:
    """Return whether other work, or trials of an open bench, should run first."""
    satchel = Satchel.objects.only("seen_at").filter(documents=document).first()
    own = TRIALS_SEEN if satchel is not None and satchel.is_open else TRIALS_LAST
    return is_awaited() or task_queue().has_more_urgent(own)


def is_awaited() -> bool:
    """Return whether documents wait to be weighed or copies to be made."""
    is_weighing = Document.objects.filter(state__in=Document.State.unweighed()).exists()
    return is_weighing or Copy.objects.filter(state__in=Copy.State.unfinished()).exists()


def _resume_trials() -> None:
    """Have trials go on that gave way, once nothing waits that they gave way to."""
    if not settings.HAS_TRIALS or is_awaited():
        return
    for document in (
        Document.objects.filter(**_UNTRIED).select_related("satchel").only("pk", "satchel")
    ):
        _enqueue_trials(document.satchel, document.pk)


def _run_trials(document: Document, order: SatchelOrder, *, is_for_copies: bool = False) -> None:
    """Run the missing trials. Raises: JobFailedError, JobCancelledError."""

    def on_partial(share: float, tried: dict[str, Any]) -> None:
        document.keep_trials(tried["trials"], min(share, _NEARLY), tried["savings"])

    def is_wanted() -> bool:
        is_there = Document.objects.filter(pk=document.pk).exists()
        return is_there and (is_for_copies or not _must_give_way(document))

    job = try_job(document, order.preset, may_blur_text=order.may_blur_text)
    tried = run_job(document, job, on_partial=on_partial, is_wanted=is_wanted)
    document.keep_trials(tried["trials"], _NEARLY, tried["savings"])


def start_copies(run: Run) -> None:
    """Have the copies of a run made, once the transaction is through."""
    if run.fit is not None and run.fit["is_shared"]:
        transaction.on_commit(lambda: share_limit.enqueue(str(run.pk)))
        return
    # Small ones first: what is soon done can soon be sent.
    waiting = run.copies.filter(state=Copy.State.WAITING).order_by("document__size_bytes")
    transaction.on_commit(partial(_enqueue_copies, list(waiting)))


def _enqueue_copies(copies: list[Copy]) -> None:
    """Queue copies; later ones give way to the first of other accounts."""
    for number, copy in enumerate(copies):
        make_copy.using(priority=_in_turn(COPIES_THEN, number)).enqueue(str(copy.pk))


@task(priority=COPIES_THEN)
def share_limit(run_id: str) -> None:
    """Find out of every document of a run what its share of the limit is, then make the copies."""
    run = Run.objects.filter(pk=run_id).select_related("satchel").first()
    if run is None or run.fit is None:
        return
    order = orders_of(run.satchel).current
    waiting = run.copies.select_related("document").filter(state=Copy.State.WAITING)
    copies = list(waiting.order_by("document__size_bytes"))
    for copy in copies:
        try:
            _run_trials(copy.document, order, is_for_copies=True)
        except JobFailedError as error:
            # Its own making says what is wrong.
            logger.info(
                "trials failed", extra={"document": str(copy.document_id), "code": error.code}
            )
        except JobCancelledError:
            return
    order = orders_of(run.satchel).current
    for copy in copies:
        copy.document.refresh_from_db()
        if order.fit is not None:
            share = order.fit.limit_of(copy.document)
            Copy.objects.filter(pk=copy.pk).update(limit_bytes=share, key=order.key(copy.document))
        make_copy.enqueue(str(copy.pk))


@task(priority=COPIES_THEN)
def prove_returned(returned_id: str) -> None:
    """Hold a copy that came back against its document."""
    returned = ReturnedCopy.objects.select_related("document").filter(pk=returned_id).first()
    if returned is None or not returned.begin():
        return

    def on_progress(step: Step) -> None:
        ReturnedCopy.objects.filter(pk=returned_id).update(**step._asdict())

    def is_wanted() -> bool:
        return ReturnedCopy.objects.filter(pk=returned_id).exists()

    try:
        proof = run_job(
            returned.document,
            ProveJob(copy=NamedPath(path=returned.file.path, name=returned.name)),
            on_progress=on_progress,
            is_wanted=is_wanted,
        )
    except JobFailedError as error:
        returned.fail(error.message)
    except JobCancelledError:
        logger.info("the proof was cancelled")
    else:
        returned.finish(proof)


@task(priority=COPIES_THEN)
def make_copy(copy_id: str) -> None:
    """Make and prove the copy of one document."""
    _make_copy(copy_id)
    _resume_trials()


def _make_copy(copy_id: str) -> None:
    copy = Copy.objects.select_related("run", "document").filter(pk=copy_id).first()
    if copy is None or not copy.begin():
        return
    document = copy.document
    copy.path.unlink(missing_ok=True)
    started = time.monotonic()

    def on_progress(step: Step) -> None:
        Copy.objects.filter(pk=copy_id).update(**step._asdict())

    try:
        made = run_job(
            document,
            lighten_job(copy),
            on_progress=on_progress,
            is_wanted=copy.is_wanted,
        )
    except JobFailedError as error:
        copy.finish(Copy.State.FAILED, error_code=error.code, error_message=error.message)
    except JobCancelledError:
        logger.info("the copy was cancelled")
    else:
        _finish(copy, made, seconds=round(time.monotonic() - started, 2))


def _finish(copy: Copy, made: dict[str, Any], *, seconds: float) -> None:
    """Keep what came of a copy, unless it was cancelled meanwhile."""
    document = copy.document
    is_kept = copy.finish(
        Copy.State.DONE if made["copy"] else Copy.State.NONE,
        file=f"{document.satchel_id}/{document.pk}/{copy.path.name}" if made["copy"] else "",
        media_type=made["media_type"],
        bytes_after=made["bytes_after"],
        verdict=made["verdict"] or "",
        reasons=made["reasons"],
        parts=made["parts"],
        pieces=[
            {name: piece[name] for name in ("first", "last", "bytes")} for piece in made["pieces"]
        ],
        proof=made["proof"],
        seconds=seconds,
    )
    if not is_kept:
        for path in (copy.path, *(Path(piece["path"]) for piece in made["pieces"])):
            path.unlink(missing_ok=True)
        return
    document.refresh_from_db()
    keep_estimates(document, orders_of(document.satchel))
