"""Answers to each operation (RFC 8011, 4; PWG 5100.14 for IPP Everywhere)."""

import gzip
import io
import zlib
from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from typing import BinaryIO, cast

from printers.attributes import TAKEN, job_attributes, of, printer_attributes
from printers.desk import PrinterDesk, PrintJob, PrintRefusedError
from printers.ipp import Attribute, Group, IppMessage, Tag

__all__ = ["answer"]

_OK, _OK_WITHOUT_SOME = 0x0000, 0x0001
_BAD_REQUEST, _NOT_POSSIBLE, _NOT_FOUND, _UNKNOWN_FORMAT = 0x0400, 0x0404, 0x0406, 0x040A
_UNKNOWN_ATTRIBUTES, _UNKNOWN_CHARSET, _NO_SUCH_OPERATION = 0x040B, 0x040D, 0x0501
_BAD_VERSION, _UNKNOWN_COMPRESSION = 0x0503, 0x040F
_MOST_UNPACKED = 2_000_000_000
_KNOWN = frozenset(
    {
        *("copies", "finishings", "media", "media-col", "multiple-document-handling"),
        *("orientation-requested", "output-bin", "page-ranges", "print-color-mode"),
        *("print-content-optimize", "print-quality", "print-rendering-intent", "print-scaling"),
        *("printer-resolution", "sides"),
    }
)


class _StatusError(Exception):
    def __init__(self, status: int, message: str, unsupported: Group | None = None) -> None:
        super().__init__(message)
        self.status, self.unsupported = status, unsupported or {}


def answer(request: IppMessage, document: BinaryIO, desk: PrinterDesk) -> IppMessage:
    """document: what follows the request. Never raises for what a client sends."""
    operation = request.group(Tag.OPERATION)
    status, message = _OK, ""
    groups: list[tuple[int, Group]] = []
    try:
        _check(request, operation)
        act = _operation(request.code)
        groups, unsupported = act(operation, request.group(Tag.JOB), document, desk)
        if unsupported:
            status, groups = _OK_WITHOUT_SOME, [(Tag.UNSUPPORTED, unsupported), *groups]
    except _StatusError as error:
        status, message = error.status, str(error)
        if error.unsupported:
            groups = [(Tag.UNSUPPORTED, error.unsupported)]
    except PrintRefusedError as error:
        status, message = _UNKNOWN_FORMAT, str(error)
    head: Group = {
        "attributes-charset": of(Tag.CHARSET, "utf-8"),
        "attributes-natural-language": of(Tag.LANGUAGE, "en"),
    }
    if message:
        head["status-message"] = of(Tag.TEXT, message[:250])
    version = request.version if request.version[0] in (1, 2) else (2, 0)
    return IppMessage(status, request.request_id, version, [(Tag.OPERATION, head), *groups])


def _operation(code: int) -> "Act":
    act = _OPERATIONS.get(code)
    if act is None:
        raise _StatusError(_NO_SUCH_OPERATION, "This printer does not know that operation.")
    return act


_Answer = tuple[list[tuple[int, Group]], Group]


def _check(request: IppMessage, operation: Group) -> None:
    """The order and the kinds that RFC 8011, 4.1.4, 4.1.5 and 4.1.8 ask for."""
    if request.version[0] not in (1, 2):
        raise _StatusError(_BAD_VERSION, "Versions 1.0 to 2.0 are spoken here.")
    if request.request_id == 0:
        raise _StatusError(_BAD_REQUEST, "A request has a number above zero.")
    names = list(operation)
    if names[:2] != ["attributes-charset", "attributes-natural-language"]:
        raise _StatusError(_BAD_REQUEST, "A request begins with its charset and its language.")
    charset = str(operation["attributes-charset"].values[0]).lower()
    if charset not in ("utf-8", "us-ascii"):
        raise _StatusError(_UNKNOWN_CHARSET, "utf-8 is spoken here.")
    if "printer-uri" not in operation and "job-uri" not in operation:
        raise _StatusError(_BAD_REQUEST, "A request names its printer or its job.")


def _text(operation: Group, name: str, otherwise: str = "") -> str:
    attribute = operation.get(name)
    return str(attribute.values[0]) if attribute is not None else otherwise


def _job(operation: Group, desk: PrinterDesk) -> PrintJob:
    uri = _text(operation, "job-uri")
    identifier = uri.rpartition("/")[2] if uri else _text(operation, "job-id")
    if not identifier:
        raise _StatusError(_BAD_REQUEST, "A job is named by its number.")
    found = next((job for job in desk.jobs() if str(job.number) == identifier), None)
    if found is None:
        raise _StatusError(_NOT_FOUND, "There is no such job.")
    return found


def _wanted(operation: Group, otherwise: Iterable[str]) -> frozenset[str]:
    asked = operation.get("requested-attributes")
    return frozenset(map(str, asked.values)) if asked is not None else frozenset(otherwise)


def _only(attributes: Group, wanted: frozenset[str], all_names: tuple[str, ...]) -> Group:
    if wanted & {"all", *all_names}:
        return {
            name: value
            for name, value in attributes.items()
            # Told only to those that ask for it by name (RFC 8011, 4.2.5.1; PWG 5100.7).
            if name != "media-col-database" or name in wanted
        }
    return {name: value for name, value in attributes.items() if name in wanted}


def _format(operation: Group) -> str:
    media_type = _text(operation, "document-format", "application/octet-stream").lower()
    if media_type not in TAKEN:
        raise _StatusError(
            _UNKNOWN_FORMAT,
            "PDF, PWG raster and JPEG are taken here.",
            {"document-format": of(Tag.MIME, media_type)},
        )
    return media_type


def _unpacked(operation: Group, document: BinaryIO) -> BinaryIO:
    compression = _text(operation, "compression", "none")
    if compression == "none":
        return document
    if compression == "gzip":
        return cast(BinaryIO, gzip.GzipFile(fileobj=document))
    if compression == "deflate":
        reader = zlib.decompressobj(-zlib.MAX_WBITS)
        return io.BytesIO(reader.decompress(document.read(), _MOST_UNPACKED))
    raise _StatusError(
        _UNKNOWN_COMPRESSION,
        "Documents are packed by gzip or deflate, or not at all.",
        {"compression": of(Tag.KEYWORD, compression)},
    )


def _unsupported(job: Group) -> Group:
    """Return requested attributes that are unknown; settings for paper are known, and ignored."""
    return {name: Attribute(Tag.UNSUPPORTED_VALUE, (None,)) for name in job if name not in _KNOWN}


def _check_fidelity(operation: Group, job: Group) -> Group:
    unsupported = _unsupported(job)
    fidelity = operation.get("ipp-attribute-fidelity")
    if unsupported and fidelity is not None and fidelity.values[0] is True:
        raise _StatusError(_UNKNOWN_ATTRIBUTES, "Some of what was asked is not done.", unsupported)
    return unsupported


def _pages(job: Group) -> tuple[int, int] | None:
    """The first and the last that are asked for."""
    ranges = [one for one in job.get("page-ranges", of(Tag.RANGE)).values if isinstance(one, tuple)]
    if not ranges:
        return None
    return min(int(first) for first, _ in ranges), max(int(last) for _, last in ranges)


def _begin(operation: Group, desk: PrinterDesk) -> PrintJob:
    return desk.begin(
        _text(operation, "job-name", "Untitled"),
        _text(operation, "requesting-user-name", "anonymous"),
    )


def _described(job: PrintJob, desk: PrinterDesk) -> list[tuple[int, Group]]:
    names = frozenset({"job-id", "job-uri", "job-state", "job-state-reasons", "job-state-message"})
    return [(Tag.JOB, _only(job_attributes(job, desk.queue, datetime.now(UTC)), names, ()))]


def _print_job(operation: Group, job: Group, document: BinaryIO, desk: PrinterDesk) -> _Answer:
    media_type = _format(operation)
    unsupported = _check_fidelity(operation, job)
    content = _unpacked(operation, document)
    begun = _begin(operation, desk)
    desk.take(begun.number, content, media_type, _pages(job))
    return _described(_again(begun, desk), desk), unsupported


def _validate_job(operation: Group, job: Group, _document: BinaryIO, _desk: PrinterDesk) -> _Answer:
    _format(operation)
    return [], _check_fidelity(operation, job)


def _create_job(operation: Group, job: Group, _document: BinaryIO, desk: PrinterDesk) -> _Answer:
    unsupported = _check_fidelity(operation, job)
    return _described(_begin(operation, desk), desk), unsupported


def _send_document(
    operation: Group, group: Group, document: BinaryIO, desk: PrinterDesk
) -> _Answer:
    job = _job(operation, desk)
    last = operation.get("last-document")
    if last is None:
        raise _StatusError(_BAD_REQUEST, "It is not said whether more documents come.")
    media_type = _format(operation)
    if job.state.is_over:
        raise _StatusError(_NOT_POSSIBLE, "That job is over.")
    desk.take(job.number, _unpacked(operation, document), media_type, _pages(group))
    return _described(_again(job, desk), desk), {}


def _close_job(operation: Group, _group: Group, _document: BinaryIO, desk: PrinterDesk) -> _Answer:
    return _described(_job(operation, desk), desk), {}


def _cancel_job(operation: Group, _group: Group, _document: BinaryIO, desk: PrinterDesk) -> _Answer:
    job = _job(operation, desk)
    if job.state.is_over:
        raise _StatusError(_NOT_POSSIBLE, "That job is over already.")
    desk.cancel(job.number)
    return [], {}


def _cancel_my_jobs(
    operation: Group, _group: Group, _document: BinaryIO, desk: PrinterDesk
) -> _Answer:
    job_ids = operation.get("job-ids")
    numbers = set(job_ids.values) if job_ids is not None else None
    user = _text(operation, "requesting-user-name", "anonymous")
    for job in desk.jobs():
        is_mine = job.user == user and not job.state.is_over
        if is_mine and (numbers is None or job.number in numbers):
            desk.cancel(job.number)
    return [], {}


def _get_job(operation: Group, _group: Group, _document: BinaryIO, desk: PrinterDesk) -> _Answer:
    job = _job(operation, desk)
    wanted = _wanted(operation, ["all"])
    names = ("job-template", "job-description")
    return [(Tag.JOB, _only(job_attributes(job, desk.queue, datetime.now(UTC)), wanted, names))], {}


def _get_jobs(operation: Group, _group: Group, _document: BinaryIO, desk: PrinterDesk) -> _Answer:
    which = _text(operation, "which-jobs", "not-completed")
    if which not in ("completed", "not-completed", "all"):
        raise _StatusError(
            _UNKNOWN_ATTRIBUTES, "There are no such jobs.", {"which-jobs": of(Tag.KEYWORD, which)}
        )
    jobs = [
        job for job in desk.jobs() if which == "all" or job.state.is_over == (which == "completed")
    ]
    mine = operation.get("my-jobs")
    if mine is not None and mine.values[0] is True:
        user = _text(operation, "requesting-user-name", "anonymous")
        jobs = [job for job in jobs if job.user == user]
    limit = operation.get("limit")
    if limit is not None and isinstance(limit.values[0], int):
        jobs = jobs[: max(0, limit.values[0])]
    wanted = _wanted(operation, ["job-uri", "job-id"])
    names = ("job-template", "job-description")
    return [
        (Tag.JOB, _only(job_attributes(job, desk.queue, datetime.now(UTC)), wanted, names))
        for job in jobs
    ], {}


def _get_printer(
    operation: Group, _group: Group, _document: BinaryIO, desk: PrinterDesk
) -> _Answer:
    wanted = _wanted(operation, ["all"])
    waiting = sum(not job.state.is_over for job in desk.jobs())
    attributes = printer_attributes(desk.queue, waiting, datetime.now(UTC))
    names = ("printer-description", "job-template")
    return [(Tag.PRINTER, _only(attributes, wanted, names))], {}


def _identify(_operation: Group, _group: Group, _document: BinaryIO, _desk: PrinterDesk) -> _Answer:
    """Answer Identify-Printer without a blink: the printer's page says which one it is."""
    return [], {}


def _again(job: PrintJob, desk: PrinterDesk) -> PrintJob:
    return next((one for one in desk.jobs() if one.number == job.number), job)


Act = Callable[[Group, Group, BinaryIO, PrinterDesk], _Answer]
_OPERATIONS: dict[int, Act] = {
    0x0002: _print_job,
    0x0004: _validate_job,
    0x0005: _create_job,
    0x0006: _send_document,
    0x0008: _cancel_job,
    0x0009: _get_job,
    0x000A: _get_jobs,
    0x000B: _get_printer,
    0x0039: _cancel_my_jobs,
    0x003B: _close_job,
    0x003C: _identify,
}
