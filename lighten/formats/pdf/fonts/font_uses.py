"""Letters of each font that a PDF shows."""

from collections import defaultdict
from dataclasses import dataclass, field

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of

__all__ = ["FontUses", "find_font_uses"]

_OPERATORS = "q Q Tf Tj TJ ' \" Do gs"
_DEEPEST_NESTING = 24


@dataclass(slots=True, kw_only=True)
class FontUses:
    """shown: for each font, all that is shown in it, as coded in the content.

    whole: fonts that must keep every letter, since people may type with them.
    is_complete: all content could be read; if not, nothing is known for certain.
    """

    shown: dict[ObjectId, set[bytes]] = field(default_factory=lambda: defaultdict(set))
    whole: set[ObjectId] = field(default_factory=set)
    is_complete: bool = True


def find_font_uses(pdf: pikepdf.Pdf) -> FontUses:
    """Find the codes shown in each font: on pages, in forms, patterns, glyphs and annotations."""
    walk = _Walk()
    for page in pdf.pages:
        walk.read_stream(page.obj, page.obj.get("/Resources", page.resources), None, 0)
        for annotation in array_of(page.obj.get("/Annots")):
            walk.read_appearances(dictionary_of(annotation).get("/AP"))
    form = dictionary_of(pdf.Root.get("/AcroForm"))
    for font in dictionary_of(dictionary_of(form.get("/DR")).get("/Font")).values():
        walk.uses.whole.add(font.objgen)
    return walk.uses


class _Walk:
    def __init__(self) -> None:
        self.uses = FontUses()
        self._read: set[tuple[ObjectId, ObjectId, ObjectId]] = set()

    def read_appearances(self, appearances: object) -> None:
        for value in dictionary_of(appearances).values():
            if isinstance(value, pikepdf.Stream):
                self.read_stream(value, value.get("/Resources"), None, 0)
            else:
                self.read_appearances(value)

    def read_stream(
        self,
        stream: pikepdf.Object,
        resources: pikepdf.Object | None,
        font: pikepdf.Object | None,
        depth: int,
    ) -> None:
        """Read the codes shown in a stream. font: in force where it begins."""
        key = (stream.objgen, _id(resources), _id(font))
        if depth > _DEEPEST_NESTING or key in self._read:
            return
        if stream.is_indirect:
            self._read.add(key)
        target = pikepdf.Page(stream) if stream.get("/Type") == "/Page" else stream
        try:
            steps = pikepdf.parse_content_stream(target, _OPERATORS)
        except (pikepdf.PdfError, RuntimeError, TypeError):
            self.uses.is_complete = False
            return
        self._follow(steps, dictionary_of(resources), font, depth)
        self._read_resources(dictionary_of(resources), depth)

    def _follow(
        self,
        steps: list[pikepdf.ContentStreamInstruction | pikepdf.ContentStreamInlineImage],
        resources: pikepdf.Dictionary,
        font: pikepdf.Object | None,
        depth: int,
    ) -> None:
        fonts = dictionary_of(resources.get("/Font"))
        objects = dictionary_of(resources.get("/XObject"))
        states = dictionary_of(resources.get("/ExtGState"))
        saved: list[pikepdf.Object | None] = []
        for step in steps:
            operator, operands = text_of(step.operator), step.operands
            if operator == "q":
                saved.append(font)
            elif operator == "Q":
                font = saved.pop() if saved else font
            elif not len(operands):
                continue
            elif operator == "Tf":
                font = fonts.get(text_of(operands[0]))
            elif operator == "gs":
                state = dictionary_of(states.get(text_of(operands[0])))
                own = array_of(state.get("/Font"))
                font = own[0] if own else font
                mask = dictionary_of(state.get("/SMask")).get("/G")
                if isinstance(mask, pikepdf.Stream):
                    self.read_stream(mask, mask.get("/Resources", resources), font, depth + 1)
            elif operator == "Do":
                form = objects.get(text_of(operands[0]))
                if isinstance(form, pikepdf.Stream) and form.get("/Subtype") == "/Form":
                    self.read_stream(form, form.get("/Resources", resources), font, depth + 1)
            elif font is not None:
                self._show(font, operands[-1])

    def _show(self, font: pikepdf.Object, shown: pikepdf.Object) -> None:
        pieces = list(shown) if isinstance(shown, pikepdf.Array) else [shown]
        self.uses.shown[_id(font)].update(
            bytes(piece) for piece in pieces if isinstance(piece, pikepdf.String)
        )

    def _read_resources(self, resources: pikepdf.Dictionary, depth: int) -> None:
        for pattern in dictionary_of(resources.get("/Pattern")).values():
            if isinstance(pattern, pikepdf.Stream):
                self.read_stream(pattern, pattern.get("/Resources"), None, depth + 1)
        for font in dictionary_of(resources.get("/Font")).values():
            if dictionary_of(font).get("/Subtype") == "/Type3":
                for glyph in dictionary_of(font.get("/CharProcs")).values():
                    if isinstance(glyph, pikepdf.Stream):
                        inner = font.get("/Resources", resources)
                        self.read_stream(glyph, inner, None, depth + 1)


def _id(value: pikepdf.Object | None) -> ObjectId:
    """Return the object id; (0, 0) for direct or absent objects."""
    return value.objgen if isinstance(value, pikepdf.Object) else (0, 0)
