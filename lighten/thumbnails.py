"""Small copies of pictures as files, to recognise them by."""

from collections.abc import Iterable
from pathlib import Path

from lighten.contract import Source
from lighten.errors import LightenError
from lighten.registry import format_of

__all__ = ["LONGEST_PX", "thumbnail_name", "write_thumbnails"]

LONGEST_PX = 320


def thumbnail_name(part_id: str) -> str:
    """The file that `write_thumbnails` writes for a part."""
    return f"{part_id.replace(':', '-')}.png"


def write_thumbnails(source: Source, part_ids: Iterable[str], folder: Path) -> list[str]:
    """A PNG for each picture that can be drawn; the ids of those."""
    from PIL import Image

    format_ = format_of(source)
    folder.mkdir(parents=True, exist_ok=True)
    drawn = []
    for part_id in part_ids:
        try:
            pixels = format_.thumbnail(source, part_id, LONGEST_PX)
        except (LightenError, KeyError):
            continue
        Image.fromarray(pixels).save(folder / thumbnail_name(part_id), "PNG")
        drawn.append(part_id)
    return drawn
