"""Work on paper in the background. Each task can run twice without harm."""

import logging
import time
from typing import Any

from django.conf import settings
from django.core.files.base import ContentFile
from django_tasks import task

from lighten import with_resolution
from scanners import (
    ColourMode,
    PaperSize,
    PaperSource,
    ScannedPage,
    Scanner,
    ScannerError,
    ScanSettings,
)
from web.intake.models import Page, Scan
from web.jobs.job_kinds import InspectPageJob, points_of
from web.jobs.runner import JobCancelledError, JobFailedError, run_job

__all__ = ["look_at_page", "run_scan", "scan_settings"]

logger = logging.getLogger(__name__)
# Somebody stands at the scanner.
_AT_ONCE, _SOON = 80, 40
_REPORTED_EVERY_S = 0.4


def scan_settings(wanted: dict[str, Any]) -> ScanSettings:
    """Restore the settings stored with a scan. Raises: ValueError, KeyError."""
    return ScanSettings(
        source=PaperSource(wanted["source"]),
        size=PaperSize(wanted["size"]),
        ppi=int(wanted["ppi"]),
        colours=ColourMode(wanted["colours"]),
        both_sides=bool(wanted["both_sides"]),
    )


@task(priority=_AT_ONCE)
def run_scan(scan_id: str) -> None:
    """Take pages in until there is no more paper, or somebody stops it. What came stays."""
    scan = Scan.objects.select_related("intake", "replaces").filter(pk=scan_id).first()
    if scan is None:
        return
    if not scan.begin():
        # Taken up again after its worker went; whoever stands at the scanner knows what came.
        scan.fail("broke_off", "Scanning broke off. The pages that came are here: go on.")
        return
    address = settings.SCANNERS.get(scan.scanner)
    if address is None:
        scan.fail("unreachable", f"{scan.scanner} is no scanner of this installation any more.")
        return
    reported_at = time.monotonic()

    def on_share(share: float) -> None:
        nonlocal reported_at
        if time.monotonic() - reported_at > _REPORTED_EVERY_S:
            scan.tell(share=round(share, 3))
            reported_at = time.monotonic()

    try:
        with Scanner(address) as scanner:
            pages = scanner.scan(
                scan_settings(scan.wanted), is_stopped=scan.is_stopped, on_share=on_share
            )
            for number, page in enumerate(pages, start=1):
                _take(scan, page, number)
                if scan.replaces is not None:
                    pages.close()
                    break
    except ScannerError as error:
        scan.fail(error.code, error.message)
    else:
        scan.finish()
    scan.settle_order()


def _take(scan: Scan, scanned: ScannedPage, number: int) -> None:
    place = scan.intake.pages.count() + 1
    name = f"Page {place}{scanned.suffix}"
    content = with_resolution(scanned.content, scan.wanted["ppi"])
    page = scan.intake.take(ContentFile(content), name, scan=scan)
    scan.tell(pages_came=number, share=0)
    look_at_page.enqueue(str(page.pk))


@task(priority=_SOON)
def look_at_page(page_id: str) -> None:
    """Inspect a page that came, and estimate it in layers."""
    page = Page.objects.filter(pk=page_id).first()
    if page is None or page.layers is not None:
        return

    def is_wanted() -> bool:
        # With other corners it is another page, looked at by a task of its own.
        now = Page.objects.filter(pk=page_id).values_list("corners", flat=True)
        return list(now) == [page.corners]

    def on_partial(_share: float, look: dict[str, Any]) -> None:
        if is_wanted():
            Page.objects.filter(pk=page_id).update(look=look)

    try:
        layers = run_job(
            page,
            InspectPageJob(corners=points_of(page.corners)),
            on_partial=on_partial,
            is_wanted=is_wanted,
        )
    except JobFailedError as error:
        page.fail(error.message)
    except JobCancelledError:
        logger.info("page %s was thrown away, or became another", page_id)
    else:
        if is_wanted():
            Page.objects.filter(pk=page_id).update(layers=layers)
