"""The weight sheet of a PDF."""

import re
from collections.abc import Iterator
from dataclasses import replace
from typing import cast

import pikepdf

from lighten.contract import Progress, Source
from lighten.errors import UnreadableFileError
from lighten.formats.pdf.belongings import Belongings, sort_objects
from lighten.formats.pdf.colour_spaces import read_colour
from lighten.formats.pdf.documents import archive_standard, is_signed, open_pdf
from lighten.formats.pdf.inline_pictures import account_for, lift_inline_pictures
from lighten.formats.pdf.layers import hidden_layers, without_hidden
from lighten.formats.pdf.look_pictures import LookJob, look_at
from lighten.formats.pdf.placements import PictureUses, find_uses
from lighten.formats.pdf.spans import FileSpans, ObjectId, read_spans
from lighten.formats.pdf.stored_pictures import (
    bits_of,
    coding_of,
    read_picture,
    why_untouchable,
)
from lighten.parallel import open_workers
from lighten.weights import (
    ExtraKind,
    Part,
    PartKind,
    PictureClass,
    PictureFacts,
    Placement,
    WeightSheet,
)

__all__ = ["part_object", "part_object_id", "weigh_pdf"]

_COVERS_A_PAGE = 0.8
# Drawing that is worth looking into for pen strokes, and what they look like: long runs of
# lines or curves.
_HEAVY_DRAWING_BYTES = 10_000
_DENSE_PATH = re.compile(rb"(?:(?:[-+.\d]+[ \r\n]+){2,6}[lcvy][ \r\n]+){12,}")
_EXTRA_NAMES = {
    ExtraKind.LEFTOVERS: "Leftovers of earlier saves",
    ExtraKind.REPEATS: "The same thing stored again",
    ExtraKind.THUMBNAILS: "Preview thumbnails of pages",
    ExtraKind.PRIVATE_DATA: "Private editing data of other programs",
    ExtraKind.ALTERNATES: "Stand-ins for pictures",
    ExtraKind.WEB_CAPTURE: "Traces of web pages it was made from",
    ExtraKind.METADATA: "Descriptions of document and objects",
    ExtraKind.ATTACHMENTS: "Attached files",
    ExtraKind.SCRIPTS: "Scripts",
    ExtraKind.NOTES: "Notes",
    ExtraKind.MARKINGS: "Markings of text",
    ExtraKind.TYPED_TEXT: "Text typed onto pages",
    ExtraKind.DRAWN_MARKS: "Lines and shapes drawn onto pages",
    ExtraKind.STAMPS: "Stamps",
    ExtraKind.MEDIA: "Sound, films and solid models",
    ExtraKind.HIDDEN_LAYERS: "Layers that are switched off",
    ExtraKind.LAYERS: "Layer switches",
    ExtraKind.FORM_FIELDS: "Form fields",
    ExtraKind.BOOKMARKS: "Bookmarks",
    ExtraKind.TAGS: "Tags for screen readers",
}


def weigh_pdf(source: Source, progress: Progress) -> WeightSheet:
    """Every part of the file, adding up to its size.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError.
    """
    with open_pdf(source) as pdf:
        spans = read_spans(source.path, lambda object_id: _stream_length(pdf, object_id))
        lifted = lift_inline_pictures(pdf)
        account_for(spans, lifted)
        progress(0.1)
        belongings = sort_objects(pdf, spans)
        try:
            uses = find_uses(pdf).with_repeats(belongings.repeats)
        except (RuntimeError, ValueError) as error:
            raise UnreadableFileError(
                f"{source.name}: its pages cannot be read ({error}). Save it again from the "
                "program that made it."
            ) from error
        progress(0.3)
        inline = {picture for content in lifted for picture in content.pictures}
        parts = [
            *_pictures(pdf, spans, belongings, uses, progress, inline=inline),
            *_fonts(spans, belongings),
            *_drawing_and_extras(pdf, spans, belongings),
        ]
        size_bytes = source.path.stat().st_size
        rest = size_bytes - sum(part.size_bytes for part in parts)
        parts.append(
            Part(id="structure", kind=PartKind.STRUCTURE, size_bytes=rest, name="Structure")
        )
        progress(1.0)
        return WeightSheet(
            format="pdf",
            size_bytes=size_bytes,
            pages=len(pdf.pages),
            parts=tuple(part for part in parts if part.size_bytes or part.picture),
            is_signed=is_signed(pdf),
            is_locked=pdf.is_encrypted,
            standard=archive_standard(pdf),
            remarks=_remarks(pdf),
        )


def part_object_id(part_id: str) -> ObjectId:
    """The object behind the id of a picture or font. Raises: KeyError."""
    kind, _, numbers = part_id.partition(":")
    number, _, generation = numbers.partition("-")
    if kind not in (PartKind.PICTURE, PartKind.FONT) or not (number + generation).isdigit():
        raise KeyError(part_id)
    return int(number), int(generation)


def part_object(pdf: pikepdf.Pdf, part_id: str) -> pikepdf.Object:
    """The same as an object of `pdf`. Raises: KeyError."""
    return pdf.get_object(part_object_id(part_id))


def _part_id(kind: PartKind, object_id: ObjectId) -> str:
    return f"{kind}:{object_id[0]}-{object_id[1]}"


def _stream_length(pdf: pikepdf.Pdf, object_id: ObjectId) -> int | None:
    value = pdf.get_object(object_id)
    length = value.get("/Length") if isinstance(value, pikepdf.Stream) else None
    return int(length) if length is not None else None


def _pictures(
    pdf: pikepdf.Pdf,
    spans: FileSpans,
    belongings: Belongings,
    uses: PictureUses,
    progress: Progress,
    *,
    inline: set[ObjectId],
) -> Iterator[Part]:
    pages = _page_areas(pdf)
    has_masks = not archive_standard(pdf).startswith("PDF/A-1")
    ids = [object_id for object_id in belongings.pictures if object_id in spans.size]
    classes = _classes(pdf, ids, uses, pages, progress)
    for object_id, picture_class in zip(ids, classes, strict=True):
        picture = cast(pikepdf.Stream, pdf.get_object(object_id))
        masks = belongings.pictures[object_id]
        facts = _facts(picture, picture_class, uses, object_id, has_masks=has_masks)
        if object_id in inline:
            facts = replace(facts, is_inline=True)
        yield Part(
            id=_part_id(PartKind.PICTURE, object_id),
            kind=PartKind.PICTURE,
            size_bytes=spans.size[object_id] + sum(spans.size.get(mask, 0) for mask in masks),
            name=f"Picture {object_id[0]}",
            picture=facts,
        )


def _facts(
    picture: pikepdf.Stream,
    picture_class: PictureClass,
    uses: PictureUses,
    object_id: ObjectId,
    *,
    has_masks: bool,
) -> PictureFacts:
    """has_masks: the file's archive level allows the masks that a colour key would become."""
    placements = tuple(uses.placements.get(object_id, ()))
    untouchable = why_untouchable(picture)
    if _mask_kind(picture) == "colour-key" and not has_masks:
        untouchable = "left as it is: PDF/A-1 has no mask for its see-through colour"
    return PictureFacts(
        width_px=int(picture.get("/Width", 0)),
        height_px=int(picture.get("/Height", 0)),
        coding=" ".join(name.removesuffix("Decode") for name in coding_of(picture)) or "raw",
        colour=read_colour(picture.get("/ColorSpace")).name,
        bits=bits_of(picture),
        mask=_mask_kind(picture),
        picture_class=picture_class,
        placements=placements,
        visible=uses.visible.get(object_id, (0.0, 0.0, 1.0, 1.0)),
        untouchable=untouchable,
    )


def _mask_kind(picture: pikepdf.Stream) -> str:
    if "/SMask" in picture:
        return "soft"
    if "/Mask" in picture:
        return "colour-key" if isinstance(picture.Mask, pikepdf.Array) else "stencil"
    return ""


def _classes(
    pdf: pikepdf.Pdf,
    ids: list[ObjectId],
    uses: PictureUses,
    pages: list[float],
    progress: Progress,
) -> Iterator[PictureClass]:
    """The class of each picture, in the order of `ids`."""

    def jobs() -> Iterator[LookJob | PictureClass]:
        for done, object_id in enumerate(ids):
            progress(0.3 + 0.7 * done / len(ids))
            picture = cast(pikepdf.Stream, pdf.get_object(object_id))
            is_page = _is_page(uses.placements.get(object_id, []), pages)
            known = _class_by_facts(picture, is_page=is_page)
            yield known or LookJob(picture=read_picture(picture), is_page=is_page)

    with open_workers(are_threads=True) as workers:
        yield from workers.run(_look_if_needed, jobs())


def _look_if_needed(job: LookJob | PictureClass) -> PictureClass:
    if isinstance(job, PictureClass):
        return job
    return look_at(job) or PictureClass.PHOTO


def _class_by_facts(picture: pikepdf.Stream, *, is_page: bool) -> PictureClass | None:
    """The class of pictures whose pixels need not, or cannot, be looked at."""
    if picture.get("/ImageMask", False):
        return PictureClass.STENCIL
    if bits_of(picture) == 1 and read_colour(picture.get("/ColorSpace")).colours <= 1:
        return PictureClass.TWO_TONE
    if why_untouchable(picture):
        return PictureClass.PAGE_SCAN if is_page else PictureClass.PHOTO
    return None


def _page_areas(pdf: pikepdf.Pdf) -> list[float]:
    """Square points of each page's media box."""
    areas = []
    for page in pdf.pages:
        left, low, right, high = (float(side) for side in page.mediabox)
        unit = float(page.obj.get("/UserUnit", 1))
        areas.append(abs((right - left) * (high - low)) * unit * unit)
    return areas


def _is_page(placements: list[Placement], areas: list[float]) -> bool:
    """It is shown so large that it is the page."""
    return any(
        placement.width_pt * placement.height_pt >= _COVERS_A_PAGE * areas[placement.page - 1]
        for placement in placements
    )


def _fonts(spans: FileSpans, belongings: Belongings) -> Iterator[Part]:
    for object_id, (name, facts) in belongings.fonts.items():
        if object_id in spans.size:
            yield Part(
                id=_part_id(PartKind.FONT, object_id),
                kind=PartKind.FONT,
                size_bytes=spans.size[object_id],
                name=name,
                font=facts,
            )


def _drawing_and_extras(
    pdf: pikepdf.Pdf, spans: FileSpans, belongings: Belongings
) -> Iterator[Part]:
    drawing = belongings.drawing - set(belongings.fonts)
    hidden = _hidden_drawing(pdf, spans, drawing)
    size_bytes = sum(map(spans.weight_of, drawing)) - hidden
    yield Part(
        id="drawing",
        kind=PartKind.DRAWING,
        size_bytes=size_bytes,
        name="Page drawing and text",
        stroke_bytes=min(size_bytes, _stroke_bytes(pdf, spans, drawing)),
    )
    for part in _extras(spans, belongings):
        if part.extra is ExtraKind.HIDDEN_LAYERS:
            part = replace(part, size_bytes=part.size_bytes + hidden)  # noqa: PLW2901
        yield part


def _stroke_bytes(pdf: pikepdf.Pdf, spans: FileSpans, drawing: set[ObjectId]) -> int:
    """What dense paths weigh, by their share of each heavy content."""
    found = 0.0
    for object_id in drawing:
        weight = spans.weight_of(object_id)
        if weight < _HEAVY_DRAWING_BYTES:
            continue
        try:
            content = cast(pikepdf.Stream, pdf.get_object(object_id)).read_bytes()
        except pikepdf.PdfError:
            continue
        dense = sum(run.end() - run.start() for run in _DENSE_PATH.finditer(content))
        found += weight * dense / max(1, len(content))
    return int(found)


def _hidden_drawing(pdf: pikepdf.Pdf, spans: FileSpans, drawing: set[ObjectId]) -> int:
    """Bytes of page contents that draw what is switched off, by their share of the content."""
    hidden = hidden_layers(pdf)
    found = 0.0
    for page in pdf.pages if hidden else ():
        left = without_hidden(page.obj, page.resources, hidden)
        contents = page.obj.get("/Contents")
        pieces = list(contents) if isinstance(contents, pikepdf.Array) else [contents]
        streams = [one for one in pieces if isinstance(one, pikepdf.Stream)]
        whole = sum(len(one.read_bytes()) for one in streams if one.objgen in drawing)
        if left is not None and whole:
            weight = sum(spans.weight_of(one.objgen) for one in streams if one.objgen in drawing)
            found += weight * max(0.0, 1 - len(left) / whole)
    return int(found)


def _extras(spans: FileSpans, belongings: Belongings) -> Iterator[Part]:
    taken = set(belongings.fonts) | belongings.drawing | set(belongings.pictures)
    for masks in belongings.pictures.values():
        taken.update(masks)
    for kind, name in _EXTRA_NAMES.items():
        objects = belongings.extras.get(kind, set()) - taken
        taken |= objects
        stale = spans.stale_bytes if kind is ExtraKind.LEFTOVERS else 0
        yield Part(
            id=f"extra:{kind}",
            kind=PartKind.EXTRA,
            size_bytes=stale + sum(map(spans.weight_of, objects)),
            name=name,
            extra=kind,
        )


def _remarks(pdf: pikepdf.Pdf) -> tuple[str, ...]:
    if pdf.get_warnings():
        return ("Damaged in places; what could be read was put together again on opening.",)
    return ()
