"""The command green-satchel.

Exit codes: 0 all done, 1 some file could not be done (the others are), 2 wrong usage, 3 some file
cannot be made as light as its limit.
"""

import argparse
import logging
import os
import sys
from collections.abc import Callable, Sequence
from contextlib import nullcontext, redirect_stdout

from lighten.cli.parser import command_parser
from lighten.cli.printing import DONE, progress_bar

__all__ = ["main"]


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; the exit code."""
    # What readers of pictures remark on their way; what fails is told by us.
    for name in ("pyvips", "lighten"):
        logging.getLogger(name).addHandler(logging.NullHandler())
    options = command_parser().parse_args(arguments)
    command: Callable[[argparse.Namespace], int] = options.command
    progress_bar.is_silent = options.quiet
    try:
        with redirect_stdout(None) if options.quiet and not options.json else nullcontext():
            return command(options)
    except KeyboardInterrupt:
        print("Stopped. Originals are as they were.", file=sys.stderr)
        return 130
    except BrokenPipeError:
        # Whoever read the output has read enough; the interpreter must not try to write the rest.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return DONE


if __name__ == "__main__":
    sys.exit(main())
