"""Letters that are drawn (Type 3 fonts): which ones a text shows, where and how large."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import pikepdf
from pikepdf import Matrix

from lighten.formats.pdf.objects.values import (
    array_of,
    dictionary_of,
    numbers_of,
    text_of,
    whole_number,
)
from lighten.formats.pdf.pages.matrices import IDENTITY, matrix_of

__all__ = ["TEXT_OPERATORS", "TextState", "has_pictures_in_letters"]

TEXT_OPERATORS = "BT Tf Tm Td TD TL T* Tc Tw Tz Ts Tj TJ ' \""
_THOUSANDTHS = 1000.0
_SPACE = 32


def has_pictures_in_letters(pdf: pikepdf.Pdf) -> bool:
    """Return whether the glyphs of some drawn font show pictures."""
    return any(
        isinstance(value, pikepdf.Dictionary)
        and value.get("/Subtype") == "/Type3"
        and len(dictionary_of(dictionary_of(value.get("/Resources")).get("/XObject")))
        for value in pdf.objects
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class TextState:
    """Position of text (ISO 32000-1, 9.3 and 9.4); changed copies come from `after`.

    font: of the letters, or None. place, line: the text matrix and where its line began.
    Strings in other fonts than drawn ones do not move `place`: only its size matters here, and
    each line says where it begins.
    """

    font: pikepdf.Dictionary | None = None
    size: float = 0.0
    place: Matrix = IDENTITY
    line: Matrix = IDENTITY
    leading: float = 0.0
    letter_space: float = 0.0
    word_space: float = 0.0
    stretch: float = 1.0
    rise: float = 0.0

    def after(self, operator: str, operands: tuple[object, ...]) -> "TextState":
        """The state after one operator of TEXT_OPERATORS that shows nothing and names no font."""
        numbers = [float(operand) for operand in operands if isinstance(operand, int | float)]
        state = self
        match operator, numbers:
            case "BT", _:
                state = replace(self, place=IDENTITY, line=IDENTITY)
            case "Tm", [_, _, _, _, _, _]:
                state = replace(self, place=matrix_of(numbers), line=matrix_of(numbers))
            case "Td", [x, y]:
                state = self._next_line(x, y)
            case "TD", [x, y]:
                state = replace(self, leading=-y)._next_line(x, y)
            case "T*", _:
                state = self._next_line(0.0, -self.leading)
            case "TL", [leading]:
                state = replace(self, leading=leading)
            case "Tc", [space]:
                state = replace(self, letter_space=space)
            case "Tw", [space]:
                state = replace(self, word_space=space)
            case "Tz", [percent]:
                state = replace(self, stretch=percent / 100)
            case "Ts", [rise]:
                state = replace(self, rise=rise)
        return state

    def in_font(self, font: pikepdf.Object | None, size: object) -> "TextState":
        """The state after a choice of font."""
        return replace(
            self,
            font=font if isinstance(font, pikepdf.Dictionary) else None,
            size=float(size) if isinstance(size, int | float) else 0.0,
        )

    def by_state(self, state: pikepdf.Dictionary) -> "TextState":
        """The state after graphics parameters, which may choose a font (8.4.5)."""
        chosen = array_of(state.get("/Font"))
        return self.in_font(chosen[0], float(chosen[1])) if len(chosen) == 2 else self

    def shown(
        self, operator: str, operands: tuple[object, ...]
    ) -> tuple["TextState", list[tuple[pikepdf.Stream, Matrix]]]:
        """The state after a string, and each drawn letter with the matrix that draws it."""
        state = self
        if operator in ("'", '"'):
            state = state._next_line(0.0, -state.leading)
        if operator == '"' and len(operands) == 3:
            state = state.after("Tw", operands[:1]).after("Tc", operands[1:2])
        if state.font is None or state.font.get("/Subtype") != "/Type3":
            return state, []
        glyphs, widths = _glyphs(state.font), _widths(state.font)
        letters = []
        for piece in _pieces(operands):
            if isinstance(piece, float):
                state = state._moved(-piece / _THOUSANDTHS * state.size)
                continue
            for code in piece:
                if code in glyphs:
                    letters.append((glyphs[code], state._letter_matrix()))
                space = state.letter_space + (state.word_space if code == _SPACE else 0.0)
                state = state._moved(widths.get(code, 0.0) * state.size + space)
        return state, letters

    def _next_line(self, x: float, y: float) -> "TextState":
        start = Matrix(1, 0, 0, 1, x, y) @ self.line
        return replace(self, place=start, line=start)

    def _moved(self, across: float) -> "TextState":
        return replace(self, place=Matrix(1, 0, 0, 1, across * self.stretch, 0) @ self.place)

    def _letter_matrix(self) -> Matrix:
        """Return the matrix of a glyph (ISO 32000-1, 9.4.4), with that of the font before it."""
        assert self.font is not None
        sized = Matrix(self.size * self.stretch, 0, 0, self.size, 0, self.rise)
        return matrix_of(self.font.get("/FontMatrix")) @ (sized @ self.place)


def _pieces(operands: tuple[object, ...]) -> Iterator[bytes | float]:
    """Yield the strings of an operand and the moves between them."""
    shown = operands[-1] if operands else None
    for piece in shown if isinstance(shown, tuple) else (shown,):
        if isinstance(piece, bytes):
            yield piece
        elif isinstance(piece, int | float):
            yield float(piece)


def _glyphs(font: pikepdf.Dictionary) -> dict[int, pikepdf.Stream]:
    """Return the procedure that draws each code, by the /Differences of such a font (9.6.5)."""
    procedures = dictionary_of(font.get("/CharProcs"))
    glyphs, code = {}, 0
    for entry in array_of(dictionary_of(font.get("/Encoding")).get("/Differences")):
        if isinstance(entry, pikepdf.Name):
            procedure = procedures.get(text_of(entry))
            if isinstance(procedure, pikepdf.Stream):
                glyphs[code] = procedure
            code += 1
        else:
            code = whole_number(entry)
    return glyphs


def _widths(font: pikepdf.Dictionary) -> dict[int, float]:
    """Return the advance of each code, in text space for size 1."""
    scale = matrix_of(font.get("/FontMatrix")).a
    first = whole_number(font.get("/FirstChar"))
    widths = numbers_of(font.get("/Widths"))
    return {first + place: width * scale for place, width in enumerate(widths)}
