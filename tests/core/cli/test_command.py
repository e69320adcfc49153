"""The command as a person or a script meets it."""

import io
import json
import os
import subprocess
import sys
import time
from base64 import encodebytes
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import mock

import pikepdf
from PIL import Image

from lighten import PRESETS, TimeLeft
from lighten.cli.command import main
from lighten.cli.printing import InRun, progress_bar
from tests.builders import FolderCase, as_jpeg, landscape
from tests.core.formats.docx.samples import handbook
from tests.core.formats.pdf.samples import report, signed
from tests.core.making.test_run_trials import album


def run(*arguments: object) -> tuple[int, str, str]:
    """Exit code, output, errors."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        try:
            code = main([str(argument) for argument in arguments])
        except SystemExit as stop:
            code = int(stop.code or 0)
    return code, out.getvalue(), err.getvalue()


class Prove(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.original = report(self.folder / "a.pdf").path
        self.copy = self.folder / "a-light.pdf"
        run("lighten", self.original)

    def test_a_sound_copy_ends_well(self) -> None:
        code, out, _ = run("prove", self.original, self.copy, "--json")
        told = json.loads(out)
        self.assertEqual((code, told["verdict"]), (0, "close"))
        self.assertEqual([page["page"] for page in told["pages"]], [1, 2])
        self.assertLessEqual({"page", "verdict", "likeness", "reasons"}, told["pages"][0].keys())
        self.assertTrue(all({"id", "page", "score"} <= one.keys() for one in told["pictures"]))

    def test_a_copy_to_check_exits_with_one_and_names_the_page(self) -> None:
        with pikepdf.open(self.copy, allow_overwriting_input=True) as pdf:
            content = pdf.pages[0].Contents
            content.write(content.read_bytes().replace(b"forty", b"fifty"))
            pdf.save()
        code, out, _ = run("prove", self.original, self.copy)
        self.assertEqual(code, 1)
        self.assertIn("page 1: its text is not the same", out)

    def test_an_unreadable_file_is_reported(self) -> None:
        code, _, errors = run("prove", self.original, self.folder / "nowhere.pdf")
        self.assertEqual(code, 1)
        self.assertIn("nowhere.pdf", errors)


class Waiting(FolderCase):
    def test_small_files_come_first_and_results_in_the_order_asked_for(self) -> None:
        large, small = album(self.folder / "large.pdf"), report(self.folder / "small.pdf").path
        self.assertGreater(large.path.stat().st_size, small.stat().st_size)
        _, out, _ = run("lighten", large.path, small)
        self.assertLess(out.index("small-light"), out.index("large-light"))
        _, out, _ = run("lighten", large.path, small, "--force", "--json")
        self.assertEqual([Path(entry["path"]) for entry in json.loads(out)], [large.path, small])

    def test_waiting_says_what_is_done_how_far_and_how_long_still(self) -> None:
        terminal = io.StringIO()
        terminal.isatty = lambda: True  # type: ignore[method-assign]
        with mock.patch("time.monotonic", side_effect=[0.0, 0.0, 2.0, 2.0]):
            place = InRun(number=2, count=3, begin=0.5, end=0.9, time_left=TimeLeft())
            with progress_bar("a.pdf", terminal, place=place) as progress:
                progress(0.25, "proving")
        self.assertIn("25% a.pdf, proving, about 6 s left, 2 of 3, all in", terminal.getvalue())


class Weigh(FolderCase):
    def test_json_parts_add_up(self) -> None:
        path = report(self.folder / "a.pdf").path
        code, out, _ = run("weigh", path, "--json")
        (entry,) = json.loads(out)
        self.assertEqual(code, 0)
        self.assertEqual(entry["bytes"], path.stat().st_size)
        self.assertEqual(sum(part["bytes"] for part in entry["parts"]), entry["bytes"])
        self.assertEqual((entry["kind"], entry["pages"]), ("pdf", 2))
        picture = next(part for part in entry["parts"] if part["kind"] == "picture")
        wanted = {"width_px", "height_px", "coding", "colour", "bits", "ppi", "pages"}
        self.assertLessEqual(wanted, set(picture["detail"]))

    def test_weigh_says_it_in_words(self) -> None:
        code, out, _ = run("weigh", report(self.folder / "a.pdf").path)
        self.assertEqual(code, 0)
        self.assertIn("pictures", out)
        self.assertIn("300 ppi", out)


class Lighten(FolderCase):
    def test_lighten_writes_beside_with_the_suffix(self) -> None:
        path = report(self.folder / "a.pdf").path
        code, out, _ = run("lighten", path, "--json")
        (entry,) = json.loads(out)
        self.assertEqual((code, entry["error"]), (0, None))
        self.assertEqual(entry["copy"], str(self.folder / "a-light.pdf"))
        self.assertEqual(entry["bytes_after"], Path(entry["copy"]).stat().st_size)
        self.assertIn(entry["verdict"], ("same", "close"))
        for part in entry["parts"]:
            self.assertLessEqual(
                {"id", "decision", "reason", "bytes_before", "bytes_after"}, set(part)
            )

    def test_names_copies_as_asked(self) -> None:
        path = report(self.folder / "a.pdf").path
        run("lighten", path, "--out", self.folder / "new", "--prefix", "small ")
        self.assertTrue((self.folder / "new" / "small a.pdf").exists())

    def test_lighten_says_what_the_proof_did_not_look_at(self) -> None:
        path = handbook(self.folder / "a.docx").path
        with mock.patch("shutil.which", return_value=None):
            code, out, _ = run("lighten", path)
        self.assertEqual(code, 0)
        self.assertIn("Not looked at: pages were not laid out: no office suite", out)
        self.assertNotIn("Not looked at", run("lighten", path, "--no-layout", "--force")[1])

    def test_lighten_does_not_overwrite_without_force(self) -> None:
        path = report(self.folder / "a.pdf").path
        earlier = self.folder / "a-light.pdf"
        earlier.write_text("precious")
        code, _, err = run("lighten", path)
        self.assertEqual((code, earlier.read_text()), (1, "precious"))
        self.assertIn("--force", err)
        self.assertEqual(run("lighten", path, "--force")[0], 0)
        self.assertEqual(len(pikepdf.open(earlier).pages), 2)

    def test_never_writes_over_the_original_even_with_force(self) -> None:
        path = report(self.folder / "a.pdf").path
        before = path.read_bytes()
        code, _, _ = run("lighten", path, "--suffix", "", "--force")
        self.assertEqual((code, path.read_bytes()), (1, before))

    def test_lighten_gives_each_copy_of_a_run_a_name_of_its_own(self) -> None:
        photo = Image.fromarray(landscape(300, 200, 3))
        for name in ("a.bmp", "a.webp", "a-light.jpg"):
            photo.save(self.folder / name, quality=97)
        before = (self.folder / "a-light.jpg").read_bytes()
        files = [self.folder / name for name in ("a.bmp", "a.webp", "a-light.jpg")]
        code, out, _ = run("lighten", *files, "--force", "--json")
        copies = {Path(entry["path"]).name: entry["copy"] for entry in json.loads(out)}
        self.assertEqual(code, 0)
        self.assertEqual((self.folder / "a-light.jpg").read_bytes(), before)
        self.assertEqual(
            {Path(copy).name for copy in copies.values()},
            {"a-light 2.jpg", "a-light 3.jpg", "a-light-light.jpg"},
        )

    def test_lighten_takes_no_copy_of_an_earlier_run_for_an_original_and_no_file_twice(
        self,
    ) -> None:
        season = self.folder / "season"
        (season / "logs").mkdir(parents=True)
        original = report(season / "logs" / "a.pdf").path
        for out in (season / "lighter", season):
            for _ in range(2):
                told = run("lighten", season, original, "--out", out, "--force", "--json")
                (entry,) = json.loads(told[1])
                self.assertEqual(entry["copy"], str(out / "logs" / "a-light.pdf"))

    def test_lighten_works_on_what_was_named_however_it_is_spelled(self) -> None:
        """A name as copies have is no reason to pass over what somebody named."""
        path = report(self.folder / "a-light.pdf").path
        spelled = self.folder / "." / ".." / self.folder.name / path.name
        _, out, _ = run("lighten", self.folder, spelled, "--json")
        self.assertEqual(len(json.loads(out)), 1)

    def test_one_bad_file_does_not_harm_the_others(self) -> None:
        good = report(self.folder / "good.pdf").path
        bad = self.folder / "bad.pdf"
        bad.write_bytes(b"%PDF-1.4 cut")
        code, out, err = run("lighten", bad, good, "--json")
        entries = json.loads(out)
        self.assertEqual(code, 1)
        self.assertEqual(entries[0]["error"]["code"], "unreadable")
        self.assertIsNone(entries[0]["copy"])
        self.assertIsNotNone(entries[1]["copy"])
        self.assertIn("bad.pdf", err)

    def test_files_with_a_wrong_suffix_are_recognised_by_content(self) -> None:
        cases = {
            "empty.pdf": (b"", "unreadable"),
            "picture.pdf": (b"\x89PNG\r\n\x1a\n" + b"\0" * 50, "unreadable"),
            "office.pdf": (b"PK\x03\x04" + b"\0" * 50, "unsupported"),
            "text.pdf": (b"Dear Sir or Madam", "unsupported"),
        }
        for name, (content, expected) in cases.items():
            with self.subTest(name=name):
                path = self.folder / name
                path.write_bytes(content)
                code, out, _ = run("lighten", path, "--json")
                error = json.loads(out)[0]["error"]
                self.assertEqual((code, error["code"]), (1, expected))
                self.assertIn(name, error["message"])

    def test_a_missing_file_is_said(self) -> None:
        code, _, err = run("weigh", self.folder / "nowhere.pdf")
        self.assertEqual(code, 1)
        self.assertIn("nowhere.pdf", err)

    def test_signed_files_need_a_word(self) -> None:
        path = signed(self.folder / "a.pdf").path
        code, out, _ = run("lighten", path, "--json")
        self.assertEqual((code, json.loads(out)[0]["error"]["code"]), (1, "signed"))
        self.assertEqual(run("lighten", path, "--allow-signed")[0], 0)

    def test_locked_files_take_a_password(self) -> None:
        lock = pikepdf.Encryption(owner="o", user="reed", R=6)
        path = report(self.folder / "a.pdf", encryption=lock).path
        _, out, _ = run("lighten", path, "--json")
        self.assertEqual(json.loads(out)[0]["error"]["code"], "password_needed")
        self.assertEqual(run("lighten", path, "--password", "reed")[0], 0)


class Gather(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.out = self.folder / "album.pdf"
        self.pictures = [self.folder / "a.jpg", self.folder / "b.jpg"]
        for seed, path in enumerate(self.pictures):
            path.write_bytes(as_jpeg(landscape(900, 600, seed), 95))

    def test_pictures_come_together_as_they_are(self) -> None:
        code, out, _ = run("gather", *self.pictures, "--out", self.out, "--page", "a4", "--json")
        told = json.loads(out)
        self.assertEqual((code, told["pages"], told["error"]), (0, 2, None))
        self.assertEqual(told["bytes"], self.out.stat().st_size)
        with pikepdf.open(self.out) as pdf:
            self.assertAlmostEqual(float(pdf.pages[0].mediabox[2]), 841.89, delta=0.1)

    def test_lighter_by_a_preset_or_a_limit(self) -> None:
        code, out, _ = run("gather", *self.pictures, "--out", self.out, "--preset", "Post")
        self.assertEqual(code, 0)
        self.assertRegex(out, "album.pdf: 2 pages, .* of pictures, now .*, close")
        self.assertLess(self.out.stat().st_size, 60_000)
        command = ("gather", *self.pictures, "--out", self.out, "--force", "--limit")
        self.assertEqual(run(*command, "90kB")[0], 0)
        self.assertLess(self.out.stat().st_size, 90_000)
        self.assertEqual(run(*command, "1kB")[0], 3)

    def test_nothing_is_written_over(self) -> None:
        self.out.write_bytes(b"mine")
        code, _, errors = run("gather", *self.pictures, "--out", self.out)
        self.assertEqual((code, self.out.read_bytes()), (1, b"mine"))
        self.assertIn("--force", errors)
        before = self.pictures[0].read_bytes()
        code, _, _ = run("gather", *self.pictures, "--out", self.pictures[0], "--force")
        self.assertEqual((code, self.pictures[0].read_bytes()), (1, before))
        for wrong in ("3:90", "1:45", "x"):
            command = ("gather", *self.pictures, "--out", self.out, "--force", "--turn", wrong)
            self.assertEqual(run(*command)[0], 2)
        self.assertEqual(self.out.read_bytes(), b"mine")
        code, _, errors = run("gather", self.folder / "none.jpg", "--out", self.folder / "c.pdf")
        self.assertEqual(code, 1)
        self.assertIn("none.jpg", errors)


class Usage(FolderCase):
    def test_wrong_words_are_exit_code_2(self) -> None:
        path = report(self.folder / "a.pdf").path
        for words in ((), ("lighten",), ("lighten", path, "--preset", "none such"), ("fly", path)):
            with self.subTest(words=words):
                self.assertEqual(run(*words)[0], 2)

    def test_presets_are_listed(self) -> None:
        code, out, _ = run("presets", "--json")
        names = [preset["title"] for preset in json.loads(out)]
        self.assertEqual((code, names), (0, [preset.title for preset in PRESETS]))


class Limits(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = album(self.folder / "album.pdf", pages=3).path

    def test_estimate_prints_the_copys_size_and_its_band(self) -> None:
        code, out, _ = run("estimate", self.path, "--preset", "post", "--json")
        (entry,) = json.loads(out)
        self.assertEqual((code, entry["bytes_before"]), (0, self.path.stat().st_size))
        run("lighten", self.path, "--preset", "post")
        weight = (self.folder / "album-light.pdf").stat().st_size
        self.assertTrue(entry["low"] <= weight <= entry["high"])
        self.assertGreaterEqual(entry["seconds"], 0)

    def test_a_limit_is_kept_and_otherwise_the_exit_code_is_3(self) -> None:
        code, out, _ = run("lighten", self.path, "--limit", "300kB", "--json")
        (entry,) = json.loads(out)
        self.assertEqual((code, entry["error"]), (0, None))
        self.assertTrue(250_000 <= entry["bytes_after"] <= 300_000)
        code, _, err = run("lighten", self.path, "--limit", "6kB", "--force", "--floor", "80")
        self.assertEqual(code, 3)
        self.assertIn("the lightest copy is", err)

    def test_split_makes_pieces_that_fit(self) -> None:
        arguments = ("--limit", "55kB:message", "--split", "--floor", "80", "--json")
        code, out, _ = run("lighten", self.path, *arguments)
        (entry,) = json.loads(out)
        self.assertEqual(code, 0)
        self.assertGreater(len(entry["pieces"]), 1)
        for piece in entry["pieces"]:
            content = Path(piece["path"]).read_bytes()
            self.assertLessEqual(len(encodebytes(content).replace(b"\n", b"\r\n")), 55_000)

    def test_limits_together_all_copies_keep_one_limit(self) -> None:
        other = report(self.folder / "report.pdf").path
        code, _, _ = run("lighten", self.path, other, "--limit", "0.3MB", "--together")
        self.assertEqual(code, 0)
        weights = [one.stat().st_size for one in self.folder.glob("*-light.pdf")]
        self.assertEqual(len(weights), 2)
        self.assertTrue(250_000 <= sum(weights) <= 300_000)

    def test_a_malformed_limit_or_carrier_is_refused(self) -> None:
        for arguments in (
            ("--limit", "5"),
            ("--limit", "5MB:letter"),
            ("--limit", "0MB"),
            ("--limit", "5MB", "--allow", "magic"),
            ("--limit", "5MB", "--floor", "95"),
            ("--split",),
        ):
            with self.subTest(arguments=arguments):
                code, _, err = run("lighten", self.path, *arguments)
                self.assertEqual(code, 2)
                self.assertTrue(err)
        self.assertEqual(list(self.folder.glob("*-light*")), [])


class Rasterise(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.report = report(self.folder / "a.pdf").path
        self.out = self.folder / "a.tif"

    def test_pages_become_a_tiff_and_each_is_listed(self) -> None:
        code, out, _ = run(
            *("rasterise", self.report, "--out", self.out, "--colours", "grey", "--ppi", 120),
            "--json",
        )
        told = json.loads(out)
        self.assertEqual((code, told["files"]), (0, [str(self.out)]))
        self.assertEqual([page["colours"] for page in told["pages"]], ["greys", "greys"])
        with Image.open(self.out) as image:
            self.assertEqual(image.n_frames, 2)  # type: ignore[attr-defined] # of TIFF images

    def test_an_existing_file_is_kept_unless_forced(self) -> None:
        self.out.write_bytes(b"mine")
        told = run("rasterise", self.report, "--out", self.out)
        self.assertEqual((told[0], self.out.read_bytes()), (1, b"mine"))
        self.assertIn("--force", told[2])
        self.assertEqual(run("rasterise", self.report, "--out", self.out, "--force")[0], 0)
        code, _, errors = run("rasterise", self.report, "--out", self.report, "--force")
        self.assertEqual((code, self.report.read_bytes()[:4]), (1, b"%PDF"), errors)

    def test_coarse_text_and_wrong_numbers_are_refused(self) -> None:
        code, _, errors = run("rasterise", self.report, "--out", self.out, "--ppi", 60)
        self.assertEqual(code, 1)
        self.assertIn("nobody can read", errors)
        self.assertEqual(run("rasterise", self.report, "--out", self.out, "--ppi", 5)[0], 2)


class Manners(FolderCase):
    def test_manners_says_its_version_and_how_it_is_used(self) -> None:
        self.assertRegex(run("--version")[1], r"^green-satchel \d+\.\d+")
        _, out, _ = run("--help")
        self.assertIn("exit codes:", out)
        self.assertIn("green-satchel lighten", out)

    def test_wrong_usage_is_one_line(self) -> None:
        for arguments in (("lightn",), ("gather", "a.jpg"), ("lighten", "a.pdf", "--limit", "x")):
            code, _, errors = run(*arguments)
            self.assertEqual((code, errors.count("\n")), (2, 1), errors)
            self.assertIn("--help", errors)

    def test_manners_completes_words_in_shells(self) -> None:
        code, out, _ = run("completion", "bash")
        self.assertEqual(code, 0)
        self.assertIn("rasterise", out)

    def test_quiet_prints_errors_only(self) -> None:
        path = report(self.folder / "a.pdf").path
        self.assertEqual(run("lighten", path, "--quiet")[:2], (0, ""))
        code, out, errors = run("weigh", path, self.folder / "nowhere.pdf", "--quiet")
        self.assertEqual((code, out), (1, ""))
        self.assertIn("nowhere.pdf", errors)

    def test_many_files_end_with_one_line_for_all(self) -> None:
        paths = [report(self.folder / f"{name}.pdf").path for name in "ab"]
        _, out, _ = run("lighten", *paths)
        self.assertRegex(out.splitlines()[-1], r"^2 files: .* -> .* \(-\d+%\), 2 done, in \d+ s$")

    def test_a_password_comes_from_a_file_or_is_asked_for(self) -> None:
        lock = pikepdf.Encryption(owner="o", user="reed", R=6)
        path = report(self.folder / "a.pdf", encryption=lock).path
        secret = self.folder / "secret"
        secret.write_text("reed\n")
        self.assertEqual(run("weigh", path, "--password-file", secret)[0], 0)
        self.assertEqual(run("weigh", path, "--password-file", self.folder / "none")[0], 2)
        with (
            mock.patch("sys.stdin.isatty", return_value=True),
            mock.patch("getpass.getpass", return_value="reed") as asked,
        ):
            self.assertEqual(run("weigh", path)[0], 0)
            self.assertEqual(run("lighten", path)[0], 0)
            out = self.folder / "a.tif"
            self.assertEqual(run("rasterise", path, "--out", out, "--ppi", 120)[0], 0)
        self.assertIn("a.pdf", asked.call_args.args[0])


class Watch(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.watched, self.out = self.folder / "in", self.folder / "out"
        (self.watched / "logs").mkdir(parents=True)
        self.document = self.watched / "logs" / "a.jpg"
        self.document.write_bytes(as_jpeg(landscape(900, 600, 2), 97))

    def watch(self, *more: object) -> tuple[int, str, str]:
        return run("watch", self.watched, self.out, "--once", "--preset", "Post", *more)

    def test_watch_lightens_what_is_there_with_a_slip_beside_it_and_touches_nothing(self) -> None:
        before = self.document.read_bytes()
        code, out, _ = self.watch()
        self.assertEqual(code, 0)
        self.assertIn("a-light.jpg", out)
        copy = self.out / "logs" / "a-light.jpg"
        self.assertLess(copy.stat().st_size, len(before))
        slip = json.loads((self.out / "logs" / "a.jpg.slip.json").read_text())
        self.assertEqual(slip["copy"], str(copy))
        self.assertEqual(self.document.read_bytes(), before)
        self.assertEqual(
            [path.name for path in self.watched.rglob("*") if path.is_file()], ["a.jpg"]
        )

    def test_watch_gives_two_of_one_stem_names_of_their_own_and_keeps_to_them(self) -> None:
        other = self.document.with_suffix(".bmp")
        Image.fromarray(landscape(300, 200, 3)).save(other)
        self.watch()
        slips = [self.out / "logs" / f"a{ending}.slip.json" for ending in (".jpg", ".bmp")]
        names = [Path(json.loads(slip.read_text())["copy"]).name for slip in slips]
        self.assertEqual(set(names), {"a-light.jpg", "a-light 2.jpg"})
        for document in (self.document, other):
            os.utime(document, (1, 1))
        self.watch("--suffix", "-light")
        self.assertEqual([Path(json.loads(slip.read_text())["copy"]).name for slip in slips], names)

    def test_after_a_restart_finished_files_are_known_and_changed_ones_made_again(self) -> None:
        self.watch()
        copy = self.out / "logs" / "a-light.jpg"
        made = copy.stat().st_mtime_ns
        self.assertEqual(self.watch()[1], "")
        self.assertEqual(copy.stat().st_mtime_ns, made)
        self.document.write_bytes(as_jpeg(landscape(900, 600, 3), 97))
        self.assertIn("a-light.jpg", self.watch()[1])
        self.assertGreater(copy.stat().st_mtime_ns, made)

    def test_a_file_that_fails_is_reported_once_and_stops_nothing(self) -> None:
        (self.watched / "broken.pdf").write_bytes(b"%PDF-1.7 nothing")
        code, out, errors = self.watch()
        self.assertEqual(code, 1)
        self.assertIn("broken.pdf", errors)
        self.assertIn("a-light.jpg", out)
        self.assertEqual(self.watch(), (0, "", ""))

    def test_watch_waits_until_a_file_is_no_longer_written_to(self) -> None:
        looks = iter(range(4))

        def pause(_seconds: float) -> None:
            number = next(looks, None)
            if number is None:
                raise KeyboardInterrupt
            self.document.write_bytes(as_jpeg(landscape(900, 600, min(number, 2)), 97))
            self.assertEqual((self.out / "logs").exists(), number > 3)

        with mock.patch("time.sleep", side_effect=pause):
            code, _, _ = run("watch", self.watched, self.out)
        self.assertEqual(code, 130)

    def test_folders_that_make_no_sense_are_refused(self) -> None:
        for folders in ((self.watched, self.watched / "out"), (self.folder / "none", self.out)):
            self.assertEqual(run("watch", *folders, "--once")[0], 2)


class Shell(FolderCase):
    def test_skipped_files_of_a_folder_are_listed(self) -> None:
        (self.folder / "in").mkdir()
        report(self.folder / "in" / "a.pdf")
        (self.folder / "in" / "notes.txt").write_text("words")
        (self.folder / "in" / "empty.pdf").touch()
        code, _, err = run("lighten", self.folder / "in", "--out", self.folder / "out")
        self.assertEqual(code, 0)
        self.assertIn("Skipped 1 file (of kinds that cannot be made lighter here): notes.txt", err)
        self.assertIn("Skipped 1 file (empty): empty.pdf", err)

    def test_out_that_is_a_file_is_said(self) -> None:
        path = report(self.folder / "a.pdf").path
        out = self.folder / "there.pdf"
        out.write_text("precious")
        code, _, err = run("lighten", path, "--out", out)
        self.assertEqual((code, out.read_text()), (2, "precious"))
        self.assertIn("Name a folder", err)

    def test_a_suffix_may_begin_with_a_dash(self) -> None:
        path = report(self.folder / "a.pdf").path
        self.assertEqual(run("lighten", path, "--suffix", "-x")[0], 0)
        self.assertTrue((self.folder / "a-x.pdf").exists())

    def test_names_may_be_as_long_as_the_file_system_takes(self) -> None:
        path = report(self.folder / f"{'é' * 125}.pdf").path
        self.assertEqual(run("lighten", path)[0], 0)
        copies = [one for one in self.folder.iterdir() if one != path]
        self.assertEqual(len(copies), 1)
        self.assertTrue(copies[0].name.endswith("-light.pdf"))
        self.assertLessEqual(len(copies[0].name.encode()), 255)

    def test_files_are_written_when_the_output_pipe_is_closed(self) -> None:
        for name in ("a", "b"):
            report(self.folder / f"{name}.pdf")
        command = [sys.executable, "-m", "host.command", "lighten", "a.pdf", "b.pdf"]
        environment = {**os.environ, "PYTHONPATH": str(Path.cwd())}
        with subprocess.Popen(
            command, cwd=self.folder, stdout=subprocess.PIPE, env=environment
        ) as process:
            assert process.stdout is not None
            process.stdout.close()
            self.assertEqual(process.wait(120), 0)
        self.assertTrue(all((self.folder / f"{name}-light.pdf").exists() for name in "ab"))

    def test_an_end_that_is_asked_for_leaves_nothing_behind(self) -> None:
        """SIGTERM while a copy is made: no child, no partial file, no temporary folder."""
        album(self.folder / "a.pdf", pages=12)
        place = self.folder / "tmp"
        place.mkdir()
        command = [sys.executable, "-m", "host.command", "lighten", "a.pdf", "--limit", "60kB"]
        environment = {**os.environ, "PYTHONPATH": str(Path.cwd()), "TMPDIR": str(place)}
        with subprocess.Popen(
            command,
            cwd=self.folder,
            stderr=subprocess.PIPE,
            env=environment,
            text=True,
            start_new_session=True,
        ) as process:
            time.sleep(2.5)
            process.terminate()
            _, errors = process.communicate(timeout=60)
            group = process.pid
        self.assertEqual(process.returncode, 143, errors)
        self.assertNotIn("Traceback", errors)
        self.assertEqual([one.name for one in self.folder.iterdir() if one != place], ["a.pdf"])
        self.assertEqual(list(place.iterdir()), [])
        with self.assertRaises(ProcessLookupError):
            os.killpg(group, 0)
