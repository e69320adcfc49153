"""A zip archive read with limits: every member with the bytes it takes in the file.

Source: APPNOTE (ISO/IEC 21320-1). The list of members is read by Python's own zipfile; what is
believed of it is checked here.
"""

import itertools
import struct
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from lighten.model.errors import (
    LimitExceededError,
    PasswordNeededError,
    UnreadableFileError,
    UnsupportedFileError,
)
from lighten.model.source import Source

__all__ = ["DEFLATED", "STORED", "Archive", "Member", "member_names", "read_archive"]

STORED, DEFLATED = 0, 8
# What a task can work on within its memory; an honest document stays far below.
_MOST_BYTES = 600_000_000
_MOST_MEMBERS = 20_000
_MOST_MEMBER_BYTES, _MOST_AT_ONCE = 1_500_000_000, 400_000_000
_CHUNK_BYTES = 4_000_000
_MOST_UNPACKED = 2_000_000_000
# Deflate packs at most 1,032 to 1; the densest XML of real documents stays below 150.
_MOST_RATIO, _RATIO_COUNTS_FROM = 250, 20_000_000
_LOCAL = struct.Struct("<4s5H3I2H")
_CENTRAL_BYTES = 46
_UTF8, _ENCRYPTED, _HAS_DESCRIPTOR = 0x800, 0x1, 0x8


@dataclass(frozen=True, slots=True, kw_only=True)
class Member:
    """One file of the archive.

    packed: its bytes as they are stored; method: `STORED` or `DEFLATED`. size_bytes: unpacked.
    weight: all that it takes in the archive, with its headers and its line in the list.
    """

    name: str
    method: int
    packed: bytes = field(repr=False)
    size_bytes: int
    crc: int
    weight: int

    @property
    def is_folder(self) -> bool:
        return self.name.endswith("/")


@dataclass(frozen=True, slots=True, kw_only=True)
class Archive:
    """A ZIP archive: its members in the order of its directory. size_bytes: of the file."""

    shown_as: str
    size_bytes: int
    members: Mapping[str, Member] = field(repr=False)

    def content(self, name: str) -> bytes:
        """Unpack a member.

        Raises: KeyError; UnreadableFileError if it is not what it says; LimitExceededError.
        """
        member = self.members[name]
        if member.size_bytes > _MOST_AT_ONCE:
            raise LimitExceededError(
                f"{self.shown_as}: {name} in it would unpack to {member.size_bytes / 1e6:,.0f} MB, "
                "more than can be worked on safely."
            )
        return b"".join(self.chunks(name))

    def chunks(self, name: str) -> Iterator[bytes]:
        """A member unpacked a piece at a time. Raises: as `content`, at the end or before."""
        member = self.members[name]
        length, crc = 0, 0
        try:
            for chunk in _unpacked(member):
                length, crc = length + len(chunk), zlib.crc32(chunk, crc)
                if length > member.size_bytes:
                    break
                yield chunk
        except zlib.error:
            length = -1
        if length != member.size_bytes or crc != member.crc:
            raise UnreadableFileError(
                f"{self.shown_as}: {name} in it is damaged or longer than it says. Fetch or save "
                "the file again, and try that."
            )

    def check(self) -> None:
        """Unpack every member. Raises: UnreadableFileError if one is not as the list says."""
        for name in self.members:
            for _ in self.chunks(name):
                pass


def _unpacked(member: Member) -> Iterator[bytes]:
    """Inflate a member. Raises: zlib.error."""
    if member.method == STORED:
        yield member.packed
        return
    reader = zlib.decompressobj(-zlib.MAX_WBITS)
    chunk = reader.decompress(member.packed, _CHUNK_BYTES)
    while chunk:
        yield chunk
        chunk = reader.decompress(reader.unconsumed_tail, _CHUNK_BYTES)


def member_names(path: Path) -> frozenset[str]:
    """Return the names of an archive's members; none if the archive cannot be read."""
    try:
        with zipfile.ZipFile(path) as file:
            return frozenset(file.namelist())
    except (zipfile.BadZipFile, NotImplementedError, ValueError):
        return frozenset()


def read_archive(source: Source) -> Archive:
    """Read and check every member: positions, sizes and limits.

    Raises: UnreadableFileError; LimitExceededError; PasswordNeededError for encrypted members;
    UnsupportedFileError for codings other than Deflate.
    """
    name = source.name
    if source.path.stat().st_size > _MOST_BYTES:
        raise LimitExceededError(f"{name}: more than {_MOST_BYTES // 1_000_000} MB.")
    data = source.path.read_bytes()
    try:
        with zipfile.ZipFile(source.path) as file:
            entries = file.infolist()
    except (zipfile.BadZipFile, NotImplementedError, ValueError, OSError) as error:
        raise UnreadableFileError(
            f"{name}: is damaged or cut short ({error}). Fetch or save it again, and try that file."
        ) from error
    _check_limits(name, entries)
    members: dict[str, Member] = {}
    spans: list[tuple[int, int]] = []
    for entry in entries:
        if entry.orig_filename in members or entry.filename in members:
            raise _broken(name, f"holds {entry.filename} twice")
        _check_entry(name, entry)
        start, end, packed = _span(name, data, entry)
        spans.append((start, end))
        # The encoding of its name decides the length of its directory entry.
        encoded = entry.orig_filename.encode("utf-8" if entry.flag_bits & _UTF8 else "cp437")
        line = _CENTRAL_BYTES + len(encoded) + len(entry.extra) + len(entry.comment)
        members[entry.filename] = Member(
            name=entry.filename,
            method=entry.compress_type,
            packed=packed,
            size_bytes=entry.file_size,
            crc=entry.CRC,
            weight=end - start + line,
        )
    spans.sort()
    if any(end > start for (_, end), (start, _) in itertools.pairwise(spans)):
        raise _broken(name, "has members that lie over one another")
    return Archive(shown_as=name, size_bytes=len(data), members=members)


def _check_limits(name: str, entries: list[zipfile.ZipInfo]) -> None:
    if len(entries) > _MOST_MEMBERS:
        raise LimitExceededError(f"{name}: more than {_MOST_MEMBERS:,} files in one.")
    unpacked = sum(entry.file_size for entry in entries)
    packed = sum(entry.compress_size for entry in entries)
    too_dense = unpacked > max(_RATIO_COUNTS_FROM, _MOST_RATIO * packed)
    too_long = any(entry.file_size > _MOST_MEMBER_BYTES for entry in entries)
    if unpacked > _MOST_UNPACKED or too_long or too_dense:
        raise LimitExceededError(
            f"{name}: would unpack to {unpacked / 1_000_000:,.0f} MB, more than can be worked on "
            "safely."
        )


def _check_entry(name: str, entry: zipfile.ZipInfo) -> None:
    """Check an entry of the list. Raises if its name leads out of the archive, or its coding is
    unknown.
    """
    stored_name = entry.orig_filename
    steps = stored_name.split("/")
    if (
        "\0" in stored_name
        or "\\" in stored_name
        or stored_name.startswith("/")
        or ".." in steps
        or ":" in steps[0]
    ):
        raise _broken(name, f"has a member whose name leads elsewhere ({stored_name[:60]!r})")
    if entry.flag_bits & _ENCRYPTED:
        raise PasswordNeededError(
            f"{name}: is locked with a password. Save it without one, and try that file."
        )
    if entry.compress_type not in (STORED, DEFLATED):
        raise UnsupportedFileError(
            f"{name}: {stored_name} in it is packed in a way that office files may not be. Open it "
            "in the program it came from and save it again."
        )


def _span(name: str, data: bytes, entry: zipfile.ZipInfo) -> tuple[int, int, bytes]:
    """Return start and end of a member in the file, headers included, and its packed bytes."""
    start = entry.header_offset
    if start < 0 or start + _LOCAL.size > len(data):
        raise _broken(name, "is cut short")
    mark, _, flags, *_rest, name_length, extra_length = _LOCAL.unpack_from(data, start)
    begin = start + _LOCAL.size + name_length + extra_length
    end = begin + entry.compress_size
    if mark != b"PK\x03\x04" or end > len(data):
        raise _broken(name, "is damaged or cut short")
    packed = data[begin:end]
    if flags & _HAS_DESCRIPTOR:
        end += _descriptor_bytes(data, end, entry)
    return start, end, packed


def _descriptor_bytes(data: bytes, at: int, entry: zipfile.ZipInfo) -> int:
    """Return the length of the data descriptor after a member, with or without signature."""
    crc = struct.pack("<I", entry.CRC)
    for mark in (b"PK\x07\x08", b""):
        if data.startswith(mark + crc, at):
            sizes = struct.pack("<II", entry.compress_size & 0xFFFFFFFF, entry.file_size)
            is_short = data.startswith(mark + crc + sizes, at)
            return len(mark) + (12 if is_short else 20)
    return 0


def _broken(name: str, what: str) -> UnreadableFileError:
    return UnreadableFileError(
        f"{name}: {what}. Open it in the program it came from and save it again, and try that file."
    )
