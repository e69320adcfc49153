"""Who may see what, and what answers carry."""

from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from rest_framework.test import APIClient

from lighten import FORMATS, PRESETS
from tests.web.cases import ApiCase


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
