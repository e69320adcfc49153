"""Features of a PDF that a copy must preserve, read from its objects: links, bookmarks, fields.

And the boxes of annotations that a copy may omit.
"""

from collections.abc import Iterator

import pikepdf

from lighten.formats.pdf.extras.annotations import annotations_of, extra_of
from lighten.formats.pdf.objects.page_boxes import crop_box
from lighten.formats.pdf.objects.values import array_of, dictionary_of, numbers_of, text_of
from lighten.model.kinds import ExtraKind
from lighten.model.proofs import Box

__all__ = ["annotation_boxes", "preserved_features"]

_MOST_BOOKMARKS = 50_000


def preserved_features(pdf: pikepdf.Pdf) -> dict[str, tuple[str, ...]]:
    """Return all preserved features but page appearance, free of object numbers."""
    numbers = {page.obj.objgen: number for number, page in enumerate(pdf.pages, start=1)}
    links, notes = [], []
    for number, page in enumerate(pdf.pages, start=1):
        for annotation in array_of(page.obj.get("/Annots")):
            if isinstance(annotation, pikepdf.Dictionary):
                line = f"page {number}: {_text(annotation.get('/Subtype'))} {_box(annotation)}"
                if annotation.get("/Subtype") == "/Link":
                    links.append(f"{line} {_target(annotation, numbers)}")
                else:
                    notes.append(f"{line} {_text(annotation.get('/Contents'))}")
    root = pdf.Root
    form = root.get("/AcroForm")
    layers = dictionary_of(root.get("/OCProperties")).get("/OCGs")
    return {
        "links": tuple(links),
        "annotations": tuple(notes),
        "bookmarks": tuple(_bookmarks(pdf, numbers)),
        "form fields": tuple(_fields(array_of(dictionary_of(form).get("/Fields")))),
        "attachments": tuple(sorted(pdf.attachments)),
        "layers": tuple(_text(dictionary_of(layer).get("/Name")) for layer in array_of(layers)),
        "tags": ("tagged",) if "/StructTreeRoot" in root else (),
        "language": (_text(root.get("/Lang")),) if "/Lang" in root else (),
    }


def annotation_boxes(
    pdf: pikepdf.Pdf,
) -> Iterator[tuple[int, tuple[tuple[ExtraKind, Box], ...]]]:
    """Return, for each page with some, the boxes of annotations that a copy may omit."""
    for number, page in enumerate(pdf.pages, start=1):
        left, low, _, _ = crop_box(page)
        boxes = []
        for annotation in annotations_of(page.obj):
            kind = extra_of(annotation)
            sides = numbers_of(annotation.get("/Rect"))
            if kind is not None and len(sides) == 4:
                # Markings of text are drawn at their own corners (ISO 32000-2, table 182).
                sides += numbers_of(annotation.get("/QuadPoints"))
                across, upward = sorted(sides[::2]), sorted(sides[1::2])
                box = (across[0] - left, upward[0] - low, across[-1] - left, upward[-1] - low)
                boxes.append((kind, box))
        if boxes:
            yield number, tuple(boxes)


def _bookmarks(pdf: pikepdf.Pdf, numbers: dict[tuple[int, int], int]) -> Iterator[str]:
    """Yield the titles of bookmarks in reading order, indented, each with its target."""
    waiting = [(dictionary_of(pdf.Root.get("/Outlines")).get("/First"), 0)]
    seen: set[tuple[int, int]] = set()
    while waiting and len(seen) < _MOST_BOOKMARKS:
        entry, depth = waiting.pop()
        if not isinstance(entry, pikepdf.Dictionary) or entry.objgen in seen:
            continue
        seen.add(entry.objgen)
        yield f"{'  ' * depth}{_text(entry.get('/Title'))} {_target(entry, numbers)}"
        waiting.append((entry.get("/Next"), depth))
        waiting.append((entry.get("/First"), depth + 1))


def _fields(fields: list[pikepdf.Object], prefix: str = "", depth: int = 0) -> Iterator[str]:
    """Every field with its kind and value, by its full name (ISO 32000-1, 12.7.3.2)."""
    for field in fields:
        if not isinstance(field, pikepdf.Dictionary) or depth > 30:
            continue
        name = f"{prefix}.{_text(field.get('/T'))}" if "/T" in field else prefix
        yield f"{name} {_text(field.get('/FT'))} = {_text(field.get('/V'))}"
        yield from _fields(array_of(field.get("/Kids")), name, depth + 1)


def _target(holder: pikepdf.Dictionary, numbers: dict[tuple[int, int], int]) -> str:
    """Return the target of a link or bookmark."""
    action = dictionary_of(holder.get("/A"))
    place = holder.get("/Dest", action.get("/D"))
    if isinstance(place, pikepdf.Array) and len(place):
        page = place[0]
        is_page = isinstance(page, pikepdf.Dictionary)
        where = f"page {numbers.get(page.objgen, '?')}" if is_page else _text(page)
        return f"{where} {' '.join(_text(detail) for detail in list(place)[1:])}"
    return f"{_text(action.get('/S'))} {_text(action.get('/URI', place))}"


def _text(value: object) -> str:
    """A value as text, without the addresses of objects, which change when a file is written."""
    if isinstance(value, pikepdf.Stream):
        return f"({len(value.read_bytes())} bytes)"
    if isinstance(value, pikepdf.Array):
        return ", ".join(_text(item) for item in value)
    if isinstance(value, pikepdf.Dictionary):
        return f"({len(value)} entries)"
    return "" if value is None else text_of(value)


def _box(annotation: pikepdf.Dictionary) -> str:
    return " ".join(_text(side) for side in array_of(annotation.get("/Rect")))
