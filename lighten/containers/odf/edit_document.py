"""An OpenDocument opened to be changed, and written anew."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import partial

from lighten.containers.changes import Rewrite
from lighten.containers.fonts import subset_font
from lighten.containers.odf.clean_story import clean_settings, clean_story
from lighten.containers.odf.documents import STORIES, OpenDocument, open_document
from lighten.containers.odf.editing import OdfEditing
from lighten.containers.odf.family import OdfFamily
from lighten.model.plans import Action, Plan
from lighten.model.source import Source
from lighten.model.weights import WeightSheet

__all__ = ["DocumentEditing", "edit_document"]


@contextmanager
def edit_document(
    source: Source, sheet: WeightSheet, family: OdfFamily
) -> Iterator["DocumentEditing"]:
    """The document opened; nothing is written before `save`. Raises: as `open_document`."""
    yield DocumentEditing(open_document(source, family), sheet, family)


class DocumentEditing(OdfEditing):
    """See `lighten.contract.Editing`."""

    def __init__(self, document: OpenDocument, sheet: WeightSheet, family: OdfFamily) -> None:
        super().__init__(document, sheet, family.kinds)
        self._family = family
        self._document, self.package = document, document.package

    def story_rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        dropped = frozenset(self.changes.dropped)
        rewrites: dict[str, Rewrite] = {
            name: partial(clean_story, dropped=dropped, clean=self._family.clean)
            for name in STORIES
            if name in self.archive.members
        }
        decisions = plan.by_part()
        fonts = [
            part.id
            for part in self.sheet.parts
            if part.font and decisions[part.id].action is Action.RECODE
        ]
        if fonts:
            letters = "".join(sorted(self._letters()))
            rewrites |= dict.fromkeys(fonts, partial(subset_font, letters=letters))
        if "settings.xml" in self.archive.members:
            rewrites["settings.xml"] = partial(clean_settings, dropped=dropped)
        return rewrites

    def _letters(self) -> set[str]:
        """Every letter of the text, in either case, and of the marks of lists."""
        letters: set[str] = set()
        for name in STORIES:
            if name in self.archive.members:
                root = self.package.root(name)
                letters.update(*root.itertext())
                for element in root.iter("{*}list-level-style-bullet"):
                    letters.update(*element.attrib.values())
        both = "".join(letters)
        return letters | set(both.upper()) | set(both.lower())
