"""Changes to a preset by options, lists of files, tables of estimates, and the compared page."""

import io
import json
import re
from base64 import b64decode

import pikepdf
from PIL import Image

from lighten import preset_from_json
from lighten.model.kinds import ExtraKind, PictureClass
from lighten.model.treatments import ColourChange, FilterKind
from tests.builders import FolderCase
from tests.core.cli.test_command import run
from tests.core.formats.pdf.samples import report


class Switches(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.report = report(self.folder / "report.pdf").path
        self.out = self.folder / "out"

    def widths(self) -> list[int]:
        with pikepdf.open(self.out / "report-light.pdf") as pdf:
            return sorted(
                int(image.Width) for page in pdf.pages for image in page.get_images().values()
            )

    def test_a_resolution_and_a_quality_are_changed_for_one_run(self) -> None:
        run("lighten", self.report, "--out", self.out)
        usual = self.widths()
        code, _, errors = run(
            "lighten", self.report, "--out", self.out, "--force", "--photo-ppi", 60, "--quality", 50
        )
        self.assertEqual((code, errors), (0, ""))
        self.assertLess(sum(self.widths()), sum(usual))

    def test_changes_are_saved_as_a_preset(self) -> None:
        saved = self.folder / "Small photos.json"
        options = ("--grey", "--drop", "notes,tags", "--filter", "sharpen=0.4")
        more = ("--filter", "whiten-paper", "--save-preset", saved)
        run("lighten", self.report, "--out", self.out, *options, *more)
        preset = preset_from_json(json.loads(saved.read_text()))
        self.assertEqual(preset.title, "Small photos")
        photo, page = (
            preset.treatment.for_class(one) for one in (PictureClass.PHOTO, PictureClass.PAGE_SCAN)
        )
        self.assertEqual(photo.colour, ColourChange.GREY)
        self.assertEqual([one.kind for one in photo.filters], [FilterKind.SHARPEN])
        self.assertEqual(len(page.filters), 2)
        self.assertLessEqual({ExtraKind.NOTES, ExtraKind.TAGS}, preset.treatment.dropped_extras)
        code, _, errors = run("lighten", self.report, "--save-preset", saved)
        self.assertEqual(code, 2)
        self.assertIn("is there already", errors)

    def test_a_named_picture_or_page_stays_as_it_is(self) -> None:
        before = self.report
        with pikepdf.open(before) as pdf:
            first = {bytes(one.read_raw_bytes()) for one in pdf.pages[0].get_images().values()}
        _, _, errors = run(
            "lighten", before, "--out", self.out, "--keep", "page 1", "--keep", "picture x"
        )
        self.assertIn("no picture called 'picture x'", errors)
        with pikepdf.open(self.out / "report-light.pdf") as pdf:
            kept = {bytes(one.read_raw_bytes()) for one in pdf.pages[0].get_images().values()}
        self.assertEqual(kept, first)

    def test_mistakes_say_what_there_is(self) -> None:
        for options, words in (
            (("--filter", "shine"), "there are sharpen"),
            (("--drop", "stones"), "no such extra"),
            (("--photo-ppi", 3), "not between 20 and 2400"),
            (("--quality", 101), "whole number from 1 to 100"),
            (("--limit", "1MB", "--grey"), "--allow"),
        ):
            code, _, errors = run("lighten", self.report, *options)
            self.assertEqual(code, 2, options)
            self.assertIn(words, errors)


class Lists(FolderCase):
    def test_files_are_read_from_a_list(self) -> None:
        names = [report(self.folder / f"{name}.pdf").path for name in "ab"]
        listed = self.folder / "list.txt"
        listed.write_text("".join(f"{name}\n" for name in names))
        code, out, _ = run("weigh", "--files-from", listed)
        self.assertEqual(code, 0)
        self.assertIn("a.pdf", out)
        self.assertIn("b.pdf", out)
        code, _, errors = run("weigh")
        self.assertEqual((code, errors.count("name a file or a folder")), (2, 1))
        self.assertEqual(run("weigh", "--files-from", self.folder / "none")[0], 2)

    def test_weigh_names_extras_with_their_worth(self) -> None:
        source = report(self.folder / "a.pdf").path
        with pikepdf.open(source, allow_overwriting_input=True) as pdf:
            pdf.pages[0].Thumb = pdf.make_stream(b"\0" * 5000, Width=50, Height=100)
            pdf.save(source, compress_streams=False)
        _, out, _ = run("weigh", source)
        self.assertRegex(out, r"\d kB  .*: --drop thumbnails")

    def test_estimate_prints_every_preset_over_folders(self) -> None:
        for name in "ab":
            report(self.folder / f"{name}.pdf")
        code, out, _ = run("estimate", self.folder)
        self.assertEqual(code, 0)
        head, *rows = out.splitlines()
        self.assertIn("~ Feather", head)
        self.assertEqual(len(rows), 3)
        self.assertTrue(rows[-1].startswith("all"))
        _, out, _ = run("estimate", self.folder / "a.pdf", "--json")
        presets = json.loads(out)[0]["presets"]
        self.assertLess(presets["feather"]["estimate"], presets["as-it-was"]["estimate"])

    def test_rasterise_works_over_folders(self) -> None:
        for name in "ab":
            report(self.folder / f"{name}.pdf")
        out = self.folder / "pages"
        code, _, errors = run("rasterise", self.folder, "--out", out, "--ppi", 120)
        self.assertEqual((code, errors), (0, ""))
        self.assertEqual(sorted(path.name for path in out.iterdir()), ["a.tif", "b.tif"])
        code, _, errors = run("rasterise", self.folder, "--out", self.folder / "x.tif")
        self.assertEqual(code, 2)
        self.assertIn("name a folder", errors)


class Compared(FolderCase):
    def test_the_page_holds_every_strip_and_a_table(self) -> None:
        source = report(self.folder / "report.pdf").path
        out = self.folder / "compare.html"
        presets = ("--preset", "Print room", "--preset", "Feather")
        code, _, errors = run("compare", source, *presets, "--out", out, "--pictures", 1)
        self.assertEqual((code, errors), (0, ""))
        page = out.read_text("utf-8")
        images = re.findall(r"src=\"data:image/(?:png|jpeg);base64,([^\"]+)\"", page)
        sizes = []
        for image in images:
            with Image.open(io.BytesIO(b64decode(image))) as opened:
                sizes.append(opened.width)
        self.assertEqual(len(sizes), 3)
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        for title in ("Original", "Print room", "Feather"):
            self.assertIn(f"<th scope=row>{title}</th>", page)
        # Nothing is fetched from elsewhere.
        self.assertNotRegex(page, r"(?:src|href)=[\"']?https?:")
        self.assertEqual(run("compare", source, *presets, "--out", out)[0], 1)
