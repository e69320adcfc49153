"""A text document opened to be changed, and written anew."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import partial

from lighten.containers.opc.editing import OpcEditing
from lighten.containers.package_editing import Rewrite
from lighten.formats.docx.clean_story import clean_story
from lighten.formats.docx.definitions import Definitions, drop_definitions
from lighten.formats.docx.kinds import KINDS
from lighten.formats.docx.weigh import TextDocument, open_text_document
from lighten.plans import Plan
from lighten.source import Source
from lighten.weights import ExtraKind, WeightSheet

__all__ = ["DocxEditing", "edit_docx"]


@contextmanager
def edit_docx(source: Source, sheet: WeightSheet) -> Iterator["DocxEditing"]:
    """The document opened; nothing is written before `save`. Raises: as `open_text_document`."""
    yield DocxEditing(open_text_document(source), sheet)


class DocxEditing(OpcEditing):
    """See `lighten.contract.Editing`."""

    def __init__(self, document: TextDocument, sheet: WeightSheet) -> None:
        kind = next(kind for kind in KINDS if kind.media_type == sheet.media_type)
        pictures = {picture.id: picture for picture in document.pictures}
        super().__init__(document.package.archive, sheet, pictures, kind)
        self._document, self.package = document, document.package

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        return self._document.members_of(extra)

    def story_rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        dropped = frozenset(self.changes.dropped)
        unused = self._document.unused if ExtraKind.UNUSED_STYLES in dropped else Definitions()
        keeps_ids = any("commentsExtended" in name for name in self.archive.members)
        return {
            name: partial(
                _rewrite,
                unused=unused if _holds_definitions(self.package.content_type(name)) else None,
                dropped=dropped,
                keeps_paragraph_ids=keeps_ids,
            )
            for name in self._document.stories
        }


def _holds_definitions(content_type: str) -> bool:
    return content_type.endswith(("wordprocessingml.styles+xml", "wordprocessingml.numbering+xml"))


def _rewrite(
    content: bytes,
    *,
    unused: Definitions | None,
    dropped: frozenset[ExtraKind],
    keeps_paragraph_ids: bool,
) -> bytes:
    if unused:
        content = drop_definitions(content, unused)
    return clean_story(content, dropped=dropped, keeps_paragraph_ids=keeps_paragraph_ids)
