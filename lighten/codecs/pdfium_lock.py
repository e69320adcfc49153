"""pdfium works on one thing at a time: threads of a process take turns."""

import threading
from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

__all__ = ["pdfium_serialised"]

Parameters = ParamSpec("Parameters")
Result = TypeVar("Result")

_turn = threading.RLock()


def pdfium_serialised(function: Callable[Parameters, Result]) -> Callable[Parameters, Result]:
    """The function, waiting until no other thread is in pdfium; it may call others of the kind."""

    @wraps(function)
    def waiting(*args: Parameters.args, **kwargs: Parameters.kwargs) -> Result:
        with _turn:
            return function(*args, **kwargs)

    return waiting
