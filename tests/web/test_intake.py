"""Paper taken in from a scanner that an administrator has set, until it is a document."""

import io
from datetime import timedelta
from pathlib import Path
from typing import Any

import pypdf
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import override_settings
from django.utils import timezone
from PIL import Image

from tests.builders import as_jpeg
from tests.core.pictures.pixels.test_page_corners import photo_of, seen_by_a_camera, sheet
from tests.core.pictures.scans.pages import print_page, scanned
from tests.core.scanners.stand_in import StandIn
from tests.web.cases import ApiCase
from web.intake.models import Intake, Page, Scan
from web.intake.tasks import run_scan
from web.satchels.models import Document

_SCAN = {"scanner": "Office", "source": "feeder"}


class IntakeCase(ApiCase):
    sheets: int = 2
    jam_after: int | None = None

    def setUp(self) -> None:
        super().setUp()
        self.stand_in = StandIn(self, self.sheets, self.jam_after)
        settings = override_settings(SCANNERS={"Office": self.stand_in.address})
        settings.enable()
        self.addCleanup(settings.disable)
        self.intake = self.post("/api/intakes", {"name": "Ringing logs"})["id"]
        self.path = f"/api/intakes/{self.intake}"

    def scan(self, status: int = 201, **more: Any) -> Any:
        return self.post(f"{self.path}/scans", {**_SCAN, **more}, status=status)

    def now(self) -> Any:
        return self.send("get", self.path)


class Scanning(IntakeCase):
    def test_scanned_pages_arrive_and_are_shown(self) -> None:
        self.scan()
        told = self.now()
        self.assertEqual((told["scan"]["state"], told["scan"]["pages_came"]), ("done", 2))
        page = told["pages"][0]
        self.assertEqual((page["ppi"], page["is_blank"]), (300.0, False))
        self.assertTrue(page["layers"]["is_layered"])
        self.assertLess(page["layers"]["size_bytes"], page["size_bytes"] / 3)
        for path in ("small", "worst?side=as-it-came", "worst?side=in-layers"):
            answer = self.api.get(f"/api/intake-pages/{page['id']}/{path}")
            self.assertEqual(answer["Content-Type"], "image/png", path)
            Image.open(io.BytesIO(answer.getvalue())).verify()

    def test_scanners_are_listed_by_what_they_can_and_not_by_address(self) -> None:
        told = self.send("get", "/api/scanners")
        self.assertEqual([one["name"] for one in told], ["Office"])
        feeder = next(one for one in told[0]["sources"] if one["name"] == "feeder")
        self.assertTrue(feeder["has_duplex"])
        self.assertIn(300, feeder["ppi"])
        self.assertNotIn("127.0.0.1", str(told))
        with override_settings(SCANNERS={"Attic": "http://127.0.0.1:1/eSCL"}):
            told = self.send("get", "/api/scanners")
        self.assertEqual((told[0]["state"], told[0]["sources"]), ("unreachable", []))

    def test_another_scanner_cannot_be_named(self) -> None:
        told = self.scan(status=409, scanner="http://127.0.0.1:1/eSCL")
        self.assertEqual(told["code"], "no_such_scanner")
        self.assertEqual(self.scan(status=400, source="roof")["code"], "invalid")

    def test_an_empty_feeder_is_said(self) -> None:
        self.stand_in.device.load(0, None)
        self.scan()
        told = self.now()["scan"]
        self.assertEqual(told["state"], "failed")
        self.assertIn("no paper", told["message"])

    def test_backs_come_between_their_fronts(self) -> None:
        self.scan()
        self.stand_in.device.load(2, None)
        self.scan(are_backs=True)
        pages = {str(page.pk): page for page in Page.objects.filter(intake=self.intake)}
        order = [pages[page["id"]].name for page in self.now()["pages"]]
        self.assertEqual(order, ["Page 1.jpg", "Page 4.jpg", "Page 2.jpg", "Page 3.jpg"])

    def test_a_page_scanned_again_takes_the_place_of_the_old(self) -> None:
        self.scan()
        first = self.now()["pages"][0]["id"]
        self.scan(source="glass", again=first)
        told = self.now()["pages"]
        self.assertEqual([page["is_out"] for page in told], [True, False, False])
        self.assertEqual([page["name"] for page in told][:2], ["Page 1.jpg", "Page 3.jpg"])

    def test_a_scan_whose_worker_died_is_reported_and_blocks_no_other(self) -> None:
        waiting = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}
        with override_settings(TASKS=waiting):
            self.scan()
        scan = Scan.objects.get()
        self.assertTrue(scan.begin())
        # Its worker is killed; the task goes back to the queue and is taken up by another.
        run_scan.call(str(scan.pk))
        told = self.now()["scan"]
        self.assertEqual(told["state"], "failed")
        self.assertIn("broke off", told["message"])
        self.scan()


class Jam(IntakeCase):
    sheets, jam_after = 4, 1

    def test_pages_before_a_jam_stay(self) -> None:
        self.scan()
        told = self.now()
        self.assertEqual((told["scan"]["state"], len(told["pages"])), ("failed", 1))
        self.assertIn("stuck", told["scan"]["message"])
        self.stand_in.device.load(1, None)
        self.scan()
        self.assertEqual(len(self.now()["pages"]), 2)


class Pages(IntakeCase):
    def add(self, content: bytes, name: str, *, status: int = 201) -> Any:
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.api.post(
                f"{self.path}/pages",
                {"file": SimpleUploadedFile(name, content)},
                format="multipart",
            )
        self.assertEqual(answer.status_code, status, getattr(answer, "data", ""))
        return answer.json()

    def setUp(self) -> None:
        super().setUp()
        picture = as_jpeg(scanned(print_page(60, 40)), 90, dpi=(300, 300))
        self.ids = [self.add(picture, f"{name}.jpg")["id"] for name in "ab"]

    def test_pages_are_turned_sorted_removed_and_restored(self) -> None:
        self.send("patch", f"/api/intake-pages/{self.ids[0]}", {"turn": 90})
        self.send("patch", f"/api/intake-pages/{self.ids[1]}", {"is_out": True})
        self.post(f"{self.path}/order", {"pages": self.ids[::-1]}, status=200)
        told = self.now()["pages"]
        self.assertEqual([page["id"] for page in told], self.ids[::-1])
        self.assertEqual(
            [(page["turn"], page["is_out"]) for page in told], [(0, True), (90, False)]
        )
        self.send("patch", f"/api/intake-pages/{self.ids[1]}", {"is_out": False})
        self.assertFalse(self.now()["pages"][0]["is_out"])
        self.send("patch", f"/api/intake-pages/{self.ids[0]}", {"turn": 45}, status=400)

    def test_pages_become_a_document_as_large_as_their_paper_in_a_satchel_of_scan_stack(
        self,
    ) -> None:
        self.send("patch", f"/api/intake-pages/{self.ids[1]}", {"turn": 90})
        kept = self.post(f"{self.path}/keep", {"name": "Logs", "in_layers": True})
        satchel = self.send("get", f"/api/satchels/{kept['satchel']}")
        self.assertEqual((satchel["name"], satchel["preset"]), ("Logs", "scan-stack"))
        told = satchel["documents"][0]
        self.assertEqual((told["name"], told["state"], told["pages"]), ("Logs.pdf", "weighed", 2))
        document = Document.objects.get(pk=told["id"])
        self.assertFalse((document.folder_path / "pages-taken-in").exists())
        pages = pypdf.PdfReader(io.BytesIO(document.file.read())).pages
        sizes = [
            tuple(round(float(side) / 72 * 25.4) for side in (*page.mediabox[2:],))
            for page in pages
        ]
        self.assertEqual(sizes, [(60, 40), (40, 60)])
        # They stay on hand.
        self.assertEqual(len(self.now()["pages"]), 2)

    def test_pages_that_cannot_be_read_are_said_and_have_to_go_first(self) -> None:
        bad = self.add(b"no picture", "c.jpg")["id"]
        told = self.now()["pages"][-1]
        self.assertIn("c.jpg", told["error_message"])
        refused = self.post(f"{self.path}/keep", {"name": "a"}, status=409)
        self.assertEqual(refused["code"], "unreadable")
        self.send("patch", f"/api/intake-pages/{bad}", {"is_out": True})
        self.post(f"{self.path}/keep", {"name": "a", "in_layers": False})

    def test_pages_of_others_are_not_there(self) -> None:
        stranger = get_user_model().objects.create_user("stranger")
        self.api.force_authenticate(stranger)
        for path in (
            self.path,
            f"/api/intake-pages/{self.ids[0]}/small",
            f"/api/intake-pages/{self.ids[0]}/worst?side=in-layers",
        ):
            self.assertEqual(self.api.get(path).status_code, 404, path)
        self.send("patch", f"/api/intake-pages/{self.ids[0]}", {"is_out": True}, status=404)
        self.assertEqual(self.send("get", "/api/intakes"), [])

    def test_pages_are_forgotten_after_the_stated_days(self) -> None:
        call_command("forget_old", stdout=io.StringIO())
        self.assertTrue(Page.objects.exists())
        Intake.objects.update(created_at=timezone.now() - timedelta(days=31))
        call_command("forget_old", stdout=io.StringIO())
        self.assertFalse(Intake.objects.exists())
        self.assertFalse(list((self.folder / "files").rglob("picture")))

    def test_heavier_than_may_be_are_refused_before_they_are_read(self) -> None:
        with override_settings(UPLOAD_LIMIT_BYTES=10):
            told = self.add(b"x" * 20_000, "heavy.jpg", status=413)
        self.assertEqual(told["code"], "too_large")

    def test_pages_go_with_their_intake(self) -> None:
        folder = Intake.objects.get(pk=self.intake).folder_path
        self.assertTrue(any(Path(folder).iterdir()))
        self.send("delete", self.path, status=204)
        self.assertFalse(Path(folder).exists())
        self.assertFalse(Page.objects.exists())


class Photos(IntakeCase):
    def test_a_photo_of_a_sheet_becomes_the_sheet_by_choice(self) -> None:
        corners = seen_by_a_camera((12.0, 18.0), (750, 1000))
        photo = as_jpeg(photo_of(sheet(), corners, (750, 1000)))
        page = self.put_on(photo)
        self.assertIsNone(page["corners"])
        for found, placed in zip(page["found_corners"], corners, strict=True):
            self.assertAlmostEqual(found[0], placed[0], delta=0.02)
            self.assertAlmostEqual(found[1], placed[1], delta=0.02)
        path = f"/api/intake-pages/{page['id']}"
        self.assertEqual(self.api.get(f"{path}/whole")["Content-Type"], "image/jpeg")
        with self.captureOnCommitCallbacks(execute=True):
            self.send("patch", path, {"corners": page["found_corners"]})
        small = Image.open(io.BytesIO(self.api.get(f"{path}/small").getvalue()))
        self.assertAlmostEqual(small.height / small.width, 2**0.5, delta=0.02)
        self.post(f"{self.path}/keep", {"name": "Receipts"}, status=201)
        document = Document.objects.get()
        with document.file.open() as file:
            (shown,) = list(pypdf.PdfReader(file).pages)
        self.assertAlmostEqual(float(shown.mediabox.height), 297 / 25.4 * 72, delta=1)

    def test_corners_that_make_no_sheet_are_refused(self) -> None:
        page = self.put_on(as_jpeg(sheet()))
        path = f"/api/intake-pages/{page['id']}"
        square = [[0, 0], [1, 0], [1, 1], [0, 1]]
        for corners in (
            square[::-1],
            square[:3],
            [[0, 0]] * 4,
            [[0, 0, 0], *square[1:]],
            "x",
            [2] * 4,
        ):
            with self.subTest(corners):
                told = self.send("patch", path, {"corners": corners}, status=400)
                self.assertEqual(told["code"], "invalid")

    def put_on(self, content: bytes) -> Any:
        file = SimpleUploadedFile("receipt.jpg", content)
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.api.post(f"{self.path}/pages", {"file": file}, format="multipart")
        self.assertEqual(answer.status_code, 201, answer.content)
        return self.now()["pages"][-1]
