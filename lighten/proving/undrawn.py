"""Pages that need not be drawn, as both files draw them from the same contents."""

from dataclasses import dataclass

from lighten.contract import LockstepReading, Reading
from lighten.model.proofs import PageProof
from lighten.model.source import Source
from lighten.model.weights import WeightSheet
from lighten.proving.pages import equal_page
from lighten.proving.permitted_losses import PermittedLosses
from lighten.proving.treated_boxes import TreatedBox

__all__ = ["UndrawnPages", "undrawn_pages"]

# Pages that are drawn whatever their contents say: the first, the last, and so many of the heaviest
# or, where all weigh the same, of those between.
_HEAVIEST_DRAWN = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class UndrawnPages:
    """proofs: of pages on which nothing differs. text_only: pages of which text is to be read."""

    proofs: tuple[PageProof, ...] = ()
    text_only: frozenset[int] = frozenset()


def undrawn_pages(
    before: Reading,
    copy: Source,
    sheet: WeightSheet,
    boxes: dict[int, list[TreatedBox]],
    permitted: PermittedLosses,
) -> UndrawnPages:
    """Return the pages on which nothing differs: contents, resources, pixels of pictures.

    Fonts are proved by `FontsReading.changed_fonts`. The first page, the last and the heaviest are
    left to be drawn always, so that what no comparison of contents finds is seen at least there.
    """
    if not isinstance(before, LockstepReading) or permitted.is_redrawn or permitted.has_turned:
        return UndrawnPages()
    sizes = before.page_sizes
    others = frozenset(range(1, len(sizes) + 1)) - _always_drawn(sheet, len(sizes))
    if not others:
        return UndrawnPages()
    treated = {box.part_id for on_page in boxes.values() for box in on_page}
    alike = before.pages_drawn_alike(copy.path, others, treated)
    return UndrawnPages(
        proofs=tuple(
            equal_page(page, sizes[page - 1], boxes.get(page, ()))
            for page, must_be_read in sorted(alike.items())
            if not must_be_read
        ),
        text_only=frozenset(page for page, must_be_read in alike.items() if must_be_read),
    )


def _always_drawn(sheet: WeightSheet, count: int) -> frozenset[int]:
    weights = dict.fromkeys(range(1, count + 1), 0)
    for part in sheet.parts:
        for page in {at.page for at in part.picture.placements} if part.picture else ():
            if page in weights:
                weights[page] += part.size_bytes
    between = [count * step // (_HEAVIEST_DRAWN + 1) for step in range(1, _HEAVIEST_DRAWN + 1)]
    order = sorted(weights, key=lambda page: (-weights[page], page not in between, page))
    return frozenset((1, count, *order[:_HEAVIEST_DRAWN]))
