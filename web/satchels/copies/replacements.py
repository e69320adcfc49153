"""Pictures that a person brings to be shown instead of one in a document."""

import uuid
import warnings
from typing import Any, cast

from django.core.files.uploadedfile import UploadedFile

from web.problems import Problem
from web.satchels.models import Document

__all__ = ["take_replacement"]

_MOST_BYTES = 60_000_000
_MOST_PIXELS = 120_000_000
# Of width to height: more would be drawn out of shape to be seen.
_MOST_OUT_OF_SHAPE = 0.02
_KINDS = ("JPEG", "PNG", "TIFF", "WEBP", "BMP", "GIF")


def take_replacement(document: Document, part_id: str, upload: "UploadedFile[Any]") -> None:
    """Keep the picture and have it replace `part_id`. Raises: Problem, saying what is wrong."""
    part = next(
        (one for one in (document.sheet or {"parts": []})["parts"] if one["id"] == part_id), None
    )
    if part is None or not part["picture"]:
        raise Problem("not_found", "There is no such picture.", status=404)
    name = upload.name or "The picture"
    if (upload.size or 0) > _MOST_BYTES:
        raise Problem("too_large", f"{name}: more than {_MOST_BYTES // 1_000_000} MB.", status=413)
    width, height = _size_of(upload, name)
    shown = _shape(part["picture"])
    if abs(width / height / shown - 1) > _MOST_OUT_OF_SHAPE:
        raise Problem(
            "other_shape",
            f"{name}: is {width} × {height} pixels, {width / height:.2f} to 1, and its place is "
            f"{shown:.2f} to 1. Crop it to that shape and bring it again.",
            status=422,
        )
    document.replacements_path.mkdir(parents=True, exist_ok=True)
    kept = uuid.uuid4().hex
    upload.seek(0)
    with (document.replacements_path / kept).open("wb") as file:
        for chunk in upload.chunks():
            file.write(chunk)
    document.exceptions = {**document.exceptions, part_id: {"replacement": kept}}
    document.save(update_fields=["exceptions"])


def _size_of(upload: "UploadedFile[Any]", name: str) -> tuple[int, int]:
    """Width and height as it is held upright."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(cast(Any, upload), formats=_KINDS) as image:
                if image.width * image.height > _MOST_PIXELS:
                    raise Problem("too_large", f"{name}: more pixels than can be taken safely.")
                return ImageOps.exif_transpose(image).size
    except (UnidentifiedImageError, OSError, Image.DecompressionBombWarning) as error:
        raise Problem(
            "unreadable",
            f"{name}: is no picture that can be read here. Bring a JPEG or PNG.",
            status=422,
        ) from error


def _shape(facts: dict[str, Any]) -> float:
    """Return the aspect ratio as shown, else as stored."""
    placements = facts["placements"]
    if placements:
        largest = max(
            placements, key=lambda placement: placement["width_pt"] * placement["height_pt"]
        )
        return float(largest["width_pt"] / max(largest["height_pt"], 1e-6))
    return float(facts["width_px"] / facts["height_px"])
