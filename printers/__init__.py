"""A virtual printer: programs print to it, and the pages arrive here instead of on paper.

Internet Printing Protocol (RFC 8010, 8011; PWG 5100.14, IPP Everywhere). Knows no Django; who keeps
jobs, and where, is told by `PrinterDesk`.
"""

from printers.desk import JobState, PrinterDesk, PrintJob, PrintRefusedError, QueueInfo
from printers.ipp import BadMessageError, IppMessage, read_message, write_message
from printers.operations import answer
from printers.pwg_raster import BadRasterError, RasterPage, read_pwg_raster

__all__ = [
    "BadMessageError",
    "BadRasterError",
    "IppMessage",
    "JobState",
    "PrintJob",
    "PrintRefusedError",
    "PrinterDesk",
    "QueueInfo",
    "RasterPage",
    "answer",
    "read_message",
    "read_pwg_raster",
    "write_message",
]
