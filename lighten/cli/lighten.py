"""The verb lighten: proved copies beside their originals."""

import argparse
import json
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from lighten import (
    DEFAULT_PRESET,
    CodingCache,
    DoesNotFitError,
    FitOrder,
    FitRules,
    LightenError,
    Naming,
    Order,
    OrderResult,
    Source,
    TimeLeft,
    Trials,
    Verdict,
    WeightSheet,
    copy_ending,
    error_report,
    keep_workers,
    make,
    name_pieces,
    order_result_report,
    plan_order,
    share_limit,
    share_of,
    weigh,
)
from lighten.cli.copy_names import CopyNames
from lighten.cli.estimate import all_trials
from lighten.cli.folders import Skipped, documents_in, temporary_name
from lighten.cli.passwords import with_password
from lighten.cli.printing import (
    DONE,
    SOME_FAILED,
    SOME_TOO_HEAVY,
    WRONG_USAGE,
    InRun,
    progress_bar,
    size_text,
)
from lighten.cli.switches import kept_pictures

__all__ = ["lighten_file", "lighten_files", "order_of"]

# Of codings kept while one copy is made.
_MOST_KEPT_BYTES = 2_000_000_000
_WEIGHING_SHARE = 0.1


def lighten_files(options: argparse.Namespace) -> int:
    """Make a copy of each file and print what came of it; the exit code."""
    if options.out is not None and options.out.exists() and not options.out.is_dir():
        print(
            f"--out {options.out}: is a file. Name a folder: each copy keeps its original's name, "
            "with the suffix.",
            file=sys.stderr,
        )
        return WRONG_USAGE
    if (options.together or options.split) and not options.limit:
        print("--together and --split want a --limit", file=sys.stderr)
        return WRONG_USAGE
    try:
        order = order_of(options)
    except ValueError as error:
        print(f"--floor, --allow: {error}", file=sys.stderr)
        return WRONG_USAGE
    if order.fit is not None and order.preset != DEFAULT_PRESET:
        print(
            "--limit chooses resolution and quality by itself. Leave out the changes to the "
            "preset, and permit extras to be removed with --allow.",
            file=sys.stderr,
        )
        return WRONG_USAGE
    shares = _shares(options, order) if options.together and order.fit else {}
    entries: dict[int, dict[str, Any]] = {}
    skipped = Skipped()
    documents = _documents(options, order.naming, skipped)
    for line in skipped.lines():
        print(line, file=sys.stderr)
    names = CopyNames((path for path, _ in documents), may_replace=options.force)
    started = time.monotonic()
    with keep_workers():
        for number, place in _small_first([path for path, _ in documents]):
            path, below = documents[number]
            own_order = _with_share(order, shares.get(path))
            entry = entries[number] = lighten_file(
                path, below, own_order, options, names, place=place
            )
            if entry["error"]:
                print(entry["error"]["message"], file=sys.stderr)
            elif not options.json:
                _print_copy(entry)
    if options.json:
        print(json.dumps([entries[number] for number in sorted(entries)], indent=2))
    elif len(entries) > 1:
        print(_summary(list(entries.values()), skipped, time.monotonic() - started))
    codes = {entry["error"]["code"] for entry in entries.values() if entry["error"]}
    if codes - {DoesNotFitError.code}:
        return SOME_FAILED
    return SOME_TOO_HEAVY if codes else DONE


def _summary(entries: list[dict[str, Any]], skipped: Skipped, seconds: float) -> str:
    """Return the sums and counts of a run in one line."""
    done = [entry for entry in entries if not entry["error"]]
    before = sum(entry["bytes_before"] for entry in done)
    after = sum(entry["bytes_after"] for entry in done)
    lighter = [entry for entry in done if entry["copy"] is not None]
    to_look_at = sum(entry["verdict"] == Verdict.CHECK for entry in lighter)
    counts = {
        "done": len(lighter),
        "unchanged": len(done) - len(lighter),
        "to look at": to_look_at,
        "failed": len(entries) - len(done),
        "of unknown kinds": len(skipped.unknown) + len(skipped.empty),
    }
    numbers = "".join(f", {count} {what}" for what, count in counts.items() if count)
    share = f" ({after / before - 1:+.0%})" if before else ""
    sizes = f"{size_text(before)} -> {size_text(after)}{share}"
    return f"{len(entries)} files: {sizes}{numbers}, in {seconds:.0f} s"


def _small_first(files: list[Path]) -> Iterator[tuple[int, InRun | None]]:
    """Return the files by size with their position in the run: small ones are sent first."""
    sizes = [path.stat().st_size if path.is_file() else 0 for path in files]
    total, done, time_left = max(1, sum(sizes)), 0, TimeLeft()
    in_turn = sorted(range(len(files)), key=lambda number: sizes[number])
    for turn, number in enumerate(in_turn, start=1):
        begin, done = done / total, done + sizes[number]
        place = InRun(
            number=turn, count=len(files), begin=begin, end=done / total, time_left=time_left
        )
        yield number, place if len(files) > 1 else None


def order_of(options: argparse.Namespace) -> Order:
    """Return the order for every file of the run. Raises: ValueError."""
    suffix = options.suffix
    if suffix is None:
        suffix = "" if options.prefix else Naming().suffix
    rules = FitRules(floor=options.floor, ways=tuple(options.allow))
    fit = None
    if options.limit:
        limit_bytes = options.limit.file_bytes
        fit = FitOrder(limit_bytes=limit_bytes, rules=rules, may_split=options.split)
    return Order(
        preset=options.preset,
        fit=fit,
        may_end_signature=options.allow_signed,
        may_blur_text=options.coarse_text,
        lays_out=not options.no_layout,
        naming=Naming(prefix=options.prefix, suffix=suffix),
    )


def _documents(
    options: argparse.Namespace, naming: Naming, skipped: Skipped | None = None
) -> list[tuple[Path, Path]]:
    """Return what is to be lightened, and its folder below `options.out`; no earlier copies.

    skipped: counts files in folders that are none of these.
    """
    named = {path.resolve() for path in options.files}
    are_beside = options.out is None or options.out.resolve() in named
    return [
        (path, below)
        for path, below in documents_in(options.files, out=options.out, skipped=skipped)
        if path.resolve() in named or not (are_beside and naming.may_be_copy(path.name))
    ]


def _with_share(order: Order, limit_bytes: int | None) -> Order:
    """Return the order with the share that one file may have of a limit for all."""
    if order.fit is None or limit_bytes is None:
        return order
    return replace(order, fit=replace(order.fit, limit_bytes=limit_bytes))


def _shares(options: argparse.Namespace, order: Order) -> dict[Path, int]:
    """Divide one limit for all among the files; those that cannot be read are skipped."""
    assert order.fit is not None
    tried: dict[Path, tuple[WeightSheet, Trials]] = {}
    for path, _ in _documents(options, order.naming):
        source = Source(path=path, password=options.password)
        try:
            with progress_bar(path.name) as progress:
                sheet = weigh(source)
                tried[path] = sheet, all_trials(source, sheet, None, progress)
        except LightenError:
            continue  # said when its copy is made
    if not tried:
        return {}
    documents = [(sheet, trials, order.exceptions) for sheet, trials in tried.values()]
    limits = share_limit(documents, order.fit.limit_bytes, order.fit.rules)
    return dict(zip(tried, limits, strict=True))


def lighten_file(
    path: Path,
    below: Path,
    order: Order,
    options: argparse.Namespace,
    names: CopyNames,
    *,
    place: InRun | None = None,
) -> dict[str, Any]:
    """Make a proved copy of one file; return the result as `--json` prints it.

    below: the folder under `options.out` that it goes to. names: of the run's copies.
    """
    started = time.monotonic()
    entry: dict[str, Any] = {"path": str(path), "copy": None, "error": None}
    try:
        folder = options.out / below if options.out else path.parent

        def make_with(password: str) -> tuple[WeightSheet, OrderResult]:
            source = Source(path=path, password=password)
            return _make(source, order, folder, names, place=place, keep=options.keep)

        sheet, made = with_password(make_with, options.password, path.name)
        entry.update(order_result_report(made, sheet))
    except LightenError as error:
        entry["error"] = error_report(error)
    except FileExistsError as error:
        message = f"{error}: is there already. Use --force to replace it, or another --suffix."
        entry["error"] = {"code": "exists", "message": message}
    except OSError as error:
        message = f"{path.name}: the copy cannot be written ({error.strerror})."
        entry["error"] = {"code": "not_written", "message": message}
    entry["seconds"] = round(time.monotonic() - started, 3)
    return entry


def _make(
    source: Source,
    order: Order,
    folder: Path,
    names: CopyNames,
    *,
    place: InRun | None,
    keep: Sequence[str],
) -> tuple[WeightSheet, OrderResult]:
    """Make the proved copy of one file in `folder`. Raises: FileExistsError, before or after the
    work.

    keep: names of pictures that stay as they are. What kind of file the copy is, and so its name,
    is known for sure only when it is made.
    """
    with progress_bar(source.name, place=place) as progress:
        sheet = weigh(source, share_of(progress, 0, _WEIGHING_SHARE, "weighing"))
        if keep:
            kept_as_is = kept_pictures(sheet, keep, source.name)
            order = replace(order, exceptions={**order.exceptions, **kept_as_is})
        ending = copy_ending(source.name, sheet.format, sheet.media_type)
        likely = names.free(folder / order.naming.copy_name(source.name, ending), source.path)
        folder.mkdir(parents=True, exist_ok=True)
        if order.fit is None:
            for warning in plan_order(sheet, order).warnings:
                print(f"{source.name}: {warning}", file=sys.stderr)
        # An earlier copy gives way only to a finished one.
        unnamed = folder / temporary_name(likely.name)
        with tempfile.TemporaryDirectory() as kept:
            cache = CodingCache(Path(kept) / "codings", most_bytes=_MOST_KEPT_BYTES)
            try:
                made = make(
                    source,
                    sheet,
                    order,
                    unnamed,
                    share_of(progress, _WEIGHING_SHARE, 1),
                    cache=cache,
                )
                return sheet, _named(made, folder, source, names)
            finally:
                unnamed.unlink(missing_ok=True)


def _named(made: OrderResult, folder: Path, source: Source, names: CopyNames) -> OrderResult:
    """The copy and its pieces under the names they are to have."""
    if made.copy.path is None:
        return made
    out = names.free(folder / made.name, source.path)
    made.copy.path.replace(out)
    names.claim(out, source.path)
    return replace(made, copy=replace(made.copy, path=out), pieces=name_pieces(made.pieces, out))


def _print_copy(entry: dict[str, Any]) -> None:
    before, after = entry["bytes_before"], entry["bytes_after"]
    if entry["copy"] is None:
        print(f"{entry['path']}: {'; '.join(entry['reasons'])}")
        return
    print(
        f"{entry['copy']}: {size_text(before)} -> {size_text(after)} "
        f"({after / before - 1:+.0%}), {entry['verdict']}: {'; '.join(entry['reasons'][:3])}"
    )
    for remark in entry["remarks"]:
        print(f"  Not looked at: {remark}.")
    for piece in entry["pieces"]:
        pages = f"pages {piece['first']} to {piece['last']}"
        print(f"  {piece['path']}: {size_text(piece['bytes'])}, {pages}")
    if entry["verdict"] == Verdict.CHECK:
        print("  Look at these places before you send it.")
