"""Any two files of one kind, made here or elsewhere, held against each other."""

from collections.abc import Iterator

from lighten.contract import ConvertingFormat, Format
from lighten.model.errors import UnsupportedFileError
from lighten.model.kinds import PartKind
from lighten.model.plans import Action, Outcome
from lighten.model.proofs import Proof
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.weights import Part, Placement, WeightSheet
from lighten.proving.compare import prove
from lighten.registry import format_of

__all__ = ["prove_any_two"]

_WEIGHING_SHARE = 0.15
# As far as a showing may lie beside where it lay, in points.
_NEAR_PT = 2.0


def prove_any_two(
    original: Source,
    copy: Source,
    progress: Progress = no_progress,
    *,
    lays_out: bool = False,
) -> Proof:
    """Prove a copy made by anybody, from the two files alone.

    Every picture may have been coded anew, and is read; nothing else may have changed, and what is
    missing is said. lays_out: see `prove`. Raises: as `weigh`; UnsupportedFileError if they are of
    two kinds.
    """
    format_ = format_of(original)
    of_copy = format_of(copy)
    if of_copy.name not in _may_become(format_):
        raise UnsupportedFileError(
            f"{copy.name}: is another kind of file than {original.name}, so that they cannot be "
            "compared. Choose the file that it was made from."
        )
    sheet = format_.weigh(original, share_of(progress, 0, _WEIGHING_SHARE / 2, "weighing both"))
    other = of_copy.weigh(copy, share_of(progress, _WEIGHING_SHARE / 2, _WEIGHING_SHARE))
    return prove(
        original,
        copy,
        sheet,
        tuple(_likely_outcomes(sheet, other)),
        share_of(progress, _WEIGHING_SHARE, 1, "proving"),
        lays_out=lays_out,
    )


def _may_become(format_: Format) -> tuple[str, ...]:
    if isinstance(format_, ConvertingFormat):
        return format_.name, format_.becomes.name
    return (format_.name,)


def _likely_outcomes(sheet: WeightSheet, other: WeightSheet) -> Iterator[Outcome]:
    """Return outcomes that may have led to the copy: pictures that it shows where the original
    does.
    """
    shown: dict[int | None, list[tuple[Placement, Part]]] = {}
    for part in other.parts:
        for placement in part.picture.placements if part.picture else ():
            shown.setdefault(placement.page, []).append((placement, part))
    for part in sheet.parts:
        counterparts = _counterparts(part, shown)
        counterpart = next(iter(counterparts), None)
        # Of layers each has a fineness of its own: they are read as one that kept its pixels.
        like = part if len(counterparts) > 1 else counterpart
        yield Outcome(
            part_id=part.id,
            action=_likely_action(part, counterpart),
            reason="",
            bytes_before=part.size_bytes,
            bytes_after=part.size_bytes if counterpart is None else counterpart.size_bytes,
            size_px=None
            if like is None or like.picture is None
            else (like.picture.width_px, like.picture.height_px),
            is_layered=len(counterparts) > 1,
        )


def _likely_action(part: Part, counterpart: Part | None) -> Action:
    if part.kind in (PartKind.LEGACY_FORM, PartKind.LAYER):
        return Action.DROP
    return Action.KEEP if counterpart is None else Action.RECODE


def _counterparts(
    part: Part, shown: dict[int | None, list[tuple[Placement, Part]]]
) -> tuple[Part, ...]:
    """Return the copy's pictures at the position of an original's picture.

    Several where a page was laid apart.
    """
    for placement in part.picture.placements if part.picture else ():
        fitting = {
            candidate.id: candidate
            for other, candidate in shown.get(placement.page, ())
            if _is_there(placement, other, is_same=candidate.id == part.id)
        }
        if fitting:
            return tuple(fitting.values())
    return ()


def _is_there(placement: Placement, other: Placement, *, is_same: bool) -> bool:
    """Return whether a part is in the copy. is_same: compares ids, for parts without positions."""
    if placement.box is None or other.box is None:
        return is_same
    return all(abs(a - b) <= _NEAR_PT for a, b in zip(placement.box, other.box, strict=True))
