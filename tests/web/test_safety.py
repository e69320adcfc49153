"""Who may see what, and what answers carry."""

import csv
import io
import json
import zipfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client, TestCase, override_settings
from rest_framework.test import APIClient

from lighten import FORMATS, PRESETS
from tests.web.cases import ApiCase
from web.satchels.models import Document


class Accounts(ApiCase):
    def test_accounts_see_nothing_of_one_another(self) -> None:
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

    def test_accounts_must_be_signed_in(self) -> None:
        for path in ("/api/satchels", "/api/choices", f"/api/satchels/{self.satchel}"):
            self.assertEqual(APIClient().get(path).status_code, 403)


class SigningIn(TestCase):
    def setUp(self) -> None:
        get_user_model().objects.create_user("owner", password="reeds and rushes")

    def sign_in(self, client: Client, password: str) -> int:
        body = {"username": "owner", "password": password}
        return client.post("/api/session", body, content_type="application/json").status_code

    def test_signing_in_opens_and_closes_a_session(self) -> None:
        client = Client()
        self.assertIsNone(client.get("/api/session").json()["username"])
        self.assertEqual(self.sign_in(client, "reeds and rushes"), 200)
        self.assertEqual(client.get("/api/session").json()["username"], "owner")
        client.delete("/api/session")
        self.assertIsNone(client.get("/api/session").json()["username"])

    def test_signing_in_says_that_it_was_wrong_and_slows_guessing_down(self) -> None:
        client = Client()
        self.assertEqual(self.sign_in(client, "wrong"), 403)
        for _ in range(8):
            self.sign_in(client, "wrong")
        self.assertNotEqual(self.sign_in(client, "reeds and rushes"), 200)

    def test_signing_in_changes_need_the_token(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(get_user_model().objects.get())
        answer = client.post("/api/satchels", {"name": "x"}, content_type="application/json")
        self.assertEqual(answer.status_code, 403)


class Answers(TestCase):
    def test_answers_of_the_page_allow_nothing_from_elsewhere(self) -> None:
        answer = Client().get("/")
        policy = answer["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertEqual(answer["X-Frame-Options"], "DENY")
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")

    def test_answers_of_errors_are_problems(self) -> None:
        client = APIClient()
        client.force_authenticate(get_user_model().objects.create_user("owner"))
        answer = client.get("/api/satchels/00000000-0000-0000-0000-000000000000")
        self.assertEqual(answer.status_code, 404)
        self.assertEqual(answer["Content-Type"], "application/problem+json")
        self.assertEqual(answer.json()["code"], "not_found")

    def test_answers_of_choices_come_from_the_core(self) -> None:
        client = APIClient()
        client.force_authenticate(get_user_model().objects.create_user("owner"))
        choices = client.get("/api/choices").json()
        listed = [one["name"] for one in choices["formats"]]
        self.assertEqual(listed, [format_.name for format_ in FORMATS])
        self.assertEqual(len(choices["presets"]), len(PRESETS))
        self.assertTrue(all(limit["file_bytes"] > 0 for limit in choices["limits"]))


class Requests(ApiCase):
    """Fields that a client may set, and those that only the server may."""

    OWNED = {
        *(
            "id",
            "state",
            "progress",
            "doing",
            "seconds_left",
            "trial_progress",
            "estimates",
            "savings",
        ),
        *("size_bytes", "error", "error_message", "created_at", "owner", "downloads", "ends_at"),
    }

    def test_requests_name_nothing_that_the_server_owns(self) -> None:
        schemas = json.loads((settings.ROOT / "docs" / "openapi.json").read_text())
        requests = {
            name: set(schema.get("properties", {}))
            for name, schema in schemas["components"]["schemas"].items()
            # How heavy a limit is, its owner says.
            if name.endswith("Request") and "OwnLimit" not in name
        }
        self.assertGreater(len(requests), 20)
        for name, fields in requests.items():
            self.assertEqual(fields & self.OWNED, set(), name)

    def test_requests_cannot_move_a_document_to_another_state(self) -> None:
        document = self.upload(b"no document", "broken.pdf")
        for state in ("weighed", "waiting", "nonsense"):
            self.send("patch", f"/api/documents/{document['id']}", {"state": state})
            self.assertEqual(self.shown()["documents"][0]["state"], "failed")

    def test_requests_that_make_no_sense_are_refused_and_leave_the_bench_as_it_was(self) -> None:
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
    def test_a_failed_document_is_weighed_again_and_nothing_else(self) -> None:
        document = self.upload(self.report())
        self.post(f"/api/documents/{document['id']}/weigh", status=409)
        Document.objects.update(state=Document.State.FAILED, error_message="the disk was full")
        self.post(f"/api/documents/{document['id']}/weigh", status=204)
        self.assertEqual(self.shown()["documents"][0]["state"], "weighed")


class Files(ApiCase):
    def test_files_are_for_the_server_alone(self) -> None:
        self.upload(self.report())
        original = Path(Document.objects.get().file.path)
        self.assertEqual(original.stat().st_mode & 0o777, 0o600)
        self.assertEqual(original.parent.stat().st_mode & 0o777, 0o700)


class Passwords(ApiCase):
    def test_passwords_of_locked_files_are_no_words_in_the_database(self) -> None:
        document = Document.objects.create(
            satchel_id=self.satchel, name="locked.pdf", size_bytes=1, password="otters at dusk"
        )
        with connection.cursor() as cursor:
            cursor.execute("SELECT password FROM satchels_document")
            ((stored,),) = cursor.fetchall()
        self.assertNotIn("otters", stored)
        self.assertEqual(Document.objects.get().password, "otters at dusk")
        with override_settings(SECRET_KEY="another installation"):
            self.assertEqual(Document.objects.get().password, "")
        document.remove()
        self.assertFalse(Document.objects.exists())


class Origins(TestCase):
    def test_a_foreign_page_cannot_sign_in(self) -> None:
        get_user_model().objects.create_user("owner", password="reeds and rushes")
        client = Client(enforce_csrf_checks=True)
        body = {"username": "owner", "password": "reeds and rushes"}
        refused = client.post("/api/session", body, content_type="application/json")
        self.assertEqual((refused.status_code, refused.json()["code"]), (403, "not_from_here"))
        client.get("/api/session")
        token = client.cookies["csrftoken"].value
        sent = {"content_type": "application/json", "headers": {"X-CSRFToken": token}}
        elsewhere = {**sent, "headers": {**sent["headers"], "Origin": "https://elsewhere.example"}}
        self.assertEqual(client.post("/api/session", body, **elsewhere).status_code, 403)
        self.assertEqual(client.post("/api/session", body, **sent).status_code, 200)

    @override_settings(SPRAYED_NAMES_LIMIT=3)
    def test_many_names_from_one_address_wait_but_for_those_who_came_in_there(
        self,
    ) -> None:
        get_user_model().objects.create_user("owner", password="reeds and rushes")
        get_user_model().objects.create_user("other", password="sedges and ferns")

        def sign_in(name: str, password: str) -> int:
            body = {"username": name, "password": password}
            answer = Client().post("/api/session", body, content_type="application/json")
            return answer.status_code

        self.assertEqual(sign_in("owner", "reeds and rushes"), 200)
        for number in range(3):
            self.assertEqual(sign_in(f"nobody{number}", "guess"), 403)
        self.assertEqual(sign_in("other", "sedges and ferns"), 429)
        self.assertEqual(sign_in("owner", "reeds and rushes"), 200)


class Bundles(ApiCase):
    def test_names_in_a_zip_are_no_paths_and_no_devices(self) -> None:
        self.send("patch", f"/api/satchels/{self.satchel}", {"preset": "as-it-was", "suffix": ""})
        for name in ("../../up.pdf", "C:\\boot.pdf", "con.pdf", "=1+1.pdf", "a\u202eb.pdf"):
            self.upload(self.report(), name, folder="..//x/../CON")
        run = self.post(f"/api/satchels/{self.satchel}/runs")
        answer = self.api.get(f"/api/runs/{run['id']}/bundle")
        with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as bundle:
            names = bundle.namelist()
        self.assertEqual(len(names), 5)
        for name in names:
            parts = name.split("/")
            self.assertEqual(parts[:-1], ["x", "_CON"])
            self.assertNotRegex(parts[-1], r'^\.\.|[\\:*?"<>|\u202e]|^con\.')

    def test_no_cell_of_a_list_is_a_formula(self) -> None:
        self.send("patch", f"/api/satchels/{self.satchel}", {"preset": "as-it-was"})
        self.upload(self.report(), "=HYPERLINK(1).pdf", folder="@sum")
        run = self.post(f"/api/satchels/{self.satchel}/runs")
        text = self.api.get(f"/api/runs/{run['id']}/slip.csv").content.decode()
        for row in csv.reader(io.StringIO(text)):
            for cell in row:
                is_number = cell.lstrip("+-").replace(".", "", 1).isdigit()
                self.assertFalse(cell[:1] in tuple("=+-@\t\r") and not is_number, cell)
