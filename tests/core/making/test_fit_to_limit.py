"""What a refusal names can be made, and nothing above it is refused."""

from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from lighten import (
    DoesNotFitError,
    FitOrder,
    Order,
    Source,
    Verdict,
    make,
    make_proved_copy,
    plan,
    preset_named,
    weigh,
)
from tests.builders import FolderCase, PdfBuilder, Show, landscape, logbook


class AsLightAsPresets(FolderCase):
    """A limit that a preset's copy meets is never refused, and its copy is no heavier."""

    def setUp(self) -> None:
        super().setUp()
        path = self.folder / "a.pdf"
        canvas = Canvas(str(path), pagesize=(595, 842), invariant=True)
        photo = ImageReader(Image.fromarray(landscape(1800, 1200, 5)))
        clip = canvas.beginPath()
        clip.rect(60, 500, 120, 120)
        canvas.clipPath(clip, stroke=0)
        canvas.drawImage(photo, -100, 300, 720, 480)
        canvas.save()
        self.source = Source(path=path)
        self.sheet = weigh(self.source)

    def test_as_light_as_presets_for_a_cropped_photo(self) -> None:
        for name in ("reading-desk", "post", "feather"):
            with self.subTest(name):
                wanted = plan(self.sheet, preset_named(name))
                copy, proof = make_proved_copy(
                    self.source, self.sheet, wanted, self.folder / f"{name}.pdf"
                )
                assert proof is not None
                self.assertIsNot(proof.verdict, Verdict.CHECK)
                order = Order(fit=FitOrder(limit_bytes=copy.bytes_after))
                made = make(self.source, self.sheet, order, self.folder / f"{name}-fit.pdf")
                self.assertLessEqual(made.copy.bytes_after, copy.bytes_after)
                assert made.proof is not None
                self.assertIsNot(made.proof.verdict, Verdict.CHECK)


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
