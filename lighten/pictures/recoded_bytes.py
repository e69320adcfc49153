"""What came of a picture as bytes and back, and a key for what leads to the same."""

import hashlib
import json
from dataclasses import asdict, replace
from typing import Any

from lighten.pictures.coded import CodedPicture, Coding
from lighten.pictures.recode import Recoded, RecodeJob
from lighten.plans import Action

__all__ = ["job_key", "recoded_from_bytes", "recoded_to_bytes"]

# To be raised when the same job would be coded otherwise than before.
_ENGINE = 10


def job_key(job: RecodeJob) -> str:
    """The same for jobs that lead to the same bytes; "" where that cannot be told.

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
    plain = replace(job, picture=picture, mask=mask, decoded=None, reference=None)
    digest.update(repr((_ENGINE, plain)).encode())
    return digest.hexdigest()


def recoded_to_bytes(recoded: Recoded) -> bytes:
    """The result as bytes: a line of JSON, then the data of picture and mask."""
    pictures = (recoded.picture, recoded.mask)
    head = {
        "action": str(recoded.action),
        "reason": recoded.reason,
        "has_plain_colours": recoded.has_plain_colours,
        "has_new_mask": recoded.has_new_mask,
        "cut": recoded.cut,
        "pictures": [None if picture is None else _facts(picture) for picture in pictures],
    }
    data = [picture.data + (picture.palette or b"") for picture in pictures if picture is not None]
    return json.dumps(head).encode() + b"\n" + b"".join(data)


def recoded_from_bytes(kept: bytes) -> Recoded:
    """What `recoded_to_bytes` was given. Raises: ValueError or KeyError for anything else."""
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
    cut = head.pop("cut")
    return Recoded(
        **{**head, "action": Action(head["action"])},
        picture=pictures[0],
        mask=pictures[1],
        cut=None if cut is None else (cut[0], cut[1], cut[2], cut[3]),
    )


def _facts(picture: CodedPicture) -> dict[str, Any]:
    """All but the bytes, of which the lengths are told."""
    palette = picture.palette
    return {
        **asdict(picture),
        "coding": str(picture.coding),
        "data": len(picture.data),
        "palette": None if palette is None else len(palette),
    }
