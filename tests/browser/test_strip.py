"""The test strip in a real browser: one picture, several settings, a drag, and a choice."""

import re

from django.test import tag
from playwright.sync_api import expect

from tests.browser.test_journeys import BrowserCase
from tests.core.formats.pdf.samples import report


@tag("browser")
class TestStrips(BrowserCase):
    def open_strip(self) -> None:
        self.drop(report(self.folder / "Annual report.pdf").path)
        row = self.page.get_by_role("listitem").filter(has_text="Annual report.pdf")
        row.get_by_role("button", name="Annual report.pdf", exact=True).click()
        row.get_by_role("link", name="Test strip").first.click()
        self.view = self.page.get_by_role("application")
        expect(self.view.locator("img")).to_have_count(4)

    def test_a_setting_is_chosen_by_looking_at_it(self) -> None:
        self.open_strip()
        edge = self.page.get_by_role("slider").nth(1)
        self.assertEqual(edge.get_attribute("aria-valuenow"), "50")
        # A real drag of the edge, then of the picture, then keys.
        at, frame = edge.bounding_box(), self.view.bounding_box()
        assert at is not None and frame is not None
        middle = at["x"] + at["width"] / 2, at["y"] + at["height"] / 2
        self.page.mouse.move(*middle)
        self.page.mouse.down()
        self.page.mouse.move(middle[0] + 0.15 * frame["width"], middle[1], steps=5)
        self.page.mouse.up()
        expect(edge).to_have_attribute("aria-valuenow", "65")
        self.page.keyboard.press("+")
        picture = self.view.locator("img").first
        before = picture.bounding_box()
        self.page.mouse.move(frame["x"] + 60, frame["y"] + 40)
        self.page.mouse.down()
        self.page.mouse.move(frame["x"] + 140, frame["y"] + 60, steps=5)
        self.page.mouse.up()
        after = picture.bounding_box()
        assert before is not None and after is not None
        self.assertAlmostEqual(after["x"] - before["x"], 80, delta=3)

        self.page.keyboard.press("4")
        expect(self.view.locator("img")).to_have_count(1)
        self.page.keyboard.press("4")
        light = self.page.get_by_role("region", name="Strip 4: Feather")
        weight = light.get_by_text(re.compile("[kM]B")).nth(1).inner_text()
        light.get_by_role("button", name="Use it").click()
        own = self.page.get_by_role("region", name=re.compile("Strip [23]: Present settings"))
        expect(own.get_by_text(weight, exact=True)).to_be_visible()

    def test_a_changed_value_is_coded_and_used_for_all_pictures_of_its_kind(self) -> None:
        self.open_strip()
        own = self.page.get_by_role("region", name=re.compile("Strip [23]: Present settings"))
        own.get_by_label("ppi").fill("40")
        own.get_by_label("ppi").press("Enter")
        changed = self.page.get_by_role("region", name=re.compile("Present settings, changed"))
        expect(changed.get_by_text(re.compile("^40 ppi"))).to_be_visible()
        self.page.get_by_text(re.compile("^all: ")).click()
        changed.get_by_role("button", name="Use it").click()
        self.page.go_back()
        row = self.page.get_by_role("listitem").filter(has_text="Annual report.pdf")
        row.get_by_role("button", name="Annual report.pdf", exact=True).click()
        expect(row.get_by_text(re.compile("to 40 ppi")).first).to_be_visible()

    def test_a_narrow_screen_shows_two_strips(self) -> None:
        self.page.set_viewport_size({"width": 400, "height": 800})
        self.drop(report(self.folder / "Annual report.pdf").path)
        row = self.page.get_by_role("listitem").filter(has_text="Annual report.pdf")
        row.get_by_role("button", name="Annual report.pdf", exact=True).click()
        row.get_by_role("link", name="Test strip").first.click()
        expect(self.page.get_by_role("application").locator("img")).to_have_count(2)
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 400)
