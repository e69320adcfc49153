"""Cache of coded pictures by the jobs that they came from, so that no run repeats them."""

import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from lighten.pictures.recoding.recode import Recoded
from lighten.pictures.recoding.recoded_bytes import recoded_from_bytes, recoded_to_bytes

__all__ = ["CodingCache"]

_TABLE = """
    CREATE TABLE IF NOT EXISTS codings (
        key TEXT PRIMARY KEY, size INTEGER NOT NULL, used_at REAL NOT NULL, data BLOB NOT NULL
    );
    CREATE INDEX IF NOT EXISTS by_use ON codings (used_at, size);
"""
# What is left after making room, so that not every new entry has to.
_AFTER_CLEARING = 0.9
_WAIT_S = 20.0


class CodingCache:
    """Bytes by key in one file, the longest unused going first beyond `most_bytes`.

    Several processes may use the same file. A store that cannot be read or written behaves like
    an empty one: all it ever saves is time.
    """

    def __init__(self, path: Path, *, most_bytes: int) -> None:
        self._path, self._most_bytes = path, most_bytes

    def get(self, key: str) -> bytes | None:
        """Return the value of the key, unless it was evicted."""
        try:
            with self._opened() as table:
                row = table.execute("SELECT data FROM codings WHERE key = ?", (key,)).fetchone()
                if row is not None:
                    table.execute(
                        "UPDATE codings SET used_at = ? WHERE key = ?", (time.time(), key)
                    )
        except (sqlite3.Error, OSError):
            return None
        return bytes(row[0]) if row is not None else None

    def put(self, key: str, data: bytes) -> None:
        """Keep `data`; more than a tenth of the room is not kept."""
        if len(data) > self._most_bytes / 10:
            return
        try:
            with self._opened() as table:
                table.execute(
                    "INSERT OR REPLACE INTO codings VALUES (?, ?, ?, ?)",
                    (key, len(data), time.time(), data),
                )
                self._make_room(table)
        except (sqlite3.Error, OSError):
            return

    def recoded(self, key: str) -> Recoded | None:
        """Return the cached picture of a key, or None; "" is no key."""
        kept = self.get(key) if key else None
        try:
            return None if kept is None else recoded_from_bytes(kept)
        except (ValueError, KeyError, TypeError, IndexError):
            return None

    def keep(self, key: str, recoded: Recoded) -> None:
        """Keep a coded picture under a key, unless that is ""."""
        if key:
            self.put(key, recoded_to_bytes(recoded))

    def _make_room(self, table: sqlite3.Connection) -> None:
        (total,) = table.execute("SELECT COALESCE(SUM(size), 0) FROM codings").fetchone()
        if total <= self._most_bytes:
            return
        surplus = total - self._most_bytes * _AFTER_CLEARING
        for key, size in table.execute("SELECT key, size FROM codings ORDER BY used_at").fetchall():
            table.execute("DELETE FROM codings WHERE key = ?", (key,))
            surplus -= size
            if surplus <= 0:
                break

    @contextmanager
    def _opened(self) -> Iterator[sqlite3.Connection]:
        self._path.parent.mkdir(parents=True, exist_ok=True)
        table = sqlite3.connect(self._path, timeout=_WAIT_S)
        try:
            table.execute("PRAGMA journal_mode=WAL")
            table.execute("PRAGMA synchronous=OFF")
            table.executescript(_TABLE)
            with table:
                yield table
        finally:
            table.close()
