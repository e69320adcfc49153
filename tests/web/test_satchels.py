"""The way of a document through the application."""

import io
import zipfile
from datetime import timedelta
from typing import Any
from unittest.mock import patch

import pikepdf
from django.apps import apps
from django.core.management import call_command
from django.test import override_settings
from django.utils import timezone

from lighten import message_bytes
from tests.core.formats.pdf.samples import signed
from tests.web.cases import ApiCase
from web.jobs.nursery import JobProcess, Nursery
from web.jobs.runner import start_job
from web.satchels.models import Copy, Document, Satchel
from web.satchels.sheets.sheet_serializers import SheetSerializer
from web.satchels.tasks import make_copy, weigh_document


class Documents(ApiCase):
    def test_documents_are_weighed_when_they_come_in(self) -> None:
        content = self.report()
        self.upload(content, folder="reports")
        (document,) = self.shown()["documents"]
        self.assertEqual(document["state"], "weighed", document)
        self.assertEqual((document["pages"], document["folder"]), (2, "reports"))
        self.assertEqual(document["size_bytes"], len(content))
        estimate = document["estimates"]["reading-desk"]
        self.assertLess(estimate["low"], estimate["bytes"])
        self.assertLess(estimate["bytes"], len(content))

    def test_documents_are_kept_byte_for_byte(self) -> None:
        content = self.report()
        document = self.upload(content)
        answer = self.api.get(f"/api/documents/{document['id']}/original")
        self.assertEqual(b"".join(answer.streaming_content), content)

    def test_documents_have_a_sheet_that_adds_up(self) -> None:
        document = self.upload(self.report())
        sheet = self.send("get", f"/api/documents/{document['id']}/sheet")
        self.assertEqual(sum(part["bytes"] for part in sheet["parts"]), document["size_bytes"])
        self.assertEqual(sum(kind["bytes"] for kind in sheet["kinds"]), document["size_bytes"])
        self.assertFalse(sheet["is_measured"])
        picture = next(part for part in sheet["parts"] if part["picture"])
        self.assertTrue(picture["reason"])

    def test_documents_give_their_sheets_in_the_documented_form(self) -> None:
        document = self.upload(self.report())
        sheet = self.send("get", f"/api/documents/{document['id']}/sheet")
        self.assertEqual(SheetSerializer(sheet).data, sheet)

    def test_documents_show_their_pictures(self) -> None:
        document = self.upload(self.report())
        sheet = self.send("get", f"/api/documents/{document['id']}/sheet")
        part = next(part for part in sheet["parts"] if part["picture"])["id"]
        path = f"/api/documents/{document['id']}/thumbnail"
        answer = self.api.get(path, {"part": part})
        self.assertEqual(answer["Content-Type"], "image/png")
        for wrong in ("picture:999-0", "../../secret", "font:1-0", ""):
            self.assertEqual(self.api.get(path, {"part": wrong}).status_code, 404)

    def test_documents_that_cannot_be_read_say_why_and_leave_the_others(self) -> None:
        self.upload(self.report())
        self.upload(b"%PDF-1.4 cut", "cut.pdf")
        self.upload(b"", "empty.pdf")
        self.upload(b"PK\x03\x04 no pdf", "office.docx")
        documents = {one["name"]: one for one in self.shown()["documents"]}
        self.assertEqual(documents["report.pdf"]["state"], "weighed")
        codes = {name: (one["error"] or {}).get("code") for name, one in documents.items()}
        self.assertEqual(codes["cut.pdf"], "unreadable")
        self.assertEqual(codes["empty.pdf"], "unreadable")
        self.assertEqual(codes["office.docx"], "unsupported")
        self.assertIn("office.docx", documents["office.docx"]["error"]["message"])

    def test_documents_that_are_locked_take_a_password(self) -> None:
        lock = pikepdf.Encryption(owner="o", user="reed", R=6)
        document = self.upload(self.report(encryption=lock))
        path = f"/api/documents/{document['id']}/password"
        self.assertEqual(self.shown()["documents"][0]["error"]["code"], "password_needed")
        self.post(path, {"password": "wrong"}, status=204)
        self.assertIn("not right", self.shown()["documents"][0]["error"]["message"])
        self.post(path, {"password": "reed"}, status=204)
        self.assertEqual(self.shown()["documents"][0]["state"], "weighed")

    def test_documents_are_deleted_with_their_files(self) -> None:
        document = self.upload(self.report())
        self.assertTrue(list((self.folder / "files").rglob("original")))
        self.send("delete", f"/api/documents/{document['id']}", status=204)
        self.assertFalse(list((self.folder / "files").rglob("original")))

    @override_settings(UPLOAD_LIMIT_BYTES=1000)
    def test_documents_that_are_too_heavy_are_refused(self) -> None:
        answer = self.upload(b"%PDF" + b"0" * 20_000, status=413)
        self.assertEqual(answer["code"], "too_large")

    def test_names_never_reach_the_file_system(self) -> None:
        self.upload(self.report(), "../../../evil.pdf", folder="../..")
        names = {path.name for path in self.folder.rglob("*")}
        self.assertNotIn("evil.pdf", names)

    def test_documents_survive_the_death_of_their_process(self) -> None:
        jobs = apps.get_app_config("jobs")
        with (
            patch("web.jobs.nursery.sys.executable", "false"),
            patch.object(jobs, "nursery", Nursery()),
        ):
            self.upload(self.report())
        error = self.shown()["documents"][0]["error"]
        self.assertEqual(error["code"], "stopped")
        self.assertIn("nothing was changed", error["message"])

    def test_documents_are_weighed_once_more_where_their_process_was_killed(self) -> None:
        told: list[bool] = []

        def start(*order: Any) -> JobProcess:
            process = start_job(*order)
            if not told:
                process.kill()
            told.append(True)
            return process

        with patch("web.jobs.runner.start_job", side_effect=start):
            self.upload(self.report())
        self.assertEqual((self.shown()["documents"][0]["state"], len(told)), ("weighed", 2))

    @override_settings(TASK_LIMIT_SECONDS=0)
    def test_documents_that_take_too_long_are_stopped(self) -> None:
        self.upload(self.report())
        self.assertEqual(self.shown()["documents"][0]["error"]["code"], "too_slow")

    @override_settings(TASK_LIMIT_MEMORY_BYTES=100_000_000)
    def test_documents_that_need_too_much_memory_fail_alone(self) -> None:
        self.upload(self.report())
        document = self.shown()["documents"][0]
        self.assertEqual(document["state"], "failed")
        self.assertIn(document["error"]["code"], ("too_large", "stopped"))


class Runs(ApiCase):
    def run_with(self, preset: str = "reading-desk", **options: bool) -> None:
        self.send("patch", f"/api/satchels/{self.satchel}", {"preset": preset})
        self.post(f"/api/satchels/{self.satchel}/runs", options)

    def test_runs_make_proved_copies(self) -> None:
        document = self.upload(self.report())
        self.run_with()
        shown = self.shown()
        copy = shown["documents"][0]["copy"]
        self.assertEqual(copy["state"], "done", copy)
        self.assertIn(copy["verdict"], ("same", "close"))
        self.assertEqual(copy["bytes_message"], message_bytes(copy["bytes_after"]))
        self.assertFalse(shown["run"]["is_busy"])
        answer = self.api.get(f"/api/copies/{copy['id']}/file")
        content = b"".join(answer.streaming_content)
        self.assertEqual(len(content), copy["bytes_after"])
        self.assertIn('filename="report-light.pdf"', answer["Content-Disposition"])
        self.assertIn("attachment", answer["Content-Disposition"])
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")
        self.assertEqual(len(pikepdf.open(io.BytesIO(content)).pages), 2)
        sheet = self.send("get", f"/api/documents/{document['id']}/sheet")
        self.assertTrue(sheet["is_measured"])

    def test_runs_can_be_repeated_with_another_preset(self) -> None:
        self.upload(self.report())
        self.run_with("reading-desk")
        first = self.shown()["documents"][0]["copy"]["bytes_after"]
        self.run_with("post")
        shown = self.shown()
        self.assertEqual(shown["preset"], "post")
        self.assertLess(shown["documents"][0]["copy"]["bytes_after"], first)

    def test_runs_give_all_copies_as_a_zip_with_folders(self) -> None:
        for folder in ("2025/logs", "", ""):
            self.upload(self.report(), folder=folder)
        self.run_with()
        answer = self.api.get(f"/api/runs/{self.shown()['run']['id']}/bundle")
        with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as bundle:
            self.assertIsNone(bundle.testzip())
            names = sorted(bundle.namelist())
        wanted = ["2025/logs/report-light.pdf", "report-light 2.pdf", "report-light.pdf"]
        self.assertEqual(names, wanted)

    def test_runs_refuse_signed_documents_until_confirmed(self) -> None:
        self.upload(signed(self.folder / "signed.pdf").path.read_bytes(), "signed.pdf")
        self.run_with()
        self.assertEqual(self.shown()["documents"][0]["copy"]["error"]["code"], "signed")
        self.run_with(may_end_signature=True)
        self.assertEqual(self.shown()["documents"][0]["copy"]["state"], "done")

    def test_runs_need_a_weighed_document(self) -> None:
        path = f"/api/satchels/{self.satchel}/runs"
        answer = self.post(path, {"preset": "post"}, status=409)
        self.assertEqual(answer["code"], "nothing_weighed")

    def test_runs_can_be_cancelled(self) -> None:
        self.upload(self.report())
        with patch("web.satchels.copies.runs.start_copies"):
            self.run_with()
        run = self.shown()["run"]["id"]
        self.post(f"/api/satchels/{self.satchel}/runs", {"preset": "post"}, status=409)
        self.post(f"/api/runs/{run}/cancel", status=200)
        copy = Copy.objects.get()
        self.assertEqual(copy.state, Copy.State.CANCELLED)
        make_copy.call(str(copy.pk))
        copy.refresh_from_db()
        self.assertEqual((copy.state, copy.file.name), (Copy.State.CANCELLED, ""))

    def test_cancelled_in_the_middle_leave_nothing(self) -> None:
        self.upload(self.report())
        with patch.object(Copy, "is_wanted", return_value=False):
            self.run_with()
        self.assertFalse(list((self.folder / "files").rglob("copy-*")))

    def test_tasks_run_twice_do_no_harm(self) -> None:
        self.upload(self.report())
        self.run_with()
        copy = Copy.objects.get()
        weigh_document.call(str(Document.objects.get().pk))
        make_copy.call(str(copy.pk))
        make_copy.call("00000000-0000-0000-0000-000000000000")
        self.assertEqual(Copy.objects.get().bytes_after, copy.bytes_after)


class Satchels(ApiCase):
    def test_satchels_remember_limit_preset_and_names(self) -> None:
        self.upload(self.report())
        changes = {
            "limit_bytes": 5_000_000,
            "limit_carrier": "message",
            "preset": "post",
            "prefix": "small ",
            "suffix": "",
        }
        self.send("patch", f"/api/satchels/{self.satchel}", changes)
        shown = self.shown()
        self.assertLessEqual(changes.items(), shown.items())
        self.assertAlmostEqual(shown["limit_file_bytes"] / 1e6, 3.65, delta=0.01)
        self.assertEqual(shown["documents"][0]["copy_name"], "small report.pdf")

    def test_satchels_refuse_what_no_file_name_may_have(self) -> None:
        path = f"/api/satchels/{self.satchel}"
        for suffix in ("/../x", "a\\b", "a:b"):
            answer = self.send("patch", path, {"suffix": suffix}, status=400)
            self.assertIn("suffix", answer["detail"])
        self.send("patch", path, {"limit_bytes": 0}, status=400)
        self.send("patch", path, {"preset": "none such"}, status=404)

    def test_satchels_stand_on_the_shelf_with_their_weight(self) -> None:
        content = self.report()
        self.upload(content)
        self.post(f"/api/satchels/{self.satchel}/runs", {"preset": "post"})
        (row,) = self.send("get", "/api/satchels")
        self.assertEqual((row["document_count"], row["bytes_before"]), (1, len(content)))
        self.assertEqual(row["bytes_after"], Copy.objects.get().bytes_after)

    def test_satchels_go_with_everything_in_them(self) -> None:
        self.upload(self.report())
        self.send("delete", f"/api/satchels/{self.satchel}", status=204)
        self.assertFalse(list((self.folder / "files").rglob("original")))
        self.assertFalse(Satchel.objects.exists())

    def test_satchels_are_forgotten_after_the_stated_days(self) -> None:
        self.upload(self.report())
        call_command("forget_old", stdout=io.StringIO())
        self.assertTrue(Satchel.objects.exists())
        long_ago = timezone.now() - timedelta(days=31)
        Satchel.objects.update(changed_at=long_ago)
        call_command("forget_old", stdout=io.StringIO())
        self.assertFalse(Satchel.objects.exists())
        self.assertFalse(list((self.folder / "files").rglob("original")))
