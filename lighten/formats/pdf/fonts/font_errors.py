"""Exceptions of the font library for fonts that break their specification."""

import struct

__all__ = ["font_errors"]


def font_errors() -> tuple[type[Exception], ...]:
    """Return the exceptions to catch; a font that raises one of them stays unchanged."""
    from fontTools.misc.psLib import PSError
    from fontTools.ttLib import TTLibError

    return (
        *(TTLibError, PSError, struct.error, LookupError, ValueError, AssertionError),
        *(AttributeError, TypeError, ArithmeticError, EOFError, RecursionError),
        NotImplementedError,
    )
