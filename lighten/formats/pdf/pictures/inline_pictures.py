"""Heavy pictures that lie within page drawing, taken out of it to be treated like the others."""

import re
import warnings
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import cast

import pikepdf

from lighten.formats.pdf.objects.object_spans import FileSpans, ObjectId
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of

__all__ = ["LiftedContent", "account_for", "lift_inline_pictures"]

# A picture of its own costs about 200 bytes more, and is shown the same.
_LEAST_BYTES = 1_000
_MARK = re.compile(rb"(?<![^\s\0])BI(?=[\s\0/])")
_DATA_MARK = re.compile(rb"[\s\0>\])]ID[\s\0]\s*\Z")
_END = re.compile(rb"[\s\0]*EI(?![^\s\0/<>\[\]()%])")
_READABLE = ("/ASCIIHexDecode", "/ASCII85Decode")
_DEVICE_SPACES = ("/DeviceGray", "/DeviceRGB", "/DeviceCMYK", "/Pattern")


@dataclass(frozen=True, slots=True, kw_only=True)
class LiftedContent:
    """One stream that pictures were taken out of.

    pictures: the new objects, each with the bytes it took up there; rest_bytes: what all else
    does; both as the file stores them, roughly. holders: pages and the like that use it.
    """

    content: ObjectId
    pictures: dict[ObjectId, int]
    rest_bytes: int
    holders: tuple[ObjectId, ...]


@dataclass(slots=True)
class _Content:
    """A stream that draws, and the resources of all that use it."""

    stream: pikepdf.Stream
    resources: list[pikepdf.Dictionary]
    holders: list[ObjectId]


@dataclass(frozen=True, slots=True)
class _Found:
    """start, end: of the picture in the content, its operators included."""

    start: int
    end: int
    dictionary: pikepdf.Dictionary
    data: bytes


def lift_inline_pictures(pdf: pikepdf.Pdf) -> list[LiftedContent]:
    """Make every heavy inline picture an object, shown by its name.

    Numbers of new objects follow from the file alone. Small pictures stay where they are, and
    so do those whose colours mean another thing in each place that uses the content.
    Source: ISO 32000-1, 8.9.7.
    """
    lifted = []
    for content in _contents(pdf):
        text = _text_with_pictures(content.stream)
        pictures = [
            picture for picture in _find(content.stream, text) if _settle_colour(picture, content)
        ]
        if pictures:
            lifted.append(_lift(pdf, content, text, pictures))
    return lifted


def account_for(spans: FileSpans, lifted: list[LiftedContent]) -> None:
    """Give the new objects their share of what the file says the content weighs."""
    for content in lifted:
        weight = spans.size.get(content.content, 0)
        whole = content.rest_bytes + sum(content.pictures.values())
        for picture, size_bytes in content.pictures.items():
            spans.size[picture] = weight * size_bytes // max(1, whole)
            spans.references[picture] = frozenset()
        spans.size[content.content] = weight - sum(
            spans.size[picture] for picture in content.pictures
        )
        for holder in content.holders:
            if holder in spans.references:
                spans.references[holder] |= frozenset(content.pictures)


def _contents(pdf: pikepdf.Pdf) -> list[_Content]:
    """Yield page contents, forms, patterns and glyphs with resources of their own."""
    contents: dict[ObjectId, _Content] = {}
    for stream, resources, holder in _uses(pdf):
        if isinstance(stream, pikepdf.Stream) and isinstance(resources, pikepdf.Dictionary):
            content = contents.setdefault(stream.objgen, _Content(stream, [], []))
            content.resources.append(resources)
            content.holders.append(holder)
    return list(contents.values())


def _uses(
    pdf: pikepdf.Pdf,
) -> Iterator[tuple[pikepdf.Object | None, pikepdf.Object | None, ObjectId]]:
    """Yield each content stream with its resources and their holder."""
    for page in pdf.pages:
        contents = page.obj.get("/Contents")
        pieces: list[pikepdf.Object | None] = [*array_of(contents)] or [contents]
        for piece in pieces:
            yield piece, page.resources, page.obj.objgen
    for value in list(pdf.objects):
        if isinstance(value, pikepdf.Stream):
            if value.get("/Subtype") == "/Form" or value.get("/PatternType") == 1:
                yield value, value.get("/Resources"), value.objgen
        elif isinstance(value, pikepdf.Dictionary) and value.get("/Subtype") == "/Type3":
            for glyph in dictionary_of(value.get("/CharProcs")).values():
                yield glyph, value.get("/Resources"), value.objgen


def _text_with_pictures(stream: pikepdf.Stream) -> bytes:
    """Return the text of the stream; empty where it cannot hold a heavy picture."""
    try:
        text = stream.read_bytes()
    except pikepdf.PdfError:
        return b""
    # A plain search is far quicker than the pattern, and seldom finds any.
    may_hold = len(text) >= _LEAST_BYTES and b"BI" in text and b"ID" in text
    return text if may_hold and _MARK.search(text) else b""


def _find(stream: pikepdf.Stream, text: bytes) -> Iterator[_Found]:
    """Yield the heavy pictures in content order; none if the content cannot be parsed."""
    if not text:
        return
    position = 0
    for picture in _inline_pictures(stream):
        data = picture.read_raw_bytes()
        if len(data) < _LEAST_BYTES:
            continue
        place = text.find(data, position)
        head = text[position:place]
        marks = list(_MARK.finditer(head))
        end = _END.match(text, place + len(data))
        if place < 0 or not marks or end is None or not _DATA_MARK.search(head):
            return
        dictionary = cast(pikepdf.Dictionary, picture.obj)
        yield _Found(position + marks[-1].start(), end.end(), dictionary, data)
        position = end.end()


def _inline_pictures(stream: pikepdf.Stream) -> list[pikepdf.PdfInlineImage]:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            parsed = pikepdf.parse_content_stream(stream, "BI ID EI")
    except (pikepdf.PdfError, RuntimeError, TypeError):
        return []
    return [step.iimage for step in parsed if isinstance(step, pikepdf.ContentStreamInlineImage)]


def _settle_colour(picture: _Found, content: _Content) -> bool:
    """Put colour spaces in place of their names; False if users of the content disagree."""
    space = picture.dictionary.get("/ColorSpace")
    if isinstance(space, pikepdf.Array) and len(space) > 1:
        base = _resolve(space[1], content)
        if base is not None:
            space[1] = base
        return base is not None
    if space is not None:
        resolved = _resolve(space, content)
        if resolved is None:
            return False
        picture.dictionary.ColorSpace = resolved
    return True


def _resolve(space: pikepdf.Object, content: _Content) -> pikepdf.Object | None:
    if not isinstance(space, pikepdf.Name) or text_of(space) in _DEVICE_SPACES:
        return space
    meanings = [
        dictionary_of(resources.get("/ColorSpace")).get(text_of(space))
        for resources in content.resources
    ]
    first = meanings[0]
    return first if all(meaning == first for meaning in meanings) else None


def _lift(pdf: pikepdf.Pdf, content: _Content, text: bytes, found: list[_Found]) -> LiftedContent:
    is_packed = "/Filter" in content.stream
    pieces, position = [], 0
    pictures: dict[ObjectId, int] = {}
    for one in found:
        picture = _as_object(pdf, one, is_packed=is_packed)
        name = f"/InLine{picture.objgen[0]}"
        for resources in content.resources:
            if "/XObject" not in resources:
                resources.XObject = pikepdf.Dictionary()
            resources.XObject[name] = picture
        pieces += [text[position : one.start], f"{name} Do ".encode()]
        position = one.end
        pictures[picture.objgen] = len(picture.read_raw_bytes())
    drawing = b"".join([*pieces, text[position:]])
    if is_packed:
        content.stream.write(zlib.compress(drawing, 9), filter=pikepdf.Name.FlateDecode)
    else:
        content.stream.write(drawing)
    return LiftedContent(
        content=content.stream.objgen,
        pictures=pictures,
        rest_bytes=len(content.stream.read_raw_bytes()),
        holders=tuple(dict.fromkeys(content.holders)),
    )


def _as_object(pdf: pikepdf.Pdf, found: _Found, *, is_packed: bool) -> pikepdf.Stream:
    """Build an object of an inline picture. is_packed: it was inside a Flate stream, so it must be
    packed as an object too.
    """
    picture = pdf.make_stream(found.data)
    picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    for key, value in found.dictionary.items():
        picture[key] = value
    filters, parameters = picture.get("/Filter"), picture.get("/DecodeParms")
    inner = [filters] if isinstance(filters, pikepdf.Name) else array_of(filters)
    if is_packed and (not inner or text_of(inner[0]) in _READABLE):
        inner_parameters: list[pikepdf.Object | None] = [*array_of(parameters)]
        inner_parameters = inner_parameters or [parameters] * len(inner)
        picture.write(
            zlib.compress(found.data, 9),
            filter=pikepdf.Array([pikepdf.Name.FlateDecode, *inner]),
            decode_parms=pikepdf.Array([None, *inner_parameters]),
        )
    return picture
