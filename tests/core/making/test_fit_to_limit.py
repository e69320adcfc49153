"""What a refusal names can be made, and nothing above it is refused."""

from lighten import DoesNotFitError, FitOrder, Order, Source, make, weigh
from tests.builders import FolderCase, PdfBuilder, Show, landscape, logbook


class Refusals(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        builder = PdfBuilder().jpeg("Photo", landscape(700, 500, 4), 95)
        builder.jpeg("Log", logbook(620, 877, 2), 92)
        builder.page(Show("Photo", (216, 0, 0, 154, 72, 400)))
        builder.page(Show("Log", (297, 0, 0, 421, 0, 0)))
        self.source = Source(path=builder.save(self.folder / "a.pdf"))
        self.sheet = weigh(self.source)

    def weight_for(self, limit_bytes: int) -> int:
        order = Order(fit=FitOrder(limit_bytes=limit_bytes))
        out = self.folder / f"b{limit_bytes}.pdf"
        return make(self.source, self.sheet, order, out).copy.bytes_after

    def test_name_a_weight_that_can_be_had(self) -> None:
        with self.assertRaises(DoesNotFitError) as refused:
            self.weight_for(2_000)
        lightest = refused.exception.lightest_bytes
        self.assertIn("at the least they may look", str(refused.exception))
        for limit in (lightest, lightest * 21 // 20):
            self.assertLessEqual(self.weight_for(limit), limit)
