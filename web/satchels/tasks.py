"""Work that goes on in the background. Each task can run twice without harm."""

import logging
import time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django_tasks import task

from lighten.stored_treatments import store_preset
from web.satchels.models import Copy, Document, Run, Satchel
from web.satchels.wanted import Asked, estimates_of, wanted_of
from web.satchels.workbench import JobCancelledError, JobFailedError, run_job

__all__ = [
    "learn_document",
    "make_copy",
    "share_limit",
    "start_copies",
    "start_learning",
    "weigh_document",
]

logger = logging.getLogger(__name__)
# Somebody turns knobs while trials are made: so often they are made for what is wanted then.
_MOST_ROUNDS = 4


@task()
def weigh_document(document_id: str) -> None:
    """Fill in the weight sheet of a document, or the reason why there is none."""
    document = Document.objects.filter(pk=document_id).first()
    if document is None or not document.begin_weighing():
        return

    def on_progress(share: float) -> None:
        Document.objects.filter(pk=document_id).update(progress=share)

    def is_wanted() -> bool:
        return Document.objects.filter(pk=document_id).exists()

    try:
        found = run_job(document, "weigh", on_progress=on_progress, is_wanted=is_wanted)
    except JobFailedError as error:
        document.fail(error.code, error.message)
    except JobCancelledError:
        document.remove()
    else:
        document.finish_weighing(found["sheet"], found["worth"])
        document.refresh_from_db()
        estimates_of(document, wanted_of(document.satchel))
        if settings.HAS_TRIALS:
            learn_document.enqueue(document_id)


def start_learning(satchel: Satchel) -> None:
    """Trials for what is wanted now, of each document whose trials for what was are done."""
    if not settings.HAS_TRIALS:
        return
    for document in satchel.documents.filter(state=Document.State.WEIGHED, learned=1).only("pk"):
        # One that is still at it looks again by itself.
        if Document.objects.filter(pk=document.pk, learned=1).update(learned=0):
            learn_document.enqueue(str(document.pk))


@task()
def learn_document(document_id: str) -> None:
    """Make trials of a document, until they are made for what is wanted then.

    Gives way to copies; the last of them has it begun again.
    """
    document = Document.objects.filter(pk=document_id, state=Document.State.WEIGHED).first()
    if document is None or document.learned == 1:
        return
    wanted_now = wanted_of(document.satchel)
    for _ in range(_MOST_ROUNDS):
        wanted = wanted_now
        try:
            _learn(document, wanted.current)
        except JobCancelledError:
            return
        except JobFailedError as error:
            # It would fail again: what is known so far has to do.
            logger.info("trials of %s failed: %s", document_id, error)
            break
        document.refresh_from_db()
        wanted_now = wanted_of(document.satchel)
        if wanted_now.current.key(document) == wanted.current.key(document):
            break
    # Worked out here, so that no page has to wait for it.
    estimates_of(document, wanted_now, is_fresh=True)
    Document.objects.filter(pk=document_id).update(learned=1)


def _resume_learning() -> None:
    """Have trials go on that gave way to copies, once there are none to be made."""
    if not settings.HAS_TRIALS or Copy.objects.filter(state__in=Copy.State.unfinished()).exists():
        return
    waiting = Document.objects.filter(state=Document.State.WEIGHED, learned__lt=1)
    for document in waiting.only("pk"):
        learn_document.enqueue(str(document.pk))


def _learn(document: Document, asked: Asked, *, is_for_copies: bool = False) -> None:
    """Whatever trials are missing. Raises: JobFailedError, JobCancelledError."""

    def keep(found: dict[str, Any]) -> None:
        document.learn(found["trials"], min(share, _NEARLY), found["worth"])

    share = 0.0

    def on_progress(done: float) -> None:
        nonlocal share
        share = done

    def is_wanted() -> bool:
        is_there = Document.objects.filter(pk=document.pk).exists()
        if is_for_copies:
            return is_there
        return is_there and not Copy.objects.filter(state__in=Copy.State.unfinished()).exists()

    found = run_job(
        document,
        "learn",
        on_progress=on_progress,
        on_partial=keep,
        is_wanted=is_wanted,
        sheet=document.sheet,
        trials=document.trials,
        preset=store_preset(asked.preset),
        may_blur_text=asked.may_blur_text,
        exceptions=document.exceptions,
        replacements=str(document.replacements_path),
        out=str(document.folder_path),
    )
    document.learn(found["trials"], _NEARLY, found["worth"])


# All but what comes after the last trial.
_NEARLY = 0.99


def start_copies(run: Run) -> None:
    """Have the copies of a run made, once the transaction is through."""
    if run.fit is not None and run.fit["is_shared"]:
        transaction.on_commit(lambda: share_limit.enqueue(str(run.pk)))
        return
    for copy in run.copies.all():
        transaction.on_commit(lambda pk=str(copy.pk): make_copy.enqueue(pk))  # type: ignore[misc] # bound here


@task()
def share_limit(run_id: str) -> None:
    """Learn of every document of a run what its share of the limit is, then make the copies."""
    run = Run.objects.filter(pk=run_id).select_related("satchel").first()
    if run is None or run.fit is None:
        return
    asked = wanted_of(run.satchel).current
    copies = list(run.copies.select_related("document").filter(state=Copy.State.WAITING))
    for copy in copies:
        try:
            _learn(copy.document, asked, is_for_copies=True)
        except JobFailedError as error:
            # Its own making says what is wrong.
            logger.info("trials of %s ended: %s", copy.document_id, error)
        except JobCancelledError:
            return
    asked = wanted_of(run.satchel).current
    for copy in copies:
        copy.document.refresh_from_db()
        if asked.fit is not None:
            share = asked.fit.limit_of(copy.document)
            Copy.objects.filter(pk=copy.pk).update(limit_bytes=share, key=asked.key(copy.document))
        make_copy.enqueue(str(copy.pk))


@task()
def make_copy(copy_id: str) -> None:
    """Make and prove the copy of one document."""
    _make_copy(copy_id)
    _resume_learning()


def _make_copy(copy_id: str) -> None:
    copy = Copy.objects.select_related("run", "document").filter(pk=copy_id).first()
    if copy is None or not copy.begin():
        return
    document, run = copy.document, copy.run
    copy.path.unlink(missing_ok=True)
    started = time.monotonic()

    def on_progress(share: float) -> None:
        Copy.objects.filter(pk=copy_id).update(progress=share)

    try:
        found = run_job(
            document,
            "lighten",
            on_progress=on_progress,
            is_wanted=copy.is_wanted,
            out=str(copy.path),
            sheet=document.sheet,
            trials=document.trials,
            preset=run.wanted,
            fit=run.fit,
            limit_bytes=copy.limit_bytes,
            exceptions=document.exceptions,
            replacements=str(document.replacements_path),
            may_end_signature=run.may_end_signature,
            may_blur_text=run.may_blur_text,
        )
    except JobFailedError as error:
        copy.finish(Copy.State.FAILED, error_code=error.code, error_message=error.message)
    except JobCancelledError:
        logger.info("copy %s was cancelled", copy_id)
    else:
        _finish(copy, found, seconds=round(time.monotonic() - started, 2))


def _finish(copy: Copy, found: dict[str, Any], *, seconds: float) -> None:
    """Keep what came of a copy, unless it was cancelled meanwhile."""
    document = copy.document
    is_kept = copy.finish(
        Copy.State.DONE if found["copy"] else Copy.State.NONE,
        file=f"{document.satchel_id}/{document.pk}/{copy.path.name}" if found["copy"] else "",
        bytes_after=found["bytes_after"],
        verdict=found["verdict"] or "",
        reasons=found["reasons"],
        parts=found["parts"],
        pieces=[
            {name: piece[name] for name in ("first", "last", "bytes")} for piece in found["pieces"]
        ],
        proof=found["proof"],
        seconds=seconds,
    )
    if not is_kept:
        for path in (copy.path, *(Path(piece["path"]) for piece in found["pieces"])):
            path.unlink(missing_ok=True)
