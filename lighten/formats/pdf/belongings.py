"""What each object of a PDF is there for: picture, font, drawing, structure or extra."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

import pikepdf

from lighten.formats.pdf.spans import FileSpans, ObjectId, references_in
from lighten.weights import ExtraKind

__all__ = ["Belongings", "drawing_objects", "sort_objects"]

# Six letters before the name of a font that has some of its glyphs only (ISO 32000-1, 9.6.4).
_SUBSET_TAG = re.compile(r"^[A-Z]{6}\+")
_FONT_FILES = ("/FontFile", "/FontFile2", "/FontFile3")


@dataclass(slots=True, kw_only=True)
class Belongings:
    """The objects of each kind; whatever is in none of these is structure.

    pictures: each picture with its masks. fonts: each font file with the font's name.
    """

    pictures: dict[ObjectId, list[ObjectId]] = field(default_factory=dict)
    fonts: dict[ObjectId, str] = field(default_factory=dict)
    drawing: set[ObjectId] = field(default_factory=set)
    extras: dict[ExtraKind, set[ObjectId]] = field(default_factory=dict)

    def add_extra(self, kind: ExtraKind, objects: set[ObjectId]) -> None:
        self.extras.setdefault(kind, set()).update(objects)


def sort_objects(pdf: pikepdf.Pdf, spans: FileSpans) -> Belongings:
    """Every object that has bytes of its own, by what it is there for."""
    found = Belongings()
    streams = dict(_streams(pdf))
    references = _all_references(pdf, spans, streams)
    reachable = _reach(references, _roots(pdf))
    found.drawing = drawing_objects(pdf) & reachable
    thumbnails = _page_streams(pdf, "/Thumb")
    masks = _masks(streams)
    for object_id, stream in streams.items():
        if object_id not in reachable and _is_content(stream):
            found.add_extra(ExtraKind.LEFTOVERS, {object_id})
        elif object_id in thumbnails:
            found.add_extra(ExtraKind.THUMBNAILS, {object_id})
        elif stream.get("/Subtype") == "/Image" and object_id not in masks:
            found.pictures[object_id] = []
        elif stream.get("/Type") == "/Metadata":
            found.add_extra(ExtraKind.METADATA, {object_id})
        elif stream.get("/Type") == "/EmbeddedFile":
            found.add_extra(ExtraKind.ATTACHMENTS, {object_id})
    for mask, owner in masks.items():
        found.pictures.get(owner, []).append(mask)
    _sort_fonts(pdf, found)
    _sort_private_data(pdf, found, references)
    structural = {object_id for object_id, stream in streams.items() if not _is_content(stream)}
    _sort_leftovers(spans, found, reachable | structural)
    return found


def _streams(pdf: pikepdf.Pdf) -> Iterator[tuple[ObjectId, pikepdf.Stream]]:
    for value in pdf.objects:
        if isinstance(value, pikepdf.Stream):
            yield value.objgen, value


def _is_content(stream: pikepdf.Stream) -> bool:
    """Not one of the streams that hold the file together, which nothing points to."""
    return str(stream.get("/Type", "")) not in ("/ObjStm", "/XRef")


def _is_drawing(stream: pikepdf.Stream) -> bool:
    return stream.get("/Subtype") == "/Form" or "/PatternType" in stream or "/ShadingType" in stream


def _masks(streams: dict[ObjectId, pikepdf.Stream]) -> dict[ObjectId, ObjectId]:
    """Each mask with the first picture it belongs to."""
    owners: dict[ObjectId, ObjectId] = {}
    for object_id, stream in streams.items():
        if stream.get("/Subtype") == "/Image":
            for key in ("/SMask", "/Mask"):
                mask = stream.get(key)
                if isinstance(mask, pikepdf.Stream):
                    owners.setdefault(mask.objgen, object_id)
    return owners


def drawing_objects(pdf: pikepdf.Pdf) -> set[ObjectId]:
    """Streams that draw: page contents, forms, patterns, shadings, glyphs of drawn fonts."""
    drawing = _page_streams(pdf, "/Contents")
    for value in pdf.objects:
        if isinstance(value, pikepdf.Stream):
            if _is_drawing(value):
                drawing.add(value.objgen)
        elif isinstance(value, pikepdf.Dictionary) and value.get("/Subtype") == "/Type3":
            glyphs = value.get("/CharProcs")
            if isinstance(glyphs, pikepdf.Dictionary):
                drawing.update(
                    glyph.objgen for glyph in glyphs.values() if isinstance(glyph, pikepdf.Stream)
                )
    return drawing


def _page_streams(pdf: pikepdf.Pdf, key: str) -> set[ObjectId]:
    """The streams that stand under `key` in the pages, alone or in an array."""
    ids: set[ObjectId] = set()
    for page in pdf.pages:
        value = page.obj.get(key)
        values = list(value) if isinstance(value, pikepdf.Array) else [value]
        ids.update(one.objgen for one in values if isinstance(one, pikepdf.Stream))
    return ids


def _sort_fonts(pdf: pikepdf.Pdf, found: Belongings) -> None:
    for value in pdf.objects:
        if isinstance(value, pikepdf.Dictionary):
            for key in _FONT_FILES:
                if isinstance(value.get(key), pikepdf.Stream):
                    name = str(value.get("/FontName", "/unnamed")).removeprefix("/")
                    found.fonts[value[key].objgen] = _SUBSET_TAG.sub("", name)
            script = value.get("/JS") if value.get("/S") == "/JavaScript" else None
            if isinstance(script, pikepdf.Stream):
                found.add_extra(ExtraKind.SCRIPTS, {script.objgen})


def _sort_private_data(
    pdf: pikepdf.Pdf, found: Belongings, references: dict[ObjectId, frozenset[ObjectId]]
) -> None:
    """Streams that only private data of other programs lead to (ISO 32000-1, 14.5)."""
    seen = set(found.pictures) | set(found.fonts) | found.drawing
    holders = [page.obj for page in pdf.pages] + [pdf.Root]
    holders += [pdf.get_object(form) for form in found.drawing]
    for holder in holders:
        private = holder.get("/PieceInfo")
        if private is None:
            continue
        text = private.unparse(resolved=True)
        inside = _reach(references, set(references_in(text)), stop=seen | {holder.objgen})
        found.add_extra(ExtraKind.PRIVATE_DATA, inside - seen)


def _sort_leftovers(spans: FileSpans, found: Belongings, needed: set[ObjectId]) -> None:
    """Objects that nothing leads to any more; streams were sorted out before.

    One that points nowhere may be the dictionary of a linearized file, which must be left.
    """
    known = needed | found.drawing | set(found.pictures) | set(found.fonts)
    left = {
        object_id
        for object_id, references in spans.references.items()
        if references and object_id not in known
    }
    found.add_extra(ExtraKind.LEFTOVERS, left)


def _roots(pdf: pikepdf.Pdf) -> set[ObjectId]:
    return set(references_in(pdf.trailer.unparse(resolved=True)))


def _all_references(
    pdf: pikepdf.Pdf, spans: FileSpans, streams: dict[ObjectId, pikepdf.Stream]
) -> dict[ObjectId, frozenset[ObjectId]]:
    """What each object points to, those inside object streams included."""
    references = dict(spans.references)
    for value in pdf.objects:
        # Numbers and names come as plain values and point nowhere.
        if isinstance(value, pikepdf.Dictionary | pikepdf.Array) and value.objgen not in references:
            references[value.objgen] = references_in(value.unparse(resolved=True))
    for object_id in streams:
        references.setdefault(object_id, frozenset())
    return references


def _reach(
    references: dict[ObjectId, frozenset[ObjectId]],
    start: set[ObjectId],
    *,
    stop: set[ObjectId] | None = None,
) -> set[ObjectId]:
    """All that can be come to from `start`, not going through `stop`."""
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
