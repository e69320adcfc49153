"""Coordinate transformations of a PDF (ISO 32000-1, 8.3), as its objects hold them."""

from pikepdf import Matrix

__all__ = ["IDENTITY", "matrix_of"]

IDENTITY = Matrix()


def matrix_of(value: object) -> Matrix:
    """Return a matrix of six numbers; the identity if malformed or absent."""
    try:
        numbers = tuple(float(number) for number in value)  # type: ignore[attr-defined]
    except (TypeError, ValueError):
        return IDENTITY
    return Matrix(*numbers) if len(numbers) == 6 else IDENTITY
