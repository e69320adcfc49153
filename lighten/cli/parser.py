"""The verbs of the command and their options."""

import argparse
import sys
from collections.abc import Callable
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import NoReturn

from lighten import (
    BitonalMethod,
    PageColours,
    PageSize,
    PictureOrder,
    present_choice,
)
from lighten.cli.arguments import (
    add_files,
    add_lightness,
    add_presets,
    add_treating,
    files_of,
    parse_preset,
    parse_turn,
)
from lighten.cli.passwords import add_password
from lighten.cli.printing import DONE, WRONG_USAGE
from lighten.cli.switches import add_switches, with_switches

__all__ = ["command_parser"]

_EPILOG = """examples:
  green-satchel weigh report.pdf
  green-satchel lighten *.pdf *.docx --preset "Reading desk" --out lighter/
  green-satchel lighten season/ --limit 5MB:message --together --out lighter/
  green-satchel gather receipts/*.jpg --straighten --out receipts.pdf
  green-satchel rasterise report.pdf --colours bitonal --out report.tif

an installation for other people:
  green-satchel serve, people, backup, doctor   (each with --help)

exit codes:
  0 all done   1 some file could not be done (the others are)   2 wrong usage
  3 some file cannot be made as light as its limit"""
# The usual one first.
_SCAN_CHOICES = {
    "source": ("glass", "feeder"),
    "size": ("a4", "a5", "letter", "legal", "all"),
    "colours": ("colour", "grey", "bitonal"),
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
    parser.add_argument("--version", action=_Version, nargs=0, help="print the version")
    commands = parser.add_subparsers(required=True, metavar="COMMAND", parser_class=_Parser)

    weigh_ = commands.add_parser("weigh", help="list the parts of files by their bytes")
    add_files(weigh_)
    add_password(weigh_)
    weigh_.set_defaults(command=_verb("weigh", "weigh_files"))

    estimate_ = commands.add_parser("estimate", help="predict the size of copies")
    add_files(estimate_)
    add_presets(estimate_, default=None)
    add_switches(estimate_)
    add_password(estimate_)
    estimate_.set_defaults(command=_verb("estimate", "estimate_files"))

    compare = _add_compare(commands)
    lighten = _add_lighten(commands)
    gather = _add_gather(commands)
    scan = _add_scan(commands)

    prove = commands.add_parser("prove", help="compare a copy with its original, whoever made it")
    prove.add_argument("original", type=Path, metavar="ORIGINAL")
    prove.add_argument("copy", type=Path, metavar="COPY")
    add_password(prove)
    prove.add_argument(
        "--no-layout",
        action="store_true",
        help="do not compare laid-out pages of text documents",
    )
    prove.set_defaults(command=_verb("prove", "prove_copy"))

    presets = commands.add_parser("presets", help="list the presets")
    presets.add_argument(
        "--export", type=parse_preset, metavar="NAME", help="print one as JSON for --preset-file"
    )
    presets.set_defaults(command=_verb("presets", "list_presets"))
    rasterise, watch = _add_rasterise(commands), _add_watch(commands)
    for command in (
        weigh_,
        estimate_,
        compare,
        lighten,
        gather,
        scan,
        rasterise,
        watch,
        prove,
        presets,
    ):
        command.add_argument("--json", action="store_true", help="print JSON")
        command.add_argument("--quiet", action="store_true", help="print errors only")
    completion = commands.add_parser("completion", help="print the completion script of a shell")
    completion.add_argument("shell", choices=("bash", "zsh", "tcsh"))
    completion.set_defaults(command=partial(_complete, parser), json=False, quiet=False)
    return parser


class _Parser(argparse.ArgumentParser):
    """Parser that names a mistake in one line, with the option that lists the rest."""

    def error(self, message: str) -> NoReturn:
        self.exit(WRONG_USAGE, f"{self.prog}: {message}. See: {self.prog} --help\n")


class _Version(argparse.Action):
    """Print the version, which is looked up only then."""

    def __call__(self, parser: argparse.ArgumentParser, *_: object) -> NoReturn:
        from importlib.metadata import PackageNotFoundError, version

        try:
            print("green-satchel", version("green-satchel"))
        except PackageNotFoundError:
            print("green-satchel of this checkout")
        parser.exit()


def _verb(module: str, function: str) -> Callable[[argparse.Namespace], int]:
    """Return a verb's function, whose module is loaded when it is called."""

    def call(options: argparse.Namespace) -> int:
        try:
            if "files_from" in options:
                options.files = files_of(options)
            if "save_preset" in options and options.preset is not None:
                options.preset = with_switches(options)
        except FileExistsError as error:
            return _wrong_usage(f"{error.filename}: is there already. Name another file.")
        except (OSError, ValueError) as error:
            return _wrong_usage(str(error))
        carry_out: Callable[[argparse.Namespace], int] = getattr(
            import_module(f"lighten.cli.{module}"), function
        )
        return carry_out(options)

    return call


def _wrong_usage(message: str) -> int:
    print(f"green-satchel: {message}", file=sys.stderr)
    return WRONG_USAGE


def _complete(parser: argparse.ArgumentParser, options: argparse.Namespace) -> int:
    import shtab

    print(shtab.complete(parser, options.shell))
    return DONE


def _add_rasterise(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    rasterise = commands.add_parser("rasterise", help="write the pages of files as TIFFs")
    add_files(rasterise)
    rasterise.add_argument(
        "--out", type=Path, required=True, metavar="FILE.tif|DIR", help="a folder for several files"
    )
    rasterise.add_argument("--ppi", type=float, help="(default 300)")
    rasterise.add_argument(
        "--colours",
        type=present_choice,
        choices=list(PageColours),
        help="colours of a page (default fewest: its exact palette)",
    )
    rasterise.add_argument(
        "--divide",
        choices=list(BitonalMethod),
        help="method of the threshold (default otsu)",
    )
    rasterise.add_argument(
        "--threshold", type=int, help="level for fixed: darker is black (default 128)"
    )
    rasterise.add_argument(
        "--photos-too", action="store_true", help="make pages with photos bitonal too"
    )
    rasterise.add_argument(
        "--each", action="store_true", help="write a numbered file for each page"
    )
    rasterise.add_argument(
        "--coarse-text",
        action="store_true",
        help="permit less than 120 ppi, where text cannot be read",
    )
    add_presets(rasterise, default=None)
    rasterise.add_argument("--force", action="store_true", help="replace an existing file")
    add_password(rasterise)
    rasterise.set_defaults(command=_verb("rasterise", "rasterise_files"))
    return rasterise


def _add_lighten(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    lighten = commands.add_parser("lighten", help="make lighter copies; originals stay")
    add_files(lighten)
    lighten.add_argument(
        "--together", action="store_true", help="apply the limit to all copies together"
    )
    lighten.add_argument("--out", type=Path, metavar="DIR", help="default: beside the original")
    lighten.add_argument("--force", action="store_true", help="replace an earlier copy")
    add_treating(lighten)
    lighten.set_defaults(command=_verb("lighten", "lighten_files"))
    return lighten


def _add_compare(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    compare = commands.add_parser(
        "compare", help="show settings side by side on the pictures of a file, as an HTML page"
    )
    compare.add_argument("file", type=Path, metavar="FILE")
    compare.add_argument(
        "--preset",
        action="append",
        type=parse_preset,
        metavar="NAME",
        help="setting beside the original; up to three times",
    )
    compare.add_argument("--out", type=Path, required=True, metavar="FILE.html")
    compare.add_argument(
        "--pictures",
        type=int,
        default=6,
        metavar="N",
        help="most pictures to show: those most at stake (default %(default)s)",
    )
    compare.add_argument("--force", action="store_true", help="replace an existing page")
    add_password(compare)
    compare.set_defaults(command=_verb("compare", "compare_settings"))
    return compare


def _add_watch(commands: "argparse._SubParsersAction[_Parser]") -> argparse.ArgumentParser:
    watch = commands.add_parser(
        "watch", help="make a lighter copy of every file that arrives in a folder"
    )
    watch.add_argument(
        "folder", type=Path, metavar="IN", help="folder to watch; nothing in it is changed"
    )
    watch.add_argument("out", type=Path, metavar="OUT", help="folder for copies and their slips")
    watch.add_argument("--once", action="store_true", help="end when all present files are done")
    watch.add_argument(
        "--settle",
        type=float,
        default=3.0,
        metavar="SECONDS",
        help="seconds without change after which a file is complete (default %(default)s)",
    )
    add_treating(watch)
    # A newer file of the same name makes a newer copy.
    watch.set_defaults(command=_verb("watch", "watch_folder"), force=True, together=False)
    return watch


def _add_gather(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    gather = commands.add_parser("gather", help="put pictures into one PDF, one page each")
    add_files(gather, "PICTURE")
    gather.add_argument("--out", type=Path, required=True, metavar="FILE.pdf")
    gather.add_argument(
        "--page",
        type=PageSize,
        choices=list(PageSize),
        default=PageSize.OWN,
        help="page size: that of each picture, or paper with margins (default %(default)s)",
    )
    gather.add_argument(
        "--turn",
        action="append",
        type=parse_turn,
        default=[],
        metavar="N:90",
        help="turn page N clockwise by 90, 180 or 270 degrees",
    )
    gather.add_argument(
        "--order",
        type=PictureOrder,
        choices=list(PictureOrder),
        default=PictureOrder.GIVEN,
        help="order of the arguments, of names, or of the times of pictures (default %(default)s)",
    )
    gather.add_argument(
        "--straighten",
        action="store_true",
        help="cut sheets of paper out of photos and straighten them",
    )
    add_lightness(gather)
    gather.set_defaults(command=_verb("gather", "gather_pictures"))
    return gather


def _add_scan(
    commands: "argparse._SubParsersAction[_Parser]",
) -> argparse.ArgumentParser:
    scan = commands.add_parser("scan", help="scan pages from a network scanner into one PDF")
    scan.add_argument(
        "--scanner", required=True, metavar="URL", help="eSCL address, such as http://10.0.0.7/eSCL"
    )
    scan.add_argument("--out", type=Path, required=True, metavar="FILE.pdf")
    for name, choices in _SCAN_CHOICES.items():
        scan.add_argument(f"--{name}", type=present_choice, choices=choices, default=choices[0])
    scan.add_argument("--ppi", type=int, default=300, help="(default %(default)s)")
    scan.add_argument(
        "--both-sides", action="store_true", help="scan both sides of sheets in the feeder"
    )
    add_lightness(scan)
    # Pages are as large as they were scanned.
    scan.set_defaults(
        command=_verb("scan", "scan_pages"), page=PageSize.SCANNED, turn=[], straighten=False
    )
    return scan
