"""Places of copies and their originals, drawn on demand by processes that stay a while."""

import contextlib
import json
import queue
import threading
from collections import OrderedDict
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any
from uuid import UUID

from lighten import name_of_part, to_json
from web.jobs.job_kinds import ViewJob, ViewRequest
from web.jobs.nursery import JobProcess
from web.jobs.runner import JobFailedError, start_job

if TYPE_CHECKING:
    from web.satchels.models import Copy

__all__ = ["Drawing", "PageRenderers", "draw"]

_MOST_OPEN = 2
_PATIENCE_S = 30.0
# Of drawings of one copy; older ones go first.
_MOST_KEPT = 1200


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """side: "original", "copy" or "difference". page: or None, for a picture, its `part_id`.

    size_pt: how large the picture is shown. box: left, low, right, high in points; None for the
    whole.
    """

    side: str
    dpi: float
    page: int | None = None
    part_id: str = ""
    size_pt: tuple[float, float] = (0.0, 0.0)
    box: tuple[float, float, float, float] | None = None

    @property
    def file_name(self) -> str:
        box = "" if self.box is None else "-".join(f"{side:g}" for side in self.box)
        place = str(self.page) if self.page is not None else name_of_part(self.part_id)
        return f"{self.side}-{place}-{self.dpi:g}-{box}.png"


def draw(copy: "Copy", drawing: Drawing) -> Path:
    """The drawing as a PNG file, from an earlier time or made now. Raises: JobFailedError."""
    folder = copy.document.folder_path / f"pages-{copy.pk}"
    path = folder / drawing.file_name
    if path.exists():
        return path
    folder.mkdir(parents=True, exist_ok=True)
    _make_room(folder)
    partial = path.with_name(f"{path.name}.{threading.get_ident()}.partial")
    _page_renderers().draw(copy, drawing, partial)
    partial.replace(path)
    return path


def _make_room(folder: Path) -> None:
    kept = sorted(folder.iterdir(), key=lambda path: path.stat().st_mtime)
    if len(kept) > _MOST_KEPT:
        for path in kept[: len(kept) // 4]:
            path.unlink(missing_ok=True)


@dataclass(slots=True)
class _Renderer:
    """One process with a copy and its original open; one drawing at a time.

    users: requests that draw with it now or wait to; while there are any, it is not ended for
    another's sake.
    """

    name: str
    process: JobProcess
    lines: "queue.Queue[bytes]" = field(default_factory=queue.Queue)
    turn: threading.Lock = field(default_factory=threading.Lock)
    is_ready: bool = False
    users: int = 0

    def __post_init__(self) -> None:
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        with contextlib.suppress(ValueError):  # closed while it was read
            for line in self.process.stdout:
                self.lines.put(line)
        self.lines.put(b"")

    def draw(self, drawing: Drawing, out: Path) -> None:
        request = ViewRequest(
            side=drawing.side,
            page=drawing.page,
            part_id=drawing.part_id,
            size_pt=drawing.size_pt,
            box=drawing.box,
            dpi=drawing.dpi,
            out=str(out),
        )
        with self.turn:
            if not self.is_ready:
                self._answer()
                self.is_ready = True
            try:
                self.process.stdin.write(json.dumps(to_json(request)).encode() + b"\n")
                self.process.stdin.flush()
            except (OSError, ValueError) as error:
                raise self._gone() from error
            answer = self._answer()
        if not answer["drawn"]:
            raise JobFailedError("not_drawn", f"{self.name}: {answer['message']}")

    def _answer(self) -> dict[str, Any]:
        try:
            line = self.lines.get(timeout=_PATIENCE_S)
        except queue.Empty:
            raise self._gone() from None
        if not line:
            raise self._gone()
        answer: dict[str, Any] = json.loads(line)
        if "error" in answer:
            raise JobFailedError("not_drawn", str(answer["error"]["message"]))
        return answer

    def _gone(self) -> JobFailedError:
        return JobFailedError("not_drawn", f"{self.name}: this page cannot be drawn. Try again.")


class PageRenderers:
    """The renderers of one process, by copy; those used longest ago make way for others."""

    def __init__(self, *, most_open: int = _MOST_OPEN) -> None:
        self._most_open = most_open
        self._open: OrderedDict[UUID, _Renderer] = OrderedDict()
        self._lock = threading.Lock()

    def draw(self, copy: "Copy", drawing: Drawing, out: Path) -> None:
        """Have it drawn to `out`. Raises: JobFailedError."""
        renderer = self._borrow(copy)
        is_sound = False
        try:
            renderer.draw(drawing, out)
            is_sound = True
        finally:
            self._give_back(copy.pk, renderer, is_sound=is_sound)

    def close(self) -> None:
        """End all of them."""
        with self._lock:
            ended = list(self._open.values())
            self._open.clear()
        for renderer in ended:
            renderer.process.end()

    def _borrow(self, copy: "Copy") -> _Renderer:
        with self._lock:
            renderer = self._open.get(copy.pk)
            if renderer is None or renderer.process.poll() is not None:
                process = start_job(copy.document, ViewJob(copy=copy.file.path))
                renderer = self._open[copy.pk] = _Renderer(copy.document.name, process)
            self._open.move_to_end(copy.pk)
            renderer.users += 1
            idle = self._idle_surplus()
        for other in idle:
            other.process.end()
        return renderer

    def _idle_surplus(self) -> list[_Renderer]:
        """Return idle renderers above the most that may be open."""
        surplus = len(self._open) - self._most_open
        idle = [copy_id for copy_id, renderer in self._open.items() if renderer.users == 0]
        return [self._open.pop(copy_id) for copy_id in idle[: max(0, surplus)]]

    def _give_back(self, copy_id: UUID, renderer: _Renderer, *, is_sound: bool) -> None:
        """A renderer that failed is ended once the last that uses it has given it back."""
        with self._lock:
            renderer.users -= 1
            if not is_sound and self._open.get(copy_id) is renderer:
                del self._open[copy_id]
            is_ended = renderer.users == 0 and self._open.get(copy_id) is not renderer
            idle = self._idle_surplus()
        for other in [*idle, *([renderer] if is_ended else [])]:
            other.process.end()


@cache
def _page_renderers() -> PageRenderers:
    return PageRenderers()
