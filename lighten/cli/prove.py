"""The verb prove: a copy held against its original, whoever made it and whenever."""

import argparse
import json
import sys

from lighten import (
    LightenError,
    Source,
    Verdict,
    comparison_report,
    error_report,
    keep_workers,
    prove_any_two,
)
from lighten.cli.printing import DONE, SOME_FAILED, progress_bar

__all__ = ["prove_copy"]


def prove_copy(options: argparse.Namespace) -> int:
    """Print the verdict on a copy; the exit code is 0 where it is the same or close."""
    original, copy = (
        Source(path=path, password=options.password) for path in (options.original, options.copy)
    )
    try:
        with (
            keep_workers(),
            progress_bar(options.copy.name) as progress,
        ):
            proof = prove_any_two(original, copy, progress, lays_out=not options.no_layout)
    except LightenError as error:
        if options.json:
            print(json.dumps({"error": error_report(error)}, indent=2))
        print(error.message, file=sys.stderr)
        return SOME_FAILED
    except OSError as error:
        print(f"{error.filename}: cannot be read ({error.strerror}).", file=sys.stderr)
        return SOME_FAILED
    if options.json:
        print(json.dumps(comparison_report(proof), indent=2))
    else:
        print(f"{options.copy}: {proof.verdict}")
        for reason in proof.reasons:
            print(f"  {reason}")
        for remark in proof.remarks:
            print(f"  Not looked at: {remark}.")
        if proof.readers:
            print(f"  Read by: {'; '.join(proof.readers)}.")
    return SOME_FAILED if proof.verdict is Verdict.CHECK else DONE
