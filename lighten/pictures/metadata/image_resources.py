"""Image resource blocks of JPEG files, and the IPTC captions in them (IPTC-IIM 4.2)."""

import struct
from collections.abc import Collection, Iterator
from dataclasses import dataclass

from lighten.model.kinds import ExtraKind

__all__ = ["resource_weights", "rewrite_resources"]

_MARK = b"8BIM"
_IPTC, _IPTC_DIGEST = 0x0404, 0x0425
_THUMBNAILS = (0x0409, 0x040C)
# Of the application record: city, place, province, country and its code.
_PLACES = {90, 92, 95, 100, 101, 26, 27}
_DATASET = 0x1C


@dataclass(frozen=True, slots=True, kw_only=True)
class _Resource:
    id: int
    head: bytes
    content: bytes
    padding: bytes = b""

    @property
    def size_bytes(self) -> int:
        return len(self.head) + 4 + len(self.content) + len(self.padding)


def resource_weights(content: bytes) -> dict[ExtraKind, int]:
    """Return bytes by kind, adding up to the content; unreadable parts count as private data."""
    weights: dict[ExtraKind, int] = {}
    total = 0
    for resource in _resources(content):
        total += resource.size_bytes
        if resource.id == _IPTC:
            places = sum(len(piece) for piece, is_place in _datasets(resource.content) if is_place)
            _add(weights, ExtraKind.LOCATION, places)
            _add(weights, ExtraKind.METADATA, resource.size_bytes - places)
        else:
            _add(weights, _kind_of(resource.id), resource.size_bytes)
    _add(weights, ExtraKind.PRIVATE_DATA, len(content) - total)
    return weights


def rewrite_resources(content: bytes, dropped: Collection[ExtraKind]) -> bytes:
    """Return the resources without dropped ones; b"" if none remains."""
    if not set(dropped) & set(resource_weights(content)):
        return content
    out = []
    for resource in _resources(content):
        kept = resource.content
        if resource.id in (_IPTC, _IPTC_DIGEST):
            if ExtraKind.METADATA in dropped:
                continue
            if ExtraKind.LOCATION in dropped:
                if resource.id == _IPTC_DIGEST:
                    continue  # of captions that have changed
                pieces = _datasets(resource.content)
                kept = b"".join(piece for piece, is_place in pieces if not is_place)
        elif _kind_of(resource.id) in dropped:
            continue
        padding = b"\0" * (len(kept) % 2)
        out.append(resource.head + struct.pack(">I", len(kept)) + kept + padding)
    return b"".join(out)


def _add(weights: dict[ExtraKind, int], kind: ExtraKind, size_bytes: int) -> None:
    if size_bytes > 0:
        weights[kind] = weights.get(kind, 0) + size_bytes


def _kind_of(id_: int) -> ExtraKind:
    if id_ in _THUMBNAILS:
        return ExtraKind.THUMBNAILS
    return ExtraKind.METADATA if id_ in (_IPTC, _IPTC_DIGEST) else ExtraKind.PRIVATE_DATA


def _resources(content: bytes) -> Iterator[_Resource]:
    """Yield image resources one after the other, up to the first malformed one."""
    at = 0
    while content[at : at + 4] == _MARK and at + 12 <= len(content):
        id_ = int.from_bytes(content[at + 4 : at + 6], "big")
        name_bytes = content[at + 6] + 1
        head_end = at + 6 + name_bytes + name_bytes % 2
        size = int.from_bytes(content[head_end : head_end + 4], "big")
        end = head_end + 4 + size
        if end > len(content):
            return
        padding = content[end : end + size % 2]
        yield _Resource(
            id=id_,
            head=content[at:head_end],
            content=content[head_end + 4 : end],
            padding=padding,
        )
        at = end + len(padding)


def _datasets(content: bytes) -> Iterator[tuple[bytes, bool]]:
    """Return each dataset of the captions, and whether it is a position; the remaining bytes as
    one.
    """
    at = 0
    while at + 5 <= len(content) and content[at] == _DATASET:
        record, dataset, length = struct.unpack(">BBH", content[at + 1 : at + 5])
        if length & 0x8000 or at + 5 + length > len(content):
            break
        end = at + 5 + length
        yield content[at:end], record == 2 and dataset in _PLACES
        at = end
    if at < len(content):
        yield content[at:], False
