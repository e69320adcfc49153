"""Loose pictures on their way through the application."""

import io
from typing import Any

from PIL import Image

from tests.core.formats.picture.samples import camera_photo, photo_bytes
from tests.web.cases import ApiCase


class Pictures(ApiCase):
    def uploaded(self) -> bytes:
        content = camera_photo(self.folder / "camera.jpg").path.read_bytes()
        self.upload(content, "Nest box.jpg")
        return content

    def copied(self) -> Any:
        """The copy of the one document, after a run."""
        self.run_id = self.post(f"/api/satchels/{self.satchel}/runs", {})["id"]
        copy = self.shown()["documents"][0]["copy"]
        self.assertEqual(copy["state"], "done", copy)
        return copy

    def downloaded(self, copy: Any) -> tuple[str, bytes]:
        """The name and the bytes of a copy as a browser gets them."""
        answer = self.api.get(f"/api/copies/{copy['id']}/file")
        return answer["Content-Disposition"], b"".join(answer.streaming_content)

    def test_pictures_are_weighed_as_what_they_are(self) -> None:
        content = self.uploaded()
        (document,) = self.shown()["documents"]
        self.assertEqual((document["kind_title"], document["pages"]), ("JPEG", None))
        sheet = self.send("get", f"/api/documents/{document['id']}/sheet")
        self.assertEqual(sum(part["bytes"] for part in sheet["parts"]), len(content))
        self.assertLessEqual({"Location", "Maker's notes"}, {one["name"] for one in sheet["parts"]})

    def test_pictures_become_proved_copies_that_are_drawn_by_part(self) -> None:
        content = self.uploaded()
        copy = self.copied()
        self.assertIn(copy["verdict"], ("same", "close"))
        name, lighter = self.downloaded(copy)
        self.assertIn('filename="Nest box-light.jpg"', name)
        self.assertLess(len(lighter), len(content))
        with Image.open(io.BytesIO(lighter)) as image:
            self.assertEqual(image.format, "JPEG")
        path = f"/api/copies/{copy['id']}"
        proof = self.send("get", f"{path}/proof")
        self.assertFalse(proof["has_pages"])
        place = proof["places"][0]
        self.assertIsNone(place["page"])
        for side in ("original", "copy", "difference"):
            query = {"part": place["part"], "side": side, "dpi": 100}
            answer = self.api.get(f"{path}/drawing", query)
            self.assertEqual(answer.status_code, 200, side)
            drawn = b"".join(answer.streaming_content)
            self.assertEqual(Image.open(io.BytesIO(drawn)).format, "PNG")
        refused = self.api.get(f"{path}/drawing", {"part": "../../secret", "side": "copy"})
        self.assertEqual(refused.status_code, 422)

    def test_pictures_change_their_ending_with_their_kind(self) -> None:
        self.upload(photo_bytes("BMP"), "Old chart.bmp")
        name, content = self.downloaded(self.copied())
        with Image.open(io.BytesIO(content)) as image:
            ending = {"PNG": "png", "JPEG": "jpg"}[str(image.format)]
        self.assertIn(f'filename="Old chart-light.{ending}"', name)

    def test_removed_parts_are_listed_on_the_slip(self) -> None:
        self.uploaded()
        self.copied()
        (row,) = self.send("get", f"/api/runs/{self.run_id}/slip")["rows"]
        self.assertTrue(row["gone"], row)

    def test_pictures_that_are_damaged_say_so(self) -> None:
        content = self.uploaded()
        self.upload(content[: len(content) // 3], "half.jpg")
        documents = {document["name"]: document for document in self.shown()["documents"]}
        self.assertEqual(documents["half.jpg"]["error"]["code"], "unreadable")
        self.assertIn("half.jpg", documents["half.jpg"]["error"]["message"])
        self.assertEqual(documents["Nest box.jpg"]["state"], "weighed")

    def test_fitted_to_a_limit_end_below_it(self) -> None:
        limit = len(self.uploaded()) // 3
        choices = {"limit_bytes": limit, "is_fitted": True}
        self.send("patch", f"/api/satchels/{self.satchel}", choices)
        self.assertLessEqual(self.copied()["bytes_after"], limit)
