"""A full disk: refused beforehand with what is missing, told where it filled up meanwhile."""

import errno
import sqlite3
from contextlib import closing
from types import SimpleNamespace
from typing import Any
from unittest import mock

from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import Client, SimpleTestCase, override_settings

from tests.web.cases import ApiCase
from web.disk_room import free_bytes
from web.problems import as_problem
from web.satchels.models import Copy, Document, Run

_RESERVE = 1_000_000


def _free(size_bytes: int) -> Any:
    told = SimpleNamespace(free=_RESERVE + size_bytes)
    return mock.patch("web.disk_room.shutil.disk_usage", return_value=told)


@override_settings(DISK_RESERVE_BYTES=_RESERVE)
class FullDisk(ApiCase):
    def document(self, size_bytes: int) -> Document:
        document = Document(
            satchel_id=self.satchel,
            name="letter.pdf",
            size_bytes=size_bytes,
            state=Document.State.WEIGHED,
            facts={"format": "pdf", "media_type": "application/pdf"},
        )
        document.file.save("original", ContentFile(b"%PDF"))
        return document

    def test_full_disk_refuses_a_file_and_says_how_much_is_missing(self) -> None:
        with _free(1_000):
            problem = self.upload(bytes(2_500_000), status=507)
        self.assertEqual(problem["code"], "no_room")
        self.assertIn("3 MB are missing", problem["detail"])
        self.assertEqual(self.shown()["documents"], [])
        self.assertEqual(list((self.folder / "files").rglob("original")), [])

    def test_full_disk_is_asked_before_the_look_for_a_csrf_token_reads_the_form(self) -> None:
        browser = Client(enforce_csrf_checks=True)
        browser.force_login(self.owner)
        token = browser.get("/api/session").cookies["csrftoken"].value
        for limits, status in ((_free(1_000), 507), (self.settings(UPLOAD_LIMIT_BYTES=900), 413)):
            with limits:
                answer = browser.post(
                    f"/api/satchels/{self.satchel}/documents",
                    {"file": SimpleUploadedFile("heavy.pdf", bytes(2_500_000))},
                    headers={"X-CSRFToken": token},
                )
            self.assertEqual(answer.status_code, status)
            self.assertNotIn("filled up", answer.json()["detail"])

    def test_full_disk_refuses_a_run_whose_copies_may_not_fit_beside_those_promised(self) -> None:
        promised = self.document(4_000_000)
        run = Run.objects.create(satchel=promised.satchel, preset="post")
        Copy.objects.create(run=run, document=promised)
        # Of another satchel: this one is not busy.
        self.satchel = self.post("/api/satchels", {"name": "Another"})["id"]
        self.document(4_000_000)
        with _free(7_000_000):
            self.post(f"/api/satchels/{self.satchel}/runs", {}, status=507)
        self.assertEqual(Run.objects.count(), 1)

    def test_a_full_disk_names_the_file_that_was_written(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch("django.core.files.storage.FileSystemStorage._save", side_effect=full):
            problem = self.upload(b"%PDF-1.7", status=507)
        self.assertIn("filled up", problem["detail"])
        self.assertEqual(self.shown()["documents"], [])


class Told(SimpleTestCase):
    def test_a_full_database_is_reported(self) -> None:
        with closing(sqlite3.connect(":memory:")) as database:
            database.execute("PRAGMA max_page_count = 2")
            database.execute("CREATE TABLE logs (note BLOB)")
            with self.assertRaises(sqlite3.OperationalError) as caught:
                database.execute("INSERT INTO logs VALUES (zeroblob(100000))")
        error = OperationalError("database or disk is full")
        error.__cause__ = caught.exception
        answer = as_problem(error, {})
        assert answer is not None
        self.assertEqual(answer.status_code, 507)
        self.assertIsNone(as_problem(OperationalError("no such table"), {}))

    def test_room_is_that_of_a_folder_still_to_be_made(self) -> None:
        with override_settings(MEDIA_ROOT="/nowhere/at/all"):
            self.assertGreater(free_bytes(), 0)
