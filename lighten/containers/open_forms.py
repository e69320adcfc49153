"""Converted forms of legacy files: made once, and kept while they are of use."""

import atexit
import threading
from collections.abc import Callable
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.model.source import Source

__all__ = ["kept_form"]

_lock = threading.Lock()


def kept_form(source: Source, ending: str, make: Callable[[Path], None]) -> Path:
    """Return the converted form of a file, in the folder of `keep_forms`.

    ending: of the form, with its dot. Kept where the source keeps what is made on the way, else
    until the end of the process.
    """
    form = _place(source) / f"open-form{ending}"
    with _lock:
        if not form.exists():
            make(form)
    return form


def _place(source: Source) -> Path:
    if source.keeps_in is not None:
        return source.keeps_in
    state = source.path.stat()
    place = _for_this_process() / f"{state.st_dev}-{state.st_ino}-{state.st_mtime_ns}"
    place.mkdir(exist_ok=True)
    return place


@cache
def _for_this_process() -> Path:
    folder = TemporaryDirectory(prefix="open-forms-")
    atexit.register(folder.cleanup)
    return Path(folder.name)
