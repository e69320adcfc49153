"""The weight sheet of a PDF."""

import re
from collections.abc import Iterator
from dataclasses import replace
from typing import cast

import pikepdf

from lighten.formats.pdf.extras.kinds import PDF_EXTRAS
from lighten.formats.pdf.extras.layers import hidden_layers, hidden_share
from lighten.formats.pdf.objects.classify_objects import Belongings, sort_objects
from lighten.formats.pdf.objects.object_spans import FileSpans, ObjectId, read_spans
from lighten.formats.pdf.objects.open_file import archive_standard, is_signed, open_pdf
from lighten.formats.pdf.objects.part_ids import part_id
from lighten.formats.pdf.objects.values import whole_number
from lighten.formats.pdf.pages.placements import find_uses
from lighten.formats.pdf.pictures.inline_pictures import account_for, lift_inline_pictures
from lighten.formats.pdf.pictures.weigh_pictures import weigh_pictures
from lighten.model.errors import UnreadableFileError
from lighten.model.extras import EXTRAS
from lighten.model.kinds import ExtraKind, PartKind, PictureCoding
from lighten.model.source import Progress, Source
from lighten.model.weights import Part, Rules, WeightSheet, with_structure

__all__ = ["weigh_pdf"]

# qpdf's words for what it leaves out of the tree of pages.
_LOST_PAGE = re.compile(
    r"(ages tree includes [^;]*|too many errors|more than once in the pages tree); ignoring"
)

# Drawing that is worth looking into for pen strokes, and what they look like: long runs of
# lines or curves.
_HEAVY_DRAWING_BYTES = 10_000
# Possessive throughout: a run that ends is never tried again in another way.
_DENSE_PATH = re.compile(rb"(?:(?:[-+.\d]++[ \r\n]++){2,6}+[lcvy][ \r\n]++){12,}+")


def weigh_pdf(source: Source, progress: Progress) -> WeightSheet:
    """Every part of the file, adding up to its size.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError.
    """
    with open_pdf(source) as pdf:
        repairs = _repairs(source, pdf)
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
            *weigh_pictures(pdf, spans, belongings, uses, progress, inline=inline),
            *_fonts(spans, belongings),
            *_drawing_and_extras(pdf, spans, belongings),
        ]
        size_bytes = source.path.stat().st_size
        progress(1.0)
        return WeightSheet(
            format="pdf",
            media_type="application/pdf",
            size_bytes=size_bytes,
            pages=len(pdf.pages),
            parts=with_structure(parts, size_bytes),
            is_signed=is_signed(pdf),
            is_locked=pdf.is_encrypted,
            rules=_rules(archive_standard(pdf)),
            remarks=repairs,
        )


def _stream_length(pdf: pikepdf.Pdf, object_id: ObjectId) -> int | None:
    value = pdf.get_object(object_id)
    length = value.get("/Length") if isinstance(value, pikepdf.Stream) else None
    return whole_number(length) if length is not None else None


def _fonts(spans: FileSpans, belongings: Belongings) -> Iterator[Part]:
    for object_id, (name, facts) in belongings.fonts.items():
        if object_id in spans.size:
            yield Part(
                id=part_id(PartKind.FONT, object_id),
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
    """Return the bytes of dense paths, by their share of each heavy content."""
    stroke_bytes = 0.0
    for object_id in drawing:
        weight = spans.weight_of(object_id)
        if weight < _HEAVY_DRAWING_BYTES:
            continue
        try:
            content = cast(pikepdf.Stream, pdf.get_object(object_id)).read_bytes()
        except pikepdf.PdfError:
            continue
        dense = sum(run.end() - run.start() for run in _DENSE_PATH.finditer(content))
        stroke_bytes += weight * dense / max(1, len(content))
    return int(stroke_bytes)


def _hidden_drawing(pdf: pikepdf.Pdf, spans: FileSpans, drawing: set[ObjectId]) -> int:
    """Return the bytes of page content that hidden layers draw."""
    hidden = hidden_layers(pdf)
    hidden_bytes = 0.0
    for page in pdf.pages if hidden else ():
        share = hidden_share(page.obj, page.resources, hidden)
        if not share:
            continue
        contents = page.obj.get("/Contents")
        pieces = list(contents) if isinstance(contents, pikepdf.Array) else [contents]
        streams = [piece for piece in pieces if isinstance(piece, pikepdf.Stream)]
        hidden_bytes += share * sum(
            spans.weight_of(piece.objgen) for piece in streams if piece.objgen in drawing
        )
    return int(hidden_bytes)


def _extras(spans: FileSpans, belongings: Belongings) -> Iterator[Part]:
    taken = set(belongings.fonts) | belongings.drawing | set(belongings.pictures)
    for masks in belongings.pictures.values():
        taken.update(masks)
    for kind in PDF_EXTRAS:
        objects = belongings.extras.get(kind, set()) - taken
        taken |= objects
        stale = spans.stale_bytes if kind is ExtraKind.LEFTOVERS else 0
        yield Part(
            id=f"extra:{kind}",
            kind=PartKind.EXTRA,
            size_bytes=stale + sum(map(spans.weight_of, objects)),
            name=EXTRAS[kind].title,
            extra=kind,
        )


def _rules(standard: str) -> Rules:
    """Return the rules of the file's archive level."""
    if not standard:
        return Rules()
    is_part_1 = standard.startswith("PDF/A-1")
    # ISO 19005-1, 6.7 and its successors: metadata; 6.8: tags, at level a.
    needed = {ExtraKind.METADATA, *((ExtraKind.TAGS,) if standard.endswith("a") else ())}
    return Rules(
        standard=standard,
        # 6.3.5: a subset lists its glyphs; a font may not lose some and keep the list.
        keeps_fonts_whole=is_part_1,
        # 6.3.4: all fonts are embedded.
        keeps_fonts_embedded=True,
        # Part 1 is PDF 1.4, which has no JPEG 2000.
        forbidden_codings=frozenset({PictureCoding.JPEG_2000} if is_part_1 else ()),
        needed_extras=frozenset(needed),
    )


def _repairs(source: Source, pdf: pikepdf.Pdf) -> tuple[str, ...]:
    """Describe the repairs that the library made on opening.

    Raises: UnreadableFileError where pages were lost: no copy could be had without telling.
    """
    warnings = " ".join(pdf.get_warnings())  # given once only
    if _LOST_PAGE.search(warnings):
        raise UnreadableFileError(
            f"{source.name}: is damaged, and a page of it is lost. Open it in the program that "
            "made it, save it again, and try that file."
        )
    if warnings:
        return ("Damaged in places; what could be read was put together again on opening.",)
    return ()
