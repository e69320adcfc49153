"""Programs that print to a satchel; by our own messages, and by CUPS's `ipptool` where it is."""

import contextlib
import io
import shutil
import subprocess
import tempfile
import threading
from pathlib import Path
from typing import Any
from unittest import skipUnless

import numpy as np
import pikepdf
from django.contrib.auth import get_user_model
from django.core.wsgi import get_wsgi_application
from django.test import TransactionTestCase, override_settings
from PIL import Image
from rest_framework.test import APIClient
from waitress.server import create_server

from printers import IppMessage, read_message, write_message
from printers.ipp import Attribute, Tag
from tests.core.formats.pdf.samples import report
from tests.core.printers.test_ipp import raster_of
from tests.web.cases import AT_ONCE, ApiCase
from web.printing.models import PrintQueue
from web.satchels.models import Document

_SUITES = Path("/usr/share/cups/ipptool")


class Printing(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.printer = self.post("/api/print-queues", {"name": "For the post", "preset": "post"})
        self.path = "/" + self.printer["uri"].split("/", 3)[3]

    def ask(
        self, code: int, document: bytes = b"", job: dict[str, Attribute] | None = None, **told: Any
    ) -> IppMessage:
        operation = {
            "attributes-charset": Attribute(Tag.CHARSET, ("utf-8",)),
            "attributes-natural-language": Attribute(Tag.LANGUAGE, ("en",)),
            "printer-uri": Attribute(Tag.URI, (self.printer["uri"],)),
            **{name.replace("_", "-"): value for name, value in told.items()},
        }
        groups = [(int(Tag.OPERATION), operation)]
        if job:
            groups.append((int(Tag.JOB), job))
        request = write_message(IppMessage(code, 5, (2, 0), groups)) + document
        with self.captureOnCommitCallbacks(execute=True):
            answer = APIClient().post(self.path, request, content_type="application/ipp")
        self.assertEqual(answer.status_code, 200)
        return read_message(io.BytesIO(answer.content))

    def print_it(self, document: bytes, name: str = "Minutes", **more: Any) -> IppMessage:
        return self.ask(2, document, job_name=Attribute(Tag.NAME, (name,)), **more)

    def jobs(self) -> list[Any]:
        (printer,) = self.send("get", "/api/print-queues")
        return list(printer["jobs"])

    def test_printing_puts_a_pdf_into_the_satchel_of_its_preset(self) -> None:
        answer = self.print_it(self.report(), "../Minutes: May.pdf")
        self.assertEqual(answer.code, 0)
        self.assertEqual(answer.group(Tag.JOB)["job-id"].values, (1,))
        document = Document.objects.get()
        self.assertEqual((document.name, document.state), ("Minutes  May.pdf", "weighed"))
        self.assertEqual(document.satchel.preset, "post")
        (job,) = self.jobs()
        self.assertEqual((job["state"], job["pages"]), ("completed", 2))
        self.print_it(self.report())
        self.assertEqual(document.satchel.documents.count(), 2)

    def test_printing_has_a_picture_of_three_sizes(self) -> None:
        """PWG 5100.13, from memory: small, medium and large, in PNG."""
        addresses = self.ask(11).group(Tag.PRINTER)["printer-icons"].values
        for address, size in zip(addresses, (48, 128, 512), strict=True):
            answer = self.client.get("/" + str(address).split("/", 3)[3])
            with Image.open(io.BytesIO(answer.getvalue())) as picture:
                self.assertEqual((picture.format, picture.size), ("PNG", (size, size)))

    def test_printing_takes_only_the_pages_that_are_asked_for(self) -> None:
        self.print_it(self.report(), job={"page-ranges": Attribute(Tag.RANGE, ((2, 2),))})
        with pikepdf.Pdf.open(Document.objects.get().file.path) as pdf:
            self.assertEqual(len(pdf.pages), 1)

    def test_printing_makes_a_pdf_of_raster_pages(self) -> None:
        pages = [np.full((330, 250), 255 - 40 * n, np.uint8) for n in range(2)]
        raster = raster_of(pages[0]) + raster_of(pages[1])[4:]
        self.assertEqual(self.print_it(raster).code, 0)
        with pikepdf.Pdf.open(Document.objects.get().file.path) as pdf:
            self.assertEqual(len(pdf.pages), 2)
            self.assertAlmostEqual(float(pdf.pages[0].mediabox[2]), 250 / 300 * 72, delta=0.5)

    def test_printing_refuses_what_it_cannot_take_and_says_why(self) -> None:
        for document in (b"", b"plain words", b"RaS2" + bytes(60)):
            answer = self.print_it(document)
            self.assertGreaterEqual(answer.code, 0x0400)
            self.assertTrue(answer.group(Tag.OPERATION)["status-message"].values[0])
        self.assertEqual({job["state"] for job in self.jobs()}, {"aborted"})
        self.assertFalse(Document.objects.exists())

    def test_printing_takes_jobs_in_two_steps_and_lets_them_be_cancelled(self) -> None:
        begun = self.ask(5, job_name=Attribute(Tag.NAME, ("Map",)))
        number = Attribute(Tag.INTEGER, begun.group(Tag.JOB)["job-id"].values)
        self.assertEqual(self.jobs()[0]["state"], "pending")
        self.assertEqual(self.ask(8, job_id=number).code, 0)
        self.assertEqual(self.jobs()[0]["state"], "canceled")
        last = Attribute(Tag.BOOLEAN, (True,))
        self.assertEqual(self.ask(6, self.report(), job_id=number, last_document=last).code, 0x0404)

    def test_printing_is_one_accounts_and_its_address_can_end(self) -> None:
        other = APIClient()
        other.force_authenticate(get_user_model().objects.create_user("other", password="x" * 12))
        self.assertEqual(other.get("/api/print-queues").json(), [])
        path = f"/api/print-queues/{self.printer['id']}"
        self.assertEqual(other.delete(path).status_code, 404)
        self.post(f"{path}/renew", status=200)
        gone = APIClient().post(self.path, b"", content_type="application/ipp")
        self.assertEqual(gone.status_code, 404)

    def test_printing_answers_what_is_no_message(self) -> None:
        for body in (b"", b"\x01\x01", b"\xff" * 40):
            answer = APIClient().post(self.path, body, content_type="application/ipp")
            self.assertEqual(answer.status_code, 400)
        self.assertEqual(APIClient().get(self.path).status_code, 405)


@skipUnless(shutil.which("ipptool") and _SUITES.is_dir(), "no ipptool here")
class Conformance(TransactionTestCase):
    """Behind the server that ships, as the test server cannot read requests in chunks."""

    def test_conformance_of_the_standard_is_found_by_cups(self) -> None:
        """RFC 8011 as the conformance file of CUPS's own tool asks for it."""
        owner = get_user_model().objects.create_user("owner", password="reeds and rushes")
        queue = PrintQueue.objects.create(owner=owner, name="Tool", preset="post")
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        file = report(folder / "report.pdf").path
        server = create_server(get_wsgi_application(), listen="127.0.0.1:0", threads=1)

        def serve() -> None:
            with contextlib.suppress(OSError):  # as it is closed while it waits
                server.run()

        serving = threading.Thread(target=serve, daemon=True)
        uri = f"ipp://127.0.0.1:{server.effective_port}/ipp/print/{queue.token}"
        with override_settings(MEDIA_ROOT=folder / "files", TASKS=AT_ONCE, HAS_TRIALS=False):
            serving.start()
            ran = subprocess.run(
                ["ipptool", "-tI", "-f", str(file), "-T", "20", uri, "ipp-1.1.test"],
                cwd=_SUITES,
                capture_output=True,
                text=True,
                timeout=100,
                check=False,
            )
            server.close()
        self.assertIn(" 0 failed", ran.stdout, ran.stdout[-3000:])
