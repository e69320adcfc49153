"""Work that goes on in the background. Each task can run twice without harm."""

import logging
import time

from django_tasks import task

from web.satchels.models import Copy, Document
from web.satchels.wanted import estimates_of, wanted_of
from web.satchels.workbench import JobCancelledError, JobFailedError, run_job

__all__ = ["make_copy", "weigh_document"]

logger = logging.getLogger(__name__)


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
        # Worked out here, so that no page has to wait for it.
        document.refresh_from_db()
        estimates_of(document, wanted_of(document.satchel))


@task()
def make_copy(copy_id: str) -> None:
    """Make and prove the copy of one document."""
    copy = Copy.objects.select_related("run", "document").filter(pk=copy_id).first()
    if copy is None or not copy.begin():
        return
    out = copy.document.folder_path / f"copy-{copy.id}"
    out.unlink(missing_ok=True)
    started = time.monotonic()

    def on_progress(share: float) -> None:
        Copy.objects.filter(pk=copy_id).update(progress=share)

    try:
        found = run_job(
            copy.document,
            "lighten",
            on_progress=on_progress,
            is_wanted=copy.is_wanted,
            out=str(out),
            preset=copy.run.wanted,
            exceptions=copy.document.exceptions,
            replacements=str(copy.document.replacements_path),
            may_end_signature=copy.run.may_end_signature,
        )
    except JobFailedError as error:
        copy.finish(Copy.State.FAILED, error_code=error.code, error_message=error.message)
    except JobCancelledError:
        logger.info("copy %s was cancelled", copy_id)
    else:
        is_kept = copy.finish(
            Copy.State.DONE if found["copy"] else Copy.State.NONE,
            file=f"{copy.document.satchel_id}/{copy.document_id}/{out.name}"
            if found["copy"]
            else "",
            bytes_after=found["bytes_after"],
            verdict=found["verdict"] or "",
            reasons=found["reasons"],
            parts=found["parts"],
            proof=found["proof"],
            seconds=round(time.monotonic() - started, 2),
        )
        if not is_kept:
            out.unlink(missing_ok=True)
