"""The verb gather: pictures put together to one document, as they are or as light as asked."""

import argparse
import json
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from lighten import (
    DoesNotFitError,
    FitOrder,
    FitRules,
    Gathered,
    LightenError,
    Order,
    Progress,
    Source,
    Verdict,
    arranged,
    error_report,
    gather,
    keep_workers,
    make,
    order_result_report,
    pages_text,
    share_of,
    weigh,
)
from lighten.cli.printing import (
    DONE,
    SOME_FAILED,
    SOME_TOO_HEAVY,
    WRONG_USAGE,
    not_written,
    progress_bar,
    size_text,
)

__all__ = ["gather_pictures", "put_together"]

_GATHERING_SHARE, _WEIGHED_SHARE = 0.4, 0.5


def gather_pictures(options: argparse.Namespace) -> int:
    """Gather the named pictures into one PDF, in their order; return the exit code."""
    started = time.monotonic()
    entry: dict[str, Any] = {"document": None, "pages": None, "error": None}
    try:
        with keep_workers(), progress_bar(options.out.name) as progress:
            sources = arranged([Source(path=path) for path in options.files], options.order)
            gathered, verdict = put_together(options, sources, progress)
        entry |= {"document": str(options.out), "pages": gathered.pages, **verdict}
        entry["bytes"] = options.out.stat().st_size
        entry["pictures_bytes"] = sum(path.stat().st_size for path in options.files)
        entry["remarks"] = [f"{name}: {remark}" for name, remark in gathered.remarks.items()]
    except LightenError as error:
        entry["error"] = error_report(error)
    except ValueError as error:
        print(f"--turn: {error}", file=sys.stderr)
        return WRONG_USAGE
    except OSError as error:
        entry["error"] = not_written(error, options.out)
    entry["seconds"] = round(time.monotonic() - started, 3)
    _say(entry, as_json=options.json)
    if entry["error"] is None:
        return DONE
    return SOME_TOO_HEAVY if entry["error"]["code"] == DoesNotFitError.code else SOME_FAILED


def _say(entry: dict[str, Any], *, as_json: bool) -> None:
    if entry["error"]:
        print(entry["error"]["message"], file=sys.stderr)
    if as_json:
        print(json.dumps(entry, indent=2))
    elif not entry["error"]:
        sizes = f"{size_text(entry['pictures_bytes'])} of pictures, now {size_text(entry['bytes'])}"
        verdict = f", {entry['verdict']}" if entry.get("verdict") else ""
        print(f"{entry['document']}: {pages_text(entry['pages'])}, {sizes}{verdict}")
        for remark in (*entry.get("reasons", ()), *entry["remarks"]):
            print(f"  {remark}")


def put_together(
    options: argparse.Namespace, sources: list[Source], progress: Progress
) -> tuple[Gathered, dict[str, Any]]:
    """Write the PDF, and make it lighter where that was asked; return both results.

    Raises: FileExistsError; as `gather` and `make`.
    """
    out: Path = options.out
    is_picture = out.exists() and any(
        one.path.exists() and out.samefile(one.path) for one in sources
    )
    if out.exists() and (is_picture or not options.force):
        raise FileExistsError(out)
    out.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=out.parent, prefix=".gathering-") as folder:
        whole = Path(folder) / out.name
        order = _order(options)
        share = 1.0 if order is None else _GATHERING_SHARE
        gathered = gather(
            sources,
            whole,
            options.page,
            share_of(progress, 0, share),
            turns=dict(options.turn),
            finds_sheets=options.straighten,
        )
        verdict: dict[str, Any] = {}
        finished = whole
        if order is not None:
            source = Source(path=whole)
            sheet = weigh(source, share_of(progress, _GATHERING_SHARE, _WEIGHED_SHARE))
            lighter = Path(folder) / "lighter"
            made = make(source, sheet, order, lighter, share_of(progress, _WEIGHED_SHARE, 1))
            verdict = {
                name: order_result_report(made, sheet)[name] for name in ("verdict", "reasons")
            }
            if made.proof is not None and made.proof.verdict is Verdict.CHECK:
                verdict["reasons"] = [*verdict["reasons"], "so the pictures stay as they were"]
            else:
                finished = made.copy.path or whole
        finished.replace(out)
    return gathered, verdict


def _order(options: argparse.Namespace) -> Order | None:
    if options.limit:
        fit = FitOrder(limit_bytes=options.limit.file_bytes, rules=FitRules())
        return Order(fit=fit) if options.preset is None else Order(preset=options.preset, fit=fit)
    return None if options.preset is None else Order(preset=options.preset)
