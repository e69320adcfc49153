"""The first minute of a newcomer: the shelf, a sample, and the guide."""

from lighten import EXTRAS, PRESETS, PictureClass, Verdict
from tests.web.cases import ApiCase


class Guide(ApiCase):
    def test_the_guide_explains_every_choice_and_every_verdict(self) -> None:
        chapters = {one["name"]: one["entries"] for one in self.send("get", "/api/guide")}
        names = {name: [entry["name"] for entry in entries] for name, entries in chapters.items()}
        self.assertEqual(names["presets"], [preset.name for preset in PRESETS])
        self.assertEqual(set(names["classes"]), set(PictureClass))
        self.assertEqual(names["verdicts"], list(Verdict))
        self.assertEqual(names["extras"], list(EXTRAS))
        for entries in chapters.values():
            for entry in entries:
                self.assertTrue(entry["does"] and entry["use"], entry)


class Sample(ApiCase):
    def test_sample_is_a_satchel_of_ones_own_that_is_worth_making_lighter(self) -> None:
        made = self.post("/api/satchels/sample")
        shown = self.send("get", f"/api/satchels/{made['id']}")
        (document,) = shown["documents"]
        self.assertEqual(document["state"], "weighed", document)
        self.assertGreater(document["size_bytes"], shown["limit_bytes"])
        self.assertLess(document["estimates"]["reading-desk"]["bytes"], shown["limit_bytes"])


class Shelf(ApiCase):
    def test_the_shelf_shows_the_limit_and_the_last_run(self) -> None:
        self.upload(self.report())
        limit = {"limit_bytes": 1_000_000, "limit_carrier": "message", "preset": "as-it-was"}
        self.send("patch", f"/api/satchels/{self.satchel}", limit)
        run = self.post(f"/api/satchels/{self.satchel}/runs")
        (row,) = self.send("get", "/api/satchels")
        self.assertEqual(row["last_run_id"], run["id"])
        self.assertEqual(
            (row["copies_same"], row["copies_close"], row["copies_check"]), (1, None, None)
        )
        self.assertLess(row["limit_file_bytes"], 750_000)

    def test_shelf_counts_documents_without_a_copy_at_their_own_weight(self) -> None:
        first, second = (self.upload(self.report(), name) for name in ("a.pdf", "b.pdf"))
        self.send("patch", f"/api/satchels/{self.satchel}", {"preset": "as-it-was"})
        (row,) = self.send("get", "/api/satchels")
        self.assertIsNone(row["bytes_after"])
        self.post(f"/api/satchels/{self.satchel}/runs", {"documents": [first["id"]]})
        (row,) = self.send("get", "/api/satchels")
        copy = self.shown()["documents"][0]["copy"]["bytes_after"]
        self.assertEqual(row["bytes_after"], copy + second["size_bytes"])
