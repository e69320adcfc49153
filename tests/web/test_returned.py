"""Copies that came back from somewhere, proved against their document."""

from pathlib import Path
from typing import Any

import pikepdf
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from rest_framework.test import APIClient

from tests.web.cases import ApiCase
from web.satchels.models import ReturnedCopy


class Returned(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.content = self.report()
        self.document = self.upload(self.content)["id"]
        self.path = f"/api/documents/{self.document}/returned"

    def convert_with_office(self, content: bytes, name: str = "back.pdf") -> Any:
        """The copy as it is shown once its proof is through."""
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.api.post(
                self.path, {"file": SimpleUploadedFile(name, content)}, format="multipart"
            )
        self.assertEqual(answer.status_code, 201, getattr(answer, "data", ""))
        return self.send("get", self.path)[0]

    def test_the_document_itself_is_the_same(self) -> None:
        returned = self.convert_with_office(self.content)
        self.assertEqual((returned["state"], returned["verdict"]), ("done", "same"))
        self.assertEqual(returned["name"], "back.pdf")
        self.assertEqual(len(self.shown()["documents"]), 1)

    def test_a_returned_file_with_other_words_has_the_verdict_check(self) -> None:
        changed = self.folder / "changed.pdf"
        with pikepdf.open(self.folder / "report-source.pdf") as pdf:
            text = pdf.pages[0].Contents
            text.write(text.read_bytes().replace(b"forty", b"fifty"))
            pdf.save(changed)
        returned = self.convert_with_office(changed.read_bytes())
        self.assertEqual(returned["verdict"], "check")
        self.assertIn("page 1: its text is not the same", returned["reasons"])

    def test_a_returned_file_of_another_kind_is_reported_and_loses_nothing(self) -> None:
        returned = self.convert_with_office(b"%PDF-1.7 and no more", "torn.pdf")
        self.assertEqual(returned["state"], "failed")
        self.assertIn("torn.pdf", returned["error_message"])
        original = self.api.get(f"/api/documents/{self.document}/original")
        self.assertEqual(b"".join(original.streaming_content), self.content)

    def test_returned_can_be_thrown_away_with_its_file(self) -> None:
        returned = self.convert_with_office(self.content)
        path = Path(ReturnedCopy.objects.get(pk=returned["id"]).file.path)
        self.assertTrue(path.exists())
        self.assertEqual(self.api.delete(f"/api/returned/{returned['id']}").status_code, 204)
        self.assertFalse(path.exists())
        self.assertEqual(self.send("get", self.path), [])

    def test_others_see_none_of_it(self) -> None:
        mine = self.convert_with_office(self.content)["id"]
        other = APIClient()
        other.force_authenticate(
            get_user_model().objects.create_user("other", password="sedge and reeds")
        )
        self.assertEqual(other.get(self.path).status_code, 404)
        self.assertEqual(other.delete(f"/api/returned/{mine}").status_code, 404)
        body = {"file": SimpleUploadedFile("a.pdf", self.content)}
        self.assertEqual(other.post(self.path, body, format="multipart").status_code, 404)
