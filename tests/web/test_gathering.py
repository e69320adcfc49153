"""Pictures of a satchel put on the pages of one more document."""

import io
import tempfile
from pathlib import Path

import pypdf
from django.contrib.auth import get_user_model
from django.test import override_settings

from tests.builders import as_jpeg, landscape
from tests.core.formats.tiff.samples import scanned
from tests.web.cases import ApiCase
from web.satchels.models import Document, Satchel
from web.satchels.tasks import weigh_document


class Gathering(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.photos = [
            self.upload(as_jpeg(landscape(300, 200, seed)), f"{seed}.jpg") for seed in (1, 2)
        ]
        self.path = f"/api/satchels/{self.satchel}/gather"
        self.ids = [photo["id"] for photo in self.photos]

    def test_gathering_becomes_a_document_of_the_satchel_weighed_like_others(self) -> None:
        body = {"documents": self.ids[::-1], "name": "Nest/box", "page": "a4", "turns": {"2": 90}}
        gathered = self.post(self.path, body)
        self.assertEqual((gathered["name"], gathered["state"]), ("Nest-box.pdf", "waiting"))
        shown = self.shown()["documents"][-1]
        self.assertEqual((shown["state"], shown["pages"], shown["format"]), ("weighed", 2, "pdf"))
        document = Document.objects.get(pk=gathered["id"])
        self.assertIsNone(document.gathering)
        content = document.file.read()
        self.assertEqual(shown["size_bytes"], len(content))
        pages = pypdf.PdfReader(io.BytesIO(content)).pages
        self.assertEqual(
            [page.mediabox.width > page.mediabox.height for page in pages], [True, False]
        )
        self.post(f"/api/satchels/{self.satchel}/runs", {"documents": [gathered["id"]]})
        copy = self.shown()["documents"][-1]["copy"]
        self.assertEqual((copy["state"], copy["verdict"]), ("done", "close"))

    def test_pages_of_a_tiff_are_pages(self) -> None:
        path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "log.tif"
        scans = self.upload(scanned(path).path.read_bytes(), "log.tif")
        documents = [*self.ids, scans["id"]]
        gathered = self.post(
            self.path, {"documents": documents, "name": "a", "turns": {"5": 90}}, status=201
        )
        shown = next(one for one in self.shown()["documents"] if one["id"] == gathered["id"])
        self.assertEqual((shown["state"], shown["pages"]), ("weighed", 5))
        self.post(self.path, {"documents": documents, "name": "a", "turns": {"6": 90}}, status=409)

    def test_a_document_that_is_not_a_picture_of_the_satchel_is_refused(self) -> None:
        report = self.upload(self.report())
        other = get_user_model().objects.create_user("other")
        stranger = Satchel.objects.create(owner=other, name="Theirs")
        theirs = Document.objects.create(satchel=stranger, name="x.jpg", size_bytes=1)
        for documents in ([report["id"]], [str(theirs.pk)], [*self.ids, str(theirs.pk)]):
            told = self.post(self.path, {"documents": documents, "name": "a"}, status=409)
            self.assertEqual(told["code"], "no_pictures")
        for wrong in (
            {"documents": []},
            {"documents": self.ids * 2},
            {"documents": self.ids, "page": "a0"},
            {"documents": self.ids, "turns": {"1": 45}},
            {"documents": self.ids, "turns": {"x": 90}},
        ):
            with self.subTest(wrong=wrong):
                self.post(self.path, {"name": "a", **wrong}, status=400)
        told = self.post(
            self.path, {"documents": self.ids, "name": "a", "turns": {"3": 90}}, status=409
        )
        self.assertEqual(told["code"], "no_such_page")
        self.assertEqual(len(self.shown()["documents"]), 3)

    def test_a_picture_that_goes_before_it_is_done_is_said(self) -> None:
        waiting = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}
        with override_settings(TASKS=waiting):
            gathered = self.post(self.path, {"documents": self.ids, "name": "a"})
            self.send("delete", f"/api/documents/{self.ids[0]}", status=204)
        weigh_document.call(gathered["id"])
        shown = self.shown()["documents"][-1]
        self.assertEqual(shown["state"], "failed")
        self.assertIn("was removed", shown["error"]["message"])
        # There is nothing of it that another satchel could have.
        twin = self.post(f"/api/satchels/{self.satchel}/duplicate")
        names = [
            one["name"] for one in self.send("get", f"/api/satchels/{twin['id']}")["documents"]
        ]
        self.assertEqual(names, ["2.jpg"])

    def test_a_broken_off_attempt_is_made_again(self) -> None:
        waiting = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}
        with override_settings(TASKS=waiting):
            gathered = self.post(self.path, {"documents": self.ids, "name": "a"})
        document = Document.objects.get(pk=gathered["id"])
        document.folder_path.mkdir(parents=True)
        (document.folder_path / "original").write_bytes(b"half")
        weigh_document.call(gathered["id"])
        self.assertEqual(self.shown()["documents"][-1]["state"], "weighed")
