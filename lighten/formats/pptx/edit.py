"""A presentation opened to be changed, and written anew."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import partial

from lighten.containers.changes import Rewrite
from lighten.containers.eot import subset_eot
from lighten.containers.opc.editing import OpcEditing
from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.formats.pptx.clean_slide import clean_slide
from lighten.formats.pptx.fonts import drop_fonts, embedded_fonts, letters_in
from lighten.formats.pptx.kinds import KINDS
from lighten.formats.pptx.open_file import Presentation, open_presentation
from lighten.model.plans import Action, Plan
from lighten.model.source import Source
from lighten.model.weights import WeightSheet

__all__ = ["PptxEditing", "edit_pptx"]


@contextmanager
def edit_pptx(source: Source, sheet: WeightSheet) -> Iterator["PptxEditing"]:
    """The document opened; nothing is written before `save`. Raises: as `open_presentation`."""
    yield PptxEditing(open_presentation(source), sheet)


class PptxEditing(OpcEditing):
    """See `lighten.contract.Editing`."""

    def __init__(self, document: Presentation, sheet: WeightSheet) -> None:
        super().__init__(document, sheet, KINDS)
        self._document, self.package = document, document.package

    def story_rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        dropped = frozenset(self.changes.dropped)
        stories: dict[str, Rewrite] = {
            name: partial(clean_slide, dropped=dropped, gone=self.gone_links(name))
            for name in self._document.stories
        }
        main = self.package.main
        if gone := self.gone_links(main):
            stories[main] = partial(_rewrite_list, gone=gone)
        return stories | dict(self._font_rewrites(plan))

    def _font_rewrites(self, plan: Plan) -> Iterator[tuple[str, Rewrite]]:
        """Return rewrites of embedded fonts to the letters in use."""
        decisions = plan.by_part()
        fonts = [
            name
            for name in embedded_fonts(self.package)
            if name in decisions and decisions[name].action is Action.RECODE
        ]
        letters = letters_in(self.package, self._document.stories) if fonts else frozenset()
        for name in fonts:
            yield name, partial(subset_eot, letters=letters)


def _rewrite_list(content: bytes, *, gone: frozenset[str]) -> bytes:
    """The list of slides without masters and fonts that go."""
    root = parse_xml(content, "a member", "")
    drop_fonts(root, gone)
    return clean_slide(write_xml(root), dropped=(), gone=gone)
