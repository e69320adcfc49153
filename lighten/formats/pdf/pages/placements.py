"""Placements of pictures on pages, with their sizes."""

import math
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import pikepdf
from pikepdf import Matrix

from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.page_boxes import crop_box, media_box, user_unit
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of
from lighten.formats.pdf.pages.clips import (
    Clip,
    Share,
    clipped_box,
    joined_share,
    narrowed_clip,
    number_of,
    rectangle_of,
    visible_share,
)
from lighten.formats.pdf.pages.drawn_letters import (
    TEXT_OPERATORS,
    TextState,
    has_pictures_in_letters,
)
from lighten.formats.pdf.pages.matrices import IDENTITY, matrix_of
from lighten.model.weights import Placement

__all__ = ["PictureUses", "appearance_matrix", "find_uses"]

_OPERATORS = "q Q cm Do gs"
# Clipping paths are followed where pictures are clipped at all, and content is of ordinary size.
_PATH_OPERATORS = f"{_OPERATORS} re m l c v y h W W* n f F f* S s B B* b b*"
_CLIPS = re.compile(rb"(?<![\w*])W\*?\s")
_SHOWS = re.compile(rb"(?<!\w)Do(?!\w)")
_MOST_CLIPPED_BYTES = 2_000_000
_TEXT = frozenset(TEXT_OPERATORS.split())
_DEEPEST_NESTING = 24
# A page that shows more than this draws a pattern of pictures; the rest would add nothing.
_MOST_PLACEMENTS_A_PAGE = 20_000

# Left, low, right, high in points; None where nothing is cut off.


@dataclass(slots=True, kw_only=True)
class PictureUses:
    """placements: of each picture.

    visible: what clipping and page edges leave of each, at any showing: left, top, right, bottom
    as shares of its sides.
    """

    placements: dict[ObjectId, list[Placement]] = field(default_factory=dict)
    visible: dict[ObjectId, Share] = field(default_factory=dict)

    def with_repeats(self, repeats: Mapping[ObjectId, ObjectId]) -> "PictureUses":
        """Return the placements, with those of repeats counted for their originals."""
        for repeat, first in repeats.items():
            if repeat in self.placements:
                own = self.placements.setdefault(first, [])
                own += self.placements.pop(repeat)
                own.sort(key=lambda placement: placement.page or 0)
            if repeat in self.visible:
                visible = self.visible.pop(repeat)
                self.visible[first] = joined_share(self.visible.get(first, visible), visible)
        return self


def find_uses(pdf: pikepdf.Pdf) -> PictureUses:
    """Find placements: page contents, forms, patterns, letters, soft-mask groups, annotations."""
    walk = _Walk(follows_text=has_pictures_in_letters(pdf))
    for number, page in enumerate(pdf.pages, start=1):
        walk.read_page(number, page)
    return walk.uses


@dataclass(frozen=True, slots=True)
class _Step:
    """One operator that matters here: its name and its operands."""

    operator: str
    matrix: Matrix = IDENTITY
    name: str = ""
    operands: tuple[object, ...] = ()


class _Walk:
    """Follows what pages draw. Each stream is parsed once, however often it is used."""

    def __init__(self, *, follows_text: bool) -> None:
        self.uses = PictureUses()
        self._follows_text = follows_text
        self._parsed: dict[tuple[ObjectId, bool], tuple[_Step, ...]] = {}
        self._page = 0
        self._shown = 0
        self._origin = (0.0, 0.0)

    def read_page(self, number: int, page: pikepdf.Page) -> None:
        self._page, self._shown = number, 0
        unit = user_unit(page)
        left, low, _, _ = media_box(page)
        self._origin = (left * unit, low * unit)
        base = Matrix(unit, 0, 0, unit, 0, 0)
        resources = page.obj.get("/Resources", page.resources)
        left, low, right, high = crop_box(page)
        clip = (left * unit, low * unit, right * unit, high * unit)
        self._draw(self._steps(page.obj, resources, is_page=True), resources, base, 0, clip)
        for annotation in array_of(page.obj.get("/Annots")):
            for appearance, matrix in _appearances(annotation):
                self._draw_form(appearance, matrix @ base, 0)

    def _draw(
        self,
        steps: tuple[_Step, ...],
        resources: pikepdf.Object | None,
        base: Matrix,
        depth: int,
        clip: Clip = None,
    ) -> None:
        """Follow the steps, with `base` as the current transformation and `clip` in force."""
        if not isinstance(resources, pikepdf.Dictionary) or depth > _DEEPEST_NESTING:
            return
        objects = dictionary_of(resources.get("/XObject"))
        states = dictionary_of(resources.get("/ExtGState"))
        fonts = dictionary_of(resources.get("/Font"))
        current, text, saved = base, TextState(), []
        for step in steps:
            match step.operator:
                case "q":
                    saved.append((current, clip, text))
                case "Q":
                    current, clip, text = saved.pop() if saved else (current, clip, text)
                case "cm":
                    current = step.matrix @ current
                case "clip":
                    clip = narrowed_clip(clip, step.matrix, current)
                case "Do":
                    self._show(objects.get(step.name), current, depth, clip)
                case "gs":
                    state = dictionary_of(states.get(step.name))
                    mask = dictionary_of(state.get("/SMask"))
                    self._draw_form(mask.get("/G"), current, depth + 1)
                    text = text.by_state(state)
                case "Tf":
                    text = text.in_font(fonts.get(step.name), step.operands[-1])
                case "Tj" | "TJ" | "'" | '"':
                    text, letters = text.shown(step.operator, step.operands)
                    inner = dictionary_of(text.font).get("/Resources", resources)
                    for letter, matrix in letters:
                        drawn = matrix @ current
                        self._draw(self._steps(letter, inner), inner, drawn, depth + 1, clip)
                case _:
                    text = text.after(step.operator, step.operands)
        self._draw_patterns(resources, base, depth)

    def _draw_patterns(self, resources: pikepdf.Dictionary, base: Matrix, depth: int) -> None:
        """Place tiling patterns at the size that their own matrix gives them on the page."""
        for pattern in dictionary_of(resources.get("/Pattern")).values():
            if isinstance(pattern, pikepdf.Stream):
                matrix = matrix_of(pattern.get("/Matrix")) @ base
                own = pattern.get("/Resources")
                self._draw(self._steps(pattern, own), own, matrix, depth + 1)

    def _show(self, shown: pikepdf.Object | None, matrix: Matrix, depth: int, clip: Clip) -> None:
        if not isinstance(shown, pikepdf.Stream):
            return
        if shown.get("/Subtype") == "/Form":
            self._draw_form(shown, matrix, depth + 1, clip)
        elif shown.get("/Subtype") == "/Image" and self._shown < _MOST_PLACEMENTS_A_PAGE:
            self._shown += 1
            self.uses.placements.setdefault(shown.objgen, []).append(self._place(matrix, clip))
            visible = visible_share(matrix, clip)
            seen_before = self.uses.visible.get(shown.objgen)
            self.uses.visible[shown.objgen] = (
                visible if seen_before is None else joined_share(seen_before, visible)
            )

    def _draw_form(
        self, form: pikepdf.Object | None, matrix: Matrix, depth: int, clip: Clip = None
    ) -> None:
        if isinstance(form, pikepdf.Stream) and depth <= _DEEPEST_NESTING:
            inner = matrix_of(form.get("/Matrix")) @ matrix
            own = form.get("/Resources")
            self._draw(self._steps(form, own), own, inner, depth, clip)

    def _place(self, matrix: Matrix, clip: Clip) -> Placement:
        """A picture fills the unit square (ISO 32000-1, 8.9.5.1)."""
        a, b, c, d, e, f = matrix.shorthand
        left, bottom = self._origin
        across = sorted((e, e + a, e + c, e + a + c))
        upward = sorted((f, f + b, f + d, f + b + d))
        return Placement(
            page=self._page,
            width_pt=math.hypot(a, b),
            height_pt=math.hypot(c, d),
            box=(across[0] - left, upward[0] - bottom, across[-1] - left, upward[-1] - bottom),
            clipped_box=clipped_box(
                (across[0], upward[0], across[-1], upward[-1]), clip, self._origin
            ),
        )

    def _steps(
        self, stream: pikepdf.Object, resources: pikepdf.Object | None, *, is_page: bool = False
    ) -> tuple[_Step, ...]:
        """Return the operators of the stream without its own drawing; none if it cannot be read."""
        follows_text = self._follows_text and _has_drawn_font(resources)
        key = stream.objgen, follows_text
        parsed_before = self._parsed.get(key) if stream.is_indirect else None
        if parsed_before is None:
            try:
                parsed_before = tuple(_parsed(stream, is_page=is_page, follows_text=follows_text))
            except (pikepdf.PdfError, RuntimeError, TypeError):
                parsed_before = ()
            if stream.is_indirect:
                self._parsed[key] = parsed_before
        return parsed_before


def _has_drawn_font(resources: pikepdf.Object | None) -> bool:
    """Return whether the fonts, or graphics states that choose one (8.4.5), have a Type 3 font."""
    own = dictionary_of(resources)
    fonts = list(dictionary_of(own.get("/Font")).values())
    for state in dictionary_of(own.get("/ExtGState")).values():
        fonts += array_of(dictionary_of(state).get("/Font"))[:1]
    return any(dictionary_of(font).get("/Subtype") == "/Type3" for font in fonts)


def _parsed(stream: pikepdf.Object, *, is_page: bool, follows_text: bool) -> Iterator[_Step]:
    """Yield the operators to follow in this content, clipping included where there is any."""
    page = pikepdf.Page(stream) if is_page else None
    contents = stream.get("/Contents") if is_page else stream
    pieces = array_of(contents) or [contents]  # type: ignore[list-item]
    text = b" ".join(piece.read_bytes() for piece in pieces if isinstance(piece, pikepdf.Stream))
    shows = b"Do" in text and _SHOWS.search(text)
    if not (shows or follows_text or b"gs" in text):
        return
    is_clipped = shows and len(text) <= _MOST_CLIPPED_BYTES and _CLIPS.search(text)
    operators = _PATH_OPERATORS if is_clipped else _OPERATORS
    if follows_text:
        operators = f"{operators} {TEXT_OPERATORS}"
    yield from _as_steps(pikepdf.parse_content_stream(page or stream, operators))


def _as_steps(
    parsed: list[pikepdf.ContentStreamInstruction | pikepdf.ContentStreamInlineImage],
) -> Iterator[_Step]:
    path: list[Matrix | None] = []
    is_clip = False
    for instruction in parsed:
        operator, operands = text_of(instruction.operator), instruction.operands
        if operator == "cm" and len(operands) == 6:
            yield _Step(operator, matrix=matrix_of(operands))
        elif operator in ("Do", "gs") and operands:
            yield _Step(operator, name=text_of(operands[0]))
        elif operator in ("q", "Q"):
            yield _Step(operator)
        elif operator == "Tf" and len(operands) == 2:
            yield _Step(operator, name=text_of(operands[0]), operands=(_plain(operands[1]),))
        elif operator in _TEXT:
            yield _Step(operator, operands=tuple(map(_plain, operands)))
        elif operator == "re" and len(operands) == 4:
            x, y, width, height = (float(number) for number in operands)
            path.append(Matrix(width, 0, 0, height, x, y))
        elif operator in ("re", "m", "l", "c", "v", "y", "h"):
            path.append(None)
        elif operator in ("W", "W*"):
            is_clip = True
        else:
            # A path of one rectangle clips to it; how much others leave is not asked.
            if is_clip and len(path) == 1 and path[0] is not None:
                yield _Step("clip", matrix=path[0])
            path, is_clip = [], False


def _plain(operand: object) -> object:
    """Return an operand as a number, bytes, or a tuple of these."""
    if isinstance(operand, pikepdf.Array):
        return tuple(map(_plain, operand))
    if isinstance(operand, pikepdf.String):
        return bytes(operand)
    return operand if isinstance(operand, int) else number_of(operand)


def _appearances(annotation: pikepdf.Object) -> Iterator[tuple[pikepdf.Stream, Matrix]]:
    """The normal appearances of an annotation, each with the matrix that fits it into its Rect.

    Source: ISO 32000-1, 12.5.5, algorithm 8.1.
    """
    if not isinstance(annotation, pikepdf.Dictionary) or not {"/Rect", "/AP"} <= annotation.keys():
        return
    normal = dictionary_of(annotation.get("/AP")).get("/N")
    states = (
        [normal] if isinstance(normal, pikepdf.Stream) else list(dictionary_of(normal).values())
    )
    for appearance in states:
        if isinstance(appearance, pikepdf.Stream) and "/BBox" in appearance:
            try:
                yield appearance, appearance_matrix(appearance, annotation)
            except ValueError:
                continue


def appearance_matrix(appearance: pikepdf.Stream, annotation: pikepdf.Dictionary) -> Matrix:
    """Return the matrix from an appearance, with its own matrix applied, to the annotation's Rect.

    Raises: ValueError where one of their rectangles is none.
    """
    x0, y0, x1, y1 = rectangle_of(appearance.BBox)
    matrix = matrix_of(appearance.get("/Matrix"))
    corners = [matrix.transform(point) for point in ((x0, y0), (x1, y0), (x0, y1), (x1, y1))]
    left, right = min(x for x, _ in corners), max(x for x, _ in corners)
    low, high = min(y for _, y in corners), max(y for _, y in corners)
    rect = rectangle_of(annotation.Rect)
    wide = (max(rect[0], rect[2]) - min(rect[0], rect[2])) / ((right - left) or 1)
    tall = (max(rect[1], rect[3]) - min(rect[1], rect[3])) / ((high - low) or 1)
    return Matrix(
        wide,
        0,
        0,
        tall,
        min(rect[0], rect[2]) - left * wide,
        min(rect[1], rect[3]) - low * tall,
    )
