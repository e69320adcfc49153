"""Pen strokes drawn with fewer points.

A pen writes a point every few hundredths of a second, far closer than anybody can see; with
pressure, each stroke is the outline of a line whose width changes.
"""

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.codecs.flate import pack
from lighten.formats.pdf.objects.values import array_of, text_of
from lighten.formats.pdf.pages.matrices import matrix_of
from lighten.model.treatments import DrawingTreatment

__all__ = ["simplify", "simplify_strokes"]

_MOVES = {"m", "l", "c", "v", "y", "h", "re"}
# How many numbers each takes (ISO 32000-1, table 59).
_OPERANDS = {"m": 2, "l": 2, "c": 6, "v": 4, "y": 4, "re": 4}
_PAINTS = {"S", "s", "f", "F", "f*", "B", "B*", "b", "b*", "n"}
_CLIPS = {"W", "W*"}
# The operators that set the colour of fills, with those that set it for lines.
_LINE_COLOURS = {"g": "G", "rg": "RG", "k": "K", "cs": "CS", "sc": "SC", "scn": "SCN"}
# A pen stroke has at least so many segments, each no longer than that on average.
_FEWEST_SEGMENTS = 8
_LONGEST_MEAN_SEGMENT_PT = 3.0
# A run of segments, as content streams write them.
_RUN = re.compile(
    rb"(?:[-+.\d]+\s+[-+.\d]+\s+(?:(?:[-+.\d]+\s+){2,4}[cvy]|l)\s+){%d}" % _FEWEST_SEGMENTS
)
_STEPS_A_CURVE = 6
# A cubic curve in so many chords leaves them by no more than that share of its bend (the larger
# second difference of its points): 3/4 divided by the square of the steps.
_CHORD_ERROR = 0.75 / _STEPS_A_CURVE**2
# How far the area of an outline may be from that of a line of its mean width.
_MOST_AREA_ERROR = 0.35
_DECIMALS = 2

Points = NDArray[np.float64]
Instruction = pikepdf.ContentStreamInstruction | pikepdf.ContentStreamInlineImage


def simplify_strokes(pdf: pikepdf.Pdf, treatment: DrawingTreatment) -> int:
    """Simplify the pen strokes of pages and forms; return the bytes saved.

    What does not get lighter stays as it was.
    """
    if treatment.tolerance_pt is None and not treatment.constant_width:
        return 0
    saved = 0
    for page in pdf.pages:
        contents = page.obj.get("/Contents")
        pieces = [contents] if isinstance(contents, pikepdf.Stream) else array_of(contents)
        streams = [piece for piece in pieces if isinstance(piece, pikepdf.Stream)]
        before = sum(len(stream.read_raw_bytes()) for stream in streams)
        drawn = _redrawn(page.obj, treatment, lighter_than=before)
        if drawn is not None:
            # Contents may be shared with another page, so they are not written over.
            page.obj.Contents = pdf.make_stream(b"")
            page.obj.Contents.write(drawn, filter=pikepdf.Name.FlateDecode)
            saved += before - len(drawn)
    for value in list(pdf.objects):
        if isinstance(value, pikepdf.Stream) and value.get("/Subtype") == "/Form":
            before = len(value.read_raw_bytes())
            drawn = _redrawn(value, treatment, lighter_than=before)
            if drawn is not None:
                value.write(drawn, filter=pikepdf.Name.FlateDecode)
                saved += before - len(drawn)
    return saved


def simplify(points: Points, tolerance: float) -> Points:
    """The fewest of the points whose line passes all others within `tolerance`, ends kept.

    points: (n, 2). Source: Douglas & Peucker, Cartographica 10(2), 1973.
    """
    kept = np.zeros(len(points), np.bool_)
    kept[[0, -1]] = True
    waiting = [(0, len(points) - 1)]
    while waiting:
        start, end = waiting.pop()
        if end - start < 2:
            continue
        distances = _distances(points[start + 1 : end], points[start], points[end])
        farthest = int(distances.argmax())
        if distances[farthest] > tolerance:
            middle = start + 1 + farthest
            kept[middle] = True
            waiting += [(start, middle), (middle, end)]
    return points[kept]


def _distances(points: Points, start: Points, end: Points) -> Points:
    """Return the distance of each point from the segment between start and end."""
    along = end - start
    length = float(along @ along)
    if length == 0:
        return np.asarray(np.hypot(*(points - start).T))
    share = np.clip((points - start) @ along / length, 0, 1)
    return np.asarray(np.hypot(*(points - start - share[:, None] * along).T))


def _redrawn(
    stream: pikepdf.Object, treatment: DrawingTreatment, *, lighter_than: int
) -> bytes | None:
    """Return the content packed with simplified strokes; None if it is not smaller."""
    target = pikepdf.Page(stream) if stream.get("/Type") == "/Page" else stream
    try:
        # Most pages have none, and searching their bytes takes far less time than parsing them.
        if not treatment.ordinary_too and not _RUN.search(_content(stream)):
            return None
        steps = pikepdf.parse_content_stream(target)
    except (pikepdf.PdfError, RuntimeError, TypeError):
        return None
    pen = _Pen(treatment)
    drawn = list(pen.redraw(steps))
    if not pen.strokes:
        return None
    packed = pack(pikepdf.unparse_content_stream(drawn))
    return packed if len(packed) < lighter_than else None


def _content(stream: pikepdf.Object) -> bytes:
    """The bytes of a form, or of a page's contents. Raises: pikepdf.PdfError."""
    if isinstance(stream, pikepdf.Stream):
        return stream.read_bytes()
    contents = stream.get("/Contents")
    pieces = [contents] if isinstance(contents, pikepdf.Stream) else array_of(contents)
    return b"\n".join(one.read_bytes() for one in pieces if isinstance(one, pikepdf.Stream))


@dataclass(slots=True)
class _State:
    """scale: points of a unit. colour: what set the colour of fills, last."""

    scale: float = 1.0
    colour: tuple[Instruction, ...] = ()


class _Pen:
    """Follows content and redraws its strokes. strokes: how many it found."""

    def __init__(self, treatment: DrawingTreatment) -> None:
        self._wanted = treatment
        self._state = _State()
        self._saved: list[_State] = []
        self.strokes = 0

    def redraw(self, steps: list[Instruction]) -> Iterator[Instruction]:
        path: list[Instruction] = []
        is_clip = False
        for step in steps:
            operator = text_of(step.operator)
            if operator in _MOVES:
                path.append(step)
            elif operator in _CLIPS:
                is_clip = True
                path.append(step)
            elif operator in _PAINTS:
                yield from self._painted(path, step, is_clip=is_clip)
                path, is_clip = [], False
            else:
                self._note(operator, step)
                yield step

    def _note(self, operator: str, step: Instruction) -> None:
        state = self._state
        if operator == "q":
            self._saved.append(_State(state.scale, state.colour))
        elif operator == "Q" and self._saved:
            self._state = self._saved.pop()
        elif operator == "cm" and len(step.operands) == 6:
            matrix = matrix_of(step.operands)
            state.scale *= math.sqrt(abs(matrix.a * matrix.d - matrix.b * matrix.c)) or 1.0
        elif operator in ("sc", "scn"):
            state.colour = (
                *(earlier for earlier in state.colour if str(earlier.operator) == "cs"),
                step,
            )
        elif operator in _LINE_COLOURS:
            state.colour = (step,)

    def _painted(
        self, path: list[Instruction], paint: Instruction, *, is_clip: bool
    ) -> Iterator[Instruction]:
        tolerance = (self._wanted.tolerance_pt or 0.0) / self._state.scale
        # Half of what may be lost, where curves become chords.
        lines = None if is_clip else _as_lines(path, tolerance / 2 or math.inf)
        if lines is None or not all(self._is_stroke(line) for line in lines):
            yield from (*path, paint)
            return
        self.strokes += 1
        operator = text_of(paint.operator)
        if self._wanted.constant_width and operator in ("f", "F", "f*"):
            centre = [_centre(line) for line in lines]
            if all(number is not None for number in centre):
                yield from self._as_lines_of_one_width(
                    [number for number in centre if number is not None]
                )
                return
        for line in lines:
            yield from self._segments(line, is_closed=operator not in ("S", "B", "B*"))
        yield paint

    def _is_stroke(self, line: Points) -> bool:
        if self._wanted.ordinary_too:
            return len(line) > 2
        segments = np.hypot(*np.diff(line, axis=0).T) * self._state.scale
        is_dense = len(segments) >= _FEWEST_SEGMENTS
        return is_dense and float(segments.mean()) <= _LONGEST_MEAN_SEGMENT_PT

    def _as_lines_of_one_width(self, strokes: list[tuple[Points, float]]) -> Iterator[Instruction]:
        yield _step("q")
        for colour in self._state.colour:
            yield pikepdf.ContentStreamInstruction(
                list(colour.operands), pikepdf.Operator(_LINE_COLOURS[text_of(colour.operator)])
            )
        yield from (_step("J", 1), _step("j", 1))
        for line, width in strokes:
            yield _step("w", round(width, _DECIMALS + 1))
            yield from self._segments(line, is_closed=False)
            yield _step("S")
        yield _step("Q")

    def _segments(self, line: Points, *, is_closed: bool) -> Iterator[Instruction]:
        tolerance = (self._wanted.tolerance_pt or 0.0) / self._state.scale
        # As many places as the tolerance is fine, in the units that are written.
        places = max(0, _DECIMALS + round(math.log10(max(self._state.scale, 1e-6))))
        kept = simplify(line, tolerance)
        is_ring = is_closed and len(kept) > 2 and bool((kept[0] == kept[-1]).all())
        for place, (x, y) in enumerate(kept[:-1] if is_ring else kept):
            yield _step("l" if place else "m", _number(x, places), _number(y, places))
        if is_ring:
            yield _step("h")


def _as_lines(path: list[Instruction], most_bend: float) -> list[Points] | None:
    """Return a path's subpaths as points, curves flattened; None for other operators.

    most_bend: how far chords may leave a curve, in the units of the content.
    """
    lines: list[list[tuple[float, float]]] = []
    for step in path:
        operator = text_of(step.operator)
        try:
            numbers = [float(number) for number in step.operands]
        except TypeError:
            return None
        if len(numbers) != _OPERANDS.get(operator, 0):
            return None
        if operator == "m":
            lines.append([(numbers[0], numbers[1])])
        elif not lines or operator in ("re", "W", "W*"):
            return None
        elif operator == "l":
            lines[-1].append((numbers[0], numbers[1]))
        elif operator == "h":
            lines[-1].append(lines[-1][0])
        else:
            corners = _corners(operator, lines[-1][-1], numbers)
            if _CHORD_ERROR * _bend(corners) > most_bend:
                return None
            lines[-1] += _curve(corners)
    return [np.array(line) for line in lines if len(line) > 1] or None


def _corners(
    operator: str, start: tuple[float, float], numbers: list[float]
) -> list[tuple[float, float]]:
    """The four points of a Bezier curve (ISO 32000-1, 8.5.2.2)."""
    points = list(zip(numbers[::2], numbers[1::2], strict=True))
    if operator == "v":
        points = [start, *points]
    elif operator == "y":
        points = [points[0], points[1], points[1]]
    return [start, *points]


def _bend(corners: list[tuple[float, float]]) -> float:
    """The larger second difference of the points of a curve."""
    return max(
        math.hypot(one[0] - 2 * mid[0] + other[0], one[1] - 2 * mid[1] + other[1])
        for one, mid, other in zip(corners, corners[1:], corners[2:], strict=False)
    )


def _curve(corners: list[tuple[float, float]]) -> Iterator[tuple[float, float]]:
    """Return points of a Bezier curve without its start."""
    for number in range(1, _STEPS_A_CURVE + 1):
        t = number / _STEPS_A_CURVE
        weights = ((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3)
        yield (
            sum(weight * x for weight, (x, _) in zip(weights, corners, strict=True)),
            sum(weight * y for weight, (_, y) in zip(weights, corners, strict=True)),
        )


def _centre(outline: Points) -> tuple[Points, float] | None:
    """Return the centre line and mean width of a stroke's outline; None for other shapes.

    It runs along one side and back along the other, so points from both ends face one another.
    """
    ring = outline[:-1] if bool((outline[0] == outline[-1]).all()) else outline
    half = len(ring) // 2
    if half < 3:
        return None
    there, back = ring[:half], ring[::-1][:half]
    widths = np.hypot(*(there - back).T)
    middle, width = (there + back) / 2, float(widths.mean())
    length = float(np.hypot(*np.diff(middle, axis=0).T).sum())
    x, y = ring.T
    area = abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2
    is_stroke = length > 2 * width and abs(area - width * length) < _MOST_AREA_ERROR * area
    return (middle, width) if is_stroke and width > 0 else None


def _step(operator: str, *operands: float) -> pikepdf.ContentStreamInstruction:
    return pikepdf.ContentStreamInstruction(list(operands), pikepdf.Operator(operator))


def _number(value: float, places: int) -> float | int:
    rounded = round(float(value), places)
    return int(rounded) if rounded == int(rounded) else rounded
