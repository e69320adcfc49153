"""Every screen held against WCAG 2.2 AA by axe-core, light, dark and narrow."""

import re
from pathlib import Path

from django.conf import settings
from django.test import tag
from playwright.sync_api import Page, expect

from tests.browser.test_journeys import BrowserCase
from tests.core.formats.pdf.samples import report

_AXE = Path(settings.ROOT) / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
_RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


@tag("browser")
class Accessibility(BrowserCase):
    def assert_open_to_all(self, name: str, page: Page | None = None) -> None:
        """axe-core finds nothing on the screen as it is now."""
        shown = page or self.page
        shown.evaluate(_AXE.read_text(encoding="utf-8"))
        found = shown.evaluate(
            "rules => axe.run({runOnly: {type: 'tag', values: rules}}).then(ran => ran.violations"
            ".map(one => [one.id, one.nodes.slice(0, 3).map(node => node.html.slice(0, 160))]))",
            _RULES,
        )
        with self.subTest(name):
            self.assertEqual(found, [])

    def test_accessibility_of_every_screen(self) -> None:
        self.assert_open_to_all("shelf, empty")
        self.drop(report(self.folder / "Annual report.pdf").path)
        row = self.page.get_by_role("listitem").filter(has_text="Annual report.pdf")
        expect(row.get_by_text("PDF, 2 pages")).to_be_visible()
        self.assert_open_to_all("bench")
        row.get_by_role("button", name="Annual report.pdf", exact=True).click()
        row.get_by_role("button", name="Pages as pictures (TIFF)").click()
        row.get_by_label("Colours").last.select_option("bitonal")
        row.get_by_role("button", name="Make the pages").click()
        expect(row.get_by_role("link", name=re.compile("^Annual report.tif"))).to_be_visible()
        self.assert_open_to_all("weight sheet and pages as pictures")
        self.page.get_by_role("button", name="Fine tuning").click()
        self.page.get_by_role("button", name="Photos", exact=True).click()
        self.page.get_by_label("What Post means").click()
        expect(self.page.get_by_text("For mail and portals with a limit.")).to_be_visible()
        self.assert_open_to_all("tuning")
        self.page.get_by_role("button", name="Make lighter copies").click()
        expect(row.get_by_text(re.compile("^(Same|Close)$"))).to_be_visible()
        row.get_by_role("button", name=re.compile("^Share .* by a link")).click()
        row.get_by_role("button", name="Create a share link").click()
        address = row.get_by_label("Link to paste").input_value()
        self.assert_open_to_all("bench after a run, with a link")
        self.page.get_by_label("Dark colours").click()
        self.assert_open_to_all("bench, dark")
        self.page.set_viewport_size({"width": 400, "height": 800})
        self.assert_open_to_all("bench, dark and narrow")
        self.page.set_viewport_size({"width": 1280, "height": 800})
        self.page.get_by_role("link", name="Slip").click()
        expect(self.page.get_by_role("heading", name="By mail")).to_be_visible()
        self.assert_open_to_all("slip, dark")
        self.page.get_by_label("Light colours").click()
        self.assert_open_to_all("slip")
        self.page.go_back()
        row.get_by_role("link", name="Compare Annual report.pdf with its copy").click()
        expect(self.page.get_by_role("application")).to_be_visible()
        self.assert_open_to_all("loupe")
        for name in ("Presets", "Limits", "Guide", "Intake"):
            self.page.get_by_role("link", name=name, exact=True).click()
            expect(self.page.get_by_role("heading", level=1)).to_be_visible()
            self.assert_open_to_all(name)
        self.page.get_by_role("button", name="Take paper in").click()
        expect(self.page.get_by_text("Put paper in")).to_be_visible()
        self.assert_open_to_all("intake")
        stranger = self.browser.new_page()
        self.addCleanup(stranger.close)
        stranger.goto(address)
        expect(stranger.get_by_role("link", name="Download")).to_be_visible()
        self.assert_open_to_all("the page behind a link", stranger)
        stranger.goto(self.live_server_url)
        expect(stranger.get_by_role("button", name="Sign in")).to_be_visible()
        self.assert_open_to_all("sign-in", stranger)

    def test_accessibility_of_the_test_strip(self) -> None:
        self.drop(report(self.folder / "Annual report.pdf").path)
        row = self.page.get_by_role("listitem").filter(has_text="Annual report.pdf")
        row.get_by_role("button", name="Annual report.pdf", exact=True).click()
        row.get_by_role("link", name="Test strip").first.click()
        expect(self.page.get_by_role("button", name="In use").first).to_be_enabled()
        self.assert_open_to_all("test strip")
        self.page.get_by_label("Dark colours").click()
        self.assert_open_to_all("test strip, dark")
