"""IPP messages and PWG raster; examples from RFC 8010, appendix A, and PWG 5102.4."""

import io
import struct
import unittest
from datetime import UTC, datetime
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from printers import BadMessageError, BadRasterError, read_message, read_pwg_raster, write_message
from printers.ipp import Attribute, IppMessage, Tag

# RFC 8010, A.1: Print-Job request, with its document left out.
_PRINT_JOB = (
    bytes.fromhex("0101 0002 00000001 01")
    + b"\x47\x00\x12attributes-charset\x00\x05utf-8"
    + b"\x48\x00\x1battributes-natural-language\x00\x05en-us"
    + b"\x45\x00\x0bprinter-uri\x00\x2cipp://printer.example.com/ipp/print/pinetree"
    + b"\x42\x00\x08job-name\x00\x06foobar"
    + b"\x22\x00\x16ipp-attribute-fidelity\x00\x01\x01"
    + b"\x02"
    + b"\x21\x00\x06copies\x00\x04\x00\x00\x00\x14"
    + b"\x44\x00\x05sides\x00\x13two-sided-long-edge"
    + b"\x03"
)
_WORDS = st.text(st.characters(codec="utf-8"), max_size=40)
_VALUES = st.one_of(
    st.tuples(st.just(Tag.INTEGER), st.integers(-(2**31), 2**31 - 1)),
    st.tuples(st.just(Tag.BOOLEAN), st.booleans()),
    st.tuples(st.sampled_from([Tag.TEXT, Tag.KEYWORD, Tag.URI]), _WORDS),
    st.tuples(st.just(Tag.RANGE), st.tuples(st.integers(0, 99), st.integers(0, 99))),
    st.tuples(st.just(Tag.RESOLUTION), st.tuples(st.integers(1, 2400), st.integers(1, 2400))),
)


class Messages(unittest.TestCase):
    def test_messages_of_the_standards_example_are_read(self) -> None:
        stream = io.BytesIO(_PRINT_JOB + b"%PDF-1.7")
        message = read_message(stream)
        self.assertEqual((message.code, message.request_id, message.version), (2, 1, (1, 1)))
        operation = message.group(Tag.OPERATION)
        self.assertEqual(operation["job-name"].values, ("foobar",))
        self.assertEqual(operation["ipp-attribute-fidelity"].values, (True,))
        self.assertEqual(message.group(Tag.JOB)["copies"].values, (20,))
        self.assertEqual(stream.read(), b"%PDF-1.7")
        self.assertEqual(write_message(message), _PRINT_JOB)

    @given(st.dictionaries(st.text("abc-", min_size=1, max_size=9), _VALUES, max_size=6))
    def test_messages_come_back_as_they_were_written(
        self, told: dict[str, tuple[int, Any]]
    ) -> None:
        flat = {name: Attribute(tag, (value, value)) for name, (tag, value) in told.items()}
        inside = Attribute(Tag.BEGIN_COLLECTION, ({**flat, "inner": Attribute(Tag.ENUM, (3,))},))
        message = IppMessage(0x0B, 7, (2, 0), [(Tag.PRINTER, {**flat, "media-col": inside})])
        again = read_message(io.BytesIO(write_message(message)))
        self.assertEqual(again, message)

    def test_dates_are_encoded_as_in_the_standard(self) -> None:
        moment = datetime(2026, 11, 29, 12, 30, 5, tzinfo=UTC)
        message = IppMessage(0, 1, groups=[(Tag.JOB, {"at": Attribute(Tag.DATE_TIME, (moment,))})])
        self.assertIn(
            struct.pack(">H9B", 2026, 11, 29, 12, 30, 5, 0, 43, 0, 0), write_message(message)
        )

    @given(st.integers(0, len(_PRINT_JOB) - 1), st.binary(max_size=6))
    def test_malformed_messages_are_reported_and_change_nothing(self, cut: int, odd: bytes) -> None:
        try:
            read_message(io.BytesIO(_PRINT_JOB[:cut] + odd))
        except BadMessageError:
            return


def raster_of(pixels: np.ndarray, *, bits: int = 8, space: int = 18) -> bytes:
    """One page, each line literally, equal lines told once (PWG 5102.4, 4.3 and 4.4)."""
    height, width = pixels.shape[:2]
    depth = bits * (pixels.shape[2] if pixels.ndim == 3 else 1)
    lines = np.packbits(pixels, axis=1) if bits == 1 else pixels.reshape(height, -1)
    head = bytearray(1796)
    struct.pack_into(">II", head, 276, 300, 300)
    struct.pack_into(">II", head, 372, width, height)
    struct.pack_into(">III", head, 384, bits, depth, lines.shape[1])
    struct.pack_into(">I", head, 400, space)
    body, unit, row = bytearray(), max(1, depth // 8), 0
    while row < height:
        repeats = 1
        while (
            row + repeats < height and (lines[row + repeats] == lines[row]).all() and repeats < 256
        ):
            repeats += 1
        body.append(repeats - 1)
        line = lines[row].tobytes()
        for start in range(0, len(line), 128 * unit):
            piece = line[start : start + 128 * unit]
            count = len(piece) // unit
            body += bytes([257 - count if count > 1 else 0]) + piece
        row += repeats
    return b"RaS2" + bytes(head) + bytes(body)


class Raster(unittest.TestCase):
    def test_pages_of_every_kind_are_read(self) -> None:
        random = np.random.default_rng(2)
        grey = random.integers(0, 256, (40, 300), np.uint8)
        grey[5:20] = grey[4]
        colour = random.integers(0, 256, (9, 200, 3), np.uint8)
        ink = random.integers(0, 2, (12, 37), np.uint8)
        (page,) = read_pwg_raster(io.BytesIO(raster_of(grey)))
        np.testing.assert_array_equal(page.pixels, grey)
        self.assertEqual(page.ppi, (300, 300))
        (page,) = read_pwg_raster(io.BytesIO(raster_of(colour, space=19)))
        np.testing.assert_array_equal(page.pixels, colour)
        (page,) = read_pwg_raster(io.BytesIO(raster_of(ink, bits=1, space=3)))
        np.testing.assert_array_equal(page.pixels, 255 * (1 - ink))

    def test_runs_and_blank_ends_of_lines_are_laid_out(self) -> None:
        """A run of 3, one literal of 2, and 128 for the rest of the line in white (4.4)."""
        whole = raster_of(np.zeros((1, 8), np.uint8))
        coded = whole[: 4 + 1796] + bytes([0, 2, 7, 255, 1, 2, 128])
        (page,) = read_pwg_raster(io.BytesIO(coded))
        self.assertEqual(page.pixels.tolist(), [[7, 7, 7, 1, 2, 255, 255, 255]])

    def test_raster_that_is_damaged_is_refused(self) -> None:
        whole = raster_of(np.zeros((4, 8), np.uint8))
        for bad in (b"RaS3", whole[:900], whole[:-1], whole[:4] + bytes(1796)):
            with self.assertRaises(BadRasterError):
                list(read_pwg_raster(io.BytesIO(bad)))
