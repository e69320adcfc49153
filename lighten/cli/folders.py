"""Documents in folders and the folders below them."""

import hashlib
import os
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

from lighten import LightenError, Source, format_of

__all__ = ["Skipped", "documents_in", "temporary_name"]

_MOST_NAMED = 5


@dataclass(slots=True)
class Skipped:
    """Files in folders that are not worked on: of kinds that are not known here, and empty ones."""

    unknown: list[Path] = field(default_factory=list)
    empty: list[Path] = field(default_factory=list)

    def lines(self) -> Iterator[str]:
        """Say how many were skipped, and name some of them."""
        for files, why in (
            (self.unknown, "of kinds that cannot be made lighter here"),
            (self.empty, "empty"),
        ):
            if files:
                named = ", ".join(file.name for file in files[:_MOST_NAMED])
                more = ", ..." if len(files) > _MOST_NAMED else ""
                count = "1 file" if len(files) == 1 else f"{len(files)} files"
                yield f"Skipped {count} ({why}): {named}{more}"


def temporary_name(name: str) -> str:
    """Return a hidden name, short for any file system, of what will be called `name`."""
    return f".{hashlib.sha256(name.encode()).hexdigest()[:12]}.{os.getpid()}"


def documents_in(
    paths: Iterable[Path], *, out: Path | None = None, skipped: Skipped | None = None
) -> Iterator[tuple[Path, Path]]:
    """Yield each named file, and each known document in named folders, with its folder.

    Yields the file, once, and its folder below the one that was named ("." for files). In order of
    names; hidden files and links are left alone, and so are files of other kinds in folders.
    skipped: takes those of other kinds. out: where copies go; what is in it, where it lies in a
    folder that was named, was made here.
    """
    seen: set[Path] = set()
    for path, below in _documents_in(paths, out, skipped or Skipped()):
        if path.resolve() not in seen:
            seen.add(path.resolve())
            yield path, below


def _documents_in(
    paths: Iterable[Path], out: Path | None, skipped: Skipped
) -> Iterator[tuple[Path, Path]]:
    for path in paths:
        if not path.is_dir():
            yield path, Path()
            continue
        for file in sorted(path.rglob("*")):
            below = file.relative_to(path)
            is_hidden = any(piece.startswith(".") for piece in below.parts)
            if is_hidden or file.is_symlink() or not file.is_file() or _is_in(out, path, file):
                continue
            if not file.stat().st_size:
                skipped.empty.append(file)
            elif _is_known(file):
                yield file, below.parent
            else:
                skipped.unknown.append(file)


def _is_in(out: Path | None, folder: Path, file: Path) -> bool:
    """Return whether `out` lies in the folder, and the file in `out`."""
    if out is None:
        return False
    inner, outer = out.resolve(), folder.resolve()
    return inner != outer and inner.is_relative_to(outer) and file.resolve().is_relative_to(inner)


def _is_known(file: Path) -> bool:
    try:
        format_of(Source(path=file))
    except (LightenError, OSError):
        return False
    return True
