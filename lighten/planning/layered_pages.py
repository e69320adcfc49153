"""Pages that somebody has laid apart already, into paper and the strokes on it."""

from lighten.model.kinds import PictureClass
from lighten.model.weights import PictureFacts, WeightSheet

__all__ = ["in_layers_already"]

_STROKES = (PictureClass.MASK, PictureClass.BITONAL)
# Of the place of the one, how much the other covers at least.
_COVERED = 0.5

Box = tuple[float, float, float, float]


def in_layers_already(sheet: WeightSheet) -> frozenset[str]:
    """Return the ids of pictures mostly covered by strokes or by a masked picture."""
    by_page: dict[int, list[tuple[str, PictureFacts, Box]]] = {}
    for part in sheet.parts:
        for placement in part.picture.placements if part.picture else ():
            if placement.page is not None and placement.box is not None and part.picture:
                shown = (part.id, part.picture, placement.box)
                by_page.setdefault(placement.page, []).append(shown)
    return frozenset(
        part_id
        for shown in by_page.values()
        for part_id, facts, box in shown
        if facts.picture_class not in _STROKES
        and any(
            other_id != part_id and _is_layer(other) and _share_covered(box, other_box) > _COVERED
            for other_id, other, other_box in shown
        )
    )


def _is_layer(facts: PictureFacts) -> bool:
    return facts.picture_class in _STROKES or bool(facts.mask)


def _share_covered(box: Box, other: Box) -> float:
    across = min(box[2], other[2]) - max(box[0], other[0])
    upward = min(box[3], other[3]) - max(box[1], other[1])
    area = (box[2] - box[0]) * (box[3] - box[1])
    return across * upward / area if across > 0 and upward > 0 and area > 0 else 0.0
