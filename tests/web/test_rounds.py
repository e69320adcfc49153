"""Runs over the same satchel, again and again."""

from typing import Any

from tests.web.cases import ApiCase
from web.satchels.models import Copy


class Rounds(ApiCase):
    def run_again(self) -> Any:
        return self.post(f"/api/satchels/{self.satchel}/runs")

    def since(self, run: Any) -> Any:
        return self.send("get", f"/api/runs/{run['id']}/slip")["since"]

    def ask(self, **choices: Any) -> None:
        self.send("patch", f"/api/satchels/{self.satchel}", choices)

    def test_rounds_take_over_what_would_come_out_the_same(self) -> None:
        self.ask(preset="as-it-was")
        first_document = self.upload(self.report(), "report.pdf")
        first = self.run_again()
        self.assertIsNone(self.since(first))
        self.upload(self.report(), "again.pdf")
        second = self.run_again()
        self.assertEqual(second["round"], 2)
        since = self.since(second)
        self.assertEqual((since["added"], since["as_before"]), (["again.pdf"], ["report.pdf"]))
        before, after = Copy.objects.filter(document=first_document["id"]).order_by("run__round")
        self.assertTrue(after.is_carried_over)
        self.assertNotEqual(before.path, after.path)
        self.assertEqual(before.path.read_bytes(), after.path.read_bytes())
        self.send("delete", f"/api/documents/{first_document['id']}", status=204)
        third = self.run_again()
        self.assertEqual(self.since(third)["taken_out"], ["report.pdf"])
        self.assertEqual(self.since(third)["as_before"], ["again.pdf"])

    def test_rounds_make_changed_orders_again(self) -> None:
        self.ask(preset="as-it-was")
        self.upload(self.report())
        self.run_again()
        self.ask(preset="post")
        second = self.run_again()
        self.assertEqual(self.since(second)["anew"], ["report.pdf"])
        (row,) = self.send("get", f"/api/runs/{second['id']}/slip")["rows"]
        # Either copy can be chosen: the one of the run before is named with its weight.
        self.assertEqual(row["earlier"]["order"], "As it was")
        self.assertGreater(row["earlier"]["bytes_after"], row["bytes_after"])
        answer = self.api.get(f"/api/copies/{row['earlier']['copy_id']}/file")
        self.assertEqual(len(b"".join(answer.streaming_content)), row["earlier"]["bytes_after"])
        self.ask(preset="as-it-was")
        self.assertEqual(self.since(self.run_again())["as_before"], ["report.pdf"])

    def test_rounds_are_counted_in_names_by_choice(self) -> None:
        self.ask(preset="as-it-was")
        self.upload(self.report())
        self.run_again()
        self.run_again()
        self.assertEqual(self.shown()["documents"][0]["copy_name"], "report-light.pdf")
        self.ask(counts_rounds=True)
        self.assertEqual(self.shown()["documents"][0]["copy_name"], "report-light-round-2.pdf")
