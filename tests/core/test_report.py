"""The core's values as JSON: what scripts and the application rely on."""

import json

from lighten import PRESETS, Source, make_proved_copy, plan, preset_named, weigh
from lighten.model.errors import PasswordNeededError
from lighten.report import (
    copy_report,
    error_report,
    plan_report,
    preset_report,
    proof_report,
    sheet_report,
)
from tests.builders import FolderCase
from tests.core.formats.pdf.samples import report


class Reports(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.source = report(self.folder / "a.pdf")
        self.sheet = weigh(self.source)
        self.plan = plan(self.sheet, preset_named("post"))

    def test_reports_survive_a_trip_through_json(self) -> None:
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(self.source, self.sheet, self.plan, out)
        assert proof is not None
        for value in (
            sheet_report(self.sheet),
            plan_report(self.plan),
            copy_report(copy, proof, self.sheet),
            proof_report(proof),
            [preset_report(preset) for preset in PRESETS],
        ):
            self.assertEqual(json.loads(json.dumps(value)), value)

    def test_reports_of_a_copy_account_for_every_part(self) -> None:
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(self.source, self.sheet, self.plan, out)
        told = copy_report(copy, proof, self.sheet)
        self.assertEqual([p["id"] for p in told["parts"]], [p.id for p in self.sheet.parts])
        self.assertEqual(sum(p["bytes_before"] for p in told["parts"]), told["bytes_before"])
        self.assertEqual(sum(p["bytes_after"] for p in told["parts"]), told["bytes_after"])

    def test_reports_of_a_proof_have_every_page_and_treated_picture(self) -> None:
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(self.source, self.sheet, self.plan, out)
        assert proof is not None
        pages = proof_report(proof)["pages"]
        self.assertEqual([page["page"] for page in pages], [1, 2])
        shown = {picture["id"] for page in pages for picture in page["pictures"]}
        treated = {o.part_id for o in copy.outcomes if o.likeness is not None}
        self.assertEqual(shown, treated)

    def test_reports_of_errors_have_a_stable_code(self) -> None:
        told = error_report(PasswordNeededError("a.pdf: it is locked."))
        self.assertEqual(told, {"code": "password_needed", "message": "a.pdf: it is locked."})

    def test_reports_of_a_plan_say_the_size_aimed_at(self) -> None:
        sizes = [one["target_px"] for one in plan_report(self.plan) if one["target_px"]]
        # 216 pt are 3 in: 330 px at 110 ppi.
        self.assertIn([330, 220], sizes)


class Progress(FolderCase):
    def test_progress_of_all_steps_rises_to_the_end(self) -> None:
        source = report(self.folder / "a.pdf")
        told: list[float] = []

        def tell(share: float, _doing: str = "", /) -> None:
            told.append(share)

        sheet = weigh(source, tell)
        self.assertEqual((told, told[-1]), (sorted(told), 1.0))
        told.clear()
        chosen = plan(sheet, preset_named("post"))
        make_proved_copy(source, sheet, chosen, self.folder / "b.pdf", tell)
        self.assertEqual(told, sorted(told))
        self.assertAlmostEqual(told[-1], 1.0)

    def test_progress_can_be_ignored(self) -> None:
        self.assertEqual(weigh(Source(path=report(self.folder / "a.pdf").path)).pages, 2)
