"""The whole way of a person, in a real browser: drop, weigh, choose, make, see, download."""

import os
import re
import shutil
import tempfile
import time
from pathlib import Path
from typing import Any

import pypdf
from django.contrib.auth import get_user_model
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import override_settings, tag
from PIL import Image
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.core.formats.pdf.samples import report
from tests.core.formats.picture.samples import camera_photo
from tests.core.making.test_run_trials import album
from tests.core.scanners.stand_in import StandIn
from tests.web.cases import AT_ONCE

_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
_PASSWORD = "reeds and rushes"
# Two cores may have much to do beside.
_WITHIN_MS = 60_000
# Others need not wait for them.
_WITH_TRIALS = {"test_journeys_fits_a_limit_looks_under_the_loupe_and_makes_a_picture_gentler"}


class BrowserCase(StaticLiveServerTestCase):
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        # Playwright's loop makes Django believe that it runs in one.
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        super().setUpClass()
        expect.set_options(timeout=_WITHIN_MS)
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        cls.browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=_FLAGS
        )
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp(prefix="browser-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        settings = override_settings(
            TASKS=AT_ONCE,
            MEDIA_ROOT=self.folder / "files",
            CODINGS_PATH=self.folder / "codings.sqlite3",
            HAS_TRIALS=self._testMethodName in _WITH_TRIALS,
        )
        settings.enable()
        self.addCleanup(settings.disable)
        get_user_model().objects.create_user("owner", password=_PASSWORD)
        self.page = self.open()

    def open(self, **options: Any) -> Page:
        """The shelf of the signed-in owner; any error of the page fails the test."""
        context = self.browser.new_context(
            **{"viewport": {"width": 1280, "height": 800}, **options}
        )
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(_WITHIN_MS)
        page.on("pageerror", lambda error: self.fail(str(error)))
        page.goto(self.live_server_url)
        page.get_by_label("Name").fill("owner")
        page.get_by_role("textbox", name="Password").fill(_PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_text("Drop a heavy file anywhere here")).to_be_visible()
        return page

    def drop(self, path: Path) -> None:
        """Drop a file on the window, as a file manager does."""
        transfer = self.page.evaluate_handle(
            """([name, bytes]) => {
                const transfer = new DataTransfer();
                transfer.items.add(new File([new Uint8Array(bytes)], name));
                return transfer;
            }""",
            [path.name, list(path.read_bytes())],
        )
        self.page.dispatch_event("body", "drop", {"dataTransfer": transfer})


@tag("browser")
class Journeys(BrowserCase):
    def test_a_dropped_pdf_becomes_a_proved_copy(self) -> None:
        source = report(self.folder / "Annual report.pdf")
        self.drop(source.path)
        row = self.page.get_by_role("listitem").filter(has_text="Annual report.pdf")
        expect(row.get_by_text("PDF, 2 pages")).to_be_visible()

        row.get_by_role("button", name="Annual report.pdf", exact=True).click()
        sheet = self.page.get_by_role("region", name="Weight sheet of Annual report.pdf")
        expect(sheet.get_by_text("300 to 150 ppi").first).to_be_visible()
        expect(sheet.get_by_role("row", name="Pictures")).to_be_visible()

        self.page.get_by_role("button", name="Make lighter copies").click()
        expect(row.get_by_text(re.compile("^(Same|Close)$"))).to_be_visible()
        with self.page.expect_download() as download:
            row.get_by_role("link", name="Download Annual report-light.pdf").click()
        copy = self.folder / "copy.pdf"
        download.value.save_as(copy)
        self.assertEqual(download.value.suggested_filename, "Annual report-light.pdf")
        self.assertLess(copy.stat().st_size, source.path.stat().st_size / 2)
        text = pypdf.PdfReader(copy).pages[0].extract_text()
        self.assertIn("forty reed warblers", text)

    def test_a_photo_becomes_lighter_and_is_viewed_in_the_loupe(self) -> None:
        source = camera_photo(self.folder / "Nest box.jpg")
        self.drop(source.path)
        row = self.page.get_by_role("listitem").filter(has_text="Nest box.jpg")
        expect(row.get_by_text("JPEG", exact=True)).to_be_visible()
        row.get_by_role("button", name="Nest box.jpg", exact=True).click()
        sheet = self.page.get_by_role("region", name="Weight sheet of Nest box.jpg")
        expect(sheet.get_by_text("taken as 25 cm long")).to_be_visible()
        expect(sheet.get_by_text("Maker's notes")).to_be_visible()

        self.page.get_by_role("button", name="Make lighter copies").click()
        with self.page.expect_download() as download:
            row.get_by_role("link", name="Download Nest box-light.jpg").click()
        copy = self.folder / "copy.jpg"
        download.value.save_as(copy)
        self.assertLess(copy.stat().st_size, source.path.stat().st_size)
        with Image.open(copy) as image:
            self.assertEqual(image.format, "JPEG")

        row.get_by_role("link", name="Compare Nest box.jpg with its copy").click()
        drawn = self.page.get_by_role("application").locator("img[src*='side=copy']").first
        expect(drawn).to_have_js_property("complete", value=True)
        self.assertGreater(drawn.evaluate("image => image.naturalWidth"), 50)

    def test_loose_pictures_become_the_pages_of_one_pdf(self) -> None:
        for name in ("Nest box.jpg", "Reed bed.jpg"):
            self.drop(camera_photo(self.folder / name).path)
        self.page.get_by_role("button", name="Arrange the pages").click()
        self.page.get_by_role("button", name="Reed bed.jpg one page up").click()
        pages = self.page.get_by_role("list", name="Pages in their order")
        expect(pages.get_by_role("listitem").first).to_contain_text("Reed bed.jpg")
        self.page.get_by_role("button", name="Turn Reed bed.jpg").click()
        self.page.get_by_text("A4", exact=True).click()
        self.page.get_by_label("What is the PDF called?").fill("Nest boxes")
        self.page.get_by_role("button", name="Make a PDF of 2 pages").click()
        row = self.page.get_by_role("listitem").filter(has_text="Nest boxes.pdf")
        expect(row.get_by_text("PDF, 2 pages")).to_be_visible()
        expect(self.page.get_by_role("button", name="Arrange the pages")).to_be_visible()

    def test_a_limit_is_drawn_and_what_is_over_it_is_said(self) -> None:
        self.drop(report(self.folder / "report.pdf").path)
        row = self.page.get_by_role("listitem").filter(has_text="report.pdf")
        expect(row.get_by_text("PDF, 2 pages")).to_be_visible()
        self.page.get_by_role("combobox", name="Limit").click()
        self.page.get_by_role("option", name="A figure of my own").click()
        field = self.page.get_by_label("Limit in MB")
        field.fill("0.1")
        field.press("Enter")
        expect(self.page.get_by_text("1 of 1 fits")).to_be_visible()
        self.page.get_by_text("As it was").click()
        expect(row.get_by_text("over")).to_be_visible()
        expect(self.page.get_by_text("0 of 1 fit")).to_be_visible()

    def test_a_broken_file_says_what_to_do_and_can_be_removed(self) -> None:
        broken = self.folder / "broken.pdf"
        broken.write_bytes(b"%PDF-1.7 cut off")
        self.drop(broken)
        alert = self.page.get_by_role("alert").filter(has_text="broken.pdf: cannot be read")
        expect(alert).to_be_visible()
        self.page.get_by_role("button", name="Remove broken.pdf from the satchel").click()
        expect(self.page.get_by_text("Drop files or folders here")).to_be_visible()

    def test_all_of_it_works_by_keyboard_on_a_narrow_screen(self) -> None:
        self.page = self.open(viewport={"width": 400, "height": 800})
        self.drop(report(self.folder / "report.pdf").path)
        opener = self.page.get_by_role("button", name="report.pdf", exact=True)
        expect(opener).to_be_enabled()
        opener.focus()
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("region", name="Weight sheet of report.pdf")).to_be_visible()
        width = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(width, 400)
        start = self.page.get_by_role("button", name="Make lighter copies")
        start.focus()
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text("Make copies again")).to_be_visible()

    def test_a_satchel_is_deleted_after_a_second_word(self) -> None:
        self.drop(report(self.folder / "report.pdf").path)
        expect(self.page.get_by_text("PDF, 2 pages")).to_be_visible()
        self.page.get_by_role("link", name="Green Satchel").click()
        self.page.get_by_role("button", name="Delete report").click()
        self.page.get_by_role("button", name="Delete", exact=True).click()
        expect(self.page.get_by_text("Drop a heavy file anywhere here")).to_be_visible()

    def test_tuned_values_are_saved_undone_and_listed_on_the_slip(self) -> None:
        self.drop(report(self.folder / "report.pdf").path)
        expect(self.page.get_by_text("PDF, 2 pages")).to_be_visible()
        total = self.page.get_by_text(re.compile("between .* and")).first
        before = total.inner_text()
        self.page.get_by_role("button", name="Fine tuning").click()
        quality = self.page.get_by_label("Photos, quality")
        quality.fill("20")
        quality.press("Enter")
        expect(self.page.get_by_text("Reading desk, tuned")).to_be_visible()
        expect(total).not_to_have_text(before)
        self.page.get_by_role("button", name="Undo").click()
        expect(self.page.get_by_text("Reading desk, tuned")).not_to_be_visible()
        expect(total).to_have_text(before)

        self.page.get_by_role("button", name="report.pdf", exact=True).click()
        self.page.get_by_label(re.compile("^Choose Picture")).first.check()
        self.page.get_by_role("button", name="Keep unchanged").click()
        expect(self.page.get_by_text("kept: exempted")).to_be_visible()
        self.page.get_by_role("button", name="Make lighter copies").click()
        self.page.get_by_role("link", name="Slip").click()
        lost = self.page.get_by_text("Cannot be undone: 1 picture with fewer pixels")
        expect(lost).to_be_visible()

    def test_a_tuned_treatment_becomes_a_preset_of_ones_own(self) -> None:
        self.drop(report(self.folder / "report.pdf").path)
        expect(self.page.get_by_text("PDF, 2 pages")).to_be_visible()
        self.page.get_by_role("button", name="Fine tuning").click()
        ppi = self.page.get_by_label("Photos, resolution in ppi")
        ppi.fill("96")
        ppi.press("Enter")
        title = self.page.get_by_label("Keep this as a preset called")
        title.fill("Fen post")
        title.press("Enter")
        expect(self.page.get_by_role("radio", name=re.compile("Fen post"))).to_be_checked()
        self.page.get_by_role("link", name="Presets").click()
        row = self.page.get_by_role("listitem").filter(has_text="Fen post")
        expect(row.get_by_text("Photos: 96 ppi")).to_be_visible()

    def test_journeys_fits_a_limit_looks_under_the_loupe_and_makes_a_picture_gentler(self) -> None:
        source = album(self.folder / "album.pdf", pages=4)
        limit_mb = round(source.path.stat().st_size * 0.6 / 1e6, 2)
        self.drop(source.path)
        row = self.page.get_by_role("listitem").filter(has_text="album.pdf")
        expect(row.get_by_text("PDF, 4 pages")).to_be_visible()
        # A knob moves the beam at once.
        beam = row.get_by_role("img", name=re.compile("^album.pdf, .* now, copy"))
        before = beam.get_attribute("aria-label")
        self.page.get_by_role("radio", name=re.compile("^Feather")).click()
        expect(beam).not_to_have_attribute("aria-label", before or "")

        self.page.get_by_role("combobox", name="Limit").click()
        self.page.get_by_role("option", name="A figure of my own").click()
        field = self.page.get_by_label("Limit in MB")
        field.fill(str(limit_mb))
        field.press("Enter")
        self.page.get_by_role("radio", name=re.compile("As gently as the limit")).click()
        expect(self.page.get_by_text("1 of 1 fits")).to_be_visible()
        row.get_by_role("button", name="album.pdf", exact=True).click()
        expect(self.page.get_by_text(re.compile("^Fits .*lose something"))).to_be_visible()
        self.page.get_by_role("button", name="Make lighter copies").click()
        with self.page.expect_download() as download:
            row.get_by_role("link", name="Download album-light.pdf").click()
        copy = self.folder / "copy.pdf"
        download.value.save_as(copy)
        self.assertLessEqual(copy.stat().st_size, limit_mb * 1e6)

        row.get_by_role("link", name="Compare album.pdf with its copy").click()
        expect(self.page.get_by_text("same on all")).to_be_visible()
        sheet = self.page.get_by_role("application")
        sheet.focus()
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("+")
        expect(self.page.get_by_text("3×")).to_be_visible()
        tile = sheet.locator("img[src*='side=copy'][src*='box=']").first
        expect(tile).to_have_js_property("complete", value=True)
        self.assertGreater(tile.evaluate("image => image.naturalWidth"), 50)
        self.page.keyboard.press("f")
        expect(self.page.get_by_role("radio", name="original")).to_be_checked()
        address = self.page.url
        self.page.get_by_role("button", name=re.compile("^Gentler with")).first.click()
        self.page.wait_for_url(lambda url: url != address)
        expect(self.page.get_by_text("same on all")).to_be_visible()


@tag("browser")
class Arrivals(BrowserCase):
    """Files chosen on the shelf show on the bench once they have arrived."""

    def setUp(self) -> None:
        super().setUp()
        # Nothing is weighed: what shows is that the file has come.
        waiting = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}
        settings = override_settings(TASKS=waiting)
        settings.enable()
        self.addCleanup(settings.disable)

    def files(self, *sizes: int) -> list[Path]:
        paths = [self.folder / f"{size}.pdf" for size in sizes]
        for path, size in zip(paths, sizes, strict=True):
            path.write_bytes(b"%PDF-1.7\n" + b"x" * size)
        return paths

    def assert_shown(self, paths: list[Path]) -> None:
        """Choose them on the shelf; each has a row after the last has been taken in."""
        self.page.goto(self.live_server_url)
        is_upload = re.compile(r"/api/satchels/[^/]+/documents$")
        arrived: list[str] = []

        def on_response(response: Any) -> None:
            if is_upload.search(response.url) and response.request.method == "POST":
                arrived.append(response.url)

        self.page.on("response", on_response)
        self.page.get_by_role("button", name="Choose files").wait_for()
        self.page.locator("input[type=file]").first.set_input_files(paths)
        deadline = time.monotonic() + _WITHIN_MS / 1000
        while len(arrived) < len(paths) and time.monotonic() < deadline:
            self.page.wait_for_timeout(20)
        self.page.remove_listener("response", on_response)
        for path in paths:
            row = self.page.get_by_role("listitem").filter(has_text=path.name)
            # Not the upload on its way, but the document that it became.
            taken_in = row.get_by_role("button", name=f"Remove {path.name} from the satchel")
            expect(taken_in).to_be_visible()

    def test_alone_and_in_pairs_hurried(self) -> None:
        for sizes in ((10_000,), (400_000,), (3_000_000,), (20_000_000,), (10_000, 3_000_000)):
            with self.subTest(sizes=sizes):
                self.assert_shown(self.files(*sizes))

    def slow_down(self, bytes_a_second: int) -> None:
        """From now on the line takes no more than that."""
        line = self.page.context.new_cdp_session(self.page)
        line.send("Network.enable")
        line.send(
            "Network.emulateNetworkConditions",
            {
                "offline": False,
                "latency": 30,
                "downloadThroughput": 4_000_000,
                "uploadThroughput": bytes_a_second,
            },
        )

    def test_arrivals_with_a_slow_line(self) -> None:
        self.slow_down(2_500_000)
        for sizes in ((2_000_000,), (10_000, 900_000)):
            with self.subTest(sizes=sizes):
                self.assert_shown(self.files(*sizes))

    def test_arrivals_that_end_between_two_looks_of_the_bench(self) -> None:
        # It looks when it opens and every .8 s from then on, as long as it knows of an upload.
        def held_back(route: Any) -> None:
            self.page.wait_for_timeout(350)
            route.continue_()

        self.page.route(re.compile(r"/api/satchels/[^/]+/documents$"), held_back)
        for sizes in ((10_000,), (1_000_000,)):
            with self.subTest(sizes=sizes):
                self.assert_shown(self.files(*sizes))


@tag("browser")
class Paper(BrowserCase):
    """Pages from a scanner to a document in layers."""

    def test_paper_is_scanned_put_in_order_and_kept_in_layers(self) -> None:
        stand_in = StandIn(self, sheets=3)
        settings = override_settings(SCANNERS={"Office": stand_in.address})
        settings.enable()
        self.addCleanup(settings.disable)
        self.page.get_by_role("link", name="Intake", exact=True).click()
        self.page.get_by_role("button", name="Take paper in").click()
        self.page.get_by_role("button", name="Scan", exact=True).click()
        expect(self.page.get_by_text("3 pages on hand")).to_be_visible()
        self.page.get_by_role("button", name="Remove blank pages: 1 page").click()
        expect(self.page.get_by_text("2 pages on hand")).to_be_visible()
        second = self.page.get_by_role("button", name="Page 2")
        second.click()
        before = self.page.locator("ol img").first.get_attribute("src")
        second.press("Alt+ArrowLeft")
        expect(self.page.locator("ol img").first).not_to_have_attribute("src", before or "")
        expect(self.page.get_by_text(re.compile("^in layers, .* of 100"))).to_be_visible()
        self.page.get_by_role("button", name="Put into a satchel").click()
        row = self.page.get_by_role("listitem").filter(has_text=".pdf")
        expect(row.get_by_text("PDF, 2 pages")).to_be_visible()
        expect(self.page.get_by_role("radio", name=re.compile("^Scan stack"))).to_be_checked()
