"""Streams that a file holds more than once: pictures, fonts, profiles, forms."""

import hashlib
from collections import defaultdict
from collections.abc import Mapping

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId, reference_pattern
from lighten.formats.pdf.objects.values import text_of, whole_number

__all__ = ["find_repeats", "merge_repeats"]

# A picture whose mask is a repeat becomes one itself once the masks are found equal.
_ROUNDS = 3
_LEAST_BYTES = 64


def find_repeats(pdf: pikepdf.Pdf) -> dict[ObjectId, ObjectId]:
    """Return each stream that repeats an earlier one, mapped to that earlier one.

    Equal are the coded bytes and the dictionaries, references to repeats counting as equal.
    """
    groups = _equal_bytes(pdf)
    kept: dict[ObjectId, ObjectId] = {}
    for _ in range(_ROUNDS):
        before = len(kept)
        for group in groups:
            first_with: dict[bytes, ObjectId] = {}
            for stream in group:
                if stream.objgen not in kept:
                    same = first_with.setdefault(_dictionary_text(stream, kept), stream.objgen)
                    if same != stream.objgen:
                        kept[stream.objgen] = same
        if len(kept) == before:
            break
    return {repeat: _first(repeat, kept) for repeat in kept}


def merge_repeats(pdf: pikepdf.Pdf, repeats: Mapping[ObjectId, ObjectId]) -> None:
    """Let everything that points to a repeat point to the one that stays."""
    if not repeats:
        return
    stays = {repeat: pdf.get_object(first) for repeat, first in repeats.items()}
    for holder in [pdf.trailer, *pdf.objects]:
        _redirect(holder, stays, depth=0)


def _equal_bytes(pdf: pikepdf.Pdf) -> list[list[pikepdf.Stream]]:
    by_length: dict[int, list[pikepdf.Stream]] = defaultdict(list)
    for value in pdf.objects:
        if isinstance(value, pikepdf.Stream) and text_of(value.get("/Type", "")) not in (
            "/ObjStm",
            "/XRef",
            "/Metadata",
        ):
            length = value.get("/Length")
            by_length[whole_number(length)].append(value)
    groups: dict[bytes, list[pikepdf.Stream]] = defaultdict(list)
    for size_bytes, streams in by_length.items():
        if len(streams) > 1 and size_bytes >= _LEAST_BYTES:
            for stream in streams:
                groups[hashlib.sha256(stream.read_raw_bytes()).digest()].append(stream)
    return [
        sorted(group, key=lambda stream: stream.objgen)
        for group in groups.values()
        if len(group) > 1
    ]


def _dictionary_text(stream: pikepdf.Stream, kept: Mapping[ObjectId, ObjectId]) -> bytes:
    """Return the text of a dictionary with references to repeats resolved."""
    plain = pikepdf.Dictionary({key: value for key, value in stream.items() if key != "/Length"})
    text = plain.unparse(resolved=True)
    return reference_pattern().sub(
        lambda reference: b"%d %d R" % _first((int(reference[1]), int(reference[2])), kept), text
    )


def _first(object_id: ObjectId, kept: Mapping[ObjectId, ObjectId]) -> ObjectId:
    while object_id in kept:
        object_id = kept[object_id]
    return object_id


def _redirect(
    holder: pikepdf.Object, stays: Mapping[ObjectId, pikepdf.Object], *, depth: int
) -> None:
    """Redirect references to repeats within one object."""
    if depth > 30:
        return
    if isinstance(holder, pikepdf.Array):
        places = list(enumerate(holder))
    elif isinstance(holder, pikepdf.Dictionary | pikepdf.Stream):
        places = list(holder.items())  # type: ignore[arg-type] # keys of either kind
    else:
        return
    for place, value in places:
        if not isinstance(value, pikepdf.Object):
            continue
        if value.is_indirect:
            if value.objgen in stays:
                holder[place] = stays[value.objgen]
        else:
            _redirect(value, stays, depth=depth + 1)
