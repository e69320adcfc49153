"""A scanner at an address that an administrator has set: asked over HTTP, trusted in nothing."""

import time
from collections.abc import Callable, Generator
from dataclasses import dataclass
from urllib.parse import urljoin, urlsplit

import httpx

from scanners.capabilities import Capabilities, read_capabilities
from scanners.errors import ScannerError
from scanners.settings import ScanSettings, settings_as_xml
from scanners.xml import find_all, find_text, read_xml

__all__ = ["ScanLimits", "ScannedPage", "Scanner"]

_SUFFIXES = {"image/jpeg": ".jpg", "image/png": ".png"}
_MOST_WAIT_S = 5.0
_PIECE_BYTES = 64_000


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanLimits:
    """Limits on a scanner's answers. patience_s: without data, while it feeds or moves its lamp."""

    connect_s: float = 5.0
    patience_s: float = 60.0
    page_bytes: int = 200_000_000
    pages: int = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class ScannedPage:
    """media_type: one of those that are known here."""

    content: bytes
    media_type: str

    @property
    def suffix(self) -> str:
        """Return the extension of a file with such data, with the dot."""
        return _SUFFIXES[self.media_type]


class Scanner:
    """One scanner. Each call by itself; a job is one `scan`."""

    def __init__(
        self,
        address: str,
        *,
        limits: ScanLimits | None = None,
        transport: httpx.BaseTransport | None = None,
    ) -> None:
        """address: of its eSCL root, as "http://10.0.0.7/eSCL". transport: for tests."""
        self._address = address.rstrip("/") + "/"
        self._limits = limits or ScanLimits()
        self._client = httpx.Client(
            timeout=httpx.Timeout(self._limits.patience_s, connect=self._limits.connect_s),
            follow_redirects=False,
            transport=transport,
            trust_env=False,
        )

    def close(self) -> None:
        self._client.close()

    def __enter__(self) -> "Scanner":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def capabilities(self) -> Capabilities:
        """Fetch the capabilities. Raises: ScannerError."""
        return read_capabilities(self._get("ScannerCapabilities"))

    def state(self) -> str:
        """ "Idle", "Processing", "Testing", "Stopped" or "Down". Raises: ScannerError."""
        root = read_xml(self._get("ScannerStatus"), "its state")
        return find_text(root, "pwg:State") or "Idle"

    def scan(
        self,
        settings: ScanSettings,
        *,
        is_stopped: Callable[[], bool] = lambda: False,
        on_share: Callable[[float], None] = lambda _share: None,
    ) -> Generator[ScannedPage, None, None]:
        """Pages as they come, until there is no more paper; one from the glass.

        on_share: how much of the page that comes has come, 0 to 1.
        Raises: ScannerError, after the pages that came. The job is ended on the scanner whatever
        happens, also when the caller stops asking.
        """
        job = self._begin(settings)
        pages, is_at_end = 0, False
        try:
            while not is_stopped():
                page = self._next_page(job, pages + 1, is_stopped, on_share)
                if page is None:
                    is_at_end = True
                    break
                pages += 1
                yield page
                if pages >= self._limits.pages:
                    raise ScannerError(
                        "odd_answer",
                        f"The scanner sent {pages} pages and does not end. It was stopped; "
                        "those pages are here.",
                    )
            if is_at_end:
                self._check_end(job, pages)
        finally:
            self._end(job)

    def _begin(self, settings: ScanSettings) -> str:
        """The address of the job that was begun."""
        body = settings_as_xml(settings, self.capabilities())
        answer = self._ask("POST", "ScanJobs", content=body, headers={"Content-Type": "text/xml"})
        if answer.status_code == httpx.codes.SERVICE_UNAVAILABLE:
            raise ScannerError("busy", "The scanner is busy. Wait until it is done, and try again.")
        if answer.status_code == httpx.codes.CONFLICT:
            self._check_paper(0)
            raise ScannerError("cannot", "The scanner refused these settings. Choose others.")
        if answer.status_code != httpx.codes.CREATED:
            raise self._odd(answer)
        return self._own_address(answer.headers.get("Location", ""))

    def _own_address(self, location: str) -> str:
        """Return the URL that the scanner gives the job, if that is on itself."""
        job = urljoin(self._address, location)
        own, other = urlsplit(self._address), urlsplit(job)
        # Some name themselves otherwise than they are reached; what counts is the path.
        is_same = (other.hostname, other.port, other.scheme) == (own.hostname, own.port, own.scheme)
        if not location or not is_same:
            raise ScannerError(
                "odd_answer",
                "The scanner sent us elsewhere for its pages, which is not followed. Ask whoever "
                "looks after it.",
            )
        return job.rstrip("/")

    def _next_page(
        self,
        job: str,
        number: int,
        is_stopped: Callable[[], bool],
        on_share: Callable[[float], None],
    ) -> ScannedPage | None:
        """The page, or None where there is no more."""
        deadline = time.monotonic() + self._limits.patience_s
        while True:
            try:
                with self._client.stream("GET", f"{job}/NextDocument") as answer:
                    if answer.status_code == httpx.codes.OK:
                        return self._read_page(answer, number, is_stopped, on_share)
                    status, wait = answer.status_code, _wait_s(answer)
            except httpx.HTTPError as error:
                raise self._broke_off(number) from error
            if status in (httpx.codes.NOT_FOUND, httpx.codes.GONE):
                return None
            if status != httpx.codes.SERVICE_UNAVAILABLE:
                self._check_paper(number - 1)
                raise self._broke_off(number)
            if is_stopped():
                return None
            if time.monotonic() + wait > deadline:
                raise ScannerError(
                    "busy", f"The scanner does not come to page {number}. Try again."
                )
            time.sleep(wait)

    def _read_page(
        self,
        answer: httpx.Response,
        number: int,
        is_stopped: Callable[[], bool],
        on_share: Callable[[float], None],
    ) -> ScannedPage | None:
        media_type = answer.headers.get("Content-Type", "").partition(";")[0].strip().lower()
        if media_type not in _SUFFIXES:
            raise ScannerError(
                "odd_answer", f"Page {number} came as no picture that is known here. It is left."
            )
        whole = answer.headers.get("Content-Length", "")
        total = int(whole) if whole.isdecimal() else 0
        content = bytearray()
        for piece in answer.iter_bytes(_PIECE_BYTES):
            content += piece
            if max(len(content), total) > self._limits.page_bytes:
                most = self._limits.page_bytes // 1_000_000
                raise ScannerError(
                    "odd_answer", f"Page {number} is heavier than {most} MB. Scan it coarser."
                )
            if is_stopped():
                return None
            if total:
                on_share(len(content) / total)
        return ScannedPage(content=bytes(content), media_type=media_type)

    def _check_end(self, job: str, pages: int) -> None:
        """Check that the job ended because all pages came. Raises: ScannerError if not."""
        root = read_xml(self._get("ScannerStatus"), "its state")
        for info in find_all(root, "scan:Jobs/scan:JobInfo"):
            is_ours = urlsplit(job).path.endswith(find_text(info, "pwg:JobUri") or "?")
            if is_ours and find_text(info, "pwg:JobState") == "Aborted":
                self._check_paper(pages)
                raise self._broke_off(pages + 1)
        self._check_jam(find_text(root, "scan:AdfState"), pages)
        if pages == 0:
            raise ScannerError("no_paper", "There is no paper in the feeder. Put some in.")

    def _check_paper(self, pages: int) -> None:
        """Raises: ScannerError if the feeder says what is wrong."""
        root = read_xml(self._get("ScannerStatus"), "its state")
        state = find_text(root, "scan:AdfState")
        self._check_jam(state, pages)
        if state == "ScannerAdfEmpty" and pages == 0:
            raise ScannerError("no_paper", "There is no paper in the feeder. Put some in.")

    def _check_jam(self, state: str, pages: int) -> None:
        came = "nothing came yet" if not pages else f"the {pages} before it are here"
        if state in ("ScannerAdfJam", "ScannerAdfMispick", "ScannerAdfMultipickDetected"):
            raise ScannerError(
                "jammed",
                f"Page {pages + 1} is stuck in the feeder; {came}. Free it, put the rest back in, "
                "and go on.",
            )
        if state == "ScannerAdfHatchOpen":
            raise ScannerError("jammed", f"The feeder's lid is open; {came}. Close it, and go on.")

    def _end(self, job: str) -> None:
        """Delete the job; one that has ended by itself is unknown to the scanner already."""
        try:
            self._client.delete(job)
        except httpx.HTTPError:
            return

    def _get(self, name: str) -> bytes:
        answer = self._ask("GET", name)
        if answer.status_code != httpx.codes.OK:
            raise self._odd(answer)
        return answer.content

    def _ask(
        self,
        method: str,
        name: str,
        *,
        content: bytes | None = None,
        headers: dict[str, str] | None = None,
    ) -> httpx.Response:
        """The answer, of no more bytes than a description may have. Raises: ScannerError."""
        address = urljoin(self._address, name)
        try:
            with self._client.stream(method, address, content=content, headers=headers) as answer:
                body = bytearray()
                for piece in answer.iter_bytes(_PIECE_BYTES):
                    body += piece
                    if len(body) > _PIECE_BYTES * 16:
                        raise self._odd(answer)
                return httpx.Response(
                    answer.status_code,
                    headers={"Location": answer.headers.get("Location", "")},
                    content=bytes(body),
                )
        except httpx.HTTPError as error:
            raise ScannerError(
                "unreachable",
                "The scanner cannot be reached. Is it switched on, and in the network?",
            ) from error

    @staticmethod
    def _broke_off(number: int) -> ScannerError:
        came = "Nothing came yet" if number == 1 else f"The {number - 1} before it are here"
        return ScannerError(
            "broke_off",
            f"The scanner broke off at page {number}. {came}; put the rest back in, and go on.",
        )

    @staticmethod
    def _odd(answer: httpx.Response) -> ScannerError:
        if answer.is_redirect:
            return ScannerError(
                "odd_answer",
                "The scanner sends us elsewhere, which is not followed. Ask whoever looks after "
                "it.",
            )
        return ScannerError(
            "odd_answer",
            f"The scanner answered {answer.status_code}, which nothing can be done with. Try "
            "again.",
        )


def _wait_s(answer: httpx.Response) -> float:
    seconds = answer.headers.get("Retry-After", "")
    return min(_MOST_WAIT_S, float(seconds)) if seconds.isdecimal() else 1.0
