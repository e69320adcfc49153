"""Presets as files: there and back without loss, and mistakes named by their place."""

import copy
import json
import unittest
from pathlib import Path
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from lighten import PRESETS, PictureTreatment, Preset, Treatment
from lighten.model.errors import BadPresetError
from lighten.model.kinds import ExtraKind, PictureClass
from lighten.model.preset_json import (
    exceptions_from_json,
    preset_from_json,
    preset_to_json,
    treatment_from_json,
    treatment_to_json,
)
from lighten.model.treatments import (
    BitonalMethod,
    ColourChange,
    DrawingTreatment,
    Filter,
    FilterKind,
    FontTreatment,
    PictureCoding,
)

PICTURES = st.builds(
    PictureTreatment,
    finest_ppi=st.none() | st.floats(1, 2400),
    above_ppi=st.none() | st.floats(1, 2400),
    scale_percent=st.none() | st.floats(1, 100),
    smallest_px=st.none() | st.integers(1, 9000),
    largest_px=st.none() | st.integers(1, 9000),
    coding=st.sampled_from(PictureCoding),
    quality=st.none() | st.integers(1, 100),
    floor=st.floats(0, 1),
    colour=st.sampled_from(ColourChange),
    bitonal_method=st.sampled_from(BitonalMethod),
    threshold=st.integers(1, 255),
    filters=st.lists(
        st.builds(Filter, kind=st.sampled_from(FilterKind), strength=st.floats(0, 1)), max_size=4
    ).map(tuple),
    cuts_hidden=st.booleans(),
)
TREATMENTS = st.builds(
    Treatment,
    pictures=st.fixed_dictionaries(dict.fromkeys(PictureClass, PICTURES)),
    fonts=st.builds(FontTreatment, subset=st.booleans(), drops_standard=st.booleans()),
    drawing=st.builds(
        DrawingTreatment,
        tolerance_pt=st.none() | st.floats(0.01, 2),
        constant_width=st.booleans(),
        ordinary_too=st.booleans(),
    ),
    dropped_extras=st.frozensets(st.sampled_from(ExtraKind)),
    is_linearized=st.booleans(),
)


class Stored(unittest.TestCase):
    @given(TREATMENTS)
    def test_treatments_come_back_as_they_were(self, treatment: Treatment) -> None:
        stored = json.loads(json.dumps(treatment_to_json(treatment)))
        self.assertEqual(treatment_from_json(stored), treatment)

    def test_shipped_presets_come_back_doing_the_same(self) -> None:
        for preset in PRESETS:
            again = preset_from_json(json.loads(json.dumps(preset_to_json(preset))))
            self.assertEqual((again.name, again.title), (preset.name, preset.title))
            for one in PictureClass:
                self.assertEqual(again.treatment.for_class(one), preset.treatment.for_class(one))

    def test_missing_keys_have_their_default_values(self) -> None:
        self.assertEqual(treatment_from_json({}).pictures, {})


class Mistakes(unittest.TestCase):
    good = preset_to_json(
        Preset(name="mine", title="Mine", description="", treatment=PRESETS[2].treatment)
    )

    def test_mistakes_are_named_by_their_place(self) -> None:
        cases: list[tuple[tuple[str, ...], Any, str]] = [
            (("schema",), "other", "schema:"),
            (("version",), 2, "version:"),
            (("name",), "", "name:"),
            (("extra",), 1, "the file.extra: is not known"),
            (("treatment", "pictures", "photo", "quality"), "high", "pictures.photo.quality:"),
            (("treatment", "pictures", "photo", "quality"), 101, "quality is from 1 to 100"),
            (("treatment", "pictures", "photo", "quality"), True, "pictures.photo.quality:"),
            (("treatment", "pictures", "fresco"), {}, "treatment.pictures.fresco:"),
            (("treatment", "pictures", "photo", "coding"), "magic", "photo.coding:"),
            (("treatment", "pictures", "photo", "filters"), [{"kind": "blur"}], "filters[0].kind"),
            (("treatment", "dropped_extras"), ["leftovers", "soul"], "dropped_extras[1]:"),
            (("treatment", "fonts", "subset"), 1, "treatment.fonts.subset:"),
            (("treatment", "drawing", "tolerance_pt"), 9, "tolerance_pt is above 0"),
            (("treatment",), [], "treatment: is not an object"),
        ]
        for path, value, words in cases:
            with self.subTest(path=path, value=value):
                bad = copy.deepcopy(self.good)
                holder = bad
                for key in path[:-1]:
                    holder = holder[key]
                holder[path[-1]] = value
                with self.assertRaises(BadPresetError) as caught:
                    preset_from_json(bad)
                self.assertIn(words, caught.exception.message)

    def test_the_former_word_for_annotations_means_all_that_people_add(self) -> None:
        former = treatment_from_json({"dropped_extras": ["comments", "tags"]})
        self.assertEqual(
            former.dropped_extras,
            {"notes", "markings", "typed-text", "drawn-marks", "stamps", "tags"},
        )

    def test_exceptions_do_just_one_thing(self) -> None:
        with self.assertRaises(BadPresetError):
            exceptions_from_json({"picture:1-0": {}}, Path())
        found = exceptions_from_json({"picture:1-0": {"replacement": "../../x"}}, Path("own"))
        self.assertEqual(found["picture:1-0"].replacement, Path("own/x"))
