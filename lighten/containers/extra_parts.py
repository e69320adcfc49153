"""Extras of a package as parts of its weight sheet."""

from collections.abc import Iterable, Iterator, Mapping

from lighten.extras import EXTRAS
from lighten.weights import ExtraKind, Part, PartKind

__all__ = ["extra_parts"]


def extra_parts(kinds: Iterable[ExtraKind], weights: Mapping[ExtraKind, int]) -> Iterator[Part]:
    """One for each kind, in the order given; those without weight are for sheets to leave out."""
    for kind in kinds:
        yield Part(
            id=f"extra:{kind}",
            kind=PartKind.EXTRA,
            size_bytes=weights.get(kind, 0),
            name=EXTRAS[kind].title,
            extra=kind,
        )
