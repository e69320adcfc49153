"""The command: parser, printing, one module a verb."""

from lighten.cli.command import main

__all__ = ["main"]
