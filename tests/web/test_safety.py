"""Who may see what, and what answers carry."""

import json
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from rest_framework.test import APIClient

from lighten import FORMATS, PRESETS
from tests.web.cases import ApiCase
from web.satchels.models import Document


class Accounts(ApiCase):
    def test_see_nothing_of_one_another(self) -> None:
        document = self.upload(self.report())
        self.post(f"/api/satchels/{self.satchel}/runs", {"preset": "post"})
        shown = self.shown()
        stranger = APIClient()
        stranger.force_authenticate(get_user_model().objects.create_user("stranger"))
        self.assertEqual(stranger.get("/api/satchels").json(), [])
        copy = shown["documents"][0]["copy"]["id"]
        for path in (
            f"/api/satchels/{self.satchel}",
            f"/api/documents/{document['id']}/original",
            f"/api/documents/{document['id']}/sheet",
            f"/api/documents/{document['id']}/thumbnail?part=picture:1-0",
            f"/api/copies/{copy}/file",
            f"/api/runs/{shown['run']['id']}/bundle",
        ):
            with self.subTest(path=path):
                self.assertEqual(stranger.get(path).status_code, 404)
        self.assertEqual(stranger.delete(f"/api/satchels/{self.satchel}").status_code, 404)

    def test_must_be_signed_in(self) -> None:
        for path in ("/api/satchels", "/api/choices", f"/api/satchels/{self.satchel}"):
            self.assertEqual(APIClient().get(path).status_code, 403)


class SigningIn(TestCase):
    def setUp(self) -> None:
        get_user_model().objects.create_user("owner", password="reeds and rushes")

    def sign_in(self, client: Client, password: str) -> int:
        body = {"username": "owner", "password": password}
        return client.post("/api/session", body, content_type="application/json").status_code

    def test_opens_and_closes_a_session(self) -> None:
        client = Client()
        self.assertIsNone(client.get("/api/session").json()["username"])
        self.assertEqual(self.sign_in(client, "reeds and rushes"), 200)
        self.assertEqual(client.get("/api/session").json()["username"], "owner")
        client.delete("/api/session")
        self.assertIsNone(client.get("/api/session").json()["username"])

    def test_says_that_it_was_wrong_and_slows_guessing_down(self) -> None:
        client = Client()
        self.assertEqual(self.sign_in(client, "wrong"), 403)
        for _ in range(8):
            self.sign_in(client, "wrong")
        self.assertNotEqual(self.sign_in(client, "reeds and rushes"), 200)

    def test_changes_need_the_token(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(get_user_model().objects.get())
        answer = client.post("/api/satchels", {"name": "x"}, content_type="application/json")
        self.assertEqual(answer.status_code, 403)


class Answers(TestCase):
    def test_of_the_page_allow_nothing_from_elsewhere(self) -> None:
        answer = Client().get("/")
        policy = answer["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertEqual(answer["X-Frame-Options"], "DENY")
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")

    def test_of_errors_are_problems(self) -> None:
        client = APIClient()
        client.force_authenticate(get_user_model().objects.create_user("owner"))
        answer = client.get("/api/satchels/00000000-0000-0000-0000-000000000000")
        self.assertEqual(answer.status_code, 404)
        self.assertEqual(answer["Content-Type"], "application/problem+json")
        self.assertEqual(answer.json()["code"], "not_found")

    def test_of_choices_come_from_the_core(self) -> None:
        client = APIClient()
        client.force_authenticate(get_user_model().objects.create_user("owner"))
        choices = client.get("/api/choices").json()
        listed = [one["name"] for one in choices["formats"]]
        self.assertEqual(listed, [format_.name for format_ in FORMATS])
        self.assertEqual(len(choices["presets"]), len(PRESETS))
        self.assertTrue(all(limit["file_bytes"] > 0 for limit in choices["limits"]))


class Requests(ApiCase):
    """What a client may say, and what only the server may."""

    OWNED = {
        *("id", "state", "progress", "doing", "seconds_left", "learned", "estimates", "savings"),
        *("size_bytes", "error", "error_message", "created_at", "owner", "downloads", "ends_at"),
    }

    def test_name_nothing_that_the_server_owns(self) -> None:
        schemas = json.loads((settings.ROOT / "docs" / "openapi.json").read_text())
        requests = {
            name: set(schema.get("properties", {}))
            for name, schema in schemas["components"]["schemas"].items()
            if name.endswith("Request")
        }
        self.assertGreater(len(requests), 20)
        for name, fields in requests.items():
            self.assertEqual(fields & self.OWNED, set(), name)

    def test_cannot_move_a_document_to_another_state(self) -> None:
        document = self.upload(b"no document", "broken.pdf")
        for state in ("weighed", "waiting", "nonsense"):
            self.send("patch", f"/api/documents/{document['id']}", {"state": state})
            self.assertEqual(self.shown()["documents"][0]["state"], "failed")

    def test_that_make_no_sense_are_refused_and_leave_the_bench_as_it_was(self) -> None:
        document = self.upload(self.report())
        path = f"/api/documents/{document['id']}"
        part = next(one["id"] for one in self.send("get", f"{path}/sheet")["parts"])
        deep: Any = {"is_exempt": True}
        for _ in range(60):
            deep = {"x": deep}
        wrong: list[Any] = [
            *(None, [], "x", 1, {"": {}}, {part: None}, {part: []}, {part: {}}, {part: deep}),
            *({part: {"treatment": value}} for value in ([], "x", {"quality": 1e9}, {"a": 1})),
            *({part: {"replacement": value}} for value in ("", "../../etc", "\ud800", "x" * 999)),
            {part: {"is_exempt": True, "is_left_out": True}},
            {"\ud800": {"is_exempt": True}},
        ]
        for exceptions in wrong:
            with self.subTest(str(exceptions)[:60].encode("ascii", "replace")):
                body = json.dumps({"exceptions": exceptions}).encode()
                answer = self.api.generic("PATCH", path, body, content_type="application/json")
                self.assertIn(answer.status_code, (400, 422), answer.content[:200])
        for body in (b'{"exceptions": NaN}', b'{"exceptions": {"a": Infinity}}', b"{", b"[" * 9999):
            answer = self.api.generic("PATCH", path, body, content_type="application/json")
            self.assertEqual(answer.status_code, 400, body[:40])
        self.assertEqual(self.shown()["documents"][0]["exceptions"], {})
        # What says nothing has its usual values, all of them.
        told = self.send("patch", path, {"exceptions": {part: {"treatment": {}}}})
        self.assertEqual(told["exceptions"][part]["treatment"]["coding"], "automatic")
        self.assertIn("threshold", self.shown()["documents"][0]["exceptions"][part]["treatment"])


class Again(ApiCase):
    def test_what_failed_is_weighed_again_and_nothing_else(self) -> None:
        document = self.upload(self.report())
        self.post(f"/api/documents/{document['id']}/weigh", status=409)
        Document.objects.update(state=Document.State.FAILED, error_message="the disk was full")
        self.post(f"/api/documents/{document['id']}/weigh", status=204)
        self.assertEqual(self.shown()["documents"][0]["state"], "weighed")
