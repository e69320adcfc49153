"""Exif: what a camera writes into a picture (CIPA DC-008, Exif 2.32)."""

import re
import struct
from collections.abc import Collection
from dataclasses import dataclass, replace

from lighten.model.kinds import ExtraKind
from lighten.pictures.metadata.exif_directories import (
    MAKERS_NOTE,
    PLACE_POINTER,
    POINTERS,
    Directory,
    Entry,
    build_exif,
    byte_order,
    read_exif,
)

__all__ = [
    "CAPTIONS",
    "ExifChange",
    "as_upright",
    "exif_dots",
    "exif_orientation",
    "exif_time",
    "exif_weights",
    "parse_time",
    "rewrite_exif",
]

_ACROSS, _DOWN, _UNIT = 0x011A, 0x011B, 0x0128
_WIDTHS, _HEIGHTS = (0x0100, 0xA002), (0x0101, 0xA003)
_ORIENTATION, _COLOURS = 0x0112, 0xA001
# DateTimeOriginal, DateTimeDigitized, DateTime.
_TIMES = 0x9003, 0x9004, 0x0132
_TIME = re.compile(r"(\d{4}):(\d\d):(\d\d) (\d\d:\d\d:\d\d)")
# Title, author, rights, comment, and what one system writes beside them; their times stay camera
# data.
CAPTIONS = {0x010D, 0x010E, 0x013B, 0x8298, 0x9286, *range(0x9C9B, 0x9CA0), 0x4746, 0x4749}
# Without these a picture would be shown otherwise, or read wrongly.
_NEEDED = {
    _ORIENTATION,
    _ACROSS,
    _DOWN,
    _UNIT,
    0x0213,
    _COLOURS,
    *_WIDTHS,
    *_HEIGHTS,
    0xA000,
    0x9000,
}
_CM_PER_INCH = 2.54
_UPRIGHT, _MOST_ORIENTATION = 1, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class ExifChange:
    """dropped: kinds to leave out. size_px: of the picture from now on, or None as it was.

    share: of the old lines that stay, by which dots per inch become fewer.
    """

    dropped: Collection[ExtraKind] = ()
    size_px: tuple[int, int] | None = None
    share: float = 1.0

    @property
    def is_none(self) -> bool:
        return not self.dropped and self.size_px is None


def exif_weights(content: bytes) -> dict[ExtraKind, int]:
    """Return bytes by kind, adding up to the content; unreadable parts count as camera data."""
    try:
        first = read_exif(content)
    except ValueError:
        return {ExtraKind.CAMERA_DATA: len(content)}
    weights: dict[ExtraKind, int] = {}
    for directory, entry in _all_entries(first):
        kind = _kind_of(directory, entry.tag)
        if kind is not ExtraKind.CAMERA_DATA:
            weights[kind] = weights.get(kind, 0) + entry.size_bytes
    if first.next is not None:
        weights[ExtraKind.THUMBNAILS] = first.next.size_bytes
    # Directories may share bytes, or claim more than there are.
    left = len(content)
    for kind in list(weights):
        weights[kind] = min(weights[kind], left)
        left -= weights[kind]
    weights[ExtraKind.CAMERA_DATA] = left
    return {kind: size for kind, size in weights.items() if size}


def exif_dots(content: bytes) -> tuple[float, float] | None:
    """Return dots per inch, across and down; None if not declared."""
    try:
        first = read_exif(content)
    except ValueError:
        return None
    order = byte_order(content)
    across, down = (_ratio(first.value(tag), order) for tag in (_ACROSS, _DOWN))
    unit = first.value(_UNIT)
    kind = struct.unpack(order + "H", unit.value)[0] if unit and len(unit.value) == 2 else 2
    if not across or not down or kind not in (2, 3):
        return None
    scale = 1.0 if kind == 2 else _CM_PER_INCH
    return across * scale, down * scale


def exif_time(content: bytes) -> str:
    """Return when the picture was taken or changed, as "2026-05-04 05:12:00"; "" if unknown."""
    try:
        entries = {entry.tag: entry for _, entry in _all_entries(read_exif(content))}
    except ValueError:
        return ""
    for tag in _TIMES:
        if (entry := entries.get(tag)) is not None and (time := parse_time(entry.value)):
            return time
    return ""


def parse_time(value: bytes) -> str:
    """A time as Exif and TIFF write it ("2026:05:04 05:12:00"), in the usual way; or ""."""
    found = _TIME.match(value.decode("latin-1"))
    return f"{found[1]}-{found[2]}-{found[3]} {found[4]}" if found else ""


def exif_orientation(content: bytes) -> int:
    """Return the orientation, 1 to 8 as in Exif 2.32; 1 where it declares none."""
    try:
        entry = read_exif(content).value(_ORIENTATION)
        order = byte_order(content)
    except ValueError:
        return _UPRIGHT
    if entry is None or len(entry.value) != 2:
        return _UPRIGHT
    (orientation,) = struct.unpack(order + "H", entry.value)
    return orientation if 1 <= orientation <= _MOST_ORIENTATION else _UPRIGHT


def as_upright(content: bytes) -> bytes:
    """Return the Exif data with an upright orientation."""
    order = byte_order(content)
    if exif_orientation(content) == _UPRIGHT:
        return content
    (start,) = struct.unpack(order + "I", content[4:8])
    (count,) = struct.unpack(order + "H", content[start : start + 2])
    for at in range(start + 2, start + 2 + 12 * count, 12):
        if content[at : at + 2] == struct.pack(order + "H", _ORIENTATION):
            orientation = struct.pack(order + "H", _UPRIGHT)
            return content[: at + 8] + orientation + content[at + 10 :]
    return content


def rewrite_exif(content: bytes, change: ExifChange) -> bytes:
    """Rewrite without the dropped kinds and with the picture's new size; b"" if nothing remains.

    What cannot be read stays as it is, unless camera data or the place go. A maker's note that
    stays keeps its place: it points into itself from there.
    """
    if change.is_none:
        return content
    try:
        first = read_exif(content)
    except ValueError:
        is_dropped = {ExtraKind.CAMERA_DATA, ExtraKind.LOCATION} & set(change.dropped)
        return b"" if is_dropped else content
    order = byte_order(content)
    kept = _changed(first, "", change, order)
    if kept is None:
        return b""
    if first.next is not None and ExtraKind.THUMBNAILS not in change.dropped:
        kept = replace(kept, next=first.next)
    return build_exif(kept, order)


def _changed(directory: Directory, name: str, change: ExifChange, order: str) -> Directory | None:
    """Return the directory without dropped tags; None if only mandatory ones remain."""
    entries: list[Entry] = []
    for entry in directory.entries:
        below = entry.directory
        if below is not None:
            kind = ExtraKind.LOCATION if entry.tag == PLACE_POINTER else None
            if kind not in change.dropped:
                changed = _changed(below, POINTERS[entry.tag], change, order)
                if changed is not None:
                    entries.append(replace(entry, directory=changed))
            continue
        if _kind_of(name, entry.tag) in change.dropped and entry.tag not in _NEEDED:
            continue
        entries.append(_resized(entry, change, order))
    is_idle = all(entry.tag in _NEEDED and not _says_much(entry, order) for entry in entries)
    has_lost = len(entries) < len(directory.entries)
    if has_lost and is_idle and (name or not any(entry.tag == _ACROSS for entry in entries)):
        return None
    return replace(directory, entries=tuple(entries), next=None)


def _says_much(entry: Entry, order: str) -> bool:
    """Return whether it declares an orientation, or a colour space other than sRGB."""
    usual = struct.pack(order + "H", 1)
    return entry.tag in (_ORIENTATION, _COLOURS) and entry.value != usual


def _resized(entry: Entry, change: ExifChange, order: str) -> Entry:
    if change.size_px is None:
        return entry
    if entry.tag in _WIDTHS + _HEIGHTS and entry.count == 1 and entry.type in (3, 4):
        side = change.size_px[0 if entry.tag in _WIDTHS else 1]
        return replace(entry, value=struct.pack(order + ("H" if entry.type == 3 else "I"), side))
    ratio = _ratio(entry, order) if entry.tag in (_ACROSS, _DOWN) else None
    if ratio:
        dots = struct.pack(order + "II", max(1, round(ratio * change.share * 100)), 100)
        return replace(entry, value=dots)
    return entry


def _ratio(entry: Entry | None, order: str) -> float | None:
    if entry is None or entry.type != 5 or len(entry.value) != 8:
        return None
    over, under = struct.unpack(order + "II", entry.value)
    return over / under if under else None


def _all_entries(directory: Directory, name: str = "") -> list[tuple[str, Entry]]:
    """Yield every tag with its directory; those below a location count with it."""
    entries: list[tuple[str, Entry]] = []
    for entry in directory.entries:
        entries.append((name, entry))
        if entry.directory is not None and entry.tag != PLACE_POINTER:
            entries += _all_entries(entry.directory, POINTERS[entry.tag])
    return entries


def _kind_of(directory: str, tag: int) -> ExtraKind:
    if tag == PLACE_POINTER:
        return ExtraKind.LOCATION
    if directory == "exif" and tag == MAKERS_NOTE:
        return ExtraKind.MAKERS_NOTES
    return ExtraKind.METADATA if tag in CAPTIONS else ExtraKind.CAMERA_DATA
