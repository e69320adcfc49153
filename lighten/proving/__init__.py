"""A copy against its original, through readers that had no part in making it."""

from lighten.proving.compare import prove
from lighten.proving.side_by_side import Place, SideBySide, read_both

__all__ = ["Place", "SideBySide", "prove", "read_both"]
