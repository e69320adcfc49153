"""The stand-in scanner for tests: small pages, at once."""

import io
import threading
import unittest

from PIL import Image

from demo.scanner.device import Device, Job
from demo.scanner.server import make_server
from tests.core.pictures.scans.pages import print_page, scanned

__all__ = ["StandIn"]

# One side of small paper; every third has nothing on it.
_PRINT = Image.fromarray(scanned(print_page(60, 40)))
_BLANK = Image.new("RGB", _PRINT.size, (246, 243, 236))


def _side(number: int, job: Job) -> bytes:
    image = (_BLANK if number % 3 == 2 else _PRINT).copy()
    # Told apart by their grey.
    image.putpixel((0, 0), (number, number, number))
    file = io.BytesIO()
    image.save(file, "PNG" if job.media_type == "image/png" else "JPEG", quality=92, dpi=(300, 300))
    return file.getvalue()


class StandIn:
    """A scanner on a port of its own, until the test has ended."""

    def __init__(self, test: unittest.TestCase, sheets: int = 3, jam_after: int | None = None):
        self.device = Device(sheets=sheets, jam_after=jam_after)
        server = make_server(self.device, 0, page_s=0, picture=_side)
        thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
        thread.start()
        test.addCleanup(thread.join)
        test.addCleanup(server.server_close)
        test.addCleanup(server.shutdown)
        self.port = server.server_port
        self.address = f"http://127.0.0.1:{self.port}/eSCL"
