"""The verb weigh: what is heavy in files."""

import argparse
import json
import sys
from functools import partial
from pathlib import Path
from typing import Any

from lighten import (
    EXTRAS,
    KIND_TITLES,
    ExtraKind,
    LightenError,
    Source,
    WeightSheet,
    column_letters,
    error_report,
    sheet_report,
)
from lighten import weigh as weigh_source
from lighten.cli.folders import Skipped, documents_in
from lighten.cli.passwords import with_password
from lighten.cli.printing import DONE, SOME_FAILED, progress_bar, size_text

__all__ = ["weigh_files"]

_HEAVIEST_SHOWN = 8


def weigh_files(options: argparse.Namespace) -> int:
    """Print a weight sheet for each file; the exit code."""
    entries: list[dict[str, Any]] = []
    skipped = Skipped()
    for path, _ in documents_in(options.files, skipped=skipped):
        try:
            sheet = with_password(partial(_weigh, path), options.password, path.name)
        except LightenError as error:
            entries.append({"path": str(path), "error": error_report(error)})
            print(error.message, file=sys.stderr)
            continue
        entries.append({"path": str(path), **sheet_report(sheet)})
        if not options.json:
            _print_sheet(path, sheet)
    for line in skipped.lines():
        print(line, file=sys.stderr)
    if options.json:
        print(json.dumps(entries, indent=2))
    return SOME_FAILED if any("error" in entry for entry in entries) else DONE


def _weigh(path: Path, password: str) -> WeightSheet:
    with progress_bar(path.name) as progress:
        return weigh_source(Source(path=path, password=password), progress)


def _print_sheet(path: Path, sheet: WeightSheet) -> None:
    pages = "" if sheet.pages is None else f", {sheet.pages} pages"
    print(f"{path}: {size_text(sheet.size_bytes)}{pages}")
    for kind, size in sorted(sheet.bytes_by_kind().items(), key=lambda item: -item[1]):
        share = size / sheet.size_bytes
        print(f"  {KIND_TITLES[kind].lower():<22}{size_text(size):>10}{share:>7.0%}")
    pictures = sorted(
        (part for part in sheet.parts if part.picture), key=lambda part: -part.size_bytes
    )
    for part in pictures[:_HEAVIEST_SHOWN]:
        facts = part.picture
        assert facts is not None
        ppi = f"{facts.ppi:.0f} ppi" if facts.ppi else "not shown"
        print(
            f"    {size_text(part.size_bytes):>10}  {facts.width_px} x {facts.height_px}, {ppi}, "
            f"{facts.picture_class}, {facts.coding}{_on_pages(facts.pages)}"
        )
    if len(pictures) > _HEAVIEST_SHOWN:
        print(f"    and {len(pictures) - _HEAVIEST_SHOWN} lighter pictures")
    _print_extras(sheet)
    _print_sheets(sheet)


def _print_extras(sheet: WeightSheet) -> None:
    """Print each kind of extra with its bytes and its name for --drop, the heaviest first."""
    sizes: dict[ExtraKind, int] = {}
    for part in sheet.parts:
        if part.extra_kind is not None:
            sizes[part.extra_kind] = sizes.get(part.extra_kind, 0) + part.size_bytes
    for kind, size in sorted(sizes.items(), key=lambda item: -item[1]):
        print(f"    {size_text(size):>10}  {EXTRAS[kind].title}: --drop {kind}")


def _print_sheets(sheet: WeightSheet) -> None:
    """Print, for a workbook, the extent of the data in each sheet, and the declared one."""
    for part in sheet.parts:
        if part.sheet is not None:
            cells = part.sheet
            data = (
                f"data end at row {cells.last_row:,}, column {column_letters(cells.last_column)}"
                if cells.cells
                else "no data"
            )
            claimed = f"; claims {cells.claimed}" if cells.claimed else ""
            print(f"    {size_text(cells.stored_bytes):>10}  sheet {part.name}: {data}{claimed}")
    names = [part.name_facts for part in sheet.parts if part.name_facts]
    if names:
        idle = sum(not facts.used_by for facts in names)
        print(f"    {len(names):,} hidden or broken names, {idle:,} of them used by nothing")


def _on_pages(pages: tuple[int, ...]) -> str:
    return f", page {', '.join(map(str, pages[:5]))}" if pages else ""
