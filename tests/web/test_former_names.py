"""Treatments that were stored under former names are shown after the migration."""

import importlib
from typing import Any

from django.apps import apps

from lighten import DEFAULT_PRESET, treatment_to_json
from tests.web.cases import ApiCase
from web.satchels.models import Satchel

MIGRATION = importlib.import_module("web.satchels.migrations.0016_names")
BITONAL = importlib.import_module("web.satchels.migrations.0017_bitonal")


def former(treatment: dict[str, Any]) -> dict[str, Any]:
    """Return a treatment as it was stored before the names changed."""
    for picture in treatment["pictures"].values():
        picture["two_tone"] = picture.pop("bitonal_method")
    treatment["pictures"]["photo"]["filters"] = [{"kind": "lighten", "strength": 0.5}]
    return treatment


class FormerNames(ApiCase):
    def test_tuned_satchel_is_shown_with_present_names(self) -> None:
        stored = former(treatment_to_json(DEFAULT_PRESET.treatment))
        Satchel.objects.filter(pk=self.satchel).update(treatment=stored)
        MIGRATION.rename_stored(apps, None)
        photo = self.shown()["treatment"]["pictures"]["photo"]
        self.assertEqual(photo["bitonal_method"], "otsu")
        self.assertEqual(photo["filters"], [{"kind": "brighten", "strength": 0.5}])

    def test_exceptions_of_parts_are_renamed_at_any_depth(self) -> None:
        stored = {"picture:1": {"treatment": {"two_tone": "sauvola"}}}
        self.assertEqual(
            MIGRATION.renamed(stored), {"picture:1": {"treatment": {"bitonal_method": "sauvola"}}}
        )

    def test_bitonal_and_mask_are_renamed_in_stored_satchels(self) -> None:
        stored = treatment_to_json(DEFAULT_PRESET.treatment)
        for former_name, name in (("two-tone", "bitonal"), ("stencil", "mask")):
            stored["pictures"][former_name] = stored["pictures"].pop(name)
        Satchel.objects.filter(pk=self.satchel).update(treatment=stored, fit_ways=["two-tone"])
        BITONAL.rename(apps, None)
        shown = self.shown()
        self.assertLessEqual({"bitonal", "mask"}, set(shown["treatment"]["pictures"]))
        self.assertEqual(shown["fit_ways"], ["bitonal"])

    def test_former_spelling_of_a_choice_is_accepted(self) -> None:
        shown = self.send("patch", f"/api/satchels/{self.satchel}", {"fit_ways": ["two-tone"]})
        self.assertEqual(shown["fit_ways"], ["bitonal"])
