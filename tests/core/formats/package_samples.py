"""Pictures for documents that are packages, and members changed in place."""

import io
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from PIL import Image

from lighten import Source
from tests.builders import chart, landscape
from tests.core.formats.picture.samples import camera_exif

__all__ = ["picture_file", "rewritten", "with_members"]


def picture_file(
    kind: str = "JPEG", width: int = 900, height: int = 600, **options: Any
) -> io.BytesIO:
    """A photo with camera data, or a drawing where `kind` is PNG."""
    pixels = chart(width, height, seed=2) if kind == "PNG" else landscape(width, height, 3)
    if kind == "JPEG":
        options = {"quality": 92, "exif": b"Exif\0\0" + camera_exif(), **options}
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, kind, **options)
    file.seek(0)
    return file


def rewritten(source: Source, changes: Mapping[str, Callable[[bytes], bytes]]) -> Source:
    """The package with members changed in place."""
    with zipfile.ZipFile(source.path) as file:
        members = {name: file.read(name) for name in file.namelist()}
    for name, change in changes.items():
        members[name] = change(members[name])
    return with_members(source.path, members)


def with_members(path: Path, members: Mapping[str, bytes]) -> Source:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        for name, content in members.items():
            file.writestr(name, content)
    return Source(path=path)
