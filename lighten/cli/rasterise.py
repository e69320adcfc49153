"""The verb rasterise: pages of documents as pictures, in a TIFF or one each."""

import argparse
import json
import sys
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

from lighten import (
    BitonalMethod,
    LightenError,
    PageColours,
    Rasterised,
    RasterTreatment,
    Source,
    error_report,
    keep_workers,
    pages_text,
    rasterise,
)
from lighten.cli.folders import Skipped, documents_in
from lighten.cli.passwords import with_password
from lighten.cli.printing import (
    DONE,
    SOME_FAILED,
    WRONG_USAGE,
    not_written,
    progress_bar,
    size_text,
)

__all__ = ["rasterise_files"]

_SUFFIXES = (".tif", ".tiff")


def rasterise_files(options: argparse.Namespace) -> int:
    """Write the pages of each file, and print what came of it; the exit code."""
    try:
        wanted = _wanted(options)
    except ValueError as error:
        print(f"--ppi or --threshold: {error}", file=sys.stderr)
        return WRONG_USAGE
    skipped = Skipped()
    documents = list(documents_in(options.files, out=options.out, skipped=skipped))
    for line in skipped.lines():
        print(line, file=sys.stderr)
    is_single = len(documents) == 1 and not options.files[0].is_dir() and not options.out.is_dir()
    if not is_single and options.out.suffix.lower() in _SUFFIXES:
        print(f"--out {options.out}: name a folder for several files", file=sys.stderr)
        return WRONG_USAGE
    entries = []
    with keep_workers():
        for path, below in documents:
            out = options.out if is_single else options.out / below / f"{path.stem}.tif"
            entries.append(_rasterise(path, out, wanted, options))
            if not options.json:
                _say(entries[-1])
    if options.json:
        print(json.dumps(entries[0] if is_single else entries, indent=2))
    return DONE if all(entry["error"] is None for entry in entries) else SOME_FAILED


def _rasterise(
    path: Path, out: Path, wanted: RasterTreatment, options: argparse.Namespace
) -> dict[str, Any]:
    """Write the pages of one file; return what came of it, as --json prints it."""
    started = time.monotonic()
    entry: dict[str, Any] = {"document": str(path), "files": [], "pages": [], "error": None}
    try:
        out.parent.mkdir(parents=True, exist_ok=True)

        def make_with(password: str) -> Rasterised:
            with progress_bar(path.name) as progress:
                return rasterise(
                    Source(path=path, password=password),
                    out,
                    wanted,
                    progress,
                    each=options.each,
                    may_blur_text=options.coarse_text,
                    may_replace=options.force,
                )

        made = with_password(make_with, options.password, path.name)
        entry["files"] = [str(path) for path in made.paths]
        entry["bytes"] = made.size_bytes
        entry["pages"] = [
            {
                "page": page.number,
                "width_px": page.width_px,
                "height_px": page.height_px,
                "ppi": round(page.ppi, 1),
                "colours": page.kind,
                "bytes": page.size_bytes,
                "remark": page.remark,
            }
            for page in made.pages
        ]
    except LightenError as error:
        entry["error"] = error_report(error)
    except OSError as error:
        entry["error"] = not_written(error, out)
    entry["seconds"] = round(time.monotonic() - started, 3)
    return entry


def _wanted(options: argparse.Namespace) -> RasterTreatment:
    """Return the preset's raster order, changed by the options. Raises: ValueError."""
    wanted = RasterTreatment() if options.preset is None else options.preset.treatment.raster
    asked = {
        "ppi": options.ppi,
        "colours": None if options.colours is None else PageColours(options.colours),
        "divide": None if options.divide is None else BitonalMethod(options.divide),
        "threshold": options.threshold,
        "keeps_photos_grey": False if options.photos_too else None,
    }
    return replace(wanted, **{name: value for name, value in asked.items() if value is not None})


def _say(entry: dict[str, Any]) -> None:
    if entry["error"]:
        print(entry["error"]["message"], file=sys.stderr)
    else:
        files = entry["files"]
        name = files[0] if len(files) == 1 else f"{files[0]} to {Path(files[-1]).name}"
        print(f"{name}: {pages_text(len(entry['pages']))}, {size_text(entry['bytes'])}")
        for page in entry["pages"]:
            remark = f", {page['remark']}" if page["remark"] else ""
            print(f"  page {page['page']}: {page['colours']}, {size_text(page['bytes'])}{remark}")
