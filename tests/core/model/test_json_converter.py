"""Frozen values through JSON and back, and what is said of mistakes."""

import json
import unittest
from dataclasses import dataclass, field
from enum import StrEnum

from hypothesis import given
from hypothesis import strategies as st

from lighten import ExtraKind, Filter, FilterKind, Part, PartKind
from lighten.model.json_converter import JsonMistakeError, from_json, to_json


class Water(StrEnum):
    FEN = "fen"
    REED_BED = "reed-bed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Net:
    length_m: float
    is_open: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Round:
    birds: int
    place: str
    water: Water
    nets: tuple[Net, ...] = ()
    waters: frozenset[Water] = field(default_factory=frozenset)
    best: Net | None = None
    by_ring: dict[str, int] = field(default_factory=dict)


_NETS = st.builds(Net, length_m=st.floats(0, 100), is_open=st.booleans())
_ROUNDS = st.builds(
    Round,
    birds=st.integers(),
    place=st.text(),
    water=st.sampled_from(Water),
    nets=st.lists(_NETS, max_size=4).map(tuple),
    waters=st.frozensets(st.sampled_from(Water)),
    best=st.none() | _NETS,
    by_ring=st.dictionaries(st.text(), st.integers(), max_size=3),
)


class RoundTrips(unittest.TestCase):
    @given(_ROUNDS)
    def test_round_trips_give_the_same_value(self, value: Round) -> None:
        stored = json.loads(json.dumps(to_json(value)))
        self.assertEqual(from_json(stored, Round, "the round"), value)

    @given(_ROUNDS)
    def test_the_same_value_gives_the_same_json(self, value: Round) -> None:
        again = from_json(to_json(value), Round, "the round")
        self.assertEqual(json.dumps(to_json(again)), json.dumps(to_json(value)))


class FormerNames(unittest.TestCase):
    def test_stored_choice_is_read_under_its_new_name(self) -> None:
        self.assertIs(from_json({"kind": "lighten"}, Filter, "it").kind, FilterKind.BRIGHTEN)

    def test_stored_field_is_read_under_its_new_name(self) -> None:
        part = to_json(
            Part(
                id="a",
                kind=PartKind.EXTRA,
                size_bytes=1,
                name="a",
                removed_with=ExtraKind.MEDIA,
            )
        )
        part["goes_with"] = part.pop("removed_with")
        self.assertIs(from_json(part, Part, "it").removed_with, ExtraKind.MEDIA)


class Mistakes(unittest.TestCase):
    def mistake(self, **changes: object) -> str:
        stored = {"birds": 3, "place": "lower ride", "water": "fen", **changes}
        with self.assertRaises(JsonMistakeError) as caught:
            from_json(stored, Round, "the round")
        return str(caught.exception)

    def test_mistakes_are_reported_with_their_path(self) -> None:
        nets = [{"length_m": 12.0}, {"length_m": "long"}]
        for changes, place in (
            ({"birds": "many"}, "the round.birds: 'many' is not a whole number"),
            ({"birds": True}, "the round.birds: True is not a whole number"),
            ({"nets": nets}, "the round.nets[1].length_m: 'long' is not a number"),
            ({"water": "sea"}, "the round.water: 'sea' is none of fen, reed-bed"),
            ({"tea": 1}, "the round.tea: is not known here"),
            ({"best": 5}, "the round.best: is not an object"),
        ):
            with self.subTest(place=place):
                self.assertEqual(self.mistake(**changes), place)

    def test_mistakes_of_the_whole_are_reported(self) -> None:
        for stored in (None, [], "round", 3):
            with self.assertRaises(JsonMistakeError):
                from_json(stored, Round, "the round")
