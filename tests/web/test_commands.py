"""The demo's account, and names in bundles."""

import io
import json
from importlib import import_module

from django.apps import apps
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AnonymousUser
from django.core.management import call_command
from django.http import HttpResponse
from django.test import Client, RequestFactory, TestCase, override_settings

from tests.web.cases import ApiCase
from web.accounts.demo import DEMO_ACCOUNT, sign_visitor_in
from web.satchels.models import Document, Satchel


class Demo(ApiCase):
    def make(self) -> None:
        path = self.folder / "Ringing logs.pdf"
        path.write_bytes(self.report())
        listed = self.folder / "satchels.json"
        files = [{"path": str(path), "folder": "logs"}]
        listed.write_text(json.dumps([{"name": "Logs", "limit_bytes": 5000, "files": files}]))
        with self.captureOnCommitCallbacks(execute=True):
            call_command("make_demo", str(listed))

    def test_demo_is_made_once(self) -> None:
        for _ in range(2):
            self.make()
        satchel = Satchel.objects.get(owner__username=DEMO_ACCOUNT)
        (document,) = satchel.documents.all()
        self.assertEqual((document.folder, document.state), ("logs", Document.State.WEIGHED))

    def test_account_has_no_password_to_guess(self) -> None:
        self.make()
        self.assertFalse(get_user_model().objects.get(username=DEMO_ACCOUNT).has_usable_password())


class Updates(ApiCase):
    def test_documents_whose_sheets_were_forgotten_are_weighed_again(self) -> None:
        self.upload(self.report())
        migration = import_module("web.satchels.migrations.0003_weigh_anew")
        migration.forget_sheets(apps, None)
        self.assertEqual(self.shown()["documents"][0]["state"], Document.State.WAITING)
        with self.captureOnCommitCallbacks(execute=True):
            call_command("weigh_waiting", stdout=io.StringIO())
        (document,) = self.shown()["documents"]
        self.assertEqual(document["state"], Document.State.WEIGHED)
        self.assertIn("current", document["estimates"])


class SignedInVisitor(TestCase):
    def visit(self, **session: bool) -> str:
        """Who a request belongs to after the demo's middleware."""
        client = Client()
        kept = client.session
        kept.update(session)
        kept.save()
        request = RequestFactory().get("/")
        request.session = kept
        get_user_model().objects.get_or_create(username=DEMO_ACCOUNT)
        request.user = AnonymousUser()
        sign_visitor_in(lambda _request: HttpResponse())(request)
        return request.user.get_username()

    def test_signed_in_visitor_is_the_demo_account(self) -> None:
        self.assertEqual(self.visit(), DEMO_ACCOUNT)

    def test_signed_in_visitor_stays_signed_out_once_they_chose_to(self) -> None:
        self.assertEqual(self.visit(**{"signed-out": True}), "")

    @override_settings(IS_DEMO=False)
    def test_signed_in_visitor_exists_in_the_demo_only(self) -> None:
        get_user_model().objects.create_user(DEMO_ACCOUNT)
        self.assertIsNone(Client().get("/api/session").json()["username"])


class CopyNames(TestCase):
    def name(self, document: str, prefix: str = "", suffix: str = "-light") -> str:
        satchel = Satchel(name="x", prefix=prefix, suffix=suffix)
        return satchel.copy_name(Document(name=document, satchel=satchel))

    def test_copy_names_follow_the_rule_and_keep_the_ending(self) -> None:
        self.assertEqual(self.name("report.pdf"), "report-light.pdf")
        self.assertEqual(self.name("report.v2.pdf", prefix="small "), "small report.v2-light.pdf")
        self.assertEqual(self.name("report"), "report-light")
        self.assertEqual(self.name("report.pdf", suffix=""), "report.pdf")
