"""Documents in folders and the folders below them."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from lighten import LightenError, Source, format_of

__all__ = ["documents_in"]


def documents_in(paths: Iterable[Path], *, out: Path | None = None) -> Iterator[tuple[Path, Path]]:
    """Each file that was named, and each known document in folders that were, with where it lies.

    Yields the file, once, and its folder below the one that was named ("." for files). In order of
    names; hidden files and links are left alone, and so are files of other kinds in folders.
    out: where copies go; what is in it, where it lies in a folder that was named, was made here.
    """
    seen: set[Path] = set()
    for path, below in _documents_in(paths, out):
        if path.resolve() not in seen:
            seen.add(path.resolve())
            yield path, below


def _documents_in(paths: Iterable[Path], out: Path | None) -> Iterator[tuple[Path, Path]]:
    for path in paths:
        if not path.is_dir():
            yield path, Path()
            continue
        for file in sorted(path.rglob("*")):
            below = file.relative_to(path)
            is_hidden = any(piece.startswith(".") for piece in below.parts)
            if is_hidden or file.is_symlink() or not file.is_file() or _is_in(out, path, file):
                continue
            if _is_known(file):
                yield file, below.parent


def _is_in(out: Path | None, folder: Path, file: Path) -> bool:
    """Whether `out` lies in the folder, and the file in `out`."""
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
