"""Our client against the stand-in, and against scanners that answer oddly; the stand-in against a
client that nobody here wrote (Debian's sane-airscan)."""

import io
import os
import shutil
import subprocess
import unittest
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
from PIL import Image

from demo.scanner.answers import capabilities_xml, status_xml
from demo.scanner.device import Device
from scanners import (
    ColourMode,
    PaperSize,
    PaperSource,
    ScanLimits,
    ScannedPage,
    Scanner,
    ScannerError,
    ScanSettings,
)
from scanners.capabilities import read_capabilities
from scanners.settings import settings_as_xml
from scanners.xml import find_text, read_xml
from tests.builders import FolderCase
from tests.core.scanners.stand_in import StandIn

_FEEDER = ScanSettings(source=PaperSource.FEEDER)
Answer = Callable[[httpx.Request], httpx.Response]


class Pages(unittest.TestCase):
    def scan(self, stand_in: StandIn, settings: ScanSettings) -> list[ScannedPage]:
        with Scanner(stand_in.address) as scanner:
            return list(scanner.scan(settings))

    def test_pages_of_the_feeder_come_until_it_is_empty(self) -> None:
        stand_in = StandIn(self, sheets=3)
        pages = self.scan(stand_in, _FEEDER)
        self.assertEqual(len(pages), 3)
        with Image.open(io.BytesIO(pages[0].content)) as image:
            self.assertEqual((image.format, image.info["dpi"]), ("JPEG", (300, 300)))
        with self.assertRaises(ScannerError) as raised:
            self.scan(stand_in, _FEEDER)
        self.assertEqual(raised.exception.code, "no_paper")

    def test_pages_of_the_glass_is_one(self) -> None:
        self.assertEqual(len(self.scan(StandIn(self), ScanSettings())), 1)

    def test_pages_have_two_sides_where_asked_for(self) -> None:
        both = ScanSettings(source=PaperSource.FEEDER, both_sides=True)
        self.assertEqual(len(self.scan(StandIn(self, sheets=2), both)), 4)

    def test_pages_that_came_before_one_got_stuck_stay(self) -> None:
        stand_in = StandIn(self, sheets=5, jam_after=2)
        came: list[ScannedPage] = []
        with Scanner(stand_in.address) as scanner, self.assertRaises(ScannerError) as raised:
            for page in scanner.scan(_FEEDER):
                came.append(page)  # noqa: PERF402 - it raises in between
        self.assertEqual(len(came), 2)
        self.assertEqual(raised.exception.code, "jammed")
        self.assertIn("the 2 before it are here", raised.exception.message)
        stand_in.device.load(2, None)
        self.assertEqual(len(self.scan(stand_in, _FEEDER)), 2)

    def test_a_scan_job_is_ended_on_the_scanner_when_polling_stops(self) -> None:
        stand_in = StandIn(self, sheets=5)
        with Scanner(stand_in.address) as scanner:
            pages = scanner.scan(_FEEDER)
            next(pages)
            pages.close()
        self.assertEqual(stand_in.device.jobs[-1].state, "Canceled")
        self.assertEqual(stand_in.device.state, "Idle")

    def test_pages_stop_when_a_person_says_so(self) -> None:
        with Scanner(StandIn(self, sheets=5).address) as scanner:
            came: list[ScannedPage] = []
            for page in scanner.scan(_FEEDER, is_stopped=lambda: len(came) == 2):
                came.append(page)  # noqa: PERF402 - it is counted in between
        self.assertEqual(len(came), 2)


class Settings(unittest.TestCase):
    def test_settings_are_in_the_words_of_the_protocol(self) -> None:
        capabilities = read_capabilities(capabilities_xml())
        settings = ScanSettings(
            source=PaperSource.FEEDER,
            size=PaperSize.A5,
            ppi=150,
            colours=ColourMode.BITONAL,
            both_sides=True,
        )
        root = read_xml(settings_as_xml(settings, capabilities), "settings")
        region = "pwg:ScanRegions/pwg:ScanRegion/"
        told = {
            "pwg:InputSource": "Feeder",
            "scan:ColorMode": "BlackAndWhite1",
            "scan:XResolution": "150",
            "pwg:DocumentFormat": "image/png",
            "scan:Duplex": "true",
            # A5 is 148 x 210 mm (ISO 216), in 300ths of an inch.
            f"{region}pwg:Width": "1748",
            f"{region}pwg:Height": "2480",
        }
        for path, value in told.items():
            self.assertEqual(find_text(root, path), value, path)

    def test_settings_that_cannot_be_had_are_refused_with_what_can(self) -> None:
        capabilities = read_capabilities(capabilities_xml())
        with self.assertRaises(ScannerError) as raised:
            settings_as_xml(ScanSettings(ppi=350), capabilities)
        self.assertIn("75, 100, 150, 200, 300, 400, 600 ppi", raised.exception.message)

    def test_a_range_offers_the_common_resolutions(self) -> None:
        told = capabilities_xml().replace(b"DiscreteResolutions", b"ResolutionRange")
        start, end = told.index(b"<scan:ResolutionRange>"), told.index(b"</scan:ResolutionRange>")
        least_and_most = b"<scan:Min>100</scan:Min><scan:Max>600</scan:Max>"
        span = b"<scan:XResolutionRange>%s</scan:XResolutionRange>" % least_and_most
        ranged = told[: start + len(b"<scan:ResolutionRange>")] + span + told[end:]
        glass = read_capabilities(ranged).sources[PaperSource.GLASS]
        self.assertEqual(glass.ppi, (100, 150, 200, 300, 400, 600))


class OddAnswers(unittest.TestCase):
    """Odd answers of a device are reported, and nothing of ours is harmed."""

    def scan(self, answer: Answer, limits: ScanLimits | None = None) -> list[ScannedPage]:
        transport = httpx.MockTransport(answer)
        with Scanner("http://scanner.test/eSCL", limits=limits, transport=transport) as scanner:
            return list(scanner.scan(_FEEDER))

    def fails(self, code: str, answer: Answer, limits: ScanLimits | None = None) -> str:
        with self.assertRaises(ScannerError) as raised:
            self.scan(answer, limits)
        self.assertEqual(raised.exception.code, code)
        return raised.exception.message

    def test_an_unreachable_scanner_is_reported(self) -> None:
        def refuse(request: httpx.Request) -> httpx.Response:
            raise httpx.ConnectError("refused", request=request)

        self.assertIn("switched on", self.fails("unreachable", refuse))

    def test_a_way_elsewhere_is_not_followed(self) -> None:
        elsewhere = "http://169.254.169.254/secrets"
        self.fails("odd_answer", lambda _: httpx.Response(302, headers={"Location": elsewhere}))
        self.fails("odd_answer", _device(location=elsewhere))

    def test_xml_that_grows_is_refused(self) -> None:
        bomb = b'<!DOCTYPE a [<!ENTITY b "bb">]><a>&b;</a>'
        self.fails("odd_answer", lambda _: httpx.Response(200, content=bomb))
        self.fails("odd_answer", lambda _: httpx.Response(200, content=b"<html>hello"))
        self.fails("odd_answer", lambda _: httpx.Response(200, content=b"x" * 3_000_000))

    def test_a_page_that_is_no_picture(self) -> None:
        page = httpx.Response(200, content=b"<p>", headers={"Content-Type": "text/html"})
        self.fails("odd_answer", _device(page=lambda: page))

    def test_half_a_picture(self) -> None:
        def half() -> httpx.Response:
            def broken() -> Iterator[bytes]:
                yield b"\xff\xd8"
                raise httpx.RemoteProtocolError("closed")

            return httpx.Response(200, content=broken(), headers={"Content-Type": "image/jpeg"})

        self.assertIn("page 1", self.fails("broke_off", _device(page=half)))

    def test_a_page_heavier_than_may_be(self) -> None:
        def heavy() -> httpx.Response:
            return httpx.Response(200, content=b"x" * 5000, headers={"Content-Type": "image/jpeg"})

        self.fails("odd_answer", _device(page=heavy), ScanLimits(page_bytes=1000))

    def test_a_feeder_without_end(self) -> None:
        def page() -> httpx.Response:
            return httpx.Response(200, content=b"x", headers={"Content-Type": "image/jpeg"})

        told = self.fails("odd_answer", _device(page=page), ScanLimits(pages=4))
        self.assertIn("4 pages", told)

    def test_one_that_never_comes_to_a_page(self) -> None:
        def busy() -> httpx.Response:
            return httpx.Response(503, headers={"Retry-After": "1"})

        self.fails("busy", _device(page=busy), ScanLimits(patience_s=0.1))
        self.fails("busy", _device(begin=503))


def _device(
    *,
    location: str = "/eSCL/ScanJobs/1",
    begin: int = 201,
    page: Callable[[], httpx.Response] = lambda: httpx.Response(404),
) -> Answer:
    """A device that is sound but for what is told."""

    def answer(request: httpx.Request) -> httpx.Response:
        path = request.url.path
        if path.endswith("ScannerCapabilities"):
            return httpx.Response(200, content=capabilities_xml())
        if path.endswith("ScannerStatus"):
            return httpx.Response(200, content=status_xml(Device()))
        if request.method == "POST":
            return httpx.Response(begin, headers={"Location": location})
        if request.method == "DELETE":
            return httpx.Response(200)
        return page()

    return answer


@unittest.skipUnless(
    shutil.which("scanimage") and Path("/etc/sane.d/airscan.conf").exists(),
    "no independent client here",
)
class IndependentClient(FolderCase):
    def test_independent_client_finds_the_stand_in_and_scans_from_both(self) -> None:
        stand_in = StandIn(self, sheets=2)
        (self.folder / "dll.conf").write_text("airscan\n")
        (self.folder / "airscan.conf").write_text(
            f'[devices]\n"Stand-in" = {stand_in.address}/, eSCL\n[options]\ndiscovery = disable\n'
        )
        environment = {**os.environ, "SANE_CONFIG_DIR": str(self.folder)}
        scanimage = ["scanimage", "-d", "airscan:e0:Stand-in", "--format=png"]

        def run(*options: str) -> None:
            subprocess.run(
                [*scanimage, *options],
                cwd=self.folder,
                env=environment,
                capture_output=True,
                timeout=60,
                check=False,
            )

        run("-o", "glass.png")
        run("--source", "ADF", "--batch=feeder%d.png")
        for name in ("glass.png", "feeder1.png", "feeder2.png"):
            with Image.open(self.folder / name) as image:
                self.assertEqual(image.mode, "RGB")
        self.assertFalse((self.folder / "feeder3.png").exists())
