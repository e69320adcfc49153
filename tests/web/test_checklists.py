"""Limits of one's own, and what else is asked where a copy is going."""

import json
from typing import Any

from django.contrib.auth import get_user_model
from rest_framework.test import APIClient

from tests.web.cases import ApiCase

ASKED = {
    "endings": [".tif"],
    "most_pages": 1,
    "needs_pdf_a": True,
    "names": {"no_spaces": True, "ascii_only": True, "most_letters": 24},
}


class OwnLimits(ApiCase):
    def make(self, title: str = "Our portal", *, status: int = 201) -> Any:
        body = {"title": title, "size_bytes": 9_000_000, "carrier": "file", "checklist": ASKED}
        return self.post("/api/limits", body, status=status)

    def own(self) -> list[Any]:
        return [one for one in self.send("get", "/api/choices")["limits"] if one["is_own"]]

    def test_own_limits_are_made_changed_and_deleted(self) -> None:
        name = self.make()["name"]
        self.assertEqual(self.own()[0]["checklist"], ASKED)
        self.send("patch", f"/api/limits/{name}", {"size_bytes": 5_000_000})
        self.assertEqual(self.own()[0]["size_bytes"], 5_000_000)
        self.make(status=409)
        self.send("delete", f"/api/limits/{name}", status=204)
        self.assertEqual(self.own(), [])

    def test_own_limits_go_to_another_account_as_a_file(self) -> None:
        name = self.make()["name"]
        stored = json.loads(self.api.get(f"/api/limits/{name}/file").content)
        other = get_user_model().objects.create_user("other", password="reeds and rushes")
        self.api.force_authenticate(other)
        self.send("get", f"/api/limits/{name}/file", status=404)
        self.send("patch", f"/api/limits/{name}", {"title": "Mine"}, status=404)
        taken = self.post("/api/limits/import", {"content": stored})
        self.assertEqual(taken["checklist"], ASKED)

    def test_own_limits_that_ship_stay_as_they_are(self) -> None:
        answer = self.send("patch", "/api/limits/mailbox", {"title": "Mine"}, status=409)
        self.assertIn("Copy it", answer["detail"])

    def test_own_limits_with_mistakes_are_refused_and_named(self) -> None:
        body = {"title": "Odd", "size_bytes": 5000, "checklist": {"endings": ["P D F"]}}
        self.post("/api/limits", body, status=422)
        answer = self.post("/api/limits/import", {"content": {"schema": "odd"}}, status=422)
        self.assertIn("schema", answer["detail"])

    def test_own_limits_need_an_account(self) -> None:
        self.assertEqual(APIClient().get("/api/limits/mailbox/file").status_code, 403)


class Checks(ApiCase):
    def test_checks_are_shown_before_and_after_the_run_and_names_corrected(self) -> None:
        self.upload(self.report(), "Season report of the fen.pdf")
        choice = {"preset": "as-it-was", "checklist": ASKED}
        self.send("patch", f"/api/satchels/{self.satchel}", choice)
        (document,) = self.shown()["documents"]
        self.assertEqual(document["copy_name"], "Season-report-of-the.pdf")
        unmet = [check["text"] for check in document["checks"] if not check["is_met"]]
        self.assertEqual(unmet, ["a file of kind tif", "at most 1 page", "PDF/A"])
        run = self.post(f"/api/satchels/{self.satchel}/runs")
        (row,) = self.send("get", f"/api/runs/{run['id']}/slip")["rows"]
        self.assertEqual(len(row["unmet"]), 3)
        self.assertIn("asked: PDF/A; has: no archive level", row["unmet"])
        original = self.api.get(f"/api/documents/{document['id']}/original")
        self.assertIn("Season report of the fen.pdf", original["Content-Disposition"])

    def test_checks_with_mistakes_are_refused_whole(self) -> None:
        bad = {"checklist": {"most_pages": -1}, "limit_bytes": 5000}
        self.send("patch", f"/api/satchels/{self.satchel}", bad, status=400)
        self.assertIsNone(self.shown()["limit_bytes"])
