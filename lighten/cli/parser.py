"""The verbs of the command and their options."""

import argparse
import json
from functools import partial
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import NoReturn

from lighten import (
    DEFAULT_PRESET,
    PRESETS,
    BadPresetError,
    BitonalMethod,
    FitRules,
    Limit,
    PageColours,
    PageSize,
    PictureOrder,
    Preset,
    preset_from_json,
    preset_named,
    read_limit,
)
from lighten.cli.estimate import estimate_files
from lighten.cli.gather import gather_pictures
from lighten.cli.lighten import lighten_files
from lighten.cli.passwords import add_password
from lighten.cli.presets import list_presets
from lighten.cli.printing import DONE, WRONG_USAGE
from lighten.cli.prove import prove_copy
from lighten.cli.rasterise import rasterise_file
from lighten.cli.watch import watch_folder
from lighten.cli.weigh import weigh_files

__all__ = ["command_parser"]

_EPILOG = """examples:
  green-satchel weigh report.pdf
  green-satchel lighten *.pdf *.docx --preset "Reading desk" --out lighter/
  green-satchel lighten season/ --limit 5MB:message --together --out lighter/
  green-satchel gather receipts/*.jpg --straighten --out receipts.pdf
  green-satchel rasterise report.pdf --colours two-tone --out report.tif

an installation for other people:
  green-satchel serve, people, backup, doctor   (each with --help)

exit codes:
  0 all done   1 some file could not be done (the others are)   2 wrong usage
  3 some file cannot be made as light as its limit"""
# The usual one first.
_SCAN_CHOICES = {
    "source": ("glass", "feeder"),
    "size": ("a4", "a5", "letter", "legal", "all"),
    "colours": ("colour", "grey", "two-tone"),
}


def command_parser() -> argparse.ArgumentParser:
    """Build the parser of all verbs with their options; `command` is the function that carries one
    out.
    """
    parser = _Parser(
        prog="green-satchel",
        description="Makes lighter, proved copies of heavy files. Originals are never changed.",
        epilog=_EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=f"green-satchel {_version()}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND", parser_class=_Parser)

    weigh_ = commands.add_parser("weigh", help="say what is heavy in files")
    weigh_.add_argument("files", nargs="+", type=Path, metavar="FILE")
    add_password(weigh_)
    weigh_.set_defaults(command=weigh_files)

    estimate_ = commands.add_parser("estimate", help="say what copies would weigh")
    estimate_.add_argument("files", nargs="+", type=Path, metavar="FILE")
    _add_presets(estimate_)
    add_password(estimate_)
    estimate_.set_defaults(command=estimate_files)

    lighten = _add_lighten(commands)
    gather = _add_gather(commands)
    scan = _add_scan(commands)

    prove = commands.add_parser("prove", help="hold a copy against its original, whoever made it")
    prove.add_argument("original", type=Path, metavar="ORIGINAL")
    prove.add_argument("copy", type=Path, metavar="COPY")
    add_password(prove)
    prove.add_argument(
        "--no-layout",
        action="store_true",
        help="do not lay text documents out to pages in an office suite",
    )
    prove.set_defaults(command=prove_copy)

    presets = commands.add_parser("presets", help="list the presets")
    presets.add_argument(
        "--export", type=_preset, metavar="NAME", help="print one as a file for --preset-file"
    )
    presets.set_defaults(command=list_presets)
    rasterise, watch = _add_rasterise(commands), _add_watch(commands)
    for command in (weigh_, estimate_, lighten, gather, scan, rasterise, watch, prove, presets):
        command.add_argument("--json", action="store_true", help="print JSON")
        command.add_argument("--quiet", action="store_true", help="print nothing but errors")
    completion = commands.add_parser("completion", help="print what completes words in a shell")
    completion.add_argument("shell", choices=("bash", "zsh", "tcsh"))
    completion.set_defaults(command=partial(_complete, parser), json=False, quiet=False)
    return parser


class _Parser(argparse.ArgumentParser):
    """Parser that names a mistake in one line, with the option that lists the rest."""

    def error(self, message: str) -> NoReturn:
        self.exit(WRONG_USAGE, f"{self.prog}: {message}. See: {self.prog} --help\n")


def _version() -> str:
    try:
        return version("green-satchel")
    except PackageNotFoundError:
        return "of this checkout"


def _complete(parser: argparse.ArgumentParser, options: argparse.Namespace) -> int:
    import shtab

    print(shtab.complete(parser, options.shell))
    return DONE


def _add_rasterise(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    rasterise = commands.add_parser("rasterise", help="write the pages of a file as TIFF pictures")
    rasterise.add_argument("file", type=Path, metavar="FILE")
    rasterise.add_argument("--out", type=Path, required=True, metavar="FILE.tif")
    rasterise.add_argument("--ppi", type=float, help="(default 300)")
    rasterise.add_argument(
        "--colours",
        choices=list(PageColours),
        help="how many each page keeps (default fewest: what it really uses, exactly)",
    )
    rasterise.add_argument(
        "--divide",
        choices=list(BitonalMethod),
        help="how black is separated from white (default otsu)",
    )
    rasterise.add_argument("--threshold", type=int, help="of fixed: darker is black (default 128)")
    rasterise.add_argument(
        "--photos-too", action="store_true", help="pages with photos become two-tone as well"
    )
    rasterise.add_argument("--each", action="store_true", help="a file a page, numbered")
    rasterise.add_argument(
        "--coarse-text", action="store_true", help="also below 120 ppi, where print cannot be read"
    )
    rasterise.add_argument("--preset", type=_preset, metavar="NAME", help="as it has pages")
    rasterise.add_argument("--force", action="store_true", help="replace what is there")
    add_password(rasterise)
    rasterise.set_defaults(command=rasterise_file)
    return rasterise


def _add_lighten(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    lighten = commands.add_parser("lighten", help="make lighter copies; originals stay")
    lighten.add_argument("files", nargs="+", type=Path, metavar="FILE|FOLDER")
    lighten.add_argument(
        "--together", action="store_true", help="the limit is for all copies together"
    )
    lighten.add_argument("--out", type=Path, metavar="DIR", help="default: beside the original")
    lighten.add_argument("--force", action="store_true", help="replace an earlier copy")
    _add_treating(lighten)
    lighten.set_defaults(command=lighten_files)
    return lighten


def _add_watch(commands: "argparse._SubParsersAction[_Parser]") -> argparse.ArgumentParser:
    watch = commands.add_parser("watch", help="make lighter whatever arrives in a folder")
    watch.add_argument("folder", type=Path, metavar="IN", help="nothing in it is ever changed")
    watch.add_argument("out", type=Path, metavar="OUT", help="copies, and a slip beside each")
    watch.add_argument("--once", action="store_true", help="end when all that is there is done")
    watch.add_argument(
        "--settle",
        type=float,
        default=3.0,
        metavar="SECONDS",
        help="a file unchanged for so long has arrived (default %(default)s)",
    )
    _add_treating(watch)
    # A newer file of the same name makes a newer copy.
    watch.set_defaults(command=watch_folder, force=True, together=False)
    return watch


def _add_treating(command: argparse.ArgumentParser) -> None:
    """Add the options for treatments and for the names of copies."""
    chosen = _add_presets(command)
    chosen.add_argument(
        "--limit",
        type=_limit,
        metavar="SIZE",
        help="as gently as this allows: 5MB, 800kB, 2MiB; 5MB:message for mail as it travels",
    )
    command.add_argument(
        "--split", action="store_true", help="what cannot meet the limit comes in numbered pieces"
    )
    command.add_argument(
        "--floor",
        type=float,
        default=FitRules().floor,
        metavar="SCORE",
        help="how any picture must look at least, of 100 (SSIMULACRA2; default %(default).0f)",
    )
    command.add_argument(
        "--allow",
        action="append",
        default=[],
        metavar="WAY",
        help="what else may be done for a limit, in this order: grey, two-tone, or an extra",
    )
    command.add_argument("--prefix", default="", metavar="P", help="put before the copy's name")
    command.add_argument("--suffix", metavar="S", help="put after it (default -light)")
    add_password(command)
    command.add_argument(
        "--allow-signed", action="store_true", help="change signed files too; the signature ends"
    )
    command.add_argument(
        "--coarse-text",
        action="store_true",
        help="let pages held as pictures go below 120 ppi, where print cannot be read",
    )
    command.add_argument(
        "--no-layout",
        action="store_true",
        help="prove text documents without laying them out to pages in an office suite",
    )


def _add_gather(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    gather = commands.add_parser("gather", help="put pictures together to one PDF, a page each")
    gather.add_argument("pictures", nargs="+", type=Path, metavar="PICTURE")
    gather.add_argument("--out", type=Path, required=True, metavar="FILE.pdf")
    gather.add_argument(
        "--page",
        type=PageSize,
        choices=list(PageSize),
        default=PageSize.OWN,
        help="as large as each picture, or paper with margins (default %(default)s)",
    )
    gather.add_argument(
        "--turn",
        action="append",
        type=_turn,
        default=[],
        metavar="N:90",
        help="turn page N with the clock by 90, 180 or 270 degrees",
    )
    gather.add_argument(
        "--order",
        type=PictureOrder,
        choices=list(PictureOrder),
        default=PictureOrder.GIVEN,
        help="as named here, by name, or by the time each was taken (default %(default)s)",
    )
    gather.add_argument(
        "--straighten",
        action="store_true",
        help="of a photo of a sheet of paper, take the sheet alone, as seen from above",
    )
    _add_lightness(gather)
    gather.set_defaults(command=gather_pictures)
    return gather


def _add_scan(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    scan = commands.add_parser("scan", help="take pages in from a network scanner, to one PDF")
    scan.add_argument(
        "--scanner", required=True, metavar="URL", help="its eSCL root, as http://10.0.0.7/eSCL"
    )
    scan.add_argument("--out", type=Path, required=True, metavar="FILE.pdf")
    for name, choices in _SCAN_CHOICES.items():
        scan.add_argument(f"--{name}", choices=choices, default=choices[0])
    scan.add_argument("--ppi", type=int, default=300, help="(default %(default)s)")
    scan.add_argument("--both-sides", action="store_true", help="of sheets in the feeder")
    _add_lightness(scan)
    # Pages are as large as they were scanned.
    scan.set_defaults(command=_scan, page=PageSize.SCANNED, turn=[], straighten=False)
    return scan


def _scan(options: argparse.Namespace) -> int:
    """The network's library is loaded for that verb only."""
    from lighten.cli.scan import scan_pages

    return scan_pages(options)


def _turn(text: str) -> tuple[int, int]:
    """The number of a page, and how far it is turned."""
    page, _, degrees = text.partition(":")
    try:
        return int(page), int(degrees)
    except ValueError:
        raise argparse.ArgumentTypeError(f"{text}: write it as 3:90") from None


def _add_lightness(command: argparse.ArgumentParser) -> None:
    lighter = command.add_mutually_exclusive_group()
    lighter.add_argument(
        "--preset", type=_preset, metavar="NAME", help="made lighter so (default: as they are)"
    )
    lighter.add_argument("--limit", type=_limit, metavar="SIZE", help="as for lighten")
    command.add_argument("--force", action="store_true", help="replace what is there")


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
