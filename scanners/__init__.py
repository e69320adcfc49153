"""Network scanners over eSCL: what they can do, and pages of them. Knows no Django, no core."""

from scanners.capabilities import Capabilities, ColourMode, PaperSource, SourceAbilities
from scanners.errors import ScannerError
from scanners.scanner import ScanLimits, ScannedPage, Scanner
from scanners.settings import PAPER_SIZES, PaperSize, ScanSettings

__all__ = [
    "PAPER_SIZES",
    "Capabilities",
    "ColourMode",
    "PaperSize",
    "PaperSource",
    "ScanLimits",
    "ScanSettings",
    "ScannedPage",
    "Scanner",
    "ScannerError",
    "SourceAbilities",
]
