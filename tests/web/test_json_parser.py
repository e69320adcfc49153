"""JSON that comes in, against the standard library's reading of what is sound."""

import io
import json
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from rest_framework.exceptions import ParseError

from web.json_parser import CarefulJSONParser

_SIMPLE = (
    *(st.none(), st.booleans(), st.integers(), st.text()),
    st.floats(allow_nan=False, allow_infinity=False),
)
_VALUES = st.recursive(
    st.one_of(*_SIMPLE),
    lambda inner: st.one_of(
        st.lists(inner, max_size=4), st.dictionaries(st.text(max_size=9), inner, max_size=4)
    ),
    max_leaves=12,
)


def parsed(text: bytes) -> object:
    return CarefulJSONParser().parse(io.BytesIO(text), "application/json", {"encoding": "utf-8"})


class Parsed(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(_VALUES)
    def test_valid_json_is_read_as_it_was_written(self, value: object) -> None:
        self.assertEqual(parsed(json.dumps(value).encode()), value)

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=60))
    def test_any_input_is_read_or_refused(self, content: bytes) -> None:
        try:
            parsed(content)
        except ParseError:
            return
        json.loads(content)

    def test_numbers_that_are_none_are_refused(self) -> None:
        """RFC 8259, 6: neither infinities nor what is no number."""
        for text in (b"NaN", b"[Infinity]", b'{"a": -Infinity}'):
            with self.assertRaises(ParseError):
                parsed(text)

    def test_half_a_character_and_a_deep_nest_are_refused_with_their_place(self) -> None:
        with self.assertRaisesRegex(ParseError, "name: holds half"):
            parsed(b'{"name": "\\ud800"}')
        with self.assertRaises(ParseError):
            parsed(b"1\xc2")
        with self.assertRaisesRegex(ParseError, "nested"):
            parsed(b"[" * 40 + b"]" * 40)
        with self.assertRaises(ParseError):
            parsed(b"[" * 100_000)
