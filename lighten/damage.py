"""Errors of this project in place of those that libraries raise on damaged files."""

import logging
from collections.abc import Iterator
from contextlib import contextmanager

from lighten.model.errors import LightenError, UnforeseenDamageError
from lighten.model.source import Source

__all__ = ["report_as_damage"]

_log = logging.getLogger(__name__)


@contextmanager
def report_as_damage(source: Source) -> Iterator[None]:
    """Report exceptions of code that reads a person's file as damage of that file.

    A file can be wrong in more ways than anybody foresees. What nobody did is logged whole, so
    that it can be mended, and reported to the person as damage of this file.
    Raises: UnforeseenDamageError instead of anything but our own errors, and the machine's.
    """
    try:
        yield
    except (LightenError, OSError, MemoryError, ImportError):
        raise
    except Exception as error:
        if "bad_alloc" in str(error):  # as libraries in C++ say it
            raise MemoryError from error
        _log.warning("not foreseen", exc_info=True)
        raise UnforeseenDamageError(
            f"{source.name}: is damaged inside, in a way that cannot be worked round. Open it in "
            "the program that made it, save it again, and try that file."
        ) from error
