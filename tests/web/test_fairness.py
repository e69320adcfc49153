"""Nobody takes all of the machine, or waits for another's hundred files; nothing is kept long."""

import io
from datetime import timedelta

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.test import override_settings
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from tests.web.cases import ApiCase
from web.satchels.models import Document, Satchel
from web.satchels.tasks import start_weighing

QUEUED = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}


class Quotas(ApiCase):
    def test_quotas_are_shown_and_enforced(self) -> None:
        content = self.report()
        self.upload(content)
        told = self.send("get", "/api/satchels/quota")
        self.assertEqual((told["bytes_taken"], told["documents_taken"]), (len(content), 1))
        with override_settings(ACCOUNT_LIMIT_BYTES=len(content) + 5):
            answer = self.upload(content, "second.pdf", status=507)
            self.assertIn("MB are missing", answer["detail"])
        with override_settings(ACCOUNT_DOCUMENTS_LIMIT=1):
            self.upload(content, "second.pdf", status=507)
        self.assertEqual(Document.objects.count(), 1)

    def test_links_to_a_copy_are_limited(self) -> None:
        self.send("patch", f"/api/satchels/{self.satchel}", {"preset": "as-it-was"})
        self.upload(self.report())
        self.post(f"/api/satchels/{self.satchel}/runs")
        copy = self.shown()["documents"][0]["copy"]["id"]
        with override_settings(LINKS_LIMIT=2):
            first = self.post(f"/api/copies/{copy}/hand-overs", {})
            self.post(f"/api/copies/{copy}/hand-overs", {})
            self.post(f"/api/copies/{copy}/hand-overs", {}, status=409)
            self.post(f"/api/hand-overs/{first['id']}/revoke", status=200)
            self.post(f"/api/copies/{copy}/hand-overs", {})


class Turns(ApiCase):
    def waiting(self, owner: object, count: int) -> list[Document]:
        satchel = Satchel.objects.create(owner=owner, name="Many")
        return [
            Document.objects.create(satchel=satchel, name=f"{n}.pdf", size_bytes=1)
            for n in range(count)
        ]

    @override_settings(TASKS=QUEUED)
    def test_turns_of_one_document_come_before_most_of_anothers_hundred(self) -> None:
        other = get_user_model().objects.create_user("other", password="x" * 12)
        for document in self.waiting(self.owner, 1):
            start_weighing(document)
        many = self.waiting(self.owner, 30)
        for document in many:
            start_weighing(document)
        (single,) = self.waiting(other, 1)
        start_weighing(single)
        order = [task.args_kwargs["args"][0] for task in DBTaskResult.objects.ready()]
        self.assertLessEqual(order.index(str(single.pk)), 1)

    @override_settings(TASKS=QUEUED)
    def test_documents_of_an_open_satchel_come_before_what_its_owner_left_elsewhere(self) -> None:
        for document in self.waiting(self.owner, 14):
            start_weighing(document)
        (newcomer,) = self.waiting(self.owner, 1)
        newcomer.satchel.mark_seen()
        start_weighing(newcomer)
        order = [task.args_kwargs["args"][0] for task in DBTaskResult.objects.ready()]
        self.assertLessEqual(order.index(str(newcomer.pk)), 1)


class Retention(ApiCase):
    def test_old_satchels_go_by_themselves(self) -> None:
        self.upload(self.report())
        old = timezone.now() - timedelta(days=31)
        Satchel.objects.filter(pk=self.satchel).update(changed_at=old)
        out = io.StringIO()
        call_command("forget_old", stdout=out)
        self.assertIn("1 satchels of more than 30 days deleted", out.getvalue())
        self.assertEqual(list((self.folder / "files").glob("*/*/original")), [])


class Health(ApiCase):
    def test_health_says_what_is_missing(self) -> None:
        answer = self.client.get("/health")
        self.assertEqual(answer.status_code, 503)
        self.assertEqual(answer.json()["missing"], "no worker is running")
        self.assertGreater(answer.json()["free_bytes"], 0)
