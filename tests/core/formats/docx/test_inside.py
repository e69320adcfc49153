"""Fonts and documents that a text document brings along."""

import io
import zipfile
from pathlib import Path

import docx
import reportlab
from fontTools.ttLib import TTFont

from lighten import (
    FontTreatment,
    Order,
    OrderResult,
    PartKind,
    Preset,
    Source,
    Treatment,
    Verdict,
    make,
    preset_named,
    weigh,
)
from lighten.containers.compound import file_inside
from lighten.containers.fonts import mixed_with_key, subset_font
from tests.builders import FolderCase
from tests.core.containers.compound_files import compound_file
from tests.core.formats.docx.samples import handbook
from tests.core.formats.odt.samples import write_odt
from tests.core.formats.package_samples import rewritten, with_members

_KEY = "{1DC0ACBD-4B2C-4E0F-9C9B-1F0D5B6A7E81}"
_RELATIONS = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_WORD = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"


def vera() -> bytes:
    """Bitstream Vera, as the package reportlab carries it."""
    return (Path(reportlab.__file__).parent / "fonts" / "Vera.ttf").read_bytes()


class InsideCase(FolderCase):
    def made(self, source: Source, treatment: Treatment) -> OrderResult:
        out = self.folder / "copy"
        out.unlink(missing_ok=True)
        preset = Preset(name="own", title="Own", description="", treatment=treatment)
        made = make(source, weigh(source), Order(preset=preset), out)
        assert made.proof is not None, made.copy.reasons
        self.assertIsNot(made.proof.verdict, Verdict.CHECK, made.proof.reasons)
        return made

    def members(self, made: OrderResult) -> dict[str, bytes]:
        assert made.copy.path is not None
        with zipfile.ZipFile(made.copy.path) as file:
            return {name: file.read(name) for name in file.namelist()}

    def plain(self, source: Source) -> dict[str, bytes]:
        with zipfile.ZipFile(source.path) as file:
            return {name: file.read(name) for name in file.namelist()}


class Fonts(InsideCase):
    def document(self) -> Source:
        source = handbook(self.folder / "fonts.docx")
        members = self.plain(source)
        members["word/fonts/font1.odttf"] = mixed_with_key(vera(), _KEY)
        members["word/_rels/fontTable.xml.rels"] = (
            '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
            f'<Relationship Id="rId1" Type="{_RELATIONS}/font" Target="fonts/font1.odttf"/>'
            "</Relationships>"
        ).encode()
        members["word/fontTable.xml"] = (
            f'<w:fonts xmlns:w="{_WORD}" xmlns:r="{_RELATIONS}"><w:font w:name="Vera">'
            f'<w:embedRegular r:id="rId1" w:fontKey="{_KEY}"/></w:font></w:fonts>'
        ).encode()
        members["[Content_Types].xml"] = members["[Content_Types].xml"].replace(
            b"<Default ",
            b'<Default Extension="odttf"'
            b' ContentType="application/vnd.openxmlformats-officedocument.obfuscatedFont"/>'
            b"<Default ",
            1,
        )
        return with_members(source.path, members)

    def test_mixing_twice_gives_the_font_again(self) -> None:
        mixed = mixed_with_key(vera(), _KEY)
        self.assertNotEqual(mixed[:32], vera()[:32])
        self.assertEqual(mixed[32:], vera()[32:])
        self.assertEqual(mixed_with_key(mixed, _KEY), vera())
        # ECMA-376 part 1, 17.8.1: the key's bytes from its end, the first against the first.
        self.assertEqual(mixed[0] ^ vera()[0], 0x81)

    def test_fonts_keep_the_letters_in_use_and_their_shapes(self) -> None:
        light = TTFont(io.BytesIO(subset_font(vera(), "Åß")))
        whole = TTFont(io.BytesIO(vera()))
        self.assertLess(len(light.getGlyphOrder()), len(whole.getGlyphOrder()))
        for letter in "AzÅß9":
            name = light.getBestCmap()[ord(letter)]
            self.assertEqual(light["hmtx"][name], whole["hmtx"][whole.getBestCmap()[ord(letter)]])

    def test_fonts_are_weighed_as_fonts_and_made_smaller(self) -> None:
        source = self.document()
        (font,) = [part for part in weigh(source).parts if part.kind is PartKind.FONT]
        self.assertEqual(font.name, "Vera, regular")
        made = self.made(source, Treatment(fonts=FontTreatment(subset=True)))
        content = mixed_with_key(self.members(made)["word/fonts/font1.odttf"], _KEY)
        self.assertLess(len(content), len(vera()))
        self.assertIn(ord("ö"), TTFont(io.BytesIO(vera())).getBestCmap())
        self.assertNotIn(ord("ö"), TTFont(io.BytesIO(content)).getBestCmap())

    def test_fonts_go_with_all_that_leads_to_them_where_a_person_chose_so(self) -> None:
        made = self.made(self.document(), Treatment(fonts=FontTreatment(drops_embedded=True)))
        members = self.members(made)
        self.assertNotIn("word/fonts/font1.odttf", members)
        self.assertNotIn(b"embedRegular", members["word/fontTable.xml"])
        assert made.copy.path is not None
        docx.Document(str(made.copy.path))

    def test_fonts_of_open_documents_too(self) -> None:
        face = (
            '<style:font-face style:name="Vera" svg:font-family="Vera"><svg:font-face-src>'
            '<svg:font-face-uri xlink:href="Fonts/Vera.ttf"/></svg:font-face-src></style:font-face>'
        )
        source = write_odt(
            self.folder / "a.odt",
            "<text:p>Nets at dawn</text:p>",
            {},
            common=face,
            more={"Fonts/Vera.ttf": vera()},
        )
        made = self.made(source, Treatment(fonts=FontTreatment(subset=True)))
        self.assertLess(len(self.members(made)["Fonts/Vera.ttf"]), len(vera()))
        made = self.made(source, Treatment(fonts=FontTreatment(drops_embedded=True)))
        self.assertNotIn(b"font-face-uri", self.members(made)["styles.xml"])


class DocumentsInside(InsideCase):
    def document(self) -> Source:
        inner = handbook(self.folder / "inner.docx").path.read_bytes()
        source = handbook(self.folder / "outer.docx")
        members = self.plain(source)
        members["word/embeddings/inner.docx"] = inner
        members["word/embeddings/nonsense.bin"] = b"\xd0\xcf nothing that is known" * 50
        links = "".join(
            f'<Relationship Id="rId9{number}" Type="{_RELATIONS}/package"'
            f' Target="embeddings/{name}"/>'
            for number, name in enumerate(("inner.docx", "nonsense.bin"))
        )
        members["word/_rels/document.xml.rels"] = members["word/_rels/document.xml.rels"].replace(
            b"</Relationships>", links.encode() + b"</Relationships>"
        )
        objects = b'<w:p><w:object r:id="rId90"/><w:object r:id="rId91"/></w:p><w:sectPr'
        members["word/document.xml"] = members["word/document.xml"].replace(
            b"<w:sectPr", objects, 1
        )
        kinds = (
            b'<Default Extension="docx" ContentType="application/vnd.openxmlformats-officedocument'
            b'.wordprocessingml.document"/><Default Extension="bin" ContentType="application/'
            b'vnd.openxmlformats-officedocument.oleObject"/><Default '
        )
        members["[Content_Types].xml"] = members["[Content_Types].xml"].replace(
            b"<Default ", kinds, 1
        )
        return with_members(source.path, members)

    def test_documents_inside_are_left_unless_a_person_chose_otherwise(self) -> None:
        source = self.document()
        before = self.plain(source)["word/embeddings/inner.docx"]
        made = self.made(source, preset_named("reading-desk").treatment)
        self.assertEqual(self.members(made)["word/embeddings/inner.docx"], before)

    def test_documents_inside_are_made_lighter_by_their_own_kind_and_proved(self) -> None:
        source = self.document()
        before = self.plain(source)
        own = preset_named("reading-desk").treatment
        made = self.made(source, Treatment(pictures=own.pictures, lightens_embedded=True))
        members = self.members(made)
        self.assertLess(
            len(members["word/embeddings/inner.docx"]),
            len(before["word/embeddings/inner.docx"]) / 2,
        )
        inner = docx.Document(io.BytesIO(members["word/embeddings/inner.docx"]))
        self.assertEqual(inner.paragraphs[0].text, "Nets at the north reed bed")
        self.assertEqual(
            members["word/embeddings/nonsense.bin"], before["word/embeddings/nonsense.bin"]
        )
        assert made.proof is not None
        self.assertIs(made.proof.verdict, Verdict.CLOSE)
        self.assertIn("a document inside became lighter", " ".join(made.proof.remarks))

    def test_documents_inside_are_made_lighter_within_the_objects_that_wrap_them(self) -> None:
        source = self.document()
        inner = self.plain(source)["word/embeddings/inner.docx"]
        old = compound_file({"WordDocument": bytes(9000)})
        wrapped = {
            "word/embeddings/inner.docx": lambda content: compound_file({"Package": content}),
            "word/embeddings/nonsense.bin": lambda _content: old,
        }
        rewritten(source, wrapped)
        own = preset_named("reading-desk").treatment
        made = self.made(source, Treatment(pictures=own.pictures, lightens_embedded=True))
        members = self.members(made)
        lighter = file_inside(members["word/embeddings/inner.docx"])
        assert lighter is not None
        self.assertLess(len(lighter), len(inner) / 2)
        docx.Document(io.BytesIO(lighter))
        # One of an old kind would become another kind, which nobody would look for there.
        self.assertEqual(members["word/embeddings/nonsense.bin"], old)
