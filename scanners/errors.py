"""Errors of scanners, in words for the person at it."""

__all__ = ["ScannerError"]


class ScannerError(Exception):
    """Error of a scanner. code: "unreachable", "busy", "no_paper", "jammed", "cannot", "broke_off"
    or "odd_answer".

    What it says tells what happened and what to do next.
    """

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
