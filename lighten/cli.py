"""The command green-satchel: weigh, estimate, lighten, presets.

Exit codes: 0 all done, 1 some file could not be done (the others are), 2 wrong usage, 3 some file
cannot be made as light as its limit.
"""

import argparse
import json
import os
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, TextIO

from lighten.api import make_proved_copy, weigh
from lighten.coding_store import CodingStore
from lighten.contract import Progress, Source, no_progress
from lighten.errors import BadPresetError, DoesNotFitError, LightenError
from lighten.fitted import make_fitted_copy
from lighten.folders import documents_in
from lighten.learning import learn
from lighten.limits import Limit, read_limit
from lighten.planning import FitRules, estimate, plan, share_limit
from lighten.plans import Copy, PictureException, Plan
from lighten.presets import DEFAULT_PRESET, PRESETS, Preset, preset_named
from lighten.proofs import Proof, Verdict
from lighten.report import (
    copy_as_json,
    error_as_json,
    preset_as_json,
    sheet_as_json,
)
from lighten.splitting import Piece, make_pieces, name_pieces, piece_as_json
from lighten.stored_treatments import restore_preset, store_preset
from lighten.trials import Trials
from lighten.weights import PartKind, WeightSheet

__all__ = ["main"]

_DONE, _SOME_FAILED, _SOME_TOO_HEAVY = 0, 1, 3
_KIND_TITLES = {
    PartKind.PICTURE: "pictures",
    PartKind.FONT: "fonts",
    PartKind.DRAWING: "page drawing",
    PartKind.EXTRA: "extras",
    PartKind.STRUCTURE: "structure",
}
_BAR_WIDTH = 24
_HEAVIEST_SHOWN = 8
# Of codings kept while one copy is made.
_MOST_KEPT_BYTES = 2_000_000_000


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; the exit code."""
    options = _parser().parse_args(arguments)
    command: Callable[[argparse.Namespace], int] = options.command
    try:
        return command(options)
    except KeyboardInterrupt:
        print("Stopped. Originals are as they were.", file=sys.stderr)
        return 130
    except BrokenPipeError:
        # Whoever read the output has read enough; the interpreter must not try to write the rest.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return _DONE


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="green-satchel", description="Makes lighter, proved copies of heavy files."
    )
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    weigh_ = commands.add_parser("weigh", help="say what is heavy in files")
    weigh_.add_argument("files", nargs="+", type=Path, metavar="FILE")
    weigh_.add_argument("--password", default="", help="for locked files")
    weigh_.set_defaults(command=_weigh)

    estimate_ = commands.add_parser("estimate", help="say what copies would weigh")
    estimate_.add_argument("files", nargs="+", type=Path, metavar="FILE")
    _add_presets(estimate_)
    estimate_.add_argument("--password", default="", help="for locked files")
    estimate_.set_defaults(command=_estimate)

    lighten = commands.add_parser("lighten", help="make lighter copies; originals stay")
    lighten.add_argument("files", nargs="+", type=Path, metavar="FILE|FOLDER")
    chosen = _add_presets(lighten)
    chosen.add_argument(
        "--limit",
        type=_limit,
        metavar="SIZE",
        help="as gently as this allows: 5MB, 800kB, 2MiB; 5MB:message for mail as it travels",
    )
    lighten.add_argument(
        "--together", action="store_true", help="the limit is for all copies together"
    )
    lighten.add_argument(
        "--split", action="store_true", help="what cannot meet the limit comes in numbered pieces"
    )
    lighten.add_argument(
        "--floor",
        type=float,
        default=FitRules().floor,
        metavar="SCORE",
        help="how any picture must look at least, of 100 (SSIMULACRA2; default %(default).0f)",
    )
    lighten.add_argument(
        "--allow",
        action="append",
        default=[],
        metavar="WAY",
        help="what else may be done for a limit, in this order: grey, two-tone, or an extra",
    )
    lighten.add_argument("--out", type=Path, metavar="DIR", help="default: beside the original")
    lighten.add_argument("--prefix", default="", metavar="P", help="put before the copy's name")
    lighten.add_argument("--suffix", metavar="S", help="put after it (default -light)")
    lighten.add_argument("--password", default="", help="for locked files")
    lighten.add_argument("--force", action="store_true", help="replace an earlier copy")
    lighten.add_argument(
        "--allow-signed", action="store_true", help="change signed files too; the signature ends"
    )
    lighten.add_argument(
        "--coarse-text",
        action="store_true",
        help="let pages held as pictures go below 120 ppi, where print cannot be read",
    )
    lighten.set_defaults(command=_lighten)

    presets = commands.add_parser("presets", help="list the presets")
    presets.add_argument(
        "--export", type=_preset, metavar="NAME", help="print one as a file for --preset-file"
    )
    presets.set_defaults(command=_presets)
    for command in (weigh_, estimate_, lighten, presets):
        command.add_argument("--json", action="store_true", help="print JSON")
    return parser


def _add_presets(command: argparse.ArgumentParser) -> argparse._MutuallyExclusiveGroup:
    chosen = command.add_mutually_exclusive_group()
    chosen.add_argument("--preset", default=DEFAULT_PRESET, type=_preset, metavar="NAME")
    chosen.add_argument(
        "--preset-file",
        dest="preset",
        type=_preset_of_file,
        metavar="FILE",
        help="a preset of your own, as JSON",
    )
    return chosen


def _limit(text: str) -> Limit:
    try:
        return read_limit(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from None


def _preset(name: str) -> Preset:
    try:
        return preset_named(name)
    except KeyError:
        known = ", ".join(f'"{preset.title}"' for preset in PRESETS)
        raise argparse.ArgumentTypeError(f'no preset "{name}"; there are {known}') from None


def _preset_of_file(name: str) -> Preset:
    try:
        return restore_preset(json.loads(Path(name).read_text("utf-8")))
    except OSError as error:
        raise argparse.ArgumentTypeError(f"{name}: cannot be read ({error.strerror})") from None
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"{name}: is not JSON ({error})") from None
    except BadPresetError as error:
        raise argparse.ArgumentTypeError(f"{name}: {error.message}") from None


def _weigh(options: argparse.Namespace) -> int:
    entries: list[dict[str, Any]] = []
    for path in options.files:
        try:
            with _progress_bar(path.name) as progress:
                sheet = weigh(Source(path=path, password=options.password), progress)
        except LightenError as error:
            entries.append({"path": str(path), "error": error_as_json(error)})
            print(error.message, file=sys.stderr)
            continue
        entries.append({"path": str(path), **sheet_as_json(sheet)})
        if not options.json:
            _print_sheet(path, sheet)
    if options.json:
        print(json.dumps(entries, indent=2))
    return _SOME_FAILED if any("error" in entry for entry in entries) else _DONE


def _estimate(options: argparse.Namespace) -> int:
    entries: list[dict[str, Any]] = []
    for path in options.files:
        entry: dict[str, Any] = {"path": str(path), "error": None}
        source = Source(path=path, password=options.password)
        try:
            with _progress_bar(path.name) as progress:
                sheet = weigh(source, lambda share: progress(share * 0.1))
                started = time.monotonic()
                chosen = plan(sheet, options.preset)
                trials = _learned(source, sheet, chosen, progress)
            likely = estimate(sheet, chosen, trials)
            entry |= {
                "bytes_before": sheet.size_bytes,
                "estimate": likely.size_bytes,
                "low": likely.low_bytes,
                "high": likely.high_bytes,
                "seconds": round(time.monotonic() - started, 3),
            }
        except LightenError as error:
            entry["error"] = error_as_json(error)
            print(error.message, file=sys.stderr)
        entries.append(entry)
        if not options.json and not entry["error"]:
            before, after = sheet.size_bytes, likely.size_bytes
            print(
                f"{path}: {size_text(before)} -> about {size_text(after)} "
                f"({after / before - 1:+.0%}), between {size_text(likely.low_bytes)} and "
                f"{size_text(likely.high_bytes)}"
            )
    if options.json:
        print(json.dumps(entries, indent=2))
    return _SOME_FAILED if any(entry["error"] for entry in entries) else _DONE


def _learned(source: Source, sheet: WeightSheet, chosen: Plan | None, progress: Progress) -> Trials:
    """All trials of one file, made here and now."""
    trials = Trials()
    with tempfile.TemporaryDirectory() as place:
        store = CodingStore(Path(place) / "codings", most_bytes=1_000_000_000)
        for share, found in learn(source, sheet, chosen, Path(place), store=store):
            trials = found
            progress(0.1 + share * 0.9)
    return trials


def _lighten(options: argparse.Namespace) -> int:
    suffix = options.suffix
    if suffix is None:
        suffix = "" if options.prefix else "-light"
    try:
        options.rules = FitRules(floor=options.floor, ways=tuple(options.allow))
    except ValueError as error:
        print(f"--floor, --allow: {error}", file=sys.stderr)
        return 2
    if (options.together or options.split) and not options.limit:
        print("--together and --split want a --limit", file=sys.stderr)
        return 2
    options.shares = _shares(options) if options.together else {}
    entries = []
    for path, below in documents_in(options.files):
        if path not in options.files and _is_copy(path, options, suffix):
            continue
        entry = _lighten_one(path, below, options, suffix)
        entries.append(entry)
        if entry["error"]:
            print(entry["error"]["message"], file=sys.stderr)
        elif not options.json:
            _print_copy(entry)
    if options.json:
        print(json.dumps(entries, indent=2))
    codes = {entry["error"]["code"] for entry in entries if entry["error"]}
    if codes - {DoesNotFitError.code}:
        return _SOME_FAILED
    return _SOME_TOO_HEAVY if codes else _DONE


def _shares(options: argparse.Namespace) -> dict[Path, int]:
    """Of one limit for all, what each file may weigh; those that cannot be read are left out."""
    learned: dict[Path, tuple[WeightSheet, Trials]] = {}
    for path, _ in documents_in(options.files):
        source = Source(path=path, password=options.password)
        try:
            with _progress_bar(path.name) as progress:
                sheet = weigh(source)
                learned[path] = sheet, _learned(source, sheet, None, progress)
        except LightenError:
            continue  # said when its copy is made
    if not learned:
        return {}
    total = options.limit.file_bytes
    documents: list[tuple[WeightSheet, Trials, dict[str, PictureException]]] = [
        (sheet, trials, {}) for sheet, trials in learned.values()
    ]
    return dict(zip(learned, share_limit(documents, total, options.rules), strict=True))


def _is_copy(path: Path, options: argparse.Namespace, suffix: str) -> bool:
    """By its name it was made here before; asked of what was found in folders only."""
    is_named = path.stem.startswith(options.prefix) and path.stem.endswith(suffix)
    return options.out is None and bool(options.prefix or suffix) and is_named


def _lighten_one(
    path: Path, below: Path, options: argparse.Namespace, suffix: str
) -> dict[str, Any]:
    started = time.monotonic()
    entry: dict[str, Any] = {"path": str(path), "copy": None, "error": None}
    try:
        source = Source(path=path, password=options.password)
        copy, proof, pieces = _make(source, below, options, suffix)
        entry.update(copy_as_json(copy, proof))
        entry["pieces"] = [piece_as_json(piece) for piece in pieces]
    except LightenError as error:
        entry["error"] = error_as_json(error)
    except FileExistsError as error:
        message = f"{error}: is there already. Use --force to replace it, or another --suffix."
        entry["error"] = {"code": "exists", "message": message}
    except OSError as error:
        message = f"{path.name}: the copy cannot be written ({error.strerror})."
        entry["error"] = {"code": "not_written", "message": message}
    entry["seconds"] = round(time.monotonic() - started, 3)
    return entry


def _make(
    source: Source, below: Path, options: argparse.Namespace, suffix: str
) -> tuple[Copy, Proof | None, tuple[Piece, ...]]:
    """The proved copy of one file, at its place; folders below one that was named are kept."""
    folder = options.out / below if options.out else source.path.parent
    out = folder / f"{options.prefix}{source.path.stem}{suffix}{source.path.suffix}"
    if out.exists() and (out.samefile(source.path) or not options.force):
        raise FileExistsError(out)
    with _progress_bar(source.name) as progress:
        sheet = weigh(source, lambda share: progress(share * 0.1))
        folder.mkdir(parents=True, exist_ok=True)
        # An earlier copy gives way only to a finished one.
        made = out.with_name(f".{out.name}.{os.getpid()}") if out.exists() else out
        pieces: tuple[Piece, ...] = ()
        if options.limit:
            copy, proof, pieces = _make_fitted(source, sheet, made, options, progress)
        else:
            chosen = plan(
                sheet,
                options.preset,
                may_end_signature=options.allow_signed,
                may_blur_text=options.coarse_text,
            )
            for warning in chosen.warnings:
                print(f"{source.name}: {warning}", file=sys.stderr)
            with tempfile.TemporaryDirectory() as place:
                copy, proof = make_proved_copy(
                    source,
                    sheet,
                    chosen,
                    made,
                    lambda share: progress(0.1 + share * 0.9),
                    store=CodingStore(Path(place) / "codings", most_bytes=_MOST_KEPT_BYTES),
                )
        if copy.path is not None and made != out:
            made.replace(out)
            copy, pieces = replace(copy, path=out), name_pieces(pieces, out)
    return copy, proof, pieces


def _make_fitted(
    source: Source, sheet: WeightSheet, out: Path, options: argparse.Namespace, progress: Progress
) -> tuple[Copy, Proof | None, tuple[Piece, ...]]:
    """As gentle as the limit allows; where it cannot be met and that was asked for, in pieces."""
    limit_bytes = options.shares.get(source.path, options.limit.file_bytes)
    with tempfile.TemporaryDirectory() as place:
        store = CodingStore(Path(place) / "codings", most_bytes=_MOST_KEPT_BYTES)
        trials = Trials()
        for share, found in learn(source, sheet, None, Path(place), store=store):
            trials = found
            progress(0.1 + share * 0.3)
        try:
            copy, proof, _ = make_fitted_copy(
                source,
                sheet,
                trials,
                limit_bytes,
                out,
                rules=options.rules,
                may_end_signature=options.allow_signed,
                progress=lambda share: progress(0.4 + share * 0.6),
                store=store,
            )
        except DoesNotFitError as error:
            if not options.split:
                raise
            copy, proof, _, pieces = make_pieces(
                source,
                sheet,
                trials,
                limit_bytes,
                out,
                lightest_bytes=error.lightest_bytes,
                rules=options.rules,
                may_end_signature=options.allow_signed,
                progress=lambda share: progress(0.4 + share * 0.6),
                store=store,
            )
            return copy, proof, pieces
    return copy, proof, ()


def _presets(options: argparse.Namespace) -> int:
    if options.export:
        print(json.dumps(store_preset(options.export), indent=2))
    elif options.json:
        print(json.dumps([preset_as_json(preset) for preset in PRESETS], indent=2))
    else:
        for preset in PRESETS:
            print(f"{preset.title:<14}{preset.description}")
    return _DONE


class _progress_bar:  # noqa: N801 - reads as a statement: with _progress_bar(...)
    """A line on the terminal that says how far a file is; silent elsewhere."""

    def __init__(self, name: str, stream: TextIO = sys.stderr) -> None:
        self._name, self._stream = name, stream

    def __enter__(self) -> Progress:
        return self._draw if self._stream.isatty() else no_progress

    def __exit__(self, *_: object) -> None:
        if self._stream.isatty():
            self._stream.write("\r\033[K")

    def _draw(self, share: float) -> None:
        done = round(share * _BAR_WIDTH)
        bar = "█" * done + "·" * (_BAR_WIDTH - done)
        self._stream.write(f"\r{bar} {share:4.0%} {self._name}\033[K")
        self._stream.flush()


def _print_sheet(path: Path, sheet: WeightSheet) -> None:
    print(f"{path}: {size_text(sheet.size_bytes)}, {sheet.pages} pages")
    for kind, size in sorted(sheet.bytes_by_kind().items(), key=lambda item: -item[1]):
        print(f"  {_KIND_TITLES[kind]:<14}{size_text(size):>10}{size / sheet.size_bytes:>7.0%}")
    pictures = sorted(
        (part for part in sheet.parts if part.picture), key=lambda part: -part.size_bytes
    )
    for part in pictures[:_HEAVIEST_SHOWN]:
        facts = part.picture
        assert facts is not None
        ppi = f"{facts.ppi:.0f} ppi" if facts.ppi else "not shown"
        print(
            f"    {size_text(part.size_bytes):>10}  {facts.width_px} x {facts.height_px}, {ppi}, "
            f"{facts.picture_class}, {facts.coding}, page {', '.join(map(str, facts.pages[:5]))}"
        )
    if len(pictures) > _HEAVIEST_SHOWN:
        print(f"    and {len(pictures) - _HEAVIEST_SHOWN} lighter pictures")


def _print_copy(entry: dict[str, Any]) -> None:
    before, after = entry["bytes_before"], entry["bytes_after"]
    if entry["copy"] is None:
        print(f"{entry['path']}: {'; '.join(entry['reasons'])}")
        return
    print(
        f"{entry['copy']}: {size_text(before)} -> {size_text(after)} "
        f"({after / before - 1:+.0%}), {entry['verdict']}: {'; '.join(entry['reasons'][:3])}"
    )
    for piece in entry["pieces"]:
        pages = f"pages {piece['first']} to {piece['last']}"
        print(f"  {piece['path']}: {size_text(piece['bytes'])}, {pages}")
    if entry["verdict"] == Verdict.LOOK:
        print("  Look at these places before you send it.")


def size_text(size_bytes: int) -> str:
    """A size in kB or MB of 1000 (IEC 80000-13)."""
    if size_bytes < 1_000_000:
        return f"{size_bytes / 1000:.1f} kB"
    return f"{size_bytes / 1_000_000:.2f} MB"


if __name__ == "__main__":
    sys.exit(main())
