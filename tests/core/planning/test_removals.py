"""Removals chosen for one document, and those that a refusal names."""

import io

import openpyxl
from openpyxl.styles import Font

from lighten import (
    Action,
    ExtraKind,
    PartException,
    Source,
    make_copy,
    plan,
    preset_named,
    weigh,
)
from lighten.making.fit_to_limit import make_fitted_copy
from lighten.making.orders import FitOrder, Order
from lighten.model.errors import DoesNotFitError
from lighten.model.trials import Trials
from lighten.planning.switch_savings import unused_removals
from tests.builders import FolderCase


class Removals(FolderCase):
    def setUp(self) -> None:
        """A workbook of forty rows whose formats go on for thousands, as after "select all"."""
        super().setUp()
        book = openpyxl.Workbook()
        sheet = book.active
        assert sheet is not None
        for row in range(1, 41):
            for column in range(1, 5):
                sheet.cell(row, column, row * column)
        bold = Font(bold=True)
        for row in range(41, 4000):
            for column in range(1, 9):
                sheet.cell(row, column).font = bold
        path = self.folder / "ledger.xlsx"
        book.save(path)
        self.source = Source(path=path)
        self.sheet = weigh(self.source)
        self.chosen = plan(self.sheet, preset_named("Reading desk"))

    def test_the_heaviest_that_is_kept_comes_first(self) -> None:
        (kind, size), *_ = unused_removals(self.sheet, self.chosen)
        self.assertEqual(kind, ExtraKind.PAST_FORMATS)
        self.assertGreater(size, self.source.path.stat().st_size / 2)
        tidy = plan(self.sheet, preset_named("Data sheets"))
        self.assertNotIn(kind, dict(unused_removals(self.sheet, tidy)))

    def test_one_part_left_out_drops_all_of_its_kind_in_this_document(self) -> None:
        part = next(one for one in self.sheet.parts if one.extra_kind is ExtraKind.PAST_FORMATS)
        chosen = plan(
            self.sheet,
            preset_named("Reading desk"),
            exceptions={part.id: PartException(is_left_out=True)},
        )
        for one, decision in zip(self.sheet.parts, chosen.decisions, strict=True):
            if one.extra_kind is ExtraKind.PAST_FORMATS:
                self.assertEqual(decision.action, Action.DROP)
        out = self.folder / "copy.xlsx"
        make_copy(self.source, self.sheet, chosen, out)
        self.assertLess(out.stat().st_size, self.source.path.stat().st_size / 2)
        # By openpyxl: every value is there.
        copy = openpyxl.load_workbook(io.BytesIO(out.read_bytes())).active
        assert copy is not None
        self.assertEqual([copy.cell(row, 4).value for row in (1, 40)], [4, 160])

    def test_a_limit_that_cannot_be_met_names_what_would_help(self) -> None:
        with self.assertRaises(DoesNotFitError) as raised:
            make_fitted_copy(
                self.source,
                self.sheet,
                Trials(),
                Order(fit=FitOrder(limit_bytes=30_000)),
                self.folder / "copy.xlsx",
            )
        self.assertIn("Formats past the data", raised.exception.message)
        self.assertIn("kB; way: past-formats", raised.exception.message)
