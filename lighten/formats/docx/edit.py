"""A text document opened to be changed, and written anew."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import partial

from lighten.containers.changes import Rewrite
from lighten.containers.fonts import subset_font
from lighten.containers.opc.editing import OpcEditing
from lighten.formats.docx.clean_story import clean_story
from lighten.formats.docx.definitions import Definitions, drop_definitions
from lighten.formats.docx.fonts import embedded_fonts, letters_in
from lighten.formats.docx.kinds import KINDS
from lighten.formats.docx.open_file import TextDocument, open_text_document
from lighten.model.kinds import ExtraKind
from lighten.model.plans import Action, Plan
from lighten.model.source import Source
from lighten.model.weights import WeightSheet

__all__ = ["DocxEditing", "edit_docx"]


@contextmanager
def edit_docx(source: Source, sheet: WeightSheet) -> Iterator["DocxEditing"]:
    """The document opened; nothing is written before `save`. Raises: as `open_text_document`."""
    yield DocxEditing(open_text_document(source), sheet)


class DocxEditing(OpcEditing):
    """See `lighten.contract.Editing`."""

    def __init__(self, document: TextDocument, sheet: WeightSheet) -> None:
        super().__init__(document, sheet, KINDS)
        self._document, self.package = document, document.package

    def story_rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        dropped = frozenset(self.changes.dropped)
        unused = self._document.unused if ExtraKind.UNUSED_STYLES in dropped else Definitions()
        keeps_ids = any("commentsExtended" in name for name in self.archive.members)
        stories: dict[str, Rewrite] = {
            name: partial(
                _rewrite,
                unused=unused if _holds_definitions(self.package.content_type(name)) else None,
                dropped=dropped,
                keeps_paragraph_ids=keeps_ids,
                gone_fonts=self.gone_links(name),
            )
            for name in self._document.stories
        }
        return stories | dict(self._font_rewrites(plan))

    def _font_rewrites(self, plan: Plan) -> Iterator[tuple[str, Rewrite]]:
        """Rewrite fonts to the letters in use, and the font list without removed fonts."""
        fonts, decisions = embedded_fonts(self.package), plan.by_part()
        letters = ""
        for name, font in fonts.items():
            decision = decisions.get(name)
            if decision is None or decision.action is not Action.RECODE:
                continue
            letters = letters or "".join(sorted(letters_in(self.package, self._document.stories)))
            yield name, partial(subset_font, letters=letters, key=font.key)


def _holds_definitions(content_type: str) -> bool:
    return content_type.endswith(("wordprocessingml.styles+xml", "wordprocessingml.numbering+xml"))


def _rewrite(
    content: bytes,
    *,
    unused: Definitions | None,
    dropped: frozenset[ExtraKind],
    keeps_paragraph_ids: bool,
    gone_fonts: frozenset[str],
) -> bytes:
    if unused:
        content = drop_definitions(content, unused)
    return clean_story(
        content,
        dropped=dropped,
        keeps_paragraph_ids=keeps_paragraph_ids,
        gone_fonts=gone_fonts,
    )
