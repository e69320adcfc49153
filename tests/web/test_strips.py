"""The test strip of a picture through the application."""

import io
from typing import Any

from PIL import Image

from tests.web.cases import ApiCase


class Strips(ApiCase):
    has_trials = True

    def setUp(self) -> None:
        super().setUp()
        self.upload(self.report())
        (self.document,) = self.shown()["documents"]
        self.path = f"/api/documents/{self.document['id']}"
        sheet = self.send("get", f"{self.path}/sheet")
        self.part = next(part["id"] for part in sheet["parts"] if part["picture"])

    def strips(self, *settings: dict[str, Any]) -> Any:
        return self.post(
            f"{self.path}/strips", {"part": self.part, "settings": list(settings)}, status=200
        )

    def test_one_picture_by_four_settings(self) -> None:
        original, gentle, light, own = self.strips(
            {"base": "original"},
            {"base": "print-room"},
            {"base": "feather"},
            {"base": "current", "finest_ppi": 40, "quality": 30},
        )
        self.assertEqual(original["document_bytes"], self.document["size_bytes"])
        self.assertEqual(original["score"], 100)
        self.assertGreaterEqual(gentle["bytes"], light["bytes"])
        self.assertGreater(light["bytes"], own["bytes"])
        self.assertEqual(own["ppi"], 40)
        estimates = self.shown()["documents"][0]["estimates"]
        self.assertEqual(light["document_bytes"], estimates["feather"]["bytes"])
        for strip in (original, gentle, light, own):
            answer = self.api.get(f"{self.path}/strip-image", {"key": strip["image"]})
            self.assertEqual(answer.status_code, 200)
            with Image.open(io.BytesIO(b"".join(answer.streaming_content))) as image:
                self.assertEqual(image.size, (strip["width_px"], strip["height_px"]))

    def test_a_strip_is_coded_once(self) -> None:
        (first,) = self.strips({"base": "post"})
        image = self.folder / "files" / self.satchel / self.document["id"] / "strips"
        (kept,) = image.glob(first["image"])
        made_at = kept.stat().st_mtime_ns
        (again,) = self.strips({"base": "post"})
        self.assertEqual(again, first)
        self.assertEqual(kept.stat().st_mtime_ns, made_at)

    def test_the_picture_most_at_stake_comes_first(self) -> None:
        stakes = self.send("get", f"{self.path}/stakes?base=feather")
        scores = [one["score"] for one in stakes if not one["has_words"]]
        self.assertTrue(stakes)
        self.assertEqual(scores, sorted(scores))

    def test_presets_that_say_nothing_of_a_class_can_be_changed(self) -> None:
        exact, coarse = self.strips({"base": "as-it-was"}, {"base": "as-it-was", "finest_ppi": 40})
        self.assertLess(coarse["ppi"], exact["ppi"])

    def test_what_is_used_is_what_was_shown(self) -> None:
        changed = {"base": "current", "finest_ppi": 40, "quality": 30}
        (shown,) = self.strips(changed)
        presets = self.send("get", "/api/choices")["presets"]
        usual = next(one for one in presets if one["name"] == "reading-desk")["treatment"]
        own = next(
            part["picture"]["picture_class"]
            for part in self.send("get", f"{self.path}/sheet")["parts"]
            if part["id"] == self.part
        )
        treatment = {
            **usual["pictures"][own],
            "finest_ppi": 40,
            "above_ppi": None,
            "scale_percent": None,
            "quality": 30,
            "least_score": 0,
        }
        self.send("patch", self.path, {"exceptions": {self.part: {"treatment": treatment}}})
        (current,) = self.strips({"base": "current"})
        self.assertEqual((current["bytes"], current["score"]), (shown["bytes"], shown["score"]))

    def test_a_finished_copy_counts_instead_of_its_estimate(self) -> None:
        self.post(f"/api/satchels/{self.satchel}/runs", {})
        copy = self.shown()["documents"][0]["copy"]
        (current,) = self.strips({"base": "current"})
        self.assertEqual(current["document_bytes"], copy["bytes_after"])

    def test_what_does_not_exist_is_refused(self) -> None:
        body = {"part": "picture:none", "settings": [{"base": "post"}]}
        self.post(f"{self.path}/strips", body, status=404)
        body = {"part": self.part, "settings": [{"base": "no such preset"}]}
        self.post(f"{self.path}/strips", body, status=404)
        self.post(f"{self.path}/strips", {"part": self.part, "settings": []}, status=400)
        self.send("get", f"{self.path}/stakes?base=nothing", status=404)
        for key in ("../../original", "0" * 32, ""):
            answer = self.api.get(f"{self.path}/strip-image", {"key": key})
            self.assertEqual(answer.status_code, 404)

    def test_an_exception_of_the_picture_does_not_hide_presets(self) -> None:
        self.send("patch", self.path, {"exceptions": {self.part: {"is_exempt": True}}})
        current, light = self.strips({"base": "current"}, {"base": "feather"})
        self.assertEqual((current["action"], current["score"]), ("keep", 100))
        self.assertLess(light["bytes"], current["bytes"])
