"""The verb scan: pages from a network scanner to one PDF, as they are or as light as asked."""

import argparse
import json
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from lighten import (
    DoesNotFitError,
    LightenError,
    Source,
    error_report,
    keep_workers,
    pages_text,
    with_resolution,
)
from lighten.cli.gather import put_together
from lighten.cli.printing import (
    DONE,
    SOME_FAILED,
    SOME_TOO_HEAVY,
    not_written,
    progress_bar,
    size_text,
)
from scanners import ColourMode, PaperSize, PaperSource, Scanner, ScannerError, ScanSettings

__all__ = ["scan_pages"]


def scan_pages(options: argparse.Namespace) -> int:
    """Scan all pages into one PDF; scanned pages are kept if a later one fails."""
    started = time.monotonic()
    entry: dict[str, Any] = {"document": None, "pages": 0, "error": None}
    try:
        if options.out.exists() and not options.force:
            raise FileExistsError(options.out)
        options.out.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=options.out.parent, prefix=".scanning-") as folder:
            pages, error = _scan(options, Path(folder))
            if pages:
                entry |= _put_together(options, pages)
            entry["error"] = error or entry["error"]
    except LightenError as error:
        entry["error"] = error_report(error)
    except OSError as error:
        entry["error"] = not_written(error, options.out)
    entry["seconds"] = round(time.monotonic() - started, 3)
    _say(entry, as_json=options.json)
    if entry["error"] is None:
        return DONE
    return SOME_TOO_HEAVY if entry["error"]["code"] == DoesNotFitError.code else SOME_FAILED


def _scan(options: argparse.Namespace, folder: Path) -> tuple[list[Source], dict[str, str] | None]:
    """Scan; return the pages that came and the error, if any."""
    settings = ScanSettings(
        source=PaperSource(options.source),
        size=PaperSize(options.size),
        ppi=options.ppi,
        colours=ColourMode(options.colours),
        both_sides=options.both_sides,
    )
    pages: list[Source] = []
    try:
        with Scanner(options.scanner) as scanner, progress_bar("scanning") as progress:
            for number, page in enumerate(scanner.scan(settings), start=1):
                path = folder / f"Page {number}{page.suffix}"
                path.write_bytes(with_resolution(page.content, settings.ppi))
                pages.append(Source(path=path))
                # Nobody knows how many there are.
                progress(1 - 0.8**number, f"page {number}")
    except ScannerError as error:
        return pages, {"code": f"scanner_{error.code}", "message": error.message}
    return pages, None


def _put_together(options: argparse.Namespace, pages: list[Source]) -> dict[str, Any]:
    """Gather the pages into `out`; unchanged where they cannot be as light as asked."""
    entry: dict[str, Any] = {"error": None}
    with keep_workers(), progress_bar(options.out.name) as progress:
        try:
            gathered, lightened = put_together(options, pages, progress)
            entry |= lightened
        except DoesNotFitError as error:
            entry["error"] = error_report(error)
            plain = argparse.Namespace(**{**vars(options), "preset": None, "limit": None})
            gathered, _ = put_together(plain, pages, progress)
    return {
        "document": str(options.out),
        "pages": gathered.pages,
        "bytes": options.out.stat().st_size,
        "scanned_bytes": sum(page.path.stat().st_size for page in pages),
        **entry,
    }


def _say(entry: dict[str, Any], *, as_json: bool) -> None:
    if entry["error"]:
        print(entry["error"]["message"], file=sys.stderr)
    if as_json:
        print(json.dumps(entry, indent=2))
    elif entry["document"]:
        sizes = f"{size_text(entry['scanned_bytes'])} as scanned, now {size_text(entry['bytes'])}"
        verdict = f", {entry['verdict']}" if entry.get("verdict") else ""
        print(f"{entry['document']}: {pages_text(entry['pages'])}, {sizes}{verdict}")
