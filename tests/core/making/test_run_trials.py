"""Trials of real files, what estimates make of them, and copies that end below a limit."""

import json
from base64 import encodebytes
from email.message import EmailMessage
from pathlib import Path

import numpy as np
from skimage import data

from lighten import Source, Verdict, estimate, make_copy, plan, preset_named, weigh
from lighten.making.fit_to_limit import make_fitted_copy
from lighten.making.orders import FitOrder, Order
from lighten.making.run_trials import run_trials
from lighten.model.errors import DoesNotFitError
from lighten.model.fit_rules import FitRules
from lighten.model.limits import read_limit
from lighten.model.sheet_json import trials_from_json, trials_to_json
from lighten.model.trials import Trials
from lighten.model.weights import WeightSheet
from lighten.pictures.recoding.coding_cache import CodingCache
from tests.builders import FolderCase, PdfBuilder, Show, chart, landscape, text_page


def album(path: Path, *, pages: int = 6) -> Source:
    """Two pictures on each page, of three kinds, at 200 to 400 ppi; bookmarks to all pages."""
    builder = PdfBuilder()
    photos = (data.astronaut(), data.coffee(), data.chelsea())
    for number in range(pages):
        builder.jpeg(f"Photo{number}", np.ascontiguousarray(photos[number % 3]))
        other = landscape(800, 600, number) if number % 2 else chart(800, 600, number)
        builder.flate(f"Other{number}", other)
        width = 90 + 20 * number
        builder.page(
            Show(f"Photo{number}", (width, 0, 0, width, 60, 450)),
            Show(f"Other{number}", (200, 0, 0, 150, 60, 200)),
            content=text_page(f"Page {number + 1}"),
        )
    with builder.pdf.open_outline() as outline:
        import pikepdf

        outline.root += [pikepdf.OutlineItem(f"To {page}", page) for page in range(pages)]
    builder.save(path)
    return Source(path=path)


class AlbumCase(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.source = album(self.folder / "album.pdf")
        self.sheet = weigh(self.source)
        self.cache = CodingCache(self.folder / "codings", most_bytes=100_000_000)

    def learned(self, preset: str | None = None) -> Trials:
        chosen = plan(self.sheet, preset_named(preset)) if preset else None
        trials = Trials()
        for _, trials in run_trials(  # noqa: B007 - the last ones count
            self.source, self.sheet, chosen, self.folder, cache=self.cache
        ):
            pass
        return trials


class TrialRuns(AlbumCase):
    def test_copies_weigh_what_was_estimated(self) -> None:
        for name in ("reading-desk", "post", "feather"):
            with self.subTest(preset=name):
                chosen = plan(self.sheet, preset_named(name))
                likely = estimate(self.sheet, chosen, self.learned(name))
                copy = make_copy(self.source, self.sheet, chosen, self.folder / name)
                self.assertAlmostEqual(likely.size_bytes / copy.bytes_after, 1, delta=0.06)
                self.assertLessEqual(likely.low_bytes, copy.bytes_after)
                self.assertGreaterEqual(likely.high_bytes, copy.bytes_after)

    def test_the_band_narrows_as_trials_land(self) -> None:
        chosen = plan(self.sheet, preset_named("post"))
        widths = []
        for trials in (Trials(), self.learned("post")):
            likely = estimate(self.sheet, chosen, trials)
            widths.append(likely.high_bytes - likely.low_bytes)
        self.assertLess(widths[1], widths[0] / 3)

    def test_the_share_done_only_grows_and_ends_at_all(self) -> None:
        chosen = plan(self.sheet, preset_named("post"))
        shares = [share for share, _ in run_trials(self.source, self.sheet, chosen, self.folder)]
        self.assertEqual(shares, sorted(shares))
        self.assertEqual(shares[-1], 1.0)

    def test_a_second_time_nothing_is_coded(self) -> None:
        first = self.learned("post")
        again = list(
            run_trials(
                self.source,
                self.sheet,
                plan(self.sheet, preset_named("post")),
                self.folder,
                cache=self.cache,
                earlier=first,
            )
        )
        self.assertEqual(again[-1][1], first)

    def test_trials_pass_through_json_whole(self) -> None:
        trials = self.learned("post")
        self.assertEqual(trials_from_json(json.loads(json.dumps(trials_to_json(trials)))), trials)


class Fitted(AlbumCase):
    @staticmethod
    def order(limit: int, **rules: object) -> Order:
        fit_rules = FitRules(**rules)  # type: ignore[arg-type]
        return Order(fit=FitOrder(limit_bytes=limit, rules=fit_rules))

    def make(self, limit: int, name: str = "fitted", **rules: object) -> Path:
        out = self.folder / name
        copy, proof, _ = make_fitted_copy(
            self.source,
            self.sheet,
            self.learned(),
            self.order(limit, **rules),
            out,
            cache=self.cache,
        )
        assert proof is not None
        self.assertIsNot(proof.verdict, Verdict.CHECK)
        self.assertEqual(copy.bytes_after, out.stat().st_size)
        return out

    def test_fitted_ends_close_below_the_limit(self) -> None:
        for share in (0.3, 0.15):
            limit = int(self.sheet.size_bytes * share)
            with self.subTest(share=share):
                weight = self.make(limit, f"fitted-{share}").stat().st_size
                self.assertLessEqual(weight, limit)
                self.assertGreaterEqual(weight, 0.9 * limit)

    def test_a_message_limit_holds_for_a_real_message(self) -> None:
        # RFC 2045, 6.8, by Python's own email package.
        limit = read_limit("200kB:message")
        content = self.make(limit.file_bytes).read_bytes()
        message = EmailMessage()
        message.add_attachment(content, maintype="application", subtype="pdf")
        (part,) = message.iter_attachments()
        carried = part.get_payload().encode().replace(b"\n", b"\r\n")
        self.assertLessEqual(len(carried), limit.size_bytes)
        self.assertEqual(carried.replace(b"\r\n", b"\n"), encodebytes(content))

    def test_fitted_says_what_is_lightest_where_the_floor_is_in_the_way(self) -> None:
        with self.assertRaises(DoesNotFitError) as refused:
            self.make(30_000, floor=80)
        lightest = refused.exception.lightest_bytes
        self.assertGreater(lightest, 30_000)
        self.assertIn("lightest", refused.exception.message)
        self.assertLessEqual(
            self.make(int(lightest * 1.05), "just", floor=80).stat().st_size, lightest * 1.05
        )
        self.assertEqual(list(self.folder.glob(".fit-*")), [])

    def test_nothing_is_made_where_a_copy_would_not_be_lighter(self) -> None:
        blank = PdfBuilder().page(content=b"")
        blank.save(self.folder / "blank.pdf", linearize=False)
        source = Source(path=self.folder / "blank.pdf")
        sheet: WeightSheet = weigh(source)
        copy, proof, fitted = make_fitted_copy(
            source, sheet, Trials(), self.order(sheet.size_bytes * 2), self.folder / "out"
        )
        self.assertFalse(fitted.gives_up)
        self.assertLessEqual(copy.bytes_after, sheet.size_bytes)
        self.assertEqual(proof is None, copy.path is None)
