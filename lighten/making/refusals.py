"""Refusal of a limit that a document cannot meet: what prevents it, and what would help."""

from lighten.model.errors import DoesNotFitError
from lighten.model.extras import EXTRAS
from lighten.model.limits import rounded_size
from lighten.model.plans import Action, Copy, Plan
from lighten.model.source import Source
from lighten.model.weights import WeightSheet
from lighten.planning.switch_savings import unused_removals
from lighten.registry import format_named

__all__ = ["refusal_of"]

# Removals that it names, and the share of what is missing that each saves at least.
_MOST_REMOVALS, _WORTH_A_WORD = 3, 0.05


def refusal_of(
    source: Source, sheet: WeightSheet, plan: Plan, lightest: Copy, limit_bytes: int
) -> DoesNotFitError:
    """Describe what can be reached, what prevents more, and what to do.

    lightest: the lightest copy that the rules allow, made by `plan`.
    """
    weight = lightest.bytes_after
    pictures = stay = 0
    for part, outcome in zip(sheet.parts, lightest.outcomes, strict=True):
        if part.picture is not None and outcome.action is Action.KEEP:
            stay += outcome.bytes_after
        elif part.picture is not None:
            pictures += outcome.bytes_after
    dominant = max(
        (pictures, "are pictures at the least they may look"),
        (stay, "are pictures that have to stay as they are"),
        (weight - pictures - stay, "are parts that are no pictures"),
    )
    split = "split the document, " if format_named(sheet.format).offers.can_split else ""
    return DoesNotFitError(
        f"{source.name}: cannot be brought to {rounded_size(limit_bytes)} by these rules; the "
        f"lightest copy is {rounded_size(weight)}, and {rounded_size(dominant[0])} of it "
        f"{dominant[1]}. {_removals(sheet, plan, weight - limit_bytes)}Permit a lower score or "
        f"more ways, {split}or share it by a link.",
        lightest_bytes=weight,
    )


def _removals(sheet: WeightSheet, plan: Plan, missing: int) -> str:
    """Name the removals that would save most, each with its bytes and the way that permits it.

    missing: bytes above the limit. Those that save hardly any of them are not worth a word.
    """
    named = [
        f'"{EXTRAS[kind].title}" ({rounded_size(size)}; way: {kind})'
        for kind, size in unused_removals(sheet, plan)[:_MOST_REMOVALS]
        if size >= _WORTH_A_WORD * missing
    ]
    return f"Removing {', '.join(named)} would help. " if named else ""
