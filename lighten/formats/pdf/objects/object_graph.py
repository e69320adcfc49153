"""References between the objects of a PDF."""

from collections.abc import Mapping

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId, references_in

__all__ = ["all_references", "reachable_from", "reachable_objects"]


def all_references(
    pdf: pikepdf.Pdf, known: Mapping[ObjectId, frozenset[ObjectId]]
) -> dict[ObjectId, frozenset[ObjectId]]:
    """Return the references of each object; for objects in `known`, those given there."""
    references = dict(known)
    for value in pdf.objects:
        # Numbers and names come as plain values and point nowhere.
        if (
            isinstance(value, pikepdf.Dictionary | pikepdf.Array | pikepdf.Stream)
            and value.objgen not in references
        ):
            references[value.objgen] = _pointed_to(value)
    return references


def reachable_from(
    references: Mapping[ObjectId, frozenset[ObjectId]],
    start: set[ObjectId],
    *,
    stop: set[ObjectId] | None = None,
) -> set[ObjectId]:
    """Return all objects that can be reached from `start` without passing `stop`."""
    reached: set[ObjectId] = set()
    waiting = [object_id for object_id in start if not stop or object_id not in stop]
    while waiting:
        object_id = waiting.pop()
        if object_id not in reached:
            reached.add(object_id)
            waiting += [
                other for other in references.get(object_id, ()) if not stop or other not in stop
            ]
    return reached


def reachable_objects(pdf: pikepdf.Pdf) -> set[ObjectId]:
    """The objects that would be written if the file were saved now."""
    return reachable_from(all_references(pdf, {}), set(_pointed_to(pdf.trailer)))


def _pointed_to(value: pikepdf.Object) -> frozenset[ObjectId]:
    if not isinstance(value, pikepdf.Stream):
        return references_in(value.unparse(resolved=True))
    # Its dictionary by its entries, as one with a name that is no text cannot be built again.
    return frozenset().union(*(_led_to(entry) for _, entry in value.items()))


def _led_to(entry: object) -> frozenset[ObjectId]:
    if not isinstance(entry, pikepdf.Object):
        return frozenset()
    return frozenset({entry.objgen}) if entry.is_indirect else references_in(entry.unparse())
