"""One scanned page, as it comes and in layers, so that a person can choose."""

from dataclasses import dataclass
from pathlib import Path

from lighten.gathering.gather import gather
from lighten.gathering.page_sizes import PageSize
from lighten.making.make_proved_copy import make_proved_copy
from lighten.model.presets import preset_named
from lighten.model.proofs import Box, Verdict
from lighten.model.source import Source, no_progress
from lighten.pictures.pixels.page_corners import Corners
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.planning.decide import plan
from lighten.proving.side_by_side import Place, read_both
from lighten.registry import format_of

__all__ = ["LayerPreview", "lay_page_apart"]

# What is shown of the worst place: about a word across, as a screen shows them close.
_PLACE_PT, _PLACE_DPI = (62.0, 52.0), 300.0


@dataclass(frozen=True, slots=True, kw_only=True)
class LayerPreview:
    """size_bytes: in layers; what the page weighs as it came, where nothing is lighter.

    is_layered: it could be laid apart at all. score: the worst there, 0 to 100, or None where
    nothing differs. as_it_came, in_layers: pictures of the worst place, PNG; None where there is
    none.
    """

    size_bytes: int
    is_layered: bool
    reason: str
    verdict: Verdict | None
    score: float | None = None
    as_it_came: Path | None = None
    in_layers: Path | None = None


def lay_page_apart(
    picture: Source,
    folder: Path,
    *,
    corners: Corners | None = None,
    cache: CodingCache | None = None,
) -> LayerPreview:
    """Draw the worst place of a page picture in layers, as Scan stack codes it, into `folder`.

    corners: of the sheet in a photo that is to be the page.
    Raises: as `gather` and `weigh`.
    """
    whole = folder / "page.pdf"
    copy_path = folder / "layers.pdf"
    for path in (whole, copy_path):
        path.unlink(missing_ok=True)
    gather([picture], whole, PageSize.SCANNED, corners={1: corners} if corners else None)
    source = Source(path=whole)
    sheet = format_of(source).weigh(source, no_progress)
    wanted = plan(sheet, preset_named("scan-stack"))
    copy, proof = make_proved_copy(source, sheet, wanted, copy_path, cache=cache)
    layered = next((outcome for outcome in copy.outcomes if outcome.is_layered), None)
    reason = layered.reason if layered else next(iter(copy.reasons), "")
    if copy.path is None or proof is None:
        return LayerPreview(
            size_bytes=copy.bytes_after, is_layered=False, reason=reason, verdict=None
        )
    page = proof.pages[0]
    scores = [picture.score for picture in page.pictures if picture.score is not None]
    shown = (folder / "as-it-came.png", folder / "in-layers.png")
    with read_both(source, copy.path) as both:
        place = Place(page=1, part_id="", size_pt=(0.0, 0.0), box=_around(page.worst, page.size_pt))
        for side, path in zip(("original", "copy"), shown, strict=True):
            both.draw(side, place, _PLACE_DPI, path)
    return LayerPreview(
        size_bytes=copy.bytes_after,
        is_layered=layered is not None,
        reason=reason,
        verdict=proof.verdict,
        score=min(scores, default=None),
        as_it_came=shown[0],
        in_layers=shown[1],
    )


def _around(worst: Box | None, size_pt: tuple[float, float]) -> Box:
    """A place about as large as a word, within the page."""
    width, height = size_pt
    across, down = min(_PLACE_PT[0], width), min(_PLACE_PT[1], height)
    left, low, right, high = worst or (0.0, 0.0, width, height)
    x = min(max(0.0, (left + right - across) / 2), width - across)
    y = min(max(0.0, (low + high - down) / 2), height - down)
    return x, y, x + across, y + down
