"""A queue as the printer asks for it; jobs become documents of its satchel."""

import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from django.conf import settings
from django.core.files import File
from django.db import transaction

from lighten import LightenError, Source, format_of, take_pages, weigh, with_resolution
from printers import (
    BadRasterError,
    JobState,
    PrintJob,
    PrintRefusedError,
    QueueInfo,
    read_pwg_raster,
)
from web.disk_room import check_room
from web.printing.models import PrintedJob, PrintQueue
from web.problems import Problem
from web.satchels.models import Document
from web.satchels.tasks import start_weighing
from web.satchels.upkeep.quota import check_quota

__all__ = ["QueueDesk"]

_CHUNK, _MARKS = 1 << 20, {b"%PDF-": ".pdf", b"\xff\xd8\xff": ".jpg", b"RaS2": ""}
_SHOWN_JOBS = 200


class QueueDesk:
    """See `printers.PrinterDesk`."""

    def __init__(self, queue: PrintQueue, uri: str, page_uri: str) -> None:
        self._queue, self._uri, self._page_uri = queue, uri, page_uri

    @property
    def queue(self) -> QueueInfo:
        return QueueInfo(
            name=f"Green Satchel, {self._queue.name}",
            uri=self._uri,
            uuid=f"urn:uuid:{self._queue.pk}",
            page_uri=self._page_uri,
            began_at=self._queue.created_at,
        )

    def jobs(self) -> Sequence[PrintJob]:
        """The latest first; one is done when its document is weighed."""
        return [
            _described(job) for job in self._queue.jobs.select_related("document")[:_SHOWN_JOBS]
        ]

    def begin(self, name: str, user: str) -> PrintJob:
        room = self._queue.room()
        if room.documents.count() >= settings.DOCUMENTS_LIMIT:
            raise PrintRefusedError("Its satchel is full. Take documents out of it, or delete it.")
        return _described(self._queue.begin(name, user))

    def take(
        self, number: int, document: BinaryIO, media_type: str, pages: tuple[int, int] | None
    ) -> None:
        job = self._queue.jobs.get(number=number)
        try:
            with _spooled(document) as (path, size):
                _check(path, size)
                check_quota(self._queue.owner, size)
                self._keep(job, _only_pages(path, pages) if pages else path)
        except (PrintRefusedError, BadRasterError, LightenError, Problem) as error:
            message = str(getattr(error, "detail", "") or error)
            job.end(JobState.ABORTED, message)
            raise PrintRefusedError(message) from error

    def cancel(self, number: int) -> None:
        job = self._queue.jobs.select_related("document").get(number=number)
        document = job.document
        job.end(JobState.CANCELED)
        if document is not None and document.state in Document.State.unweighed():
            document.remove()

    def _keep(self, job: PrintedJob, path: Path) -> None:
        with path.open("rb") as file:
            head = file.read(5)
        ending = next(ending for mark, ending in _MARKS.items() if head.startswith(mark))
        satchel = self._queue.room()
        name = _as_file_name(job.name)
        if ending:
            document = Document(satchel=satchel, name=f"{name}{ending}", size_bytes=0)
            document.size_bytes = path.stat().st_size
            with path.open("rb") as file:
                document.file.save("original", File(file), save=False)
            document.save()
        else:
            pages = _pages_of(path)
            looks: dict[str, dict[str, object]] = {"turns": {}, "corners": {}}
            document = Document.of_pages(satchel, pages, f"{name}.pdf", looks)
        with transaction.atomic():
            PrintedJob.objects.filter(pk=job.pk).update(
                document=document, state=int(JobState.PROCESSING)
            )
            satchel.save(update_fields=["changed_at"])
            transaction.on_commit(lambda: start_weighing(document))


def _described(job: PrintedJob) -> PrintJob:
    state, message, document = JobState(job.state), job.message, job.document
    ended = job.ended_at
    if state is JobState.PROCESSING:
        if document is None:
            state, message = JobState.CANCELED, "It was removed from its satchel."
        elif document.state == Document.State.WEIGHED:
            state = JobState.COMPLETED
        elif document.state == Document.State.FAILED:
            state, message = JobState.ABORTED, document.error_message
        ended = (
            (document.satchel.changed_at if document else job.created_at) if state.is_over else None
        )
    pages = (document.facts or {}).get("pages") or 0 if document else 0
    return PrintJob(
        number=job.number,
        name=job.name,
        user=job.user,
        state=state,
        message=message,
        pages=pages,
        created_at=job.created_at,
        ended_at=ended,
    )


@contextmanager
def _spooled(document: BinaryIO) -> Iterator[tuple[Path, int]]:
    """Return the printed document as a file, within the upload limit."""
    settings.FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=settings.FILE_UPLOAD_TEMP_DIR) as folder:
        path, size = Path(folder) / "job", 0
        with path.open("wb") as file:
            while chunk := document.read(_CHUNK):
                size += len(chunk)
                if size > settings.UPLOAD_LIMIT_BYTES:
                    raise PrintRefusedError("It is heavier than what is taken here.")
                file.write(chunk)
        yield path, size


def _check(path: Path, size: int) -> None:
    if size == 0:
        raise PrintRefusedError("There is nothing in it.")
    check_room(size)
    with path.open("rb") as file:
        head = file.read(5)
    if not head.startswith(tuple(_MARKS)):
        raise PrintRefusedError("It is no PDF, JPEG or PWG raster.")
    if not head.startswith(b"RaS2"):
        format_of(Source(path=path))


def _only_pages(path: Path, pages: tuple[int, int]) -> Path:
    """Return the existing pages of a range of a PDF; other kinds of pages are taken as sent."""
    with path.open("rb") as file:
        if file.read(5) != b"%PDF-":
            return path
    source = Source(path=path)
    there = weigh(source).pages or 1
    first, last = max(1, pages[0]), min(there, pages[1])
    if (first, last) == (1, there) or first > last:
        return path
    out = path.with_name("pages")
    take_pages(source, first, last, out)
    return out


def _pages_of(path: Path) -> list[tuple[Path, str]]:
    """Return each page as a PNG beside the job, with its resolution."""
    import io

    from PIL import Image

    pages = []
    with path.open("rb") as file:
        for number, page in enumerate(read_pwg_raster(file), start=1):
            coded = io.BytesIO()
            Image.fromarray(page.pixels).save(coded, "PNG", compress_level=1)
            place = path.with_name(f"page-{number}.png")
            place.write_bytes(with_resolution(coded.getvalue(), page.ppi[0] or 300))
            pages.append((place, f"Page {number}.png"))
    if not pages:
        raise PrintRefusedError("There is no page in it.")
    return pages


def _as_file_name(name: str) -> str:
    """Return a file name for a job, whose name is arbitrary: no path, one extension."""
    plain = "".join(
        " " if sign in '/\\:*?"<>|' or not sign.isprintable() else sign for sign in name
    )
    stem = plain.strip(" .").removesuffix(".pdf").removesuffix(".jpg").strip(" .")
    return stem[:120] or "Printed"
