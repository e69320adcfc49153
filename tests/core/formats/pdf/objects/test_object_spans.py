"""The bytes of every object, found by reading the file front to back."""

import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from lighten.formats.pdf.objects.object_spans import FileSpans, read_spans, references_in
from tests.builders import FolderCase


class Spans(FolderCase):
    def read(self, content: bytes, length: int | None = None) -> FileSpans:
        path = Path(self.folder / "file")
        path.write_bytes(content)
        return read_spans(path, lambda _object_id: length)

    def test_run_from_the_number_to_endobj(self) -> None:
        body = b"12 0 obj\n<< /Kids [3 0 R 4 0 R] >>\nendobj"
        spans = self.read(b"%PDF-1.7\n" + body + b"\nxref\n")
        self.assertEqual(spans.size, {(12, 0): len(body)})
        self.assertEqual(spans.references[12, 0], {(3, 0), (4, 0)})

    def test_spans_of_streams_end_after_their_data_whatever_it_holds(self) -> None:
        inside = b"1 0 obj endobj endstream 7 0 obj"
        told = b"5 0 obj << /Length %d >> stream\r\n%s\nendstream\nendobj" % (len(inside), inside)
        self.assertEqual(self.read(told).size, {(5, 0): len(told)})
        elsewhere = b"5 0 obj << /Length 9 0 R >> stream\n%s\nendstream endobj" % inside
        spans = self.read(elsewhere, length=len(inside))
        self.assertEqual(spans.size, {(5, 0): len(elsewhere)})

    def test_spans_of_streams_with_a_wrong_length_end_at_endstream(self) -> None:
        content = b"5 0 obj << /Length 4000 >> stream\nq Q\nendstream endobj\n6 0 obj null endobj"
        self.assertEqual(set(self.read(content).size), {(5, 0), (6, 0)})

    def test_spans_of_two_the_later_counts_and_the_earlier_is_stale(self) -> None:
        old, new = b"5 0 obj (old and longer) endobj", b"5 0 obj (new) endobj"
        spans = self.read(old + b"\n" + new)
        self.assertEqual((spans.size, spans.stale_bytes), ({(5, 0): len(new)}, len(old)))

    def test_spans_of_a_file_cut_short_are_those_that_are_whole(self) -> None:
        spans = self.read(b"1 0 obj null endobj\n2 0 obj << /Length 9 >> stream\nabc")
        self.assertEqual(spans.size[1, 0], 19)
        self.assertLessEqual(sum(spans.size.values()), 60)

    @given(st.binary(min_size=1, max_size=400))
    def test_spans_of_anything_never_exceed_the_file(self, content: bytes) -> None:
        spans = self.read(b"3 0 obj" + content + b"endobj 4 0 obj" + content)
        self.assertLessEqual(sum(spans.size.values()) + spans.stale_bytes, 2 * len(content) + 21)


class References(unittest.TestCase):
    def test_references_are_found_across_white_space(self) -> None:
        found = references_in(b"[1 0 R 22\n0\tR] /RGB 3 0 RG (4 0 X)")
        self.assertEqual(found, {(1, 0), (22, 0)})
