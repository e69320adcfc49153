"""Coordinate transformations of a PDF (ISO 32000-1, 8.3)."""

__all__ = ["IDENTITY", "Matrix", "matrix_of", "multiply"]

Matrix = tuple[float, float, float, float, float, float]
IDENTITY: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


def matrix_of(value: object) -> Matrix:
    """Six numbers, or the identity where there are none or others."""
    try:
        numbers = tuple(float(number) for number in value)  # type: ignore[attr-defined]
    except (TypeError, ValueError):
        return IDENTITY
    return numbers if len(numbers) == 6 else IDENTITY


def multiply(inner: Matrix, outer: Matrix) -> Matrix:
    """`inner` first, then `outer` (ISO 32000-1, 8.3.4)."""
    a, b, c, d, e, f = inner
    p, q, r, s, t, u = outer
    return (
        a * p + b * r,
        a * q + b * s,
        c * p + d * r,
        c * q + d * s,
        e * p + f * r + t,
        e * q + f * s + u,
    )
