"""Results of jobs as bytes and back, and a key that is equal for equal results."""

import hashlib
import json
from dataclasses import asdict, replace
from typing import Any

from lighten.model.plans import Action
from lighten.pictures.coding.coded import CodedPicture, Coding
from lighten.pictures.coding.layered import Ink, LayeredPicture, PictureLayer
from lighten.pictures.recoding.recode import Recoded, RecodeJob

__all__ = ["job_key", "recoded_from_bytes", "recoded_to_bytes"]

# To be raised when the same job would be coded otherwise than before.
_ENGINE = 13


def job_key(job: RecodeJob) -> str:
    """Return a key that is equal for jobs with equal bytes as result; "" where that is unknown.

    What a replacement file holds is not known here.
    """
    if job.replacement is not None:
        return ""
    digest = hashlib.sha256(job.picture.data)
    rendering = job.picture.rendering
    digest.update(b"" if rendering is None else rendering.key)
    mask = job.mask
    if mask is not None:
        digest.update(mask.data)
        mask = replace(mask, data=b"")
    picture = replace(job.picture, data=b"", rendering=None)
    plain = replace(job, picture=picture, mask=mask, decoded=None, reference=None, words_px=None)
    digest.update(repr((_ENGINE, plain)).encode())
    return digest.hexdigest()


def recoded_to_bytes(recoded: Recoded) -> bytes:
    """The result as bytes: a line of JSON, then the data of each picture in it."""
    pictures = [recoded.picture, recoded.mask, *_of_layers(recoded.layers)]
    head = {
        "action": str(recoded.action),
        "reason": recoded.reason,
        "has_plain_colours": recoded.has_plain_colours,
        "has_new_mask": recoded.has_new_mask,
        "cut": recoded.cut,
        "turned_degrees": recoded.turned_degrees,
        "layers": None if recoded.layers is None else _shape(recoded.layers),
        "pictures": [None if picture is None else _facts(picture) for picture in pictures],
    }
    data = [picture.data + (picture.palette or b"") for picture in pictures if picture is not None]
    return json.dumps(head).encode() + b"\n" + b"".join(data)


def recoded_from_bytes(kept: bytes) -> Recoded:
    """Restore the input of `recoded_to_bytes`. Raises: ValueError or KeyError for anything else."""
    line, _, data = kept.partition(b"\n")
    head = json.loads(line)
    pictures: list[CodedPicture | None] = []
    for facts in head.pop("pictures"):
        if facts is None:
            pictures.append(None)
            continue
        length, entries = facts.pop("data"), facts.pop("palette")
        if length + (entries or 0) > len(data):
            raise ValueError("cut short")
        pictures.append(
            CodedPicture(
                **{**facts, "coding": Coding(facts["coding"])},
                data=data[:length],
                palette=None if entries is None else data[length : length + entries],
            )
        )
        data = data[length + (entries or 0) :]
    cut, shape = head.pop("cut"), head.pop("layers")
    picture, mask, *layers = pictures
    return Recoded(
        **{**head, "action": Action(head["action"])},
        picture=picture,
        mask=mask,
        cut=None if cut is None else (cut[0], cut[1], cut[2], cut[3]),
        layers=None if shape is None else _layered(shape, [one for one in layers if one]),
    )


def _of_layers(layers: LayeredPicture | None) -> list[CodedPicture]:
    """Return the pictures of layers: paper, strokes with their colours, and kept pictures."""
    if layers is None:
        return []
    coded = [layers.paper]
    if layers.ink is not None:
        colour = layers.ink.colour
        coded += [layers.ink.strokes, *([] if isinstance(colour, tuple) else [colour])]
    if layers.pictures is not None:
        coded += [layers.pictures.picture, layers.pictures.places]
    return coded


def _shape(layers: LayeredPicture) -> dict[str, Any]:
    """Return the fields that are not pictures."""
    return {
        "size": (layers.width_px, layers.height_px),
        "likeness": layers.likeness,
        "has_ink": layers.ink is not None,
        "colour": layers.ink.colour
        if layers.ink and isinstance(layers.ink.colour, tuple)
        else None,
        "pictures": layers.pictures and (layers.pictures.kept, layers.pictures.undone),
    }


def _layered(shape: dict[str, Any], coded: list[CodedPicture]) -> LayeredPicture:
    """Restore layers. Raises: ValueError or IndexError where pictures are missing."""
    paper, *others = coded
    ink = None
    if shape["has_ink"]:
        strokes, colour = others.pop(0), shape["colour"]
        ink = Ink(strokes=strokes, colour=tuple(colour) if colour else others.pop(0))
    pictures = None
    if shape["pictures"]:
        kept, undone = shape["pictures"]
        picture, places = others
        pictures = PictureLayer(picture=picture, places=places, kept=kept, undone=undone)
    width, height = shape["size"]
    return LayeredPicture(
        paper=paper,
        ink=ink,
        pictures=pictures,
        width_px=width,
        height_px=height,
        likeness=shape["likeness"],
    )


def _facts(picture: CodedPicture) -> dict[str, Any]:
    """Return the fields without their bytes, but with their lengths."""
    palette = picture.palette
    return {
        **asdict(picture),
        "coding": str(picture.coding),
        "data": len(picture.data),
        "palette": None if palette is None else len(palette),
    }
