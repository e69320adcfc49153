"""docs/screenshots, made from the demo data: `make screenshots`."""

import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

_ROOT = Path(__file__).resolve().parent.parent
_SHOTS = _ROOT / "docs" / "screenshots"
_PORT = 8765
_FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"]
_FLAGS += ["--disable-background-networking", "--disable-component-update", "--disable-sync"]


def main() -> None:
    with tempfile.TemporaryDirectory() as var:
        demo = _ROOT / "var" / "demo"
        if demo.exists():
            shutil.copytree(demo, Path(var) / "demo")
        server = subprocess.Popen(
            [sys.executable, "-m", "demo.serve"],
            cwd=_ROOT,
            env={**os.environ, "GREEN_SATCHEL_VAR": var, "PORT": str(_PORT)},
        )
        try:
            _wait_for_server()
            _take_all()
        finally:
            server.terminate()
            server.wait()


def _wait_for_server() -> None:
    deadline = time.monotonic() + 180
    while time.monotonic() < deadline:
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{_PORT}/", timeout=2)
        except OSError:
            time.sleep(0.5)
        else:
            return
    raise SystemExit("the demo did not start")


def _take_all() -> None:
    _SHOTS.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=_FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"http://127.0.0.1:{_PORT}/")
        page.get_by_text("Season papers").click()
        page.get_by_text("10 of 10 fit").wait_for(timeout=120_000)
        _take(page, "bench")
        page.get_by_role("button", name="Make lighter copies").click()
        page.wait_for_timeout(2500)
        _take(page, "bench-busy")
        page.get_by_text("All copies, zip").wait_for(timeout=180_000)
        page.get_by_role("button", name="Annual report.pdf", exact=True).click()
        page.get_by_text("Page drawing").wait_for()
        _take(page, "bench-sheet")
        page.mouse.wheel(0, -10_000)
        page.get_by_role("button", name="Annual report.pdf", exact=True).click()
        _take_strip(page)
        _take_pages(page)
        _take_text(page)
        _take_workbook(page)
        page.get_by_role("button", name="Fine tuning").click()
        page.get_by_role("button", name="Photos", exact=True).click()
        page.get_by_role("heading", name="Fonts and drawing").scroll_into_view_if_needed()
        _take(page, "bench-tuning")
        page.mouse.wheel(0, -10_000)
        _take_fit_and_loupe(page)
        page.get_by_role("link", name="Slip").click()
        page.get_by_role("heading", name="Slip of").wait_for()
        _take(page, "slip")
        page.get_by_role("link", name="Presets").click()
        page.get_by_role("heading", name="Shipped").wait_for()
        _take(page, "presets")
        _take_limits_and_guide(page)
        page.get_by_label("Green Satchel, to the shelf").click()
        page.get_by_text("Season papers").click()
        page.get_by_role("button", name="Annual report.pdf", exact=True).click()
        page.get_by_text("Page drawing").wait_for()
        page.get_by_label("Dark colours").click()
        _take(page, "bench-dark")
        page.get_by_label("Light colours").click()
        _take_intake(page)
        _take_shelf(page)
        browser.close()


def _take_shelf(page: Page) -> None:
    page.get_by_label("Green Satchel, to the shelf").click()
    page.get_by_text("10 documents").wait_for()
    _take(page, "shelf")


def _take_limits_and_guide(page: Page) -> None:
    """A limit of one's own opened, with its checklist; then everything explained."""
    page.get_by_role("link", name="Limits").click()
    page.get_by_role("heading", name="Shipped").wait_for()
    page.get_by_role("button", name="Duplicate").last.click()
    page.get_by_role("button", name="Change").first.click()
    _take(page, "limits")
    page.get_by_role("link", name="Guide").click()
    page.get_by_text("Presets: how gently").wait_for()
    _take(page, "guide")


def _take_text(page: Page) -> None:
    """The weight sheet of a text document, and its pictures and pages under the loupe."""
    opener = page.get_by_role("button", name="Volunteers' handbook.docx", exact=True)
    opener.click()
    page.get_by_text("Traces of editing").wait_for()
    opener.scroll_into_view_if_needed()
    page.mouse.move(400, 500)
    page.mouse.wheel(0, 420)
    _take(page, "bench-text")
    page.mouse.wheel(0, -10_000)
    opener.click()
    page.get_by_label("Compare Volunteers' handbook.docx with its copy").click()
    page.get_by_text("Most changed first").wait_for()
    page.wait_for_timeout(9000)  # pages are laid out when the first is asked for
    _take(page, "loupe-text")
    page.go_back()
    page.get_by_text("All copies, zip").wait_for()


def _take_workbook(page: Page) -> None:
    """The sheets of a workbook, and its names to look through."""
    opener = page.get_by_role("button", name="Ringing ledger.xlsx", exact=True)
    opener.click()
    page.get_by_label("Sheets of the workbook").wait_for()
    opener.evaluate("row => row.scrollIntoView({block: 'start'})")
    page.mouse.move(600, 400)
    page.mouse.wheel(0, 140)
    _take(page, "bench-workbook")
    page.mouse.wheel(0, -10_000)
    opener.click()


def _take_strip(page: Page) -> None:
    """Four settings on the first photo of the report."""
    page.get_by_role("button", name="Annual report.pdf", exact=True).click()
    page.get_by_role("link", name="Test strip").first.click()
    page.locator("img[src*=strip-image]").nth(3).wait_for(state="attached")
    page.wait_for_timeout(1500)
    _take(page, "test-strip")
    page.go_back()


def _take_pages(page: Page) -> None:
    """Pages of a document as pictures in two tones; then loose pictures put on pages."""
    opener = page.get_by_role("button", name="Ringing totals and methods.pdf", exact=True)
    opener.click()
    page.get_by_role("button", name="Pages as pictures (TIFF)").click()
    page.get_by_label("Colours").last.select_option("bitonal")
    page.get_by_role("button", name="Make the pages").click()
    page.get_by_role("link", name=re.compile("^Ringing totals and methods.tif")).wait_for()
    page.get_by_role("heading", name="Pages as pictures (TIFF)").evaluate(
        "heading => heading.scrollIntoView({block: 'start'})"
    )
    page.mouse.move(400, 500)
    page.mouse.wheel(0, -180)
    _take(page, "bench-pages")
    page.mouse.wheel(0, -10_000)
    opener.click()
    page.get_by_role("button", name="Arrange the pages").click()
    _take(page, "bench-gather")
    page.get_by_role("button", name="Cancel", exact=True).click()


def _take_fit_and_loupe(page: Page) -> None:
    """A limit of 2 MB for each document, met; then the scanned logs under the loupe."""
    page.get_by_role("combobox", name="Limit").click()
    page.get_by_role("option", name="A figure of my own").click()
    page.get_by_label("Limit in MB").fill("2")
    page.get_by_label("Limit in MB").press("Enter")
    page.get_by_role("radio", name=re.compile("As gently as the limit")).click()
    page.get_by_role("button", name="Annual report.pdf", exact=True).click()
    page.get_by_text(re.compile("^(Fits|Cannot reach) ")).first.wait_for(timeout=240_000)
    _take(page, "bench-fit")
    page.get_by_role("button", name="Annual report.pdf", exact=True).click()
    page.get_by_role("button", name=re.compile("^Make (copies again|lighter copies)")).click()
    page.get_by_role("button", name="Cancel the run").wait_for()
    page.get_by_role("button", name="Make copies again").wait_for(timeout=900_000)
    page.get_by_label("Compare Annual report.pdf with its copy").click(timeout=60_000)
    sheet = page.get_by_role("application")
    box = sheet.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] * 0.55, box["y"] + box["height"] * 0.25)
    page.wait_for_timeout(2500)
    _take(page, "loupe")
    page.go_back()
    page.get_by_role("radio", name=re.compile("^Reading desk")).click()
    page.get_by_text("Fine tuning").wait_for()


def _take_intake(page: Page) -> None:
    """The ringing logs from the stand-in's feeder."""
    page.get_by_role("link", name="Intake", exact=True).click()
    page.get_by_role("button", name="Take paper in").click()
    name = page.get_by_label("What is it called?")
    name.fill("Ringing logs, spring")
    name.press("Enter")
    page.get_by_role("button", name="Scan", exact=True).click()
    page.get_by_text("6 pages on hand").wait_for(timeout=120_000)
    page.get_by_text("still to be tried").wait_for(state="detached", timeout=180_000)
    page.get_by_role("button", name="Page 2").first.click()
    _take(page, "intake")


def _take(page: Page, name: str) -> None:
    page.wait_for_timeout(700)
    for _ in range(20):
        if page.evaluate("[...document.images].every((image) => image.complete)"):
            break
        page.wait_for_timeout(250)
    page.screenshot(path=_SHOTS / f"{name}.png")


if __name__ == "__main__":
    main()
