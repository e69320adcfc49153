"""Pictures that were coded before, taken from the store instead of coding them again."""

import hashlib
import json
from dataclasses import asdict, replace
from typing import Any

from lighten.formats.pdf.recode import Recoded, RecodeJob
from lighten.pictures.encode import CodedPicture, Coding
from lighten.plans import Action

__all__ = ["job_key", "restore_recoded", "store_recoded"]

# To be raised when the same job would be coded otherwise than before.
_ENGINE = 3


def job_key(job: RecodeJob) -> str:
    """The same for jobs that lead to the same bytes; "" where that cannot be told.

    What a replacement file holds is not known here.
    """
    if job.replacement is not None:
        return ""
    digest = hashlib.sha256(job.picture.data)
    digest.update(job.looks)
    mask = job.mask
    if mask is not None:
        digest.update(mask.data)
        mask = replace(mask, data=b"")
    rest = replace(job, picture=replace(job.picture, data=b""), mask=mask, looks=b"", decoded=None)
    digest.update(repr((_ENGINE, rest)).encode())
    return f"pdf:{digest.hexdigest()}"


def store_recoded(recoded: Recoded) -> bytes:
    """The result as bytes: a line of JSON, then the data of picture and mask."""
    pictures = (recoded.picture, recoded.mask)
    head = {
        "action": str(recoded.action),
        "reason": recoded.reason,
        "has_plain_colours": recoded.has_plain_colours,
        "has_new_mask": recoded.has_new_mask,
        "cut": recoded.cut,
        "pictures": [None if one is None else _facts(one) for one in pictures],
    }
    data = [one.data + (one.palette or b"") for one in pictures if one is not None]
    return json.dumps(head).encode() + b"\n" + b"".join(data)


def restore_recoded(stored: bytes) -> Recoded:
    """What `store_recoded` was given. Raises: ValueError or KeyError for anything else."""
    line, _, data = stored.partition(b"\n")
    head = json.loads(line)
    pictures: list[CodedPicture | None] = []
    for facts in head.pop("pictures"):
        if facts is None:
            pictures.append(None)
            continue
        length, entries = facts.pop("data"), facts.pop("palette")
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
