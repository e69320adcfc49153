"""Names of the copies of one run, each given once."""

from collections.abc import Iterable
from pathlib import Path

from lighten import numbered_names

__all__ = ["CopyNames"]


class CopyNames:
    """No copy takes another's name, and none an original's.

    originals: all of the run. may_replace: copies of earlier runs.
    """

    def __init__(self, originals: Iterable[Path], *, may_replace: bool) -> None:
        self._originals = {_key(original): original.resolve() for original in originals}
        self._may_replace = may_replace
        self._owners: dict[str, Path] = {}

    def claim(self, out: Path, original: Path) -> None:
        """Reserve a name for the copy of `original`."""
        self._owners[_key(out)] = original.resolve()

    def free(self, out: Path, original: Path) -> Path:
        """Return `out`, numbered where it would replace another original's copy.

        Two that differ in their endings only may become files of one kind.
        Raises: FileExistsError where it would replace its own original or what may not be.
        """
        numbered = (out.with_name(name) for name in numbered_names(out.name))
        free = next(one for one in numbered if self._is_free(one, original))
        if free.exists() and (free.samefile(original) or not self._may_replace):
            raise FileExistsError(free)
        return free

    def _is_free(self, out: Path, original: Path) -> bool:
        owner = self._owners.get(_key(out)) or self._originals.get(_key(out))
        return owner is None or owner == original.resolve()


def _key(path: Path) -> str:
    """Return a key that is equal for all spellings that some file system takes for one file."""
    return str(path.resolve()).casefold()
