"""Removals from a workbook where its weight is shown, in a real browser."""

import re

from django.test import tag
from playwright.sync_api import expect

from tests.browser.test_journeys import BrowserCase
from tests.core.formats.xlsx.samples import ledger, values


@tag("browser")
class TestRemovals(BrowserCase):
    def test_formats_past_the_data_go_by_one_click(self) -> None:
        source = ledger(self.folder / "Ledger.xlsx")
        self.drop(source.path)
        row = self.page.get_by_role("listitem").filter(has_text="Ledger.xlsx").first
        row.get_by_role("button", name="Ledger.xlsx", exact=True).click()
        removals = row.get_by_role("region", name="What can be removed")
        worths = removals.locator("li")
        expect(worths.first).to_be_visible()
        shown = [float(text) for text in re.findall(r"−([\d.]+) kB", removals.inner_text())]
        # The heaviest first.
        self.assertEqual(shown, sorted(shown, reverse=True))

        removals.get_by_role("button", name="Remove formats past the data").click()
        kept = removals.get_by_role("button", name="Keep formats past the data")
        expect(kept).to_be_visible()
        self.page.get_by_role("button", name="Make lighter copies").click()
        expect(row.get_by_text(re.compile("^(Same|Close)$"))).to_be_visible()
        with self.page.expect_download() as download:
            row.get_by_role("link", name="Download Ledger-light.xlsx").click()
        copy = self.folder / "copy.xlsx"
        download.value.save_as(copy)
        self.assertEqual(values(copy), values(source.path))
        self.page.get_by_role("link", name="Slip").click()
        expect(self.page.get_by_role("heading", name=re.compile("^Slip of"))).to_be_visible()
        gone = self.page.get_by_text(re.compile("^Cannot be undone:.*formats past the data", re.I))
        expect(gone).to_be_visible()
