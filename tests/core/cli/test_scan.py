"""The verb scan, from the stand-in scanner to a PDF."""

import json

import pypdf

from tests.builders import FolderCase
from tests.core.cli.test_command import run
from tests.core.scanners.stand_in import StandIn


class Scanning(FolderCase):
    def scan(self, stand_in: StandIn, *more: object) -> tuple[int, dict[str, object]]:
        self.out = self.folder / "logs.pdf"
        base = ("scan", "--scanner", stand_in.address, "--source", "feeder", "--out", self.out)
        code, out, _ = run(*base, "--json", *more)
        return code, json.loads(out)

    def pages(self) -> list[tuple[int, ...]]:
        """Width and height of each, in whole millimetres."""
        return [
            tuple(round(float(side) / 72 * 25.4) for side in page.mediabox[2:])
            for page in pypdf.PdfReader(self.out).pages
        ]

    def test_all_pages_become_one_document_as_large_as_their_paper(self) -> None:
        code, told = self.scan(StandIn(self, sheets=2))
        self.assertEqual((code, told["pages"], told["error"]), (0, 2, None))
        self.assertEqual(self.pages(), [(60, 40)] * 2)

    def test_scanning_in_layers_they_are_a_fraction_and_proved(self) -> None:
        code, told = self.scan(StandIn(self, sheets=1), "--preset", "scan stack")
        self.assertEqual((code, told["verdict"]), (0, "close"))
        self.assertLess(self.out.stat().st_size, int(str(told["scanned_bytes"])) / 3)

    def test_pages_before_a_paper_jam_are_kept(self) -> None:
        code, told = self.scan(StandIn(self, sheets=4, jam_after=1))
        self.assertEqual((code, told["pages"]), (1, 1))
        self.assertIn("scanner_jammed", str(told["error"]))
        self.assertEqual(len(self.pages()), 1)

    def test_a_scan_that_cannot_meet_the_limit_is_kept_unchanged(self) -> None:
        code, told = self.scan(StandIn(self, sheets=1), "--limit", "1kB")
        self.assertEqual(code, 3)
        self.assertIn("does_not_fit", str(told["error"]))
        self.assertEqual(len(self.pages()), 1)

    def test_no_paper_is_drawn_in_where_the_file_is_there(self) -> None:
        (self.folder / "logs.pdf").write_bytes(b"mine")
        stand_in = StandIn(self, sheets=1)
        code, told = self.scan(stand_in)
        self.assertEqual(code, 1)
        self.assertEqual((stand_in.device.sheets, self.out.read_bytes()), (1, b"mine"))
        self.assertIn("--force", str(told["error"]))
