"""Own presets, fine tuning, exceptions and slips over HTTP."""

import csv
import io
import json
from typing import Any

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext
from PIL import Image
from rest_framework.test import APIClient

from lighten import DEFAULT_PRESET, PRESETS
from lighten.model.preset_json import treatment_to_json
from tests.web.cases import ApiCase
from web.satchels.models import Copy


def treatment(**photo: Any) -> dict[str, Any]:
    stored = treatment_to_json(DEFAULT_PRESET.treatment)
    stored["pictures"]["photo"].update(photo)
    return stored


class OwnPresets(ApiCase):
    def make(self, title: str = "Ours", **photo: Any) -> Any:
        body = {"title": title, "description": "", "treatment": treatment(**photo)}
        return self.post("/api/presets", body)

    def titles(self) -> list[str]:
        presets = self.send("get", "/api/choices")["presets"]
        return [preset["title"] for preset in presets if preset["is_own"]]

    def test_own_presets_are_made_changed_and_deleted(self) -> None:
        name = self.make(quality=40)["name"]
        self.send("patch", f"/api/presets/{name}", {"title": "Ours, gentler"})
        self.assertEqual(self.titles(), ["Ours, gentler"])
        self.send("delete", f"/api/presets/{name}", status=204)
        self.assertEqual(self.titles(), [])

    def test_shipped_ones_are_not_changed(self) -> None:
        answer = self.send("patch", "/api/presets/post", {"title": "Mine"}, status=409)
        self.assertEqual(answer["code"], "shipped")

    def test_own_presets_of_equal_titles_are_refused(self) -> None:
        self.make()
        body = {"title": "Ours", "description": "", "treatment": treatment()}
        self.assertEqual(self.post("/api/presets", body, status=409)["code"], "title_taken")

    def test_own_presets_go_out_as_a_file_and_come_back(self) -> None:
        name = self.make(quality=41)["name"]
        content = json.loads(self.api.get(f"/api/presets/{name}/file").content)
        content["title"] = "From a file"
        kept = self.post("/api/presets/import", {"content": content})
        self.assertEqual(kept["treatment"]["pictures"]["photo"]["quality"], 41)

    def test_bad_files_are_refused_with_the_place(self) -> None:
        content = json.loads(self.api.get("/api/presets/post/file").content)
        content["treatment"]["pictures"]["photo"]["quality"] = 400
        answer = self.post("/api/presets/import", {"content": content}, status=422)
        self.assertIn("treatment.pictures.photo", answer["detail"])

    def test_one_is_what_new_satchels_begin_with(self) -> None:
        name = self.make()["name"]
        self.send("post", f"/api/presets/{name}/usual", status=204)
        satchel = self.post("/api/satchels", {"name": "Next"})
        self.assertEqual(self.send("get", f"/api/satchels/{satchel['id']}")["preset"], name)

    def test_own_presets_of_others_are_not_there(self) -> None:
        name = self.make()["name"]
        other = APIClient()
        other.force_authenticate(get_user_model().objects.create_user("other"))
        self.assertEqual(other.get(f"/api/presets/{name}/file").status_code, 404)
        self.assertEqual(other.delete(f"/api/presets/{name}").status_code, 404)

    def test_deleted_presets_leave_their_satchels_the_default_one(self) -> None:
        name = self.make(quality=33)["name"]
        path = f"/api/satchels/{self.satchel}"
        wanted = self.send("patch", path, {"preset": name})["wanted"]
        self.assertEqual(wanted["pictures"]["photo"]["quality"], 33)
        self.send("delete", f"/api/presets/{name}", status=204)
        wanted = self.send("get", path)["wanted"]
        self.assertEqual(wanted, treatment_to_json(DEFAULT_PRESET.treatment))


class Tuning(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.upload(self.report())
        self.path = f"/api/satchels/{self.satchel}"

    def document(self) -> Any:
        return self.shown()["documents"][0]

    def picture(self) -> str:
        parts = self.send("get", f"/api/documents/{self.document()['id']}/sheet")["parts"]
        return str(next(part["id"] for part in parts if part["picture"]))

    def test_tuning_moves_the_estimate_and_is_kept(self) -> None:
        before = self.document()["estimates"]["current"]["bytes"]
        coarse = treatment(finest_ppi=40, quality=20)
        answer = self.send("patch", self.path, {"treatment": coarse})
        self.assertEqual(answer["wanted"]["pictures"]["photo"]["quality"], 20)
        self.assertLess(self.document()["estimates"]["current"]["bytes"], before)

    def test_tuning_ends_with_another_preset(self) -> None:
        self.send("patch", self.path, {"treatment": treatment(quality=20)})
        self.assertIsNone(self.send("patch", self.path, {"preset": "post"})["treatment"])

    def test_tuning_that_makes_no_sense_is_refused(self) -> None:
        answer = self.send("patch", self.path, {"treatment": treatment(quality=0)}, status=422)
        self.assertIn("quality is from 1 to 100", answer["detail"])

    def test_estimates_are_worked_out_once_and_none_is_lost(self) -> None:
        for quality in range(30, 62):
            self.send("patch", self.path, {"treatment": treatment(quality=quality)})
        found = self.document()["estimates"]
        self.assertEqual(set(found), {"current", *(preset.name for preset in PRESETS)})

    def test_estimates_follow_finished_copies_and_no_lighter_preset_looks_heavier(self) -> None:
        self.send("patch", self.path, {"preset": "reading-desk"})
        self.post(f"{self.path}/runs", {})
        found = self.document()["estimates"]
        made = Copy.objects.get(document_id=self.document()["id"]).bytes_after
        self.assertEqual({found["reading-desk"][key] for key in ("bytes", "low", "high")}, {made})
        order = ("as-it-was", "print-room", "reading-desk", "post", "feather")
        sizes = [found[name]["bytes"] for name in order]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        self.assertLessEqual(found["post"]["high"], made)

    def test_more_documents_ask_the_database_no_more_often(self) -> None:
        self.shown()
        with CaptureQueriesContext(connection) as asked:
            self.shown()
        count = len(asked)  # counted now: the next request clears the list
        self.upload(self.report(), name="second.pdf")
        self.upload(self.report(), name="third.pdf")
        self.shown()
        with self.assertNumQueries(count):
            self.shown()

    def test_worth_of_switches_is_shown(self) -> None:
        self.assertGreater(self.document()["savings"]["extra.metadata"], 0)

    def test_exempted_pictures_stay(self) -> None:
        document, part = self.document(), self.picture()
        body = {"exceptions": {part: {"is_exempt": True}}}
        self.send("patch", f"/api/documents/{document['id']}", body)
        self.post(f"{self.path}/runs", {})
        sheet = self.send("get", f"/api/documents/{document['id']}/sheet")
        done = next(one for one in sheet["parts"] if one["id"] == part)
        self.assertEqual((sheet["is_measured"], done["decision"]), (True, "keep"))
        self.assertIn("exempted", done["reason"])

    def test_exceptions_for_unknown_parts_are_refused(self) -> None:
        path = f"/api/documents/{self.document()['id']}"
        body = {"exceptions": {"picture:999-0": {"is_exempt": True}}}
        self.send("patch", path, body, status=400)

    def convert_with_office(self, size: tuple[int, int], *, status: int) -> Any:
        file = io.BytesIO()
        Image.new("RGB", size, "teal").save(file, "PNG")
        answer = self.api.post(
            f"/api/documents/{self.document()['id']}/replacements",
            {"part": self.picture(), "file": SimpleUploadedFile("own.png", file.getvalue())},
            format="multipart",
        )
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_a_supplied_picture_replaces_one(self) -> None:
        self.convert_with_office((600, 400), status=201)
        self.post(f"{self.path}/runs", {})
        copy = self.document()["copy"]
        self.assertEqual((copy["state"], copy["is_current"]), ("done", True), copy)
        sheet = self.send("get", f"/api/documents/{self.document()['id']}/sheet")
        self.assertIn("replace", [part["decision"] for part in sheet["parts"]])

    def test_a_picture_of_another_shape_is_refused(self) -> None:
        self.assertEqual(self.convert_with_office((400, 600), status=422)["code"], "other_shape")


class Slips(ApiCase):
    def test_slips_say_what_came_off_and_what_is_gone(self) -> None:
        self.upload(self.report())
        self.upload(b"%PDF-1.7 broken", name="=broken.pdf")
        run = self.post(f"/api/satchels/{self.satchel}/runs", {})["id"]
        slip = self.send("get", f"/api/runs/{run}/slip")
        (row,) = slip["rows"]
        self.assertEqual(slip["bytes_after"], row["bytes_after"])
        self.assertEqual(
            sum(kind["after"] for kind in row["kinds"]), row["bytes_after"], row["kinds"]
        )
        self.assertIn("2 pictures with fewer pixels", row["gone"])
        table = self.api.get(f"/api/runs/{run}/slip.csv").content.decode()
        lines = list(csv.DictReader(io.StringIO(table)))
        self.assertEqual(lines[0]["bytes after"], str(row["bytes_after"]))
        self.assertEqual(lines[-1]["document"], "total")
        history = self.send("get", f"/api/satchels/{self.satchel}/history")
        self.assertEqual(history[0]["bytes_after"], row["bytes_after"])

    def test_satchels_are_copied_whole(self) -> None:
        self.upload(self.report())
        twin = self.post(f"/api/satchels/{self.satchel}/duplicate")["id"]
        self.send("delete", f"/api/satchels/{self.satchel}", status=204)
        self.post(f"/api/satchels/{twin}/runs", {})
        shown = self.send("get", f"/api/satchels/{twin}")
        self.assertEqual(shown["documents"][0]["copy"]["state"], "done")
