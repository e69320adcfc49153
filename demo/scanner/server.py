"""The stand-in over HTTP."""

import json
import time
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from demo.scanner.answers import capabilities_xml, read_job, status_xml
from demo.scanner.device import Device, Job, NoPaperError
from demo.scanner.paper import picture_of
from scanners import ScannerError

__all__ = ["make_server"]

_ROOT, _JOBS, _CONTROL = "/eSCL/", "/eSCL/ScanJobs/", "/stand-in"
_MOST_BODY_BYTES = 100_000
_PIECES = 20


def make_server(
    device: Device, port: int, *, page_s: float, picture: Callable[[int, Job], bytes] | None = None
) -> ThreadingHTTPServer:
    """A server on this machine alone.

    page_s: how long the lamp takes over a page. picture: of a side, from 0 on, other than paper
    made by code.
    """

    class Handler(_Handler):
        scanner, seconds = device, page_s
        draw = staticmethod(picture or _drawn(device))

    return ThreadingHTTPServer(("127.0.0.1", port), Handler)


def _drawn(device: Device) -> Callable[[int, Job], bytes]:
    def draw(side: int, job: Job) -> bytes:
        return picture_of(
            side,
            ppi=job.ppi,
            size=job.size,
            mode=job.mode,
            media_type=job.media_type,
            flaws=device.flaws,
        )

    return draw


class _Handler(BaseHTTPRequestHandler):
    """`POST /stand-in` with {"sheets": 6, "jam_after": 2} is the hand that puts paper in."""

    protocol_version = "HTTP/1.1"
    scanner: Device
    seconds: float
    draw: Callable[[int, Job], bytes]

    def do_GET(self) -> None:
        if self.path == f"{_ROOT}ScannerCapabilities":
            self._answer(200, capabilities_xml(), "text/xml")
        elif self.path == f"{_ROOT}ScannerStatus":
            self._answer(200, status_xml(self.scanner), "text/xml")
        elif self.path == _CONTROL:
            state = {"sheets": self.scanner.sheets, "feeder": self.scanner.adf_state}
            self._answer(200, json.dumps(state).encode(), "application/json")
        elif self.path.startswith(_JOBS) and self.path.endswith("/NextDocument"):
            self._send_page(self._job())
        else:
            self._answer(404)

    def do_POST(self) -> None:
        length = int(self.headers.get("Content-Length") or 0)
        if length > _MOST_BODY_BYTES:
            self._answer(413)
            return
        body = self.rfile.read(length)
        if self.path.rstrip("/") == _JOBS.rstrip("/"):
            self._begin(body)
        elif self.path == _CONTROL:
            request = json.loads(body)
            self.scanner.load(int(request["sheets"]), request.get("jam_after"))
            self._answer(204)
        else:
            self._answer(404)

    def do_DELETE(self) -> None:
        job = self._job()
        if job is not None:
            self.scanner.end(job)
        self._answer(200 if job else 404)

    def _begin(self, body: bytes) -> None:
        try:
            job = read_job(body)
            self.scanner.begin(job)
        except NoPaperError:
            self._answer(409)
        except (ScannerError, ValueError):
            self._answer(400)
        else:
            host = self.headers.get("Host", "127.0.0.1")
            self._answer(201, headers={"Location": f"http://{host}{_JOBS}{job.id}"})

    def _send_page(self, job: Job | None) -> None:
        side = None if job is None else self.scanner.next_side(job)
        if job is None or side is None:
            self._answer(404)
            return
        content = type(self).draw(side, job)
        self.send_response(200)
        self.send_header("Content-Type", job.media_type)
        self.send_header("Content-Length", str(len(content)))
        self.end_headers()
        # As the lamp goes down the page.
        step = -(-len(content) // _PIECES)
        for at in range(0, len(content), step):
            self.wfile.write(content[at : at + step])
            self.wfile.flush()
            time.sleep(self.seconds / _PIECES)

    def _job(self) -> Job | None:
        job_id = self.path.removeprefix(_JOBS).partition("/")[0]
        return next((job for job in self.scanner.jobs if job.id == job_id), None)

    def _answer(
        self,
        status: int,
        body: bytes = b"",
        media_type: str = "",
        headers: dict[str, str] | None = None,
    ) -> None:
        self.send_response(status)
        for name, value in (headers or {}).items():
            self.send_header(name, value)
        if media_type:
            self.send_header("Content-Type", media_type)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        """Quiet."""
