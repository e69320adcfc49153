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
from lighten.cli.passwords import with_password
from lighten.cli.printing import (
    DONE,
    SOME_FAILED,
    WRONG_USAGE,
    not_written,
    progress_bar,
    size_text,
)

__all__ = ["rasterise_file"]


def rasterise_file(options: argparse.Namespace) -> int:
    """The exit code."""
    started = time.monotonic()
    entry: dict[str, Any] = {"document": str(options.file), "files": [], "pages": [], "error": None}
    try:
        wanted = _wanted(options)
    except ValueError as error:
        print(f"--ppi or --threshold: {error}", file=sys.stderr)
        return WRONG_USAGE
    out: Path = options.out
    try:
        out.parent.mkdir(parents=True, exist_ok=True)

        def make_with(password: str) -> Rasterised:
            with progress_bar(options.file.name) as progress:
                return rasterise(
                    Source(path=options.file, password=password),
                    out,
                    wanted,
                    progress,
                    each=options.each,
                    may_blur_text=options.coarse_text,
                    may_replace=options.force,
                )

        with keep_workers():
            made = with_password(make_with, options.password, options.file.name)
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
    _say(entry, as_json=options.json)
    return DONE if entry["error"] is None else SOME_FAILED


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


def _say(entry: dict[str, Any], *, as_json: bool) -> None:
    if entry["error"]:
        print(entry["error"]["message"], file=sys.stderr)
    if as_json:
        print(json.dumps(entry, indent=2))
    elif not entry["error"]:
        files = entry["files"]
        name = files[0] if len(files) == 1 else f"{files[0]} to {Path(files[-1]).name}"
        print(f"{name}: {pages_text(len(entry['pages']))}, {size_text(entry['bytes'])}")
        for page in entry["pages"]:
            remark = f", {page['remark']}" if page["remark"] else ""
            print(f"  page {page['page']}: {page['colours']}, {size_text(page['bytes'])}{remark}")
