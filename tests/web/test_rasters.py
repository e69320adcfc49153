"""Pages of a document as pictures, over HTTP."""

import io
import zipfile
from typing import Any

from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from PIL import Image

from tests.web.cases import ApiCase
from web.rasters.models import Raster
from web.rasters.tasks import draw_pages
from web.satchels.models import Document


class Rasters(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        document = Document(
            satchel_id=self.satchel,
            name="report.pdf",
            size_bytes=1,
            state=Document.State.WEIGHED,
            facts={"format": "pdf", "media_type": "application/pdf"},
        )
        document.file.save("original", ContentFile(self.report()))
        self.path = f"/api/documents/{document.pk}/rasters"

    def made(self, **wanted: Any) -> Any:
        raster = self.post(self.path, {"ppi": 120, **wanted}, status=201)
        return self.send("get", f"/api/rasters/{raster['id']}")

    def content(self, raster: Any) -> bytes:
        answer = self.api.get(f"/api/rasters/{raster['id']}/file")
        self.assertEqual(answer.status_code, 200)
        self.assertIn("attachment", answer["Content-Disposition"])
        return answer.getvalue()

    def test_rasters_become_one_tiff(self) -> None:
        raster = self.made(colours="bitonal")
        self.assertEqual((raster["state"], raster["file_name"]), ("done", "report.tif"))
        content = self.content(raster)
        self.assertEqual(len(content), raster["size_bytes"])
        with Image.open(io.BytesIO(content)) as image:
            self.assertEqual(image.n_frames, len(raster["pages"]))  # type: ignore[attr-defined]

    def test_rasters_or_one_each_in_a_zip(self) -> None:
        raster = self.made(colours="grey", is_each=True)
        with zipfile.ZipFile(io.BytesIO(self.content(raster))) as archive:
            names = archive.namelist()
        self.assertEqual(names[0], "report-001.tif")
        self.assertEqual(len(names), len(raster["pages"]))

    def test_rasters_show_where_they_have_lost_most(self) -> None:
        raster = self.made(colours="bitonal", keeps_photos_grey=False)
        page = next(page for page in raster["pages"] if page["has_place"])
        for side in ("before", "after"):
            path = f"/api/rasters/{raster['id']}/place?page={page['page']}&side={side}"
            answer = self.api.get(path)
            self.assertEqual(answer["Content-Type"], "image/png")
            Image.open(io.BytesIO(answer.getvalue())).verify()
        for wrong in ("page=99&side=before", "page=1&side=x", "page=../x&side=after", ""):
            answer = self.api.get(f"/api/rasters/{raster['id']}/place?{wrong}")
            self.assertIn(answer.status_code, (404, 409), wrong)

    def test_unreadably_small_text_is_refused_with_its_page(self) -> None:
        raster = self.made(ppi=60)
        self.assertEqual((raster["state"], raster["error_code"]), ("failed", "too_coarse"))
        self.assertIn("page 1", raster["error_message"])
        self.assertEqual(self.made(ppi=60, may_blur_text=True)["state"], "done")

    def test_the_last_one_counts_and_goes_with_its_files(self) -> None:
        first = self.made()
        folder = Raster.objects.get(pk=first["id"]).folder_path
        second = self.made()
        self.assertEqual([one["id"] for one in self.send("get", self.path)], [second["id"]])
        self.assertFalse(folder.exists())
        self.send("delete", f"/api/rasters/{second['id']}", status=204)
        self.assertEqual(self.send("get", self.path), [])
        draw_pages.call(second["id"])

    def test_wrong_wishes_are_refused(self) -> None:
        for wrong in ({"ppi": 5}, {"ppi": 99999}, {"colours": "many"}, {"threshold": 0}):
            with self.subTest(wrong):
                self.post(self.path, wrong, status=400)
        Document.objects.update(state=Document.State.WEIGHING)
        self.post(self.path, {}, status=409)

    def test_rasters_those_of_others_are_not_there(self) -> None:
        raster = self.made()
        self.api.force_authenticate(get_user_model().objects.create_user("other"))
        self.post(self.path, {}, status=404)
        for path in ("", "/file", "/place?page=1&side=before"):
            answer = self.api.get(f"/api/rasters/{raster['id']}{path}")
            self.assertEqual(answer.status_code, 404)
