"""Purpose of each object of a PDF: picture, font, drawing, structure or extra."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

import pikepdf

from lighten.formats.pdf.extras.annotations import annotations_of, extra_of
from lighten.formats.pdf.extras.layers import hidden_layers, is_hidden
from lighten.formats.pdf.fonts.spare_fonts import fonts_to_spare
from lighten.formats.pdf.objects.object_graph import all_references, reachable_from
from lighten.formats.pdf.objects.object_spans import FileSpans, ObjectId, references_in
from lighten.formats.pdf.objects.repeats import find_repeats
from lighten.formats.pdf.objects.values import text_of, whole_number
from lighten.model.kinds import ExtraKind, FontCoding
from lighten.model.weights import FontFacts

__all__ = ["Belongings", "drawing_objects", "sort_objects"]

# Six letters before the name of a font that has some of its glyphs only (ISO 32000-1, 9.6.4).
_SUBSET_TAG = re.compile(r"^[A-Z]{6}\+")
_FONT_FILES = {
    "/FontFile": FontCoding.TYPE_1,
    "/FontFile2": FontCoding.TRUETYPE,
    "/FontFile3": FontCoding.CFF,
}
# ISO 32000-1, 9.6.2.2, and the names that office programs give the same designs.
_STANDARD_FONTS = re.compile(
    r"^(Courier|Helvetica|Times|Symbol|ZapfDingbats)(-(Roman|Bold|Italic|Oblique|BoldItalic|"
    r"BoldOblique))?$"
)
# Extras that are drawn on pages, so that what draws them is theirs.
_DRAWN_EXTRAS = frozenset(
    {
        ExtraKind.NOTES,
        ExtraKind.MARKINGS,
        ExtraKind.TYPED_TEXT,
        ExtraKind.DRAWN_MARKS,
        ExtraKind.STAMPS,
        ExtraKind.MEDIA,
        ExtraKind.HIDDEN_LAYERS,
    }
)


@dataclass(slots=True, kw_only=True)
class Belongings:
    """The objects of each kind; whatever is in none of these is structure.

    pictures: each picture with its masks. fonts: each font file with its name and facts.
    repeats: streams that say again what another says, with that other.
    """

    pictures: dict[ObjectId, list[ObjectId]] = field(default_factory=dict)
    fonts: dict[ObjectId, tuple[str, FontFacts]] = field(default_factory=dict)
    repeats: dict[ObjectId, ObjectId] = field(default_factory=dict)
    drawing: set[ObjectId] = field(default_factory=set)
    extras: dict[ExtraKind, set[ObjectId]] = field(default_factory=dict)

    def add_extra(self, kind: ExtraKind, objects: set[ObjectId]) -> None:
        self.extras.setdefault(kind, set()).update(objects)


def sort_objects(pdf: pikepdf.Pdf, spans: FileSpans) -> Belongings:
    """Sort every object that has bytes of its own by its purpose."""
    belongings = Belongings(repeats=find_repeats(pdf))
    streams = dict(_streams(pdf))
    _unpack_object_streams(spans, streams)
    references = all_references(pdf, spans.references)
    reachable = reachable_from(references, _roots(pdf))
    belongings.add_extra(ExtraKind.REPEATS, set(belongings.repeats) & reachable)
    belongings.drawing = (drawing_objects(pdf) & reachable) - set(belongings.repeats)
    thumbnails = _page_streams(pdf, "/Thumb")
    masks = _masks(streams)
    for object_id, stream in streams.items():
        if object_id not in reachable and _is_content(stream):
            belongings.add_extra(ExtraKind.LEFTOVERS, {object_id})
        elif object_id in belongings.repeats:
            continue
        elif object_id in thumbnails:
            belongings.add_extra(ExtraKind.THUMBNAILS, {object_id})
        elif stream.get("/Subtype") == "/Image" and object_id not in masks:
            belongings.pictures[object_id] = []
        elif stream.get("/Type") == "/Metadata":
            belongings.add_extra(ExtraKind.METADATA, {object_id})
        elif stream.get("/Type") == "/EmbeddedFile":
            belongings.add_extra(ExtraKind.ATTACHMENTS, {object_id})
    for mask, owner in masks.items():
        if mask not in belongings.repeats:
            belongings.pictures.get(owner, []).append(mask)
    _sort_fonts(pdf, belongings)
    _sort_private_data(pdf, belongings, references)
    _sort_alternates(streams, belongings)
    for kind, roots in _extra_roots(pdf):
        _claim(belongings, kind, roots, references, pdf)
    structural = {object_id for object_id, stream in streams.items() if not _is_content(stream)}
    _sort_leftovers(spans, belongings, reachable | structural)
    return belongings


def _streams(pdf: pikepdf.Pdf) -> Iterator[tuple[ObjectId, pikepdf.Stream]]:
    for value in pdf.objects:
        if isinstance(value, pikepdf.Stream):
            yield value.objgen, value


def _is_content(stream: pikepdf.Stream) -> bool:
    """Return False for streams that hold the file together and that nothing refers to."""
    return text_of(stream.get("/Type", "")) not in ("/ObjStm", "/XRef")


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
    """Return streams that draw: page contents, forms, patterns, shadings, glyphs of drawn fonts."""
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
    """Return the content streams under `key` of the pages, single or in an array."""
    ids: set[ObjectId] = set()
    for page in pdf.pages:
        value = page.obj.get(key)
        values = list(value) if isinstance(value, pikepdf.Array) else [value]
        ids.update(one.objgen for one in values if isinstance(one, pikepdf.Stream))
    return ids


def _sort_fonts(pdf: pikepdf.Pdf, belongings: Belongings) -> None:
    spared_fonts = fonts_to_spare(pdf)
    for value in pdf.objects:
        if isinstance(value, pikepdf.Dictionary):
            for key, coding in _FONT_FILES.items():
                file = value.get(key)
                if isinstance(file, pikepdf.Stream) and file.objgen not in belongings.repeats:
                    name = text_of(value.get("/FontName", "/unnamed")).removeprefix("/")
                    spared = file.objgen in spared_fonts
                    belongings.fonts[file.objgen] = _font(name, coding, file, is_spared=spared)
            script = value.get("/JS") if value.get("/S") == "/JavaScript" else None
            if isinstance(script, pikepdf.Stream):
                belongings.add_extra(ExtraKind.SCRIPTS, {script.objgen})


def _font(
    name: str, coding: FontCoding, file: pikepdf.Stream, *, is_spared: bool
) -> tuple[str, FontFacts]:
    if file.get("/Subtype") == "/OpenType":
        coding = FontCoding.OPENTYPE
    plain = _SUBSET_TAG.sub("", name)
    facts = FontFacts(
        coding=coding,
        is_subset=plain != name,
        is_standard=bool(_STANDARD_FONTS.match(plain)),
        can_be_spared=is_spared,
    )
    return plain, facts


def _sort_alternates(streams: dict[ObjectId, pikepdf.Stream], belongings: Belongings) -> None:
    """Sort alternate images, such as those for print (ISO 32000-1, 8.9.5.4)."""
    for object_id in list(belongings.pictures):
        alternates = streams[object_id].get("/Alternates")
        for alternate in alternates if isinstance(alternates, pikepdf.Array) else []:
            picture = alternate.get("/Image")
            if isinstance(picture, pikepdf.Stream) and picture.objgen in belongings.pictures:
                masks = belongings.pictures.pop(picture.objgen)
                belongings.add_extra(ExtraKind.ALTERNATES, {picture.objgen, *masks})


def _extra_roots(pdf: pikepdf.Pdf) -> Iterator[tuple[ExtraKind, list[pikepdf.Object | None]]]:
    """Return the objects from which each kind of extra is reached."""
    root, names = pdf.Root, pdf.Root.get("/Names")
    if not isinstance(names, pikepdf.Dictionary):
        names = pikepdf.Dictionary()
    yield (
        ExtraKind.WEB_CAPTURE,
        [root.get("/SpiderInfo"), names.get("/IDS"), names.get("/URLS")],
    )
    yield ExtraKind.SCRIPTS, [names.get("/JavaScript")]
    yield ExtraKind.ATTACHMENTS, [names.get("/EmbeddedFiles"), root.get("/AF")]
    yield from _annotations(pdf).items()
    hidden = hidden_layers(pdf)
    if hidden:
        yield ExtraKind.HIDDEN_LAYERS, _hidden_objects(pdf, hidden)
    yield ExtraKind.LAYERS, [root.get("/OCProperties")]
    yield ExtraKind.FORM_FIELDS, [root.get("/AcroForm")]
    yield ExtraKind.BOOKMARKS, [root.get("/Outlines")]
    yield ExtraKind.TAGS, [root.get("/StructTreeRoot")]
    yield ExtraKind.METADATA, [pdf.trailer.get("/Info")]


def _annotations(pdf: pikepdf.Pdf) -> dict[ExtraKind, list[pikepdf.Object | None]]:
    by_kind: dict[ExtraKind, list[pikepdf.Object | None]] = {}
    for page in pdf.pages:
        for annotation in annotations_of(page.obj):
            kind = extra_of(annotation)
            if kind is not None:
                by_kind.setdefault(kind, []).append(annotation)
    return by_kind


def _hidden_objects(pdf: pikepdf.Pdf, hidden: set[ObjectId]) -> list[pikepdf.Object | None]:
    return [
        value
        for value in pdf.objects
        if isinstance(value, pikepdf.Stream)
        and value.get("/Subtype") == "/Form"
        and is_hidden(value.get("/OC"), hidden)
    ]


def _claim(
    belongings: Belongings,
    kind: ExtraKind,
    roots: list[pikepdf.Object | None],
    references: dict[ObjectId, frozenset[ObjectId]],
    pdf: pikepdf.Pdf,
) -> None:
    """Claim objects for an extra that only `roots` lead to, and no page."""
    start: set[ObjectId] = set()
    for root in roots:
        if isinstance(root, pikepdf.Dictionary | pikepdf.Array | pikepdf.Stream):
            start |= (
                {root.objgen} if root.is_indirect else references_in(root.unparse(resolved=True))
            )
    if not start:
        return
    taken = set().union(*belongings.extras.values()) if belongings.extras else set()
    forms = set() if kind in _DRAWN_EXTRAS else belongings.drawing
    pages = {page.obj.objgen for page in pdf.pages}
    stop = {*pages, *belongings.pictures, *belongings.fonts, *forms, *taken, pdf.Root.objgen}
    stop |= _page_tree(pdf)
    inside = reachable_from(references, start - stop, stop=stop)
    belongings.drawing -= inside
    belongings.add_extra(kind, inside)


def _page_tree(pdf: pikepdf.Pdf) -> set[ObjectId]:
    nodes: set[ObjectId] = set()
    for page in pdf.pages:
        parent = page.obj.get("/Parent")
        while isinstance(parent, pikepdf.Dictionary) and parent.objgen not in nodes:
            nodes.add(parent.objgen)
            parent = parent.get("/Parent")
    return nodes


def _unpack_object_streams(spans: FileSpans, streams: dict[ObjectId, pikepdf.Stream]) -> None:
    for object_id, stream in streams.items():
        if stream.get("/Type") == "/ObjStm" and object_id in spans.size:
            try:
                content = stream.read_bytes()
                first, count = whole_number(stream.get("/First")), whole_number(stream.get("/N"))
                spans.unpack(object_id, content, first, count)
            except (pikepdf.PdfError, ValueError):
                continue


def _sort_private_data(
    pdf: pikepdf.Pdf, belongings: Belongings, references: dict[ObjectId, frozenset[ObjectId]]
) -> None:
    """Claim streams that only private data of other programs refer to (ISO 32000-1, 14.5)."""
    seen = set(belongings.pictures) | set(belongings.fonts) | belongings.drawing
    holders = [page.obj for page in pdf.pages] + [pdf.Root]
    holders += [pdf.get_object(form) for form in belongings.drawing]
    for holder in holders:
        private = holder.get("/PieceInfo")
        if private is None:
            continue
        text = private.unparse(resolved=True)
        inside = reachable_from(references, set(references_in(text)), stop=seen | {holder.objgen})
        belongings.add_extra(ExtraKind.PRIVATE_DATA, inside - seen)


def _sort_leftovers(spans: FileSpans, belongings: Belongings, needed: set[ObjectId]) -> None:
    """Sort objects that nothing refers to any more; streams were sorted before.

    One that points nowhere may be the dictionary of a linearized file, which must be left.
    """
    claimed = (
        needed
        | belongings.drawing
        | set(belongings.pictures)
        | set(belongings.fonts)
        | set(belongings.repeats)
    )
    left = {
        object_id
        for object_id, references in spans.references.items()
        if references and object_id not in claimed
    }
    belongings.add_extra(ExtraKind.LEFTOVERS, left)


def _roots(pdf: pikepdf.Pdf) -> set[ObjectId]:
    return set(references_in(pdf.trailer.unparse(resolved=True)))
