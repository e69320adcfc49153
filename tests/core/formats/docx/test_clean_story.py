"""Cleaned XML of text documents: any words in any looks stay the same, letter by letter."""

import unittest
from collections.abc import Sequence
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from lighten.formats.docx.clean_story import (
    clean_story,
    without_drawing_copies,
    without_traces,
)
from lighten.formats.docx.definitions import Definitions, drop_definitions
from lighten.model.extras import SAFE_EXTRAS
from lighten.model.kinds import ExtraKind

W = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
_SPACE = "{http://www.w3.org/XML/1998/namespace}space"
_LETTERS = st.text(st.sampled_from("ab ä\u00a0—9"), max_size=6)
_LOOKS = st.sampled_from(("", "<w:b/>", "<w:i/>", '<w:sz w:val="20"/>'))
_MARKS = st.sampled_from(
    ("", "<w:proofErr w:type='spellStart'/>", "<w:bookmarkStart w:id='1' w:name='b'/>")
)
_RUNS = st.lists(st.tuples(_LETTERS, _LOOKS, st.booleans(), _MARKS), max_size=8)


def paragraph(runs: Sequence[tuple[str, str, bool, str]]) -> bytes:
    inner = ""
    for number, (text, look, keeps_space, mark) in enumerate(runs):
        space = ' xml:space="preserve"' if keeps_space else ""
        properties = f"<w:rPr>{look}</w:rPr>" if look or number % 2 else ""
        inner += f'{mark}<w:r w:rsidR="00{number:06}">{properties}<w:t{space}>{text}</w:t></w:r>'
    return f'<w:body xmlns:w="{W}"><w:p>{inner}</w:p></w:body>'.encode()


def letters(content: bytes) -> list[tuple[str, bytes]]:
    """Each letter as a reader shows it, with the looks of its run."""
    shown = []
    for run in etree.fromstring(content).iter(f"{{{W}}}r"):
        properties = run.find(f"{{{W}}}rPr")
        look = b"" if properties is None else b"".join(map(_plain, properties))
        for text in run.iter(f"{{{W}}}t"):
            told = text.text or ""
            if text.get(_SPACE) != "preserve":
                told = told.strip(" \t\r\n")
            shown += [(letter, look) for letter in told]
    return shown


def _plain(element: Any) -> bytes:
    return bytes(etree.tostring(element, method="c14n", with_tail=False))


class Runs(unittest.TestCase):
    @given(_RUNS)
    def test_runs_keep_every_letter_and_its_looks(
        self, runs: list[tuple[str, str, bool, str]]
    ) -> None:
        content = paragraph(runs)
        cleaned = clean_story(content, dropped=SAFE_EXTRAS, keeps_paragraph_ids=False)
        self.assertEqual(letters(cleaned), letters(content))
        self.assertLessEqual(
            len(list(etree.fromstring(cleaned).iter(f"{{{W}}}r"))),
            len(list(etree.fromstring(content).iter(f"{{{W}}}r"))),
        )
        marks = [content.count(b"bookmarkStart"), cleaned.count(b"bookmarkStart")]
        self.assertEqual(marks[0], marks[1])
        self.assertNotIn(b"rsid", cleaned)
        self.assertNotIn(b"proofErr", cleaned)

    @given(_RUNS)
    def test_runs_are_clean_after_once(self, runs: list[tuple[str, str, bool, str]]) -> None:
        once = clean_story(paragraph(runs), dropped=SAFE_EXTRAS, keeps_paragraph_ids=False)
        again = clean_story(once, dropped=SAFE_EXTRAS, keeps_paragraph_ids=False)
        self.assertEqual(once, again)

    @given(_RUNS)
    def test_runs_keep_editing_traces_unless_asked_to_drop_them(
        self, runs: list[tuple[str, str, bool, str]]
    ) -> None:
        content = paragraph(runs)
        cleaned = clean_story(content, dropped=(), keeps_paragraph_ids=True)
        self.assertEqual(cleaned.count(b"rsidR"), content.count(b"rsidR"))
        self.assertEqual(letters(cleaned), letters(content))


class Extras(unittest.TestCase):
    def test_extras_weigh_what_removing_them_saves(self) -> None:
        content = paragraph([("Nets", "", True, "<w:proofErr w:type='x'/>")] * 3)
        self.assertNotIn(b"rsid", without_traces(content))
        self.assertNotIn(b"proofErr", without_traces(content))
        self.assertEqual(letters(without_traces(content)), letters(content))

    def test_second_copies_of_drawings_go_where_only_old_readers_look(self) -> None:
        shape = '<v:shape xmlns:v="urn:v" o:gfxdata="UEsDBBQA" id="{}"/>'
        content = (
            f'<w:body xmlns:w="{W}" xmlns:o="urn:schemas-microsoft-com:office:office"'
            ' xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006">'
            f"{shape.format('kept')}<mc:AlternateContent><mc:Fallback>{shape.format('old')}"
            "</mc:Fallback></mc:AlternateContent></w:body>"
        ).encode()
        dropped = {ExtraKind.DRAWING_COPIES}
        for left in (
            clean_story(content, dropped=dropped, keeps_paragraph_ids=True),
            without_drawing_copies(content),
        ):
            self.assertEqual(left.count(b"gfxdata"), 1)
            self.assertIn(b'id="old"', left)

    def test_paragraphs_that_others_point_at_keep_their_numbers(self) -> None:
        word_2010 = "http://schemas.microsoft.com/office/word/2010/wordml"
        content = (
            f'<w:body xmlns:w="{W}" xmlns:w14="{word_2010}"><w:p w14:paraId="00AB12CD"/></w:body>'
        ).encode()
        for keeps_ids in (True, False):
            cleaned = clean_story(
                content, dropped={ExtraKind.EDITING_TRACES}, keeps_paragraph_ids=keeps_ids
            )
            self.assertEqual(b"paraId=" in cleaned, keeps_ids)

    def test_definitions_go_one_by_one(self) -> None:
        styles = (
            f'<w:styles xmlns:w="{W}"><w:style w:styleId="A"/><w:style w:styleId="B"/></w:styles>'
        ).encode()
        left = drop_definitions(styles, Definitions(styles=frozenset({"A"})))
        self.assertNotIn(b'"A"', left)
        self.assertIn(b'"B"', left)
