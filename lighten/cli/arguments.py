"""Arguments of the command that several of its words take."""

import argparse
import json
import sys
from pathlib import Path

from lighten import (
    DEFAULT_PRESET,
    PRESETS,
    BadPresetError,
    FitRules,
    Limit,
    Preset,
    preset_from_json,
    preset_named,
    read_limit,
)
from lighten.cli.passwords import add_password
from lighten.cli.switches import add_switches

__all__ = [
    "add_files",
    "add_lightness",
    "add_presets",
    "add_treating",
    "files_of",
    "parse_preset",
    "parse_turn",
]


def add_files(command: argparse.ArgumentParser, metavar: str = "FILE|FOLDER") -> None:
    """Add the files that a verb works on, named as arguments or in a list."""
    command.add_argument("files", nargs="*", type=Path, metavar=metavar)
    command.add_argument(
        "--files-from",
        metavar="LIST",
        help="read more names from a file, one a line; - is input",
    )


def files_of(options: argparse.Namespace) -> list[Path]:
    """Return all files named. Raises: OSError for a list that cannot be read; ValueError if none
    is named.
    """
    files: list[Path] = list(options.files)
    if options.files_from == "-":
        files += [Path(line) for line in sys.stdin.read().splitlines() if line]
    elif options.files_from is not None:
        listed = Path(options.files_from).read_text("utf-8").splitlines()
        files += [Path(line) for line in listed if line]
    if not files:
        raise ValueError("name a file or a folder")
    return files


def add_treating(command: argparse.ArgumentParser) -> None:
    """Add the options for treatments and for the names of copies."""
    chosen = add_presets(command)
    add_switches(command)
    chosen.add_argument(
        "--limit",
        type=_limit,
        metavar="SIZE",
        help="gentlest copy of at most this size: 5MB, 800kB, 2MiB; 5MB:message counts mail",
    )
    command.add_argument(
        "--split",
        action="store_true",
        help="split copies that exceed the limit into numbered pieces",
    )
    command.add_argument(
        "--floor",
        type=float,
        default=FitRules().floor,
        metavar="SCORE",
        help="lowest permitted score of a picture, of 100 (SSIMULACRA2; default %(default).0f)",
    )
    command.add_argument(
        "--allow",
        action="append",
        default=[],
        metavar="WAY",
        help="further change that a limit may use, in this order: grey, bitonal, or an extra",
    )
    command.add_argument("--prefix", default="", metavar="P", help="text before the copy's name")
    command.add_argument("--suffix", metavar="S", help="text after it (default -light)")
    add_password(command)
    command.add_argument(
        "--allow-signed", action="store_true", help="change signed files too; the signature is lost"
    )
    command.add_argument(
        "--coarse-text",
        action="store_true",
        help="permit scanned text below 120 ppi and small print that cannot be read",
    )
    command.add_argument(
        "--no-layout",
        action="store_true",
        help="do not compare laid-out pages of text documents",
    )


def parse_turn(text: str) -> tuple[int, int]:
    """The number of a page, and how far it is turned."""
    page, _, degrees = text.partition(":")
    try:
        return int(page), int(degrees)
    except ValueError:
        raise argparse.ArgumentTypeError(f"{text}: write it as 3:90") from None


def add_lightness(command: argparse.ArgumentParser) -> None:
    lighter = command.add_mutually_exclusive_group()
    lighter.add_argument(
        "--preset",
        type=parse_preset,
        metavar="NAME",
        help="make a lighter copy by this preset (default: unchanged pages)",
    )
    lighter.add_argument("--limit", type=_limit, metavar="SIZE", help="as for lighten")
    command.add_argument("--force", action="store_true", help="replace an existing file")


def add_presets(
    command: argparse.ArgumentParser, default: Preset | None = DEFAULT_PRESET
) -> argparse._MutuallyExclusiveGroup:
    """Add --preset and --preset-file, of which one may be given."""
    chosen = command.add_mutually_exclusive_group()
    chosen.add_argument("--preset", default=default, type=parse_preset, metavar="NAME")
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


def parse_preset(name: str) -> Preset:
    try:
        return preset_named(name)
    except KeyError:
        titles = ", ".join(f'"{preset.title}"' for preset in PRESETS)
        raise argparse.ArgumentTypeError(f'no preset "{name}"; there are {titles}') from None


def _preset_of_file(name: str) -> Preset:
    try:
        return preset_from_json(json.loads(Path(name).read_text("utf-8")))
    except OSError as error:
        raise argparse.ArgumentTypeError(f"{name}: cannot be read ({error.strerror})") from None
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"{name}: is not JSON ({error})") from None
    except BadPresetError as error:
        raise argparse.ArgumentTypeError(f"{name}: {error.message}") from None
