"""What a person chose to leave out is gone, nothing else is, and the proof says so."""

import subprocess
from collections.abc import Callable

import numpy as np
import pikepdf
import pypdfium2

from lighten import (
    ExtraKind,
    PartException,
    PictureClass,
    PictureTreatment,
    Preset,
    Source,
    Treatment,
    Verdict,
    make_proved_copy,
    plan,
    preset_named,
    prove,
    weigh,
)
from lighten.formats.pdf.extras.layers import hidden_layers, is_hidden
from tests.builders import FolderCase, PdfBuilder, Show, landscape, text_page
from tests.core.formats.pdf.samples import PHOTO, report

NAME = pikepdf.Name


def dropping(*kinds: ExtraKind) -> Preset:
    treatment = Treatment(dropped_extras=frozenset(kinds))
    return Preset(name="own", title="Own", description="", treatment=treatment)


def layered() -> pikepdf.Pdf:
    """A page with a shown and a hidden layer, each with words of its own."""
    builder = PdfBuilder().jpeg("A", PHOTO)
    builder.page(Show("A", (216, 0, 0, 144, 72, 400)))
    pdf, page = builder.pdf, builder.pdf.pages[0].obj
    shown = pdf.make_indirect(pikepdf.Dictionary(Type=NAME.OCG, Name="Map"))
    hidden = pdf.make_indirect(pikepdf.Dictionary(Type=NAME.OCG, Name="Draft notes"))
    pdf.Root.OCProperties = pikepdf.Dictionary(
        OCGs=[shown, hidden], D=pikepdf.Dictionary(ON=[shown], OFF=[hidden])
    )
    page.Resources.Properties = pikepdf.Dictionary(S=shown, H=hidden)
    line = b"BT /F1 12 Tf 72 %d Td (%s) Tj ET "
    filler = b"".join(line % (90 + n % 200, b"draft line %d" % n) for n in range(400))
    content = (
        text_page("Always here")
        + b"/OC /S BDC "
        + line % (650, b"on the map")
        + b"EMC /OC /H BDC "
        + filler
        + b"EMC "
    )
    page.Contents = pikepdf.Array([page.Contents, pdf.make_stream(content)])
    return pdf


def commented() -> pikepdf.Pdf:
    builder = PdfBuilder().jpeg("A", PHOTO)
    builder.page(Show("A", (216, 0, 0, 144, 72, 400)), content=text_page("Fen"))
    pdf, page = builder.pdf, builder.pdf.pages[0].obj
    stamp = pdf.make_stream(b"1 0 0 rg 0 0 90 40 re f", Subtype=NAME.Form, BBox=[0, 0, 90, 40])
    note = pikepdf.Dictionary(
        Type=NAME.Annot,
        Subtype=NAME.Stamp,
        Rect=[300, 500, 390, 540],
        Contents="checked",
        AP=pikepdf.Dictionary(N=stamp),
    )
    link = pikepdf.Dictionary(
        Type=NAME.Annot,
        Subtype=NAME.Link,
        Rect=[72, 690, 200, 712],
        A=pikepdf.Dictionary(S=NAME.URI, URI="https://fen.example/"),
    )
    page.Annots = pikepdf.Array([pdf.make_indirect(note), pdf.make_indirect(link)])
    return pdf


def form() -> pikepdf.Pdf:
    builder = PdfBuilder().jpeg("A", PHOTO)
    builder.page(Show("A", (216, 0, 0, 144, 72, 400)), content=text_page("Name:"))
    pdf, page = builder.pdf, builder.pdf.pages[0].obj
    font = page.Resources.Font["/F1"]
    shown = pdf.make_stream(
        b"/Tx BMC BT /F1 12 Tf 2 6 Td (Wren Sedge) Tj ET EMC",
        Subtype=NAME.Form,
        BBox=[0, 0, 160, 20],
        Resources=pikepdf.Dictionary(Font=pikepdf.Dictionary(F1=font)),
    )
    field = pdf.make_indirect(
        pikepdf.Dictionary(
            Type=NAME.Annot,
            Subtype=NAME.Widget,
            FT=NAME.Tx,
            T="name",
            V="Wren Sedge",
            Rect=[120, 690, 280, 710],
            AP=pikepdf.Dictionary(N=shown),
            F=4,
        )
    )
    page.Annots = pikepdf.Array([field])
    pdf.Root.AcroForm = pdf.make_indirect(pikepdf.Dictionary(Fields=[field]))
    return pdf


def annotated() -> pikepdf.Pdf:
    """One of each kind, each named by what it is; a highlight with its window and an answer."""
    pdf = PdfBuilder().jpeg("A", PHOTO).page(Show("A", (216, 0, 0, 144, 72, 400))).pdf

    def annotation(subtype: str, name: str = "", **entries: object) -> pikepdf.Object:
        place = 40 + 30 * len(added)
        plain = {"Rect": pikepdf.Array([300, place, 340, place + 20]), "NM": name or subtype}
        added.append(
            pdf.make_indirect(
                pikepdf.Dictionary(
                    Type=NAME.Annot, Subtype=pikepdf.Name(f"/{subtype}"), **plain, **entries
                )
            )
        )
        return added[-1]

    added: list[pikepdf.Object] = []
    look = pdf.make_stream(
        np.random.default_rng(3).bytes(3_000).hex().encode(), Subtype=NAME.Form, BBox=[0, 0, 9, 9]
    )
    for subtype in ("Text", "FreeText", "Ink", "Screen"):
        annotation(subtype, Contents="seen at the fen")
    annotation("Stamp", AP=pikepdf.Dictionary(N=look))
    mark = annotation("Highlight", QuadPoints=[300, 700, 340, 700, 300, 690, 340, 690])
    annotation("Text", "answer", IRT=mark, Contents="so it was")
    mark.Popup = annotation("Popup", "window", Parent=mark)
    pdf.pages[0].obj.Annots = pikepdf.Array(added)
    return pdf


class LeavingOut(FolderCase):
    def lighten(self, pdf: pikepdf.Pdf, *kinds: ExtraKind) -> pikepdf.Pdf:
        source = Source(path=self.folder / "a.pdf")
        pdf.save(source.path)
        sheet = weigh(source)
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(source, sheet, plan(sheet, dropping(*kinds)), out)
        assert proof is not None, copy.reasons
        self.assertIsNot(proof.verdict, Verdict.CHECK, proof.reasons)
        made = pikepdf.open(out)
        self.addCleanup(made.close)
        return made

    def words(self) -> str:
        command = ["pdftotext", "b.pdf", "-"]
        return subprocess.run(
            command, cwd=self.folder, check=True, capture_output=True, text=True
        ).stdout

    def test_hidden_layers_go_and_shown_ones_stay(self) -> None:
        made = self.lighten(layered(), ExtraKind.HIDDEN_LAYERS)
        self.assertNotIn("draft", self.words())
        self.assertIn("on the map", self.words())
        self.assertEqual([str(one.Name) for one in made.Root.OCProperties.OCGs], ["Map"])

    def test_all_layers_become_plain_content(self) -> None:
        made = self.lighten(layered(), ExtraKind.LAYERS)
        self.assertNotIn("/OCProperties", made.Root)
        self.assertIn("on the map", self.words())

    def test_each_kind_of_annotation_goes_alone(self) -> None:
        """Kinds of ISO 32000-1, table 169; an answer and a window go with what they are about."""
        kinds = {
            ExtraKind.NOTES: {"Text"},
            ExtraKind.MARKINGS: {"Highlight", "answer", "window"},
            ExtraKind.TYPED_TEXT: {"FreeText"},
            ExtraKind.DRAWN_MARKS: {"Ink"},
            ExtraKind.STAMPS: {"Stamp"},
            ExtraKind.MEDIA: {"Screen"},
        }
        everything = set().union(*kinds.values())
        for kind, names in kinds.items():
            with self.subTest(kind):
                (self.folder / "b.pdf").unlink(missing_ok=True)
                made = self.lighten(annotated(), kind)
                left = {str(one.NM) for one in made.pages[0].Annots}
                self.assertEqual(left, everything - names)

    def test_kinds_of_annotations_weigh_apart(self) -> None:
        path = self.folder / "a.pdf"
        annotated().save(path)
        weights = {part.extra: part.size_bytes for part in weigh(Source(path=path)).parts}
        self.assertGreater(weights[ExtraKind.STAMPS], 2_000)
        self.assertLess(weights[ExtraKind.NOTES], 1_000)

    def test_stamps_go_and_links_stay(self) -> None:
        made = self.lighten(commented(), ExtraKind.STAMPS)
        self.assertEqual([one.Subtype for one in made.pages[0].Annots], ["/Link"])

    def test_fields_become_plain_content(self) -> None:
        made = self.lighten(form(), ExtraKind.FORM_FIELDS)
        self.assertNotIn("/AcroForm", made.Root)
        self.assertIn("Wren Sedge", self.words())

    def test_bookmarks_go_alone(self) -> None:
        report(self.folder / "source.pdf")
        with pikepdf.open(self.folder / "source.pdf") as pdf:
            made = self.lighten(pdf, ExtraKind.BOOKMARKS)
        self.assertNotIn("/Outlines", made.Root)

    def test_nothing_goes_unasked(self) -> None:
        checks: list[tuple[Callable[[], pikepdf.Pdf], Callable[[pikepdf.Pdf], bool]]] = [
            (layered, lambda pdf: len(pdf.Root.OCProperties.OCGs) == 2),
            (commented, lambda pdf: len(pdf.pages[0].Annots) == 2),
            (form, lambda pdf: "/AcroForm" in pdf.Root),
        ]
        for build, is_whole in checks:
            (self.folder / "b.pdf").unlink(missing_ok=True)
            self.assertTrue(is_whole(self.lighten(build(), ExtraKind.LEFTOVERS)))

    def test_a_comment_lost_unasked_is_found(self) -> None:
        source = Source(path=self.folder / "a.pdf")
        commented().save(source.path)
        sheet = weigh(source)
        out = self.folder / "b.pdf"
        copy, _ = make_proved_copy(source, sheet, plan(sheet, dropping()), out)
        with pikepdf.open(out, allow_overwriting_input=True) as pdf:
            del pdf.pages[0].Annots[0]
            pdf.save()
        proof = prove(source, Source(path=out), sheet, copy.outcomes)
        self.assertIs(proof.verdict, Verdict.CHECK)


class Layers(FolderCase):
    def test_membership_follows_its_rule(self) -> None:
        """ISO 32000-1, 8.11.2.2, table 99."""
        pdf = layered()
        on, off = pdf.Root.OCProperties.OCGs
        hidden = hidden_layers(pdf)
        self.assertEqual(hidden, {off.objgen})
        expected = {
            "/AnyOn": (False, True),
            "/AllOn": (True, True),
            "/AnyOff": (False, False),
            "/AllOff": (True, False),
        }
        for rule, (mixed, only_off) in expected.items():
            for groups, wanted in (([on, off], mixed), ([off], only_off)):
                members = pikepdf.Dictionary(Type=NAME.OCMD, OCGs=groups, P=NAME(rule))
                with self.subTest(rule=rule, count=len(groups)):
                    self.assertIs(is_hidden(members, hidden), wanted)


class Repeats(FolderCase):
    def test_equal_pictures_are_counted_and_kept_once(self) -> None:
        builder = PdfBuilder()
        for number in range(5):
            builder.jpeg(f"P{number}", PHOTO)
            builder.page(Show(f"P{number}", (216, 0, 0, 144, 72, 400)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        sheet = weigh(source)
        pictures = [part for part in sheet.parts if part.picture]
        self.assertEqual(len(pictures), 1)
        assert pictures[0].picture is not None
        self.assertEqual(len(pictures[0].picture.placements), 5)
        self.assertEqual(sum(part.size_bytes for part in sheet.parts), sheet.size_bytes)
        copy, proof = make_proved_copy(
            source, sheet, plan(sheet, preset_named("as-it-was")), self.folder / "b.pdf"
        )
        assert proof is not None
        self.assertIs(proof.verdict, Verdict.SAME)
        self.assertLess(copy.bytes_after / copy.bytes_before, 0.25)


class Written(FolderCase):
    def lighten(self, preset: Preset, **exceptions: PartException) -> pikepdf.Pdf:
        source = Source(path=self.folder / "a.pdf")
        if not source.path.exists():
            report(source.path)
        sheet = weigh(source)
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(
            source, sheet, plan(sheet, preset, exceptions=exceptions), out
        )
        assert proof is not None, copy.reasons
        made = pikepdf.open(out)
        self.addCleanup(made.close)
        return made

    def test_linearized_as_a_second_tool_checks(self) -> None:
        """ISO 32000-1, annex F, by qpdf."""
        treatment = Treatment(
            pictures={PictureClass.PHOTO: PictureTreatment(finest_ppi=100, quality=70)},
            is_linearized=True,
        )
        preset = Preset(name="web", title="Web", description="", treatment=treatment)
        self.assertTrue(self.lighten(preset).is_linearized)
        check = subprocess.run(
            ["qpdf", "--check-linearization", self.folder / "b.pdf"],
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(check.returncode, 0, check.stderr)
        self.assertIn("no linearization errors", check.stdout)

    def test_the_same_plan_gives_the_same_bytes(self) -> None:
        self.lighten(preset_named("feather"))
        once = (self.folder / "b.pdf").read_bytes()
        (self.folder / "b.pdf").unlink()
        self.lighten(preset_named("feather"))
        self.assertEqual((self.folder / "b.pdf").read_bytes(), once)

    def test_clipped_parts_of_pictures_are_cut_on_request(self) -> None:
        builder = PdfBuilder().jpeg("A", landscape(900, 600, 3), 95)
        content = b"q 100 400 100 60 re W n 300 0 0 200 50 330 cm /A Do Q "
        builder.page(content=text_page("Cropped") + content)
        page = builder.pdf.pages[0].obj
        page.Resources.XObject = pikepdf.Dictionary(A=builder.pictures["A"])
        source = Source(path=builder.save(self.folder / "a.pdf"))
        sheet = weigh(source)
        wanted = PictureTreatment(quality=90, cuts_hidden=True)
        treatment = Treatment(pictures=dict.fromkeys(PictureClass, wanted))
        preset = Preset(name="cut", title="Cut", description="", treatment=treatment)
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(source, sheet, plan(sheet, preset), out)
        assert proof is not None
        self.assertIsNot(proof.verdict, Verdict.CHECK, proof.reasons)
        self.assertLess(copy.bytes_after / copy.bytes_before, 0.35)
        shown = pypdfium2.PdfDocument(out)
        self.addCleanup(shown.close)
        self.assertEqual(len(shown), 1)

    def test_exempted_pictures_keep_their_bytes(self) -> None:
        source = report(self.folder / "a.pdf")
        part = max(
            (one for one in weigh(source).parts if one.picture), key=lambda one: one.size_bytes
        )
        made = self.lighten(preset_named("feather"), **{part.id: PartException(is_exempt=True)})
        with pikepdf.open(source.path) as original:
            number, _, generation = part.id.removeprefix("picture:").partition("-")
            kept = original.get_object((int(number), int(generation))).read_raw_bytes()
        self.assertIn(
            kept,
            [one.read_raw_bytes() for one in made.objects if isinstance(one, pikepdf.Stream)],
        )
