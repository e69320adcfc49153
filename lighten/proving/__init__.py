"""A copy against its original, through readers that had no part in making it."""

from lighten.proving.any_two import prove_any_two
from lighten.proving.compare import prove
from lighten.proving.side_by_side import Place, SideBySide, read_both
from lighten.proving.verdict import verdict_of_page

__all__ = ["Place", "SideBySide", "prove", "prove_any_two", "read_both", "verdict_of_page"]
