"""Documents in folders and the folders below them."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from lighten import LightenError, Source, format_of

__all__ = ["documents_in"]


def documents_in(paths: Iterable[Path]) -> Iterator[tuple[Path, Path]]:
    """Each file that was named, and each known document in folders that were, with where it lies.

    Yields the file, and its folder below the one that was named ("." for files). In order of
    names; hidden files and links are left alone, and so are files of other kinds in folders.
    """
    for path in paths:
        if not path.is_dir():
            yield path, Path()
            continue
        for file in sorted(path.rglob("*")):
            below = file.relative_to(path)
            is_hidden = any(piece.startswith(".") for piece in below.parts)
            if file.is_file() and not file.is_symlink() and not is_hidden and _is_known(file):
                yield file, below.parent


def _is_known(file: Path) -> bool:
    try:
        format_of(Source(path=file))
    except (LightenError, OSError):
        return False
    return True
