"""Compound files as [MS-CFB] has them (version 3, 512-byte sectors), written without a library."""

import struct
from collections.abc import Mapping

from lighten.containers.recognise import OLE_MARK

__all__ = ["compound_file"]

_SECTOR, _ENTRY_BYTES = 512, 128
_FREE, _END, _OF_FAT, _NONE = 0xFFFFFFFF, 0xFFFFFFFE, 0xFFFFFFFD, 0xFFFFFFFF
_STORAGE, _STREAM, _ROOT = 1, 2, 5
# Smaller streams would lie in a stream of their own.
_LEAST_BYTES = 4096


def compound_file(streams: Mapping[str, bytes]) -> bytes:
    """streams: by path, "Storage/Stream". Short ones are filled with zeros."""
    names = sorted(
        {"/".join(path.split("/")[: n + 1]) for path in streams for n in range(path.count("/") + 1)}
    )
    number = {name: place for place, name in enumerate(names, start=1)}
    sectors: list[bytes] = []
    fat: list[int] = []

    def put(content: bytes) -> int:
        first = len(sectors)
        count = -(-len(content) // _SECTOR)
        padded = content.ljust(count * _SECTOR, b"\0")
        sectors.extend(padded[at : at + _SECTOR] for at in range(0, len(padded), _SECTOR))
        fat.extend([*range(first + 1, first + count), _END])
        return first

    def below(name: str) -> list[str]:
        depth = name.count("/") + 1 if name else 0
        return [
            n for n in names if n.count("/") == depth and n.startswith(f"{name}/" if name else "")
        ]

    def entry(name: str, kind: int, sibling: int, start: int, size: int) -> bytes:
        children = below(name) if kind != _STREAM else []
        encoded = (name.rpartition("/")[2] or "Root Entry").encode("utf-16-le") + b"\0\0"
        return struct.pack(
            "<64sHBB3I16sIQQIQ",
            encoded,
            len(encoded),
            kind,
            1,
            _NONE,
            sibling,
            number[children[0]] if children else _NONE,
            b"",
            0,
            0,
            0,
            start,
            size,
        )

    entries = [entry("", _ROOT, _NONE, _END, 0)]
    for name in names:
        siblings = below(name.rpartition("/")[0])
        after = siblings[siblings.index(name) + 1 :]
        sibling = number[after[0]] if after else _NONE
        if name in streams:
            content = streams[name].ljust(_LEAST_BYTES, b"\0")
            entries.append(entry(name, _STREAM, sibling, put(content), len(content)))
        else:
            entries.append(entry(name, _STORAGE, sibling, 0, 0))
    directory = put(b"".join(entries))
    first_of_fat = len(sectors)
    count = -(-(len(fat) + 1) // (_SECTOR // 4 - 1))
    fat += [_OF_FAT] * count
    table = struct.pack(f"<{len(fat)}I", *fat).ljust(count * _SECTOR, b"\xff")
    header = struct.pack(
        "<8s16sHHHHH6xIIIIIIIIII",
        *(OLE_MARK, b"", 0x3E, 3, 0xFFFE, 9, 6),
        *(0, count, directory, 0, _LEAST_BYTES, _END, 0, _END, 0, first_of_fat),
    )
    more = [*range(first_of_fat + 1, first_of_fat + count), *[_FREE] * (109 - count)]
    header += struct.pack("<108I", *more[:108])
    return header + b"".join(sectors) + table
