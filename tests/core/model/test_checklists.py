"""Checklists of portals and archives. Rules for names are common practice, no source."""

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from lighten.model.checklists import (
    Checklist,
    NamedLimit,
    NameRule,
    check_file,
    checklist_from_json,
    checklist_to_json,
    limit_from_json,
    limit_to_json,
)
from lighten.model.errors import BadPresetError
from lighten.model.limits import Carrier, Limit

STRICT = NameRule(no_spaces=True, ascii_only=True, most_letters=24)


class Names(unittest.TestCase):
    def test_names_are_corrected_with_the_fewest_changes(self) -> None:
        cases = {
            "Jahresbericht Moor 2026.pdf": "Jahresbericht-Moor-2.pdf",
            "Übersicht Größe.pdf": "Ubersicht-Grosse.pdf",
            "naïve café, final.docx": "naive-cafe-final.docx",
            "塔.pdf": "file.pdf",
            "plain.pdf": "plain.pdf",
        }
        for name, ruled in cases.items():
            with self.subTest(name):
                self.assertEqual(STRICT.apply(name), ruled)

    @given(
        st.text(st.characters(codec="utf-8", exclude_characters="/\\\0"), min_size=1, max_size=90),
        st.sampled_from([".pdf", ".docx", "", ".tif"]),
        st.booleans(),
        st.booleans(),
        st.one_of(st.none(), st.integers(12, 60)),
    )
    def test_corrected_names_meet_the_rule(
        self, stem: str, ending: str, no_spaces: bool, ascii_only: bool, most: int | None
    ) -> None:
        rule = NameRule(no_spaces=no_spaces, ascii_only=ascii_only, most_letters=most)
        ruled = rule.apply(f"{stem}{ending}")
        self.assertTrue(ruled)
        self.assertEqual(rule.apply(ruled), ruled)
        if no_spaces:
            self.assertEqual(ruled.split(), [ruled])
        if ascii_only:
            self.assertTrue(ruled.isascii() and ruled.isprintable())
        if most is not None:
            self.assertLessEqual(len(ruled), most)


class Checks(unittest.TestCase):
    def test_checks_say_what_is_asked_and_what_was_found(self) -> None:
        asked = Checklist(endings=(".pdf",), most_pages=20, needs_pdf_a=True, names=STRICT)
        met = check_file(asked, "report.pdf", pages=20, standard="PDF/A-2b")
        self.assertTrue(all(check.is_met for check in met))
        unmet = check_file(asked, "my report.docx", pages=21, standard="")
        self.assertEqual(
            [(check.text, check.found) for check in unmet],
            [
                ("a file of kind pdf", "docx"),
                ("at most 20 pages", "21 pages"),
                ("PDF/A", "no archive level"),
                ("a name by the rule", "my report.docx"),
            ],
        )

    def test_checks_ask_nothing_by_themselves(self) -> None:
        self.assertEqual(check_file(Checklist(), "a b.xyz", pages=None, standard=""), ())

    def test_pages_are_no_matter_where_there_are_none(self) -> None:
        (check,) = check_file(Checklist(most_pages=2), "a.xlsx", pages=None, standard="")
        self.assertTrue(check.is_met)


class Files(unittest.TestCase):
    def test_files_keep_all_of_a_limit(self) -> None:
        named = NamedLimit(
            title="County archive",
            limit=Limit(size_bytes=9_000_000, carrier=Carrier.MESSAGE),
            checklist=Checklist(endings=(".pdf", ".tif"), most_pages=3, names=STRICT),
        )
        self.assertEqual(limit_from_json(json.loads(json.dumps(limit_to_json(named)))), named)

    def test_files_with_mistakes_name_the_place(self) -> None:
        good = limit_to_json(NamedLimit(title="A", limit=Limit(size_bytes=5)))
        cases = {
            "schema": {**good, "schema": "other"},
            "version": {**good, "version": 9},
            "title": {**good, "title": " "},
            "size_bytes": {**good, "size_bytes": True},
            "carrier": {**good, "carrier": "pigeon"},
            "checklist.most_pages": {**good, "checklist": {"most_pages": "many"}},
            "checklist.odd": {**good, "checklist": {"odd": 1}},
            "checklist": {**good, "checklist": {"endings": ["PDF"]}},
        }
        for place, stored in cases.items():
            with self.subTest(place), self.assertRaisesRegex(BadPresetError, place):
                limit_from_json(stored)

    def test_files_lists_come_back_as_they_were(self) -> None:
        self.assertEqual(checklist_from_json(checklist_to_json(Checklist())), Checklist())
