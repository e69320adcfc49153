"""A page whose scan was straightened: the words and links that lie on it go along."""

import math
from collections.abc import Iterator
from typing import Any

import pikepdf
from pikepdf import Matrix

from lighten.formats.pdf.objects.values import array_of, dictionary_of, numbers_of, text_of
from lighten.formats.pdf.pages.matrices import IDENTITY, matrix_of

__all__ = ["turn_page"]

_DIGITS = 5
_NOTHING = 1e-12
Instruction = Any


def turn_page(
    pdf: pikepdf.Pdf, page: pikepdf.Page, middle: tuple[float, float], degrees: float
) -> None:
    """Turn text, forms that may hold some, links and notes clockwise.

    Pictures and drawing stay: readers draw pictures that lie askew by a hair to other pixels.
    middle: what they are turned about, in the page's own points.
    """
    x, y = middle
    turn = Matrix(1, 0, 0, 1, -x, -y) @ _turn(degrees) @ Matrix(1, 0, 0, 1, x, y)
    resources = page.obj.get("/Resources", page.resources)
    objects = dictionary_of(dictionary_of(resources).get("/XObject"))
    turned = list(_turned(pikepdf.parse_content_stream(page), turn, objects))
    page.obj.Contents = pdf.make_stream(pikepdf.unparse_content_stream(turned))
    for annotation in array_of(page.obj.get("/Annots")):
        if isinstance(annotation, pikepdf.Dictionary):
            _turn_annotation(annotation, turn)


def _turn(degrees: float) -> Matrix:
    """Return the matrix of a clockwise turn about the origin (ISO 32000-1, 8.3.3)."""
    angle = math.radians(-degrees)
    return Matrix(math.cos(angle), math.sin(angle), -math.sin(angle), math.cos(angle), 0, 0)


def _turned(
    instructions: list[Instruction], turn: Matrix, objects: pikepdf.Dictionary
) -> Iterator[Instruction]:
    """Return the operators with every text matrix turned (9.4.2)."""
    current, saved = IDENTITY, []
    for instruction in instructions:
        operator = text_of(instruction.operator)
        if operator == "q":
            saved.append(current)
        elif operator == "Q":
            current = saved.pop() if saved else current
        elif operator == "cm":
            current = matrix_of(instruction.operands) @ current
        elif operator == "Tm":
            yield _with_matrix("Tm", matrix_of(instruction.operands) @ _within(current, turn))
            continue
        elif operator == "Do" and _is_form(objects, instruction.operands):
            yield _plain("q")
            yield _with_matrix("cm", _within(current, turn))
            yield instruction
            yield _plain("Q")
            continue
        yield instruction
        if operator == "BT":
            yield _with_matrix("Tm", _within(current, turn))


def _within(current: Matrix, turn: Matrix) -> Matrix:
    """The turn of the page, as it is in the space that `current` leads from."""
    if abs(current.a * current.d - current.b * current.c) < _NOTHING:
        return IDENTITY  # what is drawn there has no size
    return current @ turn @ current.inverse()


def _is_form(objects: pikepdf.Dictionary, operands: Any) -> bool:
    shown = objects.get(text_of(operands[0])) if len(operands) else None
    return isinstance(shown, pikepdf.Stream) and shown.get("/Subtype") == "/Form"


def _plain(operator: str) -> Instruction:
    return pikepdf.ContentStreamInstruction([], pikepdf.Operator(operator))


def _with_matrix(operator: str, matrix: Matrix) -> Instruction:
    values = (matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f)
    operands = [round(value, _DIGITS) for value in values]
    return pikepdf.ContentStreamInstruction(operands, pikepdf.Operator(operator))


def _turn_annotation(annotation: pikepdf.Dictionary, turn: Matrix) -> None:
    """Turn an annotation with its page; its size stays, and its sides stay level."""
    sides = numbers_of(annotation.get("/Rect"))
    if len(sides) == 4:
        left, low, right, high = sides
        x, y = turn.transform(((left + right) / 2, (low + high) / 2))
        across, down = (right - left) / 2, (high - low) / 2
        rect = (x - across, y - down, x + across, y + down)
        annotation.Rect = pikepdf.Array([round(side, 3) for side in rect])
    quads = numbers_of(annotation.get("/QuadPoints"))
    if quads and len(quads) % 2 == 0:
        turned = [turn.transform(point) for point in zip(quads[::2], quads[1::2], strict=True)]
        annotation.QuadPoints = pikepdf.Array([round(one, 3) for point in turned for one in point])
