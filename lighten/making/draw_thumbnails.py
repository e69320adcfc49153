"""Small copies of pictures as files, to recognise them by."""

import hashlib
from collections.abc import Iterable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.contract import Editing
from lighten.model.errors import LightenError
from lighten.model.plans import Action, Decision
from lighten.model.source import Source
from lighten.model.weights import Part, WeightSheet
from lighten.pictures.coding.decode import UNREADABLE
from lighten.pictures.pixels.resample import resample
from lighten.pictures.pixels.upright import upright
from lighten.pictures.recoding.draw import draw_original
from lighten.registry import format_named

__all__ = ["LONGEST_PX", "name_of_part", "thumbnail_name", "write_thumbnails"]

LONGEST_PX = 320


def name_of_part(part_id: str) -> str:
    """Return the stem of files about a part; ids never become names themselves."""
    return hashlib.sha256(part_id.encode()).hexdigest()[:24]


def thumbnail_name(part_id: str) -> str:
    """The file that `write_thumbnails` writes for a part."""
    return f"{name_of_part(part_id)}.png"


def write_thumbnails(
    source: Source, sheet: WeightSheet, part_ids: Iterable[str], folder: Path
) -> list[str]:
    """A PNG for each picture that can be drawn; the ids of those. Raises: as `weigh`."""
    from PIL import Image

    folder.mkdir(parents=True, exist_ok=True)
    drawn = []
    with format_named(sheet.format).edit(source, sheet) as editing:
        for part_id in part_ids:
            try:
                pixels = _draw(editing, sheet.part(part_id))
            except (LightenError, KeyError, *UNREADABLE):
                continue
            Image.fromarray(pixels).save(folder / thumbnail_name(part_id), "PNG")
            drawn.append(part_id)
    return drawn


def _draw(editing: Editing, part: Part) -> NDArray[np.uint8]:
    """The picture with its longer side at most `LONGEST_PX`: (height, width[, 3]) uint8."""
    as_it_is = Decision(part_id=part.id, action=Action.KEEP, reason="")
    job = editing.job(part, as_it_is)
    stored = job.picture
    share = min(1.0, LONGEST_PX / max(stored.width_px, stored.height_px))
    size = (max(1, round(stored.width_px * share)), max(1, round(stored.height_px * share)))
    return upright(resample(draw_original(job, at_least=size), size), job.orientation)
