"""Attributes of the printer and of its jobs (RFC 8011, 5; PWG 5100.13, 5100.14)."""

from datetime import datetime

from printers.desk import JobState, PrintJob, QueueInfo
from printers.ipp import Attribute, Group, Tag

__all__ = ["TAKEN", "job_attributes", "of", "printer_attributes"]

TAKEN = ("application/octet-stream", "application/pdf", "image/jpeg", "image/pwg-raster")
# Width and height in hundredths of a millimetre (PWG 5101.1).
_MEDIA = {
    "iso_a4_210x297mm": (21000, 29700),
    "na_letter_8.5x11in": (21590, 27940),
    "iso_a3_297x420mm": (29700, 42000),
    "iso_a5_148x210mm": (14800, 21000),
    "na_legal_8.5x14in": (21590, 35560),
}
_RESOLUTIONS = ((300, 300), (600, 600), (150, 150))
_REASONS = {
    JobState.PENDING: "job-incoming",
    JobState.HELD: "job-hold-until-specified",
    JobState.PROCESSING: "job-printing",
    JobState.STOPPED: "printer-stopped",
    JobState.CANCELED: "job-canceled-by-user",
    JobState.ABORTED: "aborted-by-system",
    JobState.COMPLETED: "job-completed-successfully",
}
_OPERATION_CODES = (0x2, 0x4, 0x5, 0x6, 0x8, 0x9, 0xA, 0xB, 0x39, 0x3B, 0x3C)


# Small, medium, large (PWG 5100.13, from memory).
_ICONS_PX = (48, 128, 512)


def of(tag: int, *values: object) -> Attribute:
    return Attribute(tag, values)


def job_attributes(job: PrintJob, queue: QueueInfo, now: datetime) -> Group:
    never = Attribute(Tag.NO_VALUE, (None,))
    ended = job.ended_at
    up = _seconds(queue, job.created_at)
    return {
        "job-id": of(Tag.INTEGER, job.number),
        "job-uri": of(Tag.URI, f"{queue.uri}/{job.number}"),
        "job-uuid": of(Tag.URI, f"{queue.uuid[:-8]}{job.number:08x}"),
        "job-name": of(Tag.NAME, job.name[:255]),
        "job-originating-user-name": of(Tag.NAME, job.user[:255]),
        "job-state": of(Tag.ENUM, int(job.state)),
        "job-state-reasons": of(Tag.KEYWORD, _REASONS[job.state]),
        "job-state-message": of(Tag.TEXT, job.message[:250]),
        "job-printer-uri": of(Tag.URI, queue.uri),
        "job-printer-up-time": of(Tag.INTEGER, _seconds(queue, now)),
        "job-more-info": of(Tag.URI, queue.page_uri),
        "job-impressions": of(Tag.INTEGER, job.pages),
        "job-impressions-completed": of(Tag.INTEGER, job.pages if job.state.is_over else 0),
        "time-at-creation": of(Tag.INTEGER, up),
        "time-at-processing": of(Tag.INTEGER, up),
        "time-at-completed": of(Tag.INTEGER, _seconds(queue, ended)) if ended else never,
        "date-time-at-creation": of(Tag.DATE_TIME, job.created_at),
        "date-time-at-processing": of(Tag.DATE_TIME, job.created_at),
        "date-time-at-completed": of(Tag.DATE_TIME, ended) if ended else never,
    }


def printer_attributes(queue: QueueInfo, waiting: int, now: datetime) -> Group:
    sizes = [_size(across, down) for across, down in _MEDIA.values()]
    collections = [_media(name) for name in _MEDIA]
    words = tuple(_MEDIA)
    root = queue.page_uri.rpartition("/")[0]
    return {
        "charset-configured": of(Tag.CHARSET, "utf-8"),
        "charset-supported": of(Tag.CHARSET, "utf-8", "us-ascii"),
        "color-supported": of(Tag.BOOLEAN, True),
        "compression-supported": of(Tag.KEYWORD, "none", "gzip", "deflate"),
        "copies-default": of(Tag.INTEGER, 1),
        "copies-supported": of(Tag.RANGE, (1, 1)),
        "document-format-default": of(Tag.MIME, "application/pdf"),
        "document-format-supported": of(Tag.MIME, *TAKEN),
        "document-password-supported": of(Tag.INTEGER, 0),
        "finishings-default": of(Tag.ENUM, 3),
        "finishings-supported": of(Tag.ENUM, 3),
        "generated-natural-language-supported": of(Tag.LANGUAGE, "en"),
        "identify-actions-default": of(Tag.KEYWORD, "display"),
        "identify-actions-supported": of(Tag.KEYWORD, "display"),
        "ipp-features-supported": of(Tag.KEYWORD, "ipp-everywhere"),
        "ipp-versions-supported": of(Tag.KEYWORD, "1.0", "1.1", "2.0"),
        "job-creation-attributes-supported": of(
            Tag.KEYWORD,
            *("copies", "finishings", "ipp-attribute-fidelity", "job-name", "media", "media-col"),
            *("orientation-requested", "output-bin", "print-color-mode", "print-content-optimize"),
            *("print-quality", "print-rendering-intent", "printer-resolution", "sides"),
        ),
        "job-ids-supported": of(Tag.BOOLEAN, True),
        "job-impressions-supported": of(Tag.RANGE, (0, 2000)),
        "media-default": of(Tag.KEYWORD, words[0]),
        "media-ready": of(Tag.KEYWORD, *words),
        "media-supported": of(Tag.KEYWORD, *words),
        "media-size-supported": of(Tag.BEGIN_COLLECTION, *sizes),
        "media-col-default": of(Tag.BEGIN_COLLECTION, collections[0]),
        "media-col-ready": of(Tag.BEGIN_COLLECTION, *collections),
        "media-col-database": of(Tag.BEGIN_COLLECTION, *collections),
        "media-col-supported": of(
            Tag.KEYWORD,
            *("media-bottom-margin", "media-left-margin", "media-right-margin", "media-size"),
            *("media-source", "media-top-margin", "media-type"),
        ),
        **{
            f"media-{side}-margin-supported": of(Tag.INTEGER, 0)
            for side in ("bottom", "left", "right", "top")
        },
        "media-source-supported": of(Tag.KEYWORD, "auto"),
        "media-type-supported": of(Tag.KEYWORD, "stationery"),
        "multiple-document-jobs-supported": of(Tag.BOOLEAN, False),
        "multiple-operation-time-out": of(Tag.INTEGER, 120),
        "multiple-operation-time-out-action": of(Tag.KEYWORD, "abort-job"),
        "natural-language-configured": of(Tag.LANGUAGE, "en"),
        "operations-supported": of(Tag.ENUM, *_OPERATION_CODES),
        "orientation-requested-default": Attribute(Tag.NO_VALUE, (None,)),
        "orientation-requested-supported": of(Tag.ENUM, 3, 4, 5, 6),
        "output-bin-default": of(Tag.KEYWORD, "face-up"),
        "output-bin-supported": of(Tag.KEYWORD, "face-up"),
        "overrides-supported": of(Tag.KEYWORD, "document-number", "pages"),
        "page-ranges-supported": of(Tag.BOOLEAN, True),
        "pages-per-minute": of(Tag.INTEGER, 60),
        "pages-per-minute-color": of(Tag.INTEGER, 60),
        "pdf-versions-supported": of(Tag.KEYWORD, "iso-32000-1_2008", "adobe-1.7"),
        "pdl-override-supported": of(Tag.KEYWORD, "attempted"),
        "preferred-attributes-supported": of(Tag.BOOLEAN, False),
        "print-color-mode-default": of(Tag.KEYWORD, "auto"),
        "print-color-mode-supported": of(Tag.KEYWORD, "auto", "color", "monochrome"),
        "print-content-optimize-default": of(Tag.KEYWORD, "auto"),
        "print-content-optimize-supported": of(Tag.KEYWORD, "auto"),
        "print-quality-default": of(Tag.ENUM, 4),
        "print-quality-supported": of(Tag.ENUM, 3, 4, 5),
        "print-rendering-intent-default": of(Tag.KEYWORD, "auto"),
        "print-rendering-intent-supported": of(Tag.KEYWORD, "auto"),
        "printer-current-time": of(Tag.DATE_TIME, now),
        "printer-config-change-date-time": of(Tag.DATE_TIME, queue.began_at),
        "printer-config-change-time": of(Tag.INTEGER, 1),
        "printer-device-id": of(
            Tag.TEXT, "MFG:Harrow;MDL:Green Satchel;CMD:PDF,PWGRaster,JPEG;CLS:PRINTER;"
        ),
        "printer-geo-location": Attribute(Tag.UNKNOWN, (None,)),
        "printer-get-attributes-supported": of(Tag.KEYWORD, "document-format"),
        "printer-icons": of(
            Tag.URI, *(f"{root}/static/app/mark-{px}.png" for px in (48, 128, 512))
        ),
        "printer-info": of(Tag.TEXT, queue.name),
        "printer-is-accepting-jobs": of(Tag.BOOLEAN, True),
        "printer-location": of(Tag.TEXT, ""),
        "printer-make-and-model": of(Tag.TEXT, "Green Satchel"),
        "printer-more-info": of(Tag.URI, queue.page_uri),
        "printer-name": of(Tag.NAME, queue.name),
        "printer-organization": of(Tag.TEXT, ""),
        "printer-organizational-unit": of(Tag.TEXT, ""),
        "printer-resolution-default": of(Tag.RESOLUTION, _RESOLUTIONS[0]),
        "printer-resolution-supported": of(Tag.RESOLUTION, *_RESOLUTIONS),
        "printer-state": of(Tag.ENUM, 4 if waiting else 3),
        "printer-state-change-date-time": of(Tag.DATE_TIME, now),
        "printer-state-change-time": of(Tag.INTEGER, _seconds(queue, now)),
        "printer-state-message": of(Tag.TEXT, ""),
        "printer-state-reasons": of(Tag.KEYWORD, "none"),
        "printer-supply": of(
            Tag.OCTETS,
            b"index=1;class=supplyThatIsConsumed;type=other;unit=percent;maxcapacity=100;level=100;colorantname=none;",
        ),
        "printer-supply-description": of(Tag.TEXT, "No ink"),
        "printer-supply-info-uri": of(Tag.URI, queue.page_uri),
        "printer-up-time": of(Tag.INTEGER, _seconds(queue, now)),
        "printer-uri-supported": of(Tag.URI, queue.uri),
        "printer-uuid": of(Tag.URI, queue.uuid),
        "pwg-raster-document-resolution-supported": of(Tag.RESOLUTION, *_RESOLUTIONS),
        "pwg-raster-document-sheet-back": of(Tag.KEYWORD, "normal"),
        "pwg-raster-document-type-supported": of(Tag.KEYWORD, "black_1", "sgray_8", "srgb_8"),
        "queued-job-count": of(Tag.INTEGER, waiting),
        "sides-default": of(Tag.KEYWORD, "one-sided"),
        "sides-supported": of(Tag.KEYWORD, "one-sided"),
        "uri-authentication-supported": of(Tag.KEYWORD, "none"),
        "uri-security-supported": of(
            Tag.KEYWORD, "tls" if queue.uri.startswith("ipps") else "none"
        ),
        "which-jobs-supported": of(Tag.KEYWORD, "completed", "not-completed", "all"),
    }


def _seconds(queue: QueueInfo, moment: datetime | None) -> int:
    """Since the queue began, at least one: 0 means never."""
    return max(1, int((moment - queue.began_at).total_seconds())) if moment else 1


def _size(across: int, down: int) -> Group:
    return {"x-dimension": of(Tag.INTEGER, across), "y-dimension": of(Tag.INTEGER, down)}


def _media(name: str) -> Group:
    return {
        "media-size": of(Tag.BEGIN_COLLECTION, _size(*_MEDIA[name])),
        **{
            f"media-{side}-margin": of(Tag.INTEGER, 0)
            for side in ("bottom", "left", "right", "top")
        },
        "media-source": of(Tag.KEYWORD, "auto"),
        "media-type": of(Tag.KEYWORD, "stationery"),
    }
