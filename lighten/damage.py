"""What a damaged file makes others' code stumble over leaves as an error of ours."""

import logging
from collections.abc import Iterator
from contextlib import contextmanager

from lighten.errors import LightenError, UnforeseenDamageError
from lighten.source import Source

__all__ = ["damage_told"]

_log = logging.getLogger(__name__)


@contextmanager
def damage_told(source: Source) -> Iterator[None]:
    """Round whatever works on a file that somebody brought.

    A file can be wrong in more ways than anybody foresees. What nobody did is logged whole, so
    that it can be mended, and told to the person as what it is: damage of this file.
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
