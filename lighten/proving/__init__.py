"""A copy against its original, through readers that had no part in making it."""

from lighten.proving.compare import prove

__all__ = ["prove"]
