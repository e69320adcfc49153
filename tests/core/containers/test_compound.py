"""Compound files written here, read by olefile, which had no part in it, and files inside them."""

import io
import struct
import unittest
import uuid

import olefile
from hypothesis import given
from hypothesis import strategies as st

from lighten.containers.compound import (
    Entry,
    file_inside,
    read_compound,
    with_file_inside,
    write_compound,
)
from lighten.model.errors import UnreadableFileError
from tests.core.containers.compound_files import compound_file

# On both sides of 4,096 bytes, below which streams share one ([MS-CFB] 2.2).
_SIZES = st.sampled_from([0, 1, 63, 64, 65, 4095, 4096, 4097, 70_000])
_NAMES = st.text("abcXYZ019 \x01", min_size=1, max_size=31)


def _storage(depth: int) -> st.SearchStrategy[tuple[Entry, ...]]:
    stream = st.builds(
        lambda name, size: Entry(name=name, content=bytes(n % 251 for n in range(size))),
        _NAMES,
        _SIZES,
    )
    entry = stream
    if depth:
        entry |= st.builds(
            lambda name, children, number: Entry(
                name=name, children=children, class_id=uuid.UUID(int=number), state=number % 99
            ),
            _NAMES,
            _storage(depth - 1),
            st.integers(0, 2**128 - 1),
        )
    return st.lists(entry, max_size=6, unique_by=lambda entry: entry.name.upper()).map(tuple)


def _described(entry: Entry) -> object:
    children = sorted(entry.children, key=lambda child: child.name)
    return (
        *(entry.name, entry.content, entry.class_id, entry.state, entry.created),
        [_described(child) for child in children],
    )


class CompoundFiles(unittest.TestCase):
    @given(_storage(2))
    def test_compound_files_are_read_as_they_were_written(
        self, children: tuple[Entry, ...]
    ) -> None:
        root = Entry(name="Root Entry", children=children, class_id=uuid.UUID(int=7))
        content = write_compound(root)
        self.assertEqual(len(content) % 512, 0)
        self.assertEqual(_described(read_compound(content)), _described(root))
        with olefile.OleFileIO(io.BytesIO(content), raise_defects=olefile.DEFECT_POTENTIAL) as file:
            self.assertEqual(file.parsing_issues, [])

    def test_compound_files_longer_than_the_header_can_index_are_read(self) -> None:
        """109 sectors of the table fit into the header: 7,143,424 bytes ([MS-CFB] 2.5)."""
        content = bytes(range(256)) * 70_000
        with olefile.OleFileIO(io.BytesIO(compound_file({"Long": content}))) as file:
            self.assertEqual(file.openstream("Long").read(), content)

    def test_a_file_of_another_kind_is_an_error(self) -> None:
        sound = compound_file({"Package": b"x" * 5000})
        for content in (b"", sound[:8], sound[:600], b"PK\x03\x04"):
            with self.subTest(length=len(content)), self.assertRaises(UnreadableFileError):
                read_compound(content)
            self.assertIsNone(file_inside(content))


class FilesInside(unittest.TestCase):
    def test_files_inside_as_programs_keep_them(self) -> None:
        for name in ("CONTENTS", "Package"):
            with self.subTest(name=name):
                wrapped = compound_file({"\x01Ole": b"o" * 20, name: b"%PDF-1.7 heavy" * 999})
                self.assertEqual(file_inside(wrapped), b"%PDF-1.7 heavy" * 999)
                lighter = with_file_inside(wrapped, b"%PDF-1.7 light")
                self.assertEqual(file_inside(lighter), b"%PDF-1.7 light")
                self.assertLess(len(lighter), len(wrapped))
                with olefile.OleFileIO(io.BytesIO(lighter)) as file:
                    self.assertEqual(file.openstream("\x01Ole").read(), b"o" * 20)

    def test_packed_with_their_names(self) -> None:
        def packed(content: bytes) -> bytes:
            told = b"\x02\0notes.pdf\0C:\\notes.pdf\0\0\0\3\0"
            told += (
                struct.pack("<I", 9) + b"C:\\a.pdf\0" + struct.pack("<I", len(content)) + content
            )
            told += b"after"
            return struct.pack("<I", len(told)) + told

        wrapped = compound_file({"\x01Ole10Native": packed(b"heavy" * 1000)})
        self.assertEqual(file_inside(wrapped), b"heavy" * 1000)
        with olefile.OleFileIO(io.BytesIO(with_file_inside(wrapped, b"light"))) as file:
            self.assertEqual(file.openstream("\x01Ole10Native").read(), packed(b"light"))

    def test_lengths_that_lie_leave_an_object_as_it_is(self) -> None:
        for stream in (
            b"",
            b"\x10\0\0\0",
            struct.pack("<IH", 200, 2) + b"a\0b\0" + b"\xff" * 8,
            struct.pack("<IH", 24, 2) + b"a\0b\0" + bytes(4) + struct.pack("<II", 0, 2**31),
        ):
            with self.subTest(stream=stream):
                self.assertIsNone(file_inside(compound_file({"\x01Ole10Native": stream})))
        plain = compound_file({"Contents": b"x"})
        self.assertIsNone(file_inside(plain))
        with self.assertRaises(ValueError):
            with_file_inside(plain, b"y")

    def test_a_folder_within_itself_is_damage(self) -> None:
        """[MS-CFB] 2.6.1: the number of an entry's child stands at 76, that of the root is 0."""
        content = bytearray(compound_file({"Storage/Inner": b"x"}))
        storage = content.find("Storage".encode("utf-16-le"))
        struct.pack_into("<I", content, storage + 76, 0)
        with self.assertRaisesRegex(UnreadableFileError, "within itself"):
            read_compound(bytes(content))
