"""JBIG2, bit for bit in three decoders that had no part in it: pdfium, poppler and jbig2dec."""

import shutil
import subprocess

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from lighten.codecs.bitonal import (
    JBIG2,
    BitonalParameters,
    decode_bitonal,
    encode_group4,
    pdf_of_one_picture,
)
from lighten.codecs.jbig2 import encode_jbig2
from lighten.codecs.jbig2.letter_groups import group_letters
from lighten.codecs.jbig2.lettered import encode_letters
from lighten.codecs.jbig2.letters import find_letters
from lighten.codecs.jbig2.operations import Operations, code
from lighten.codecs.jbig2.pixels import framed
from lighten.codecs.jbig2.segments import (
    bitmap_segment,
    dictionary_segment,
    page_segment,
    text_segment,
)
from tests.builders import FolderCase, print_of

Black = NDArray[np.bool_]


def by_pdfium(data: bytes, shape: tuple[int, int]) -> Black:
    levels = decode_bitonal(data, JBIG2, BitonalParameters(), width_px=shape[1], height_px=shape[0])
    return levels == 0


def kinds_of(data: bytes) -> list[int]:
    """The types of the segments (7.2)."""
    kinds = []
    at = 0
    while at < len(data):
        kinds.append(data[at + 4] & 63)
        at += 6 + (data[at + 5] >> 5) + 1
        at += 4 + int.from_bytes(data[at : at + 4], "big")
    return kinds


class ArithmeticCoder(FolderCase):
    def test_the_worked_example(self) -> None:
        """ITU-T T.88, H.2: 256 decisions in one context, and what they are coded as."""
        decisions = bytes.fromhex(
            "00020051000000C00352872AAAAAAAAA82C02000FCD79EF6BF7FED904F46A3BF"
        )
        coded = bytes.fromhex("84C73BFCE1A1430402200000410DBB86F4317FFF88FF37471ADB6ADFFFAC")
        operations = Operations()
        for bit in np.unpackbits(np.frombuffer(decisions, np.uint8)).tolist():
            # A number of one bit has one context.
            operations.symbol(bit)
        self.assertEqual(code(operations, np.zeros(1, np.uint8), symbol_bits=1), coded)


class AnyBitmap(FolderCase):
    @given(
        st.integers(1, 70),
        st.integers(1, 70),
        st.sampled_from([0.0, 0.02, 0.3, 0.97, 1.0]),
        st.integers(0, 2**20),
    )
    def test_any_bitmap_comes_out_as_it_went_in(
        self, width: int, height: int, ink: float, seed: int
    ) -> None:
        black = np.random.default_rng(seed).random((height, width)) < ink
        np.testing.assert_array_equal(by_pdfium(encode_jbig2(black), black.shape), black)

    def test_any_bitmap_by_every_template(self) -> None:
        """Figures 3 to 6 of T.88, and the rows that are like those above (6.2.5.7)."""
        black = print_of("Whimbrel 47")[:61, :333]
        black[20:40] = black[20]
        pixels, bitmap = framed(black)
        operations = Operations()
        operations.bitmap(bitmap, skips=True)
        size = (black.shape[1], black.shape[0])
        for template in range(4):
            with self.subTest(template=template):
                coded = code(operations, pixels, template=template)
                data = page_segment(0, size, has_refinements=False)
                data += bitmap_segment(1, size, template, coded)
                np.testing.assert_array_equal(by_pdfium(data, black.shape), black)


class StampedPages(FolderCase):
    """Shapes of any size stamped all over a page, to its very edges, and worn."""

    @given(
        st.lists(
            st.tuples(st.integers(4, 62), st.integers(4, 62)), min_size=1, max_size=4, unique=True
        ),
        st.sampled_from([0.0, 0.01, 0.1]),
        st.integers(0, 2**20),
    )
    @settings(max_examples=40)
    def test_stamped_pages_come_out_as_they_went_in(
        self, sizes: list[tuple[int, int]], wear: float, seed: int
    ) -> None:
        rng = np.random.default_rng(seed)
        black = np.zeros((260, 333), bool)
        for width, height in sizes:
            shape = rng.random((height, width)) < 0.7
            for _ in range(12):
                top = rng.integers(0, black.shape[0] - height, endpoint=True)
                left = rng.integers(0, black.shape[1] - width, endpoint=True)
                worn = shape ^ (rng.random(shape.shape) < wear)
                black[top : top + height, left : left + width] |= worn
        letters = encode_letters(1, black)
        if letters is not None:
            segments, rest = letters
            size = (black.shape[1], black.shape[0])
            # What letters do not take is left, and nothing is in both.
            text = page_segment(0, size, has_refinements=True) + segments
            np.testing.assert_array_equal(by_pdfium(text, black.shape), black & ~rest)
        np.testing.assert_array_equal(by_pdfium(encode_jbig2(black), black.shape), black)

    def test_stamped_pages_with_gaps_between_are_all_letters(self) -> None:
        shape = np.random.default_rng(5).random((20, 14)) < 0.8
        black = np.zeros((500, 500), bool)
        for number in range(100):
            top, left = 30 * (number // 12) + 3, 40 * (number % 12) + 5
            black[top : top + 20, left : left + 14] = shape
        letters = encode_letters(1, black)
        assert letters is not None
        segments, rest = letters
        self.assertLess(rest.sum(), 0.02 * black.sum())
        # A hundred equal letters cost little more than one and their places.
        self.assertLess(len(segments), 450)

    def test_dots_of_a_halftone_are_not_letters(self) -> None:
        dot = np.zeros((5, 5), bool)
        dot[:4, :4] = True
        black = np.tile(dot, (210, 210))
        self.assertEqual(len(find_letters(black)), 44_100)
        self.assertIsNone(encode_letters(1, black))
        np.testing.assert_array_equal(by_pdfium(encode_jbig2(black), black.shape), black)


class Segments(FolderCase):
    """The fields of ITU-T T.88, clause 7, byte by byte."""

    def test_page_segment_matches_the_worked_example(self) -> None:
        """7.2 and 7.4.8."""
        self.assertEqual(
            page_segment(0, (600, 400), has_refinements=True).hex(),
            "000000003000010000001300000258000001900000000000000000030000",
        )

    def test_bitmap_segment_matches_the_worked_example(self) -> None:
        """7.4.6: place and size, template 0 with rows told alike, four adaptive pixels."""
        self.assertEqual(
            bitmap_segment(1, (8, 2), 0, b"abc").hex(),
            "00000001"
            "27"
            "00"
            "01"
            "0000001d"
            "00000008"
            "00000002"
            "00000000"
            "00000000"
            "00"
            "08"
            "03ff"
            "fdff"
            "02fe"
            "fefe" + b"abc".hex(),
        )

    def test_text_and_its_dictionary(self) -> None:
        """7.4.2 and 7.4.3: one refers to the other."""
        dictionary = dictionary_segment(1, 0, 7, b"d")
        self.assertEqual(
            dictionary.hex(),
            "0000000100000100000013000003fffdff02fefefe0000000700000007" + b"d".hex(),
        )
        text = text_segment(2, 1, (8, 2), b"t", 9)
        self.assertEqual(
            text.hex(),
            "0000000207200101000000180000000800000002000000000000000000800200000009" + b"t".hex(),
        )


class Letters(FolderCase):
    def others(self, data: bytes, shape: tuple[int, int]) -> dict[str, Black]:
        (self.folder / "a.jb2").write_bytes(data)
        pdf = pdf_of_one_picture(data, JBIG2, BitonalParameters(), *reversed(shape))
        (self.folder / "a.pdf").write_bytes(pdf)
        seen = {}
        for command, name in (
            (["jbig2dec", "-e", "-o", "a.pbm", "a.jb2"], "a.pbm"),
            (["pdfimages", "-png", "a.pdf", "p"], "p-000.png"),
        ):
            program = command[0]
            if program == "jbig2dec" and not shutil.which(program):
                continue  # few machines have it
            subprocess.run(command, cwd=self.folder, check=True, capture_output=True)
            with Image.open(self.folder / name) as image:
                seen[program] = np.asarray(image.convert("L")) == 0
        return seen

    def test_letters_coded_by_refinement_decode_unchanged(self) -> None:
        black = print_of("Lapwing 8 ringed 6 at 08:36")
        data = encode_jbig2(black)
        # A page, a dictionary, the text, and what is left of the picture (7.3).
        self.assertEqual(kinds_of(data)[:3], [48, 0, 7])
        self.assertLess(len(data), 0.6 * len(encode_group4(black)))
        np.testing.assert_array_equal(by_pdfium(data, black.shape), black)
        for program, seen in self.others(data, black.shape).items():
            np.testing.assert_array_equal(seen, black, program)

    def test_no_digit_takes_the_place_of_another(self) -> None:
        """The worst fault that the trade has known of this coding (common knowledge, no source)."""
        black = print_of("8888888888888888888888888", wear=0)
        black[90:130] = print_of("8888888868888888888888888", wear=0)[90:130]
        data = encode_jbig2(black)
        self.assertIn(7, kinds_of(data))
        np.testing.assert_array_equal(by_pdfium(data, black.shape), black)

    def test_the_same_picture_gives_the_same_bytes(self) -> None:
        black = print_of("Lapwing")
        self.assertEqual(encode_jbig2(black), encode_jbig2(black.copy()))

    def test_ink_hangs_together_over_corners(self) -> None:
        black = np.zeros((40, 40), bool)
        for step in range(12):
            black[5 + step, 5 + step] = True  # a stair of corners
        black[30:34, 20:30] = True
        black[2, 2] = True  # a speck
        letters = find_letters(black)
        self.assertEqual(
            sorted(zip(letters.left.tolist(), letters.top.tolist(), strict=True)),
            [(5, 5), (20, 30)],
        )
        self.assertEqual(sorted(letters.ink.tolist()), [12, 40])

    def test_shapes_too_wide_for_a_letter_are_not_letters(self) -> None:
        black = np.zeros((200, 200), bool)
        black[10, 5:105] = True
        black[20:120, 50] = True
        self.assertEqual(len(find_letters(black)), 0)
        self.assertEqual(len(find_letters(np.zeros((7, 9), bool))), 0)

    def test_groups_hold_what_is_alike(self) -> None:
        letters = find_letters(print_of("nnnnnooooo", wear=0))
        groups = group_letters(letters)
        self.assertEqual(len(set(groups.of_letter.tolist())), 2)
        self.assertTrue(groups.are_common(letters.shapes).all())
