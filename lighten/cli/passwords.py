"""Passwords of locked files: never needed on the command line, where others could read them."""

import argparse
import getpass
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from lighten import PasswordNeededError

__all__ = ["add_password", "with_password"]

Result = TypeVar("Result")


def add_password(command: argparse.ArgumentParser) -> None:
    """Add the options for passwords: given, read from a file, or asked for in a terminal."""
    choices = command.add_mutually_exclusive_group()
    choices.add_argument(
        "--password-file",
        dest="password",
        type=_first_line,
        default="",
        metavar="FILE",
        help="for locked files; else it is asked for",
    )
    choices.add_argument("--password", help="the same; others on this machine could see it")


def with_password(work: Callable[[str], Result], password: str, name: str) -> Result:
    """Return the result of `work` with the given password, or with one that is asked for.

    Raises: PasswordNeededError where there is nobody to ask, or the answer is wrong; as `work`.
    """
    try:
        return work(password)
    except PasswordNeededError:
        if password or not sys.stdin.isatty():
            raise
    return work(getpass.getpass(f"Password of {name}: "))


def _first_line(path: str) -> str:
    if not path:  # the default, which goes through here as well
        return ""
    try:
        return Path(path).read_text(encoding="utf-8").splitlines()[0]
    except (OSError, UnicodeDecodeError, IndexError) as error:
        raise argparse.ArgumentTypeError(f"{path}: no password can be read from it") from error
