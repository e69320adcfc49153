"""Files that work left behind which was killed: what has no end of its own is swept away."""

import shutil
import time
from collections.abc import Iterator
from pathlib import Path
from uuid import UUID

from django.apps import apps
from django.conf import settings

__all__ = ["sweep_leftovers"]

# As the core and Django's uploads name what is not finished. No file of ours begins with a dot.
_ENDINGS, _BEGINNINGS = (".partial", ".unproved"), (".", "tmp")
# Nothing that is still worked on stays untouched so long: a job has less time than that.
_OLD_S = 2 * 3600.0


def sweep_leftovers(now: float | None = None, *, is_nobody_at_work: bool = False) -> int:
    """Delete what is not finished, or belongs to nobody, and was not touched for some time.

    How many files and folders. now: for tests. is_nobody_at_work: however young they are.
    """
    old_s = -1.0 if is_nobody_at_work else _OLD_S
    count = 0
    # A list: folders go while it is walked.
    for path in [*_unfinished(), *_ownerless()]:
        try:
            is_old = (now or time.time()) - path.stat().st_mtime > old_s
        except OSError:
            continue  # gone meanwhile
        if is_old:
            count += 1
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)
    return count


def _unfinished() -> Iterator[Path]:
    for folder in (Path(settings.MEDIA_ROOT), Path(settings.FILE_UPLOAD_TEMP_DIR)):
        for path in folder.rglob("*"):
            if path.name.endswith(_ENDINGS) or path.name.startswith(_BEGINNINGS):
                yield path


def _ownerless() -> Iterator[Path]:
    """Return folders whose rows are deleted."""
    for model in apps.get_models():
        if pattern := getattr(model, "folders", None):
            for path in Path(settings.MEDIA_ROOT).glob(pattern):
                if _is_uuid(path.name) and not model._default_manager.filter(pk=path.name).exists():
                    yield path


def _is_uuid(name: str) -> bool:
    try:
        UUID(name)
    except ValueError:
        return False
    return True
