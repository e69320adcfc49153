"""Download of all copies of a run as one ZIP."""

import tempfile
import zipfile
from pathlib import Path
from typing import IO

from django.conf import settings

from lighten import numbered_names
from web.satchels.models import Copy, Run

__all__ = ["files_of", "zip_copies"]

_SIGNS = '/\\:*?"<>|'
# Names that one system keeps for its devices, whatever their ending (common practice, no source).
_DEVICES = frozenset(
    {"CON", "PRN", "AUX", "NUL", *(f"{kind}{n}" for kind in ("COM", "LPT") for n in range(1, 10))}
)


def zip_copies(run: Run) -> IO[bytes]:
    """A ZIP of the finished copies, in their senders' folders; stored, they are packed already."""
    settings.FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)
    archive_file = tempfile.TemporaryFile(dir=settings.FILE_UPLOAD_TEMP_DIR)  # noqa: SIM115 - it is sent
    taken: set[str] = set()
    with zipfile.ZipFile(archive_file, "w", zipfile.ZIP_STORED) as archive:
        copies = run.copies.filter(state=Copy.State.DONE).select_related("document__satchel", "run")
        for copy in copies:
            for name, path in files_of(copy):
                with path.open("rb") as file, archive.open(_place(copy, name, taken), "w") as entry:
                    while piece := file.read(1 << 20):
                        entry.write(piece)
    archive_file.seek(0)
    return archive_file


def files_of(copy: Copy) -> list[tuple[str, Path]]:
    """Return the files of a finished copy with their names: itself, or its pieces."""
    document, count = copy.document, len(copy.pieces)
    name_of = document.satchel.copy_name
    if not count:
        return [(name_of(document, copy), Path(copy.file.path))]
    return [
        (name_of(document, copy, f"-{number}-of-{count}"), copy.piece_path(number))
        for number in range(1, count + 1)
    ]


def _plain(name: str) -> str:
    """Return a name that no system takes for a path, a drive or a device."""
    plain = "".join(
        "_" if sign in '/\\:*?"<>|' or not sign.isprintable() else sign for sign in name
    )
    stem = plain.partition(".")[0].strip().upper()
    return f"_{plain}" if stem in _DEVICES or plain.startswith("..") else plain


def _place(copy: Copy, name: str, taken: set[str]) -> str:
    """Return folder and name inside the ZIP, numbered if taken."""
    document = copy.document
    folders = [_plain(part) for part in document.folder.split("/") if part.strip(" .")]
    name = _plain(name)
    places = ("/".join([*folders, one]) for one in numbered_names(name))
    place = next(one for one in places if one.casefold() not in taken)
    taken.add(place.casefold())
    return place
