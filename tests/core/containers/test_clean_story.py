"""Cleaned XML of OpenDocument texts: any words in any looks stay the same, letter by letter."""

import unittest
from collections.abc import Sequence
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from lighten.containers.odf.clean_story import clean_story
from lighten.model.extras import SAFE_EXTRAS

_NAMES = (
    *(("office", "office"), ("style", "style"), ("text", "text")),
    ("fo", "xsl-fo-compatible"),
)
_SPACES = " ".join(
    f'xmlns:{prefix}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for prefix, name in _NAMES
)
_SPACES += ' xmlns:officeooo="http://openoffice.org/2009/office"'
TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
STYLE = "{urn:oasis:names:tc:opendocument:xmlns:style:1.0}"
# Looks by style; several styles have the same, and some say nothing but who wrote when.
_LOOKS = {
    "T1": 'fo:font-weight="bold"',
    "T2": 'fo:font-weight="bold"',
    "T3": 'fo:font-style="italic"',
    "T4": "",
    "T5": "",
}
_LETTERS = st.text(st.sampled_from("ab ä—9"), max_size=5)
_PIECE = st.tuples(st.sampled_from(("", *_LOOKS)), _LETTERS, st.booleans(), _LETTERS)
_PIECES = st.lists(_PIECE, max_size=8)


def document(pieces: Sequence[tuple[str, str, bool, str]]) -> bytes:
    styles = "".join(
        f'<style:style style:name="{name}" style:family="text"><style:text-properties {look}'
        f' officeooo:rsid="0000{name}"/></style:style>'
        for name, look in _LOOKS.items()
    )
    inner = ""
    for style, text, has_break, tail in pieces:
        content = text + ("<text:line-break/>" if has_break else "")
        inner += (
            f'<text:span text:style-name="{style}">{content}</text:span>{tail}'
            if style
            else content
        )
    return (
        f"<office:d {_SPACES}><office:automatic-styles>{styles}</office:automatic-styles>"
        f"<office:body><text:p>{inner}</text:p></office:body></office:d>"
    ).encode()


def letters(content: bytes) -> list[tuple[str, frozenset[str]]]:
    """Each letter or break, with the looks of all that is around it."""
    root = etree.fromstring(content)
    looks = {
        style.get(f"{STYLE}name"): frozenset(
            f"{key.rpartition('}')[2]}={value}"
            for properties in style
            for key, value in properties.attrib.items()
            if not key.endswith("rsid")
        )
        for style in root.iter(f"{STYLE}style")
    }
    shown: list[tuple[str, frozenset[str]]] = []

    def walk(element: Any, around: frozenset[str]) -> None:
        own = around | looks.get(element.get(f"{TEXT}style-name"), frozenset())
        if element.tag == f"{TEXT}line-break":
            shown.append(("\n", own))
        shown.extend((letter, own) for letter in element.text or "")
        for child in element:
            walk(child, own)
            shown.extend((letter, own) for letter in child.tail or "")

    walk(next(root.iter(f"{TEXT}p")), frozenset())
    return shown


class Spans(unittest.TestCase):
    @given(_PIECES)
    def test_spans_keep_every_letter_and_its_looks(
        self, pieces: list[tuple[str, str, bool, str]]
    ) -> None:
        content = document(pieces)
        cleaned = clean_story(content, dropped=SAFE_EXTRAS)
        self.assertEqual(letters(cleaned), letters(content))
        self.assertNotIn(b"rsid", cleaned)

    @given(_PIECES)
    def test_spans_are_clean_after_once(self, pieces: list[tuple[str, str, bool, str]]) -> None:
        once = clean_story(document(pieces), dropped=SAFE_EXTRAS)
        self.assertEqual(clean_story(once, dropped=SAFE_EXTRAS), once)

    @given(_PIECES)
    def test_spans_keep_empty_ones_which_say_how_a_paragraph_ends(
        self, pieces: list[tuple[str, str, bool, str]]
    ) -> None:
        content = document([*pieces, ("T3", "", False, "")])
        cleaned = clean_story(content, dropped=SAFE_EXTRAS)
        last = list(etree.fromstring(cleaned).iter(f"{TEXT}span"))[-1]
        self.assertEqual((last.text, len(last)), (None, 0))
