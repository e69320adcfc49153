"""`green-satchel backup`: database, files and secret of an installation, while it runs."""

import argparse
import os
import shutil
import sqlite3
import sys
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from host.place import add_data

__all__ = ["back_up", "backup_command"]

_DATABASE, _FILES, _SECRET = "satchels.sqlite3", "files", "secret-key"


def backup_command(arguments: Sequence[str]) -> int:
    parser = argparse.ArgumentParser(
        prog="green-satchel backup",
        description=__doc__,
        epilog="To go back to it: stop the server, and let --data name a copy of that folder.",
    )
    parser.add_argument("to", type=Path, metavar="TO", help="a folder that is not there yet")
    add_data(parser)
    options = parser.parse_args(arguments)
    if "GREEN_SATCHEL_DATABASE_URL" in os.environ:
        print(
            "green-satchel backup: the database is on a server of its own. Back it up there first "
            "(pg_dump), and after it the folder of GREEN_SATCHEL_FILES.",
            file=sys.stderr,
        )
        return 2
    try:
        size = back_up(options.data, options.to)
    except (OSError, sqlite3.Error) as error:
        print(f"green-satchel backup: {options.to}: {error}. Nothing was kept.", file=sys.stderr)
        shutil.rmtree(_unfinished(options.to), ignore_errors=True)
        return 1
    print(f"{options.to}: {size / 1e6:,.1f} MB")
    return 0


def back_up(data: Path, to: Path) -> int:
    """Back up the installation in `data` to a new folder; return its bytes.

    The database is copied as of one moment by SQLite's own online backup, files after it: an
    original that came meanwhile is one too many there, and none is missing. Files that go meanwhile
    are left out. Raises: FileExistsError, FileNotFoundError, OSError, sqlite3.Error.
    """
    if to.exists():
        raise FileExistsError(17, "it is there already", str(to))
    if not (data / _DATABASE).is_file():
        raise FileNotFoundError(2, "there is no installation", str(data))
    os.umask(0o077)
    place = _unfinished(to)
    shutil.rmtree(place, ignore_errors=True)
    place.mkdir(parents=True)
    with (
        closing(sqlite3.connect(f"file:{data / _DATABASE}?mode=ro", uri=True)) as source,
        closing(sqlite3.connect(place / _DATABASE)) as target,
    ):
        source.backup(target)
    shutil.copy2(data / _SECRET, place / _SECRET)
    for path in sorted((data / _FILES).rglob("*")):
        if path.is_file() and not path.name.endswith((".partial", ".unproved")):
            out = place / path.relative_to(data)
            out.parent.mkdir(parents=True, exist_ok=True)
            try:
                shutil.copy2(path, out)
            except FileNotFoundError:
                continue
    place.rename(to)
    return sum(path.stat().st_size for path in to.rglob("*") if path.is_file())


def _unfinished(to: Path) -> Path:
    return to.with_name(f"{to.name}.unfinished")
