"""Polling of an open bench while work goes on."""

from datetime import timedelta
from typing import Any

from django.db.models import QuerySet
from django.test import override_settings
from django.utils import timezone

from tests.web.cases import ApiCase
from web.satchels.models import Copy, Document


class Changes(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.first, self.second = (
            self.upload(self.report(), f"{name}.pdf")["id"] for name in ("first", "second")
        )
        self.forget()

    def forget(self) -> None:
        """Date all changes so far one hour back."""
        for rows in (Document.objects.all(), Copy.objects.all()):
            QuerySet.update(rows, changed_at=timezone.now() - timedelta(hours=1))

    def changes(self, since: str = "", *, status: int = 200) -> Any:
        told = {"since": since or timezone.now().isoformat()}
        answer = self.api.get(f"/api/satchels/{self.satchel}/changes", told)
        self.assertEqual(answer.status_code, status)
        return answer.json()

    def changed(self) -> list[str]:
        return [one["id"] for one in self.changes()["documents"]]

    def test_changes_are_none_where_nothing_happened(self) -> None:
        self.assertEqual(self.changed(), [])
        told = self.changes()
        self.assertEqual((told["document_count"], told["ask_again_ms"]), (2, 2000))

    def test_changes_are_the_same_as_on_the_whole_bench(self) -> None:
        bench = self.shown()
        changes = self.changes((timezone.now() - timedelta(days=1)).isoformat())
        for name in ("documents", "choices_mark", "run"):
            self.assertEqual(changes[name], bench[name])

    def test_changes_since_the_last_answer_are_reported(self) -> None:
        Document.objects.filter(pk=self.first).update(progress=0.5)
        self.assertEqual(self.changed(), [self.first])
        self.assertEqual(self.changes()["ask_again_ms"], 800)

    def test_changes_of_a_copy_are_reported_with_its_document(self) -> None:
        self.post(f"/api/satchels/{self.satchel}/runs", {"documents": [self.second]})
        self.forget()
        Copy.objects.filter(document=self.second).update(progress=0.5)
        changes = self.changes()
        self.assertEqual([one["copy"]["progress"] for one in changes["documents"]], [0.5])
        self.assertEqual(changes["run"], self.shown()["run"])

    def test_changes_by_machines_with_slow_clocks_are_reported(self) -> None:
        slow = timezone.now() - timedelta(seconds=10)
        QuerySet.update(Document.objects.filter(pk=self.first), changed_at=slow)
        self.assertEqual(self.changed(), [])
        with override_settings(REDIS_URL="redis://queue"):
            self.assertEqual(self.changed(), [self.first])

    def test_changes_of_some_fields_are_dated_too(self) -> None:
        document = Document.objects.get(pk=self.second)
        document.save(update_fields=["exceptions"])
        self.assertEqual(self.changed(), [self.second])

    def test_changes_of_choices_are_reported_by_their_mark(self) -> None:
        before = self.changes()["choices_mark"]
        self.upload(self.report(), "third.pdf")
        self.assertEqual(self.changes()["choices_mark"], before)
        self.send("patch", f"/api/satchels/{self.satchel}", {"limit_bytes": 90_000})
        self.assertNotEqual(self.changes()["choices_mark"], before)

    def test_changes_ask_for_a_date(self) -> None:
        self.assertIn("since", str(self.changes("yesterday", status=400)))
        self.assertEqual(len(self.changes("0001-01-01T00:00:00Z")["documents"]), 2)

    def test_changes_are_answered_in_few_questions_to_the_database(self) -> None:
        self.changes()  # notes that the bench is open
        with self.assertNumQueries(5):
            self.changes()
        Document.objects.update(progress=0.5)
        with self.assertNumQueries(8):
            self.changes()
