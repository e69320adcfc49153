"""What the font library raises on fonts that are not as their specification has them."""

import struct

__all__ = ["font_errors"]


def font_errors() -> tuple[type[Exception], ...]:
    """For `except`; a font that raises one of these is left as it is."""
    from fontTools.misc.psLib import PSError
    from fontTools.ttLib import TTLibError

    return (
        *(TTLibError, PSError, struct.error, LookupError, ValueError, AssertionError),
        *(AttributeError, TypeError, ArithmeticError, EOFError, RecursionError),
        NotImplementedError,
    )
