"""Zip archives: read and written here, and by Python's own zipfile."""

import io
import struct
import zipfile
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from lighten import Source
from lighten.containers.archive import pack_member, read_archive, write_archive
from lighten.model.errors import (
    LightenError,
    LimitExceededError,
    PasswordNeededError,
    UnreadableFileError,
    UnsupportedFileError,
)
from tests.builders import FolderCase

_NAMES = st.text(st.characters(categories=["L", "N"], include_characters="/ .-_"), min_size=1)
_PLAIN_NAMES = _NAMES.filter(
    lambda name: not name.startswith("/") and ".." not in name and not name.endswith("/")
)


def zipped(members: dict[str, bytes], method: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as file:
        for name, content in members.items():
            file.writestr(name, content)
    return out.getvalue()


class Archives(FolderCase):
    def source(self, content: bytes) -> Source:
        path = self.folder / "archive.zip"
        path.write_bytes(content)
        return Source(path=path)

    def written(self, members: dict[str, bytes], name: str = "out.zip") -> Path:
        out = self.folder / name
        write_archive((pack_member(name, content) for name, content in members.items()), out)
        return out

    @settings(max_examples=40, deadline=None)
    @given(st.dictionaries(_PLAIN_NAMES, st.binary(max_size=2000), max_size=6))
    def test_a_written_archive_is_read_by_other_readers_and_ours(
        self, members: dict[str, bytes]
    ) -> None:
        out = self.written(members)
        with zipfile.ZipFile(out) as file:
            self.assertIsNone(file.testzip())
            self.assertEqual({name: file.read(name) for name in file.namelist()}, members)
        archive = read_archive(Source(path=out))
        self.assertEqual({name: archive.content(name) for name in archive.members}, members)
        self.assertEqual(
            sum(member.weight for member in archive.members.values()) + 22, archive.size_bytes
        )

    def test_weights_and_the_end_of_the_list_are_the_file_whoever_wrote_it(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(_NotSeekable(out), "w", zipfile.ZIP_DEFLATED) as file:
            file.writestr("größe.xml", b"<a/>" * 300)  # with what follows where sizes come late
            file.writestr("plain", b"abc", zipfile.ZIP_STORED)
        for content in (out.getvalue(), zipped({"a": b"x" * 1000, "b": b""})):
            archive = read_archive(self.source(content))
            total = sum(member.weight for member in archive.members.values())
            self.assertEqual(total + 22, len(content))

    def test_the_same_members_give_the_same_bytes_whenever_they_are_written(self) -> None:
        members = {"mimetype": b"text/plain", "content.xml": b"<a>words</a>" * 99}
        self.assertEqual(
            self.written(members).read_bytes(), self.written(members, "2").read_bytes()
        )

    def test_the_member_that_names_the_kind_is_never_packed(self) -> None:
        with zipfile.ZipFile(self.written({"mimetype": b"a" * 400})) as file:
            self.assertEqual(file.getinfo("mimetype").compress_type, zipfile.ZIP_STORED)

    def test_a_tighter_packing_than_ours_is_kept(self) -> None:
        archive = read_archive(self.source(zipped({"jpeg": b"\xff\xd8\xff" + b"\0" * 5000})))
        packed = pack_member("jpeg", archive.content("jpeg"), archive.members["jpeg"])
        self.assertEqual(packed.packed, archive.members["jpeg"].packed)

    def test_names_that_lead_elsewhere_are_refused(self) -> None:
        for name in ("../evil", "/etc/passwd", "a/../../b", "C:/evil", "a\\b"):
            content = zipped({"x" * len(name): b"1"}).replace(b"x" * len(name), name.encode())
            with self.subTest(name=name), self.assertRaises(UnreadableFileError):
                read_archive(self.source(content))

    def test_two_members_of_one_name_are_refused(self) -> None:
        content = zipped({"one": b"1", "two": b"2"}).replace(b"two", b"one")
        with self.assertRaises(UnreadableFileError):
            read_archive(self.source(content))

    def test_a_bomb_is_refused_before_it_is_unpacked(self) -> None:
        with self.assertRaises(LimitExceededError):
            read_archive(self.source(zipped({"bomb": b"\0" * 60_000_000})))

    def test_a_member_that_is_longer_than_it_says_is_found_out(self) -> None:
        content = bytearray(zipped({"a": b"lie" * 1000}))
        for at in (22, content.index(b"PK\x01\x02") + 24):
            content[at : at + 4] = struct.pack("<I", 30)
        archive = read_archive(self.source(bytes(content)))
        with self.assertRaises(UnreadableFileError):
            archive.check()

    def test_damage_cuts_and_nonsense_are_unreadable(self) -> None:
        whole = zipped({"a": b"words" * 500, "b": bytes(range(256))}, zipfile.ZIP_STORED)
        for content in (whole[:-30], whole[: len(whole) // 2], b"PK\x03\x04nonsense" * 9):
            with self.subTest(length=len(content)), self.assertRaises(UnreadableFileError):
                read_archive(self.source(content)).check()

    def test_locked_members_ask_for_a_file_without_password(self) -> None:
        content = bytearray(zipped({"a": b"secret"}))
        for mark, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
            content[content.index(mark) + at] |= 1
        with self.assertRaises(PasswordNeededError):
            read_archive(self.source(bytes(content)))

    def test_codings_that_office_files_may_not_have_are_reported(self) -> None:
        with self.assertRaises(UnsupportedFileError):
            read_archive(self.source(zipped({"a": b"x" * 99}, zipfile.ZIP_BZIP2)))

    def test_any_flipped_byte_is_read_or_refused_clearly(self) -> None:
        whole = zipped({"a.xml": b"<a>words</a>" * 20, "b": b"\1\2\3"})
        for at in range(len(whole)):
            damaged = bytearray(whole)
            damaged[at] ^= 0x55
            try:
                read_archive(self.source(bytes(damaged))).check()
            except LightenError:
                continue


class _NotSeekable(io.RawIOBase):
    """A stream that zipfile cannot seek, so that it writes sizes after each member."""

    def __init__(self, out: io.BytesIO) -> None:
        self._out = out

    def writable(self) -> bool:
        return True

    def write(self, data: bytes) -> int:  # type: ignore[override] # of bytes alone
        return self._out.write(data)
