"""Pages of copies and their originals, drawn on demand by processes that stay a while."""

import contextlib
import json
import queue
import subprocess
import threading
from collections import OrderedDict
from dataclasses import dataclass, field
from pathlib import Path
from uuid import UUID

from web.satchels.models import Copy
from web.satchels.workbench import JobFailedError, end_job, start_job

__all__ = ["Place", "draw"]

_MOST_OPEN = 2
_PATIENCE_S = 30.0
# Of drawings of one copy; older ones go first.
_MOST_KEPT = 1200


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """side: "original", "copy" or "difference". box: left, low, right, high in points; None for
    the whole page.
    """

    side: str
    page: int
    dpi: float
    box: tuple[float, float, float, float] | None = None

    @property
    def file_name(self) -> str:
        box = "" if self.box is None else "-".join(f"{side:g}" for side in self.box)
        return f"{self.side}-{self.page}-{self.dpi:g}-{box}.png"


def draw(copy: Copy, place: Place) -> Path:
    """The drawing as a PNG file, from an earlier time or made now. Raises: JobFailedError."""
    folder = copy.document.folder_path / f"pages-{copy.pk}"
    path = folder / place.file_name
    if path.exists():
        return path
    folder.mkdir(parents=True, exist_ok=True)
    _make_room(folder)
    partial = path.with_name(f"{path.name}.{threading.get_ident()}")
    easel = _easel(copy)
    try:
        easel.draw(place, partial)
    except JobFailedError:
        _take_down(copy.pk)
        raise
    partial.replace(path)
    return path


@dataclass(slots=True)
class _Easel:
    """One process with a copy and its original open; one drawing at a time."""

    name: str
    process: "subprocess.Popen[bytes]"
    lines: "queue.Queue[bytes]" = field(default_factory=queue.Queue)
    turn: threading.Lock = field(default_factory=threading.Lock)
    is_ready: bool = False

    def __post_init__(self) -> None:
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        assert self.process.stdout is not None
        with contextlib.suppress(ValueError):  # closed while it was read
            for line in self.process.stdout:
                self.lines.put(line)
        self.lines.put(b"")

    def draw(self, place: Place, out: Path) -> None:
        asked = {
            "side": place.side,
            "page": place.page,
            "box": place.box,
            "dpi": place.dpi,
            "out": str(out),
        }
        with self.turn:
            if not self.is_ready:
                self._answer()
                self.is_ready = True
            assert self.process.stdin is not None
            try:
                self.process.stdin.write(json.dumps(asked).encode() + b"\n")
                self.process.stdin.flush()
            except OSError as error:
                raise self._gone() from error
            answer = self._answer()
        if not answer["drawn"]:
            raise JobFailedError("not_drawn", f"{self.name}: {answer['message']}")

    def _answer(self) -> dict[str, object]:
        try:
            line = self.lines.get(timeout=_PATIENCE_S)
        except queue.Empty:
            raise self._gone() from None
        if not line:
            raise self._gone()
        told: dict[str, object] = json.loads(line)
        if "error" in told:
            raise JobFailedError("not_drawn", str(told["error"]["message"]))  # type: ignore[index]
        return told

    def _gone(self) -> JobFailedError:
        return JobFailedError("not_drawn", f"{self.name}: this page cannot be drawn. Try again.")


_open: "OrderedDict[UUID, _Easel]" = OrderedDict()
_opening = threading.Lock()


def _easel(copy: Copy) -> _Easel:
    """The process for a copy; the one that was used longest ago makes way."""
    with _opening:
        easel = _open.get(copy.pk)
        if easel is not None and easel.process.poll() is None:
            _open.move_to_end(copy.pk)
            return easel
        while len(_open) >= _MOST_OPEN:
            _, oldest = _open.popitem(last=False)
            end_job(oldest.process)
        process = start_job(copy.document, "view", copy=copy.file.path)
        easel = _open[copy.pk] = _Easel(copy.document.name, process)
        return easel


def _take_down(copy_id: UUID) -> None:
    with _opening:
        easel = _open.pop(copy_id, None)
    if easel is not None:
        end_job(easel.process)


def _make_room(folder: Path) -> None:
    kept = sorted(folder.iterdir(), key=lambda path: path.stat().st_mtime)
    if len(kept) > _MOST_KEPT:
        for path in kept[: len(kept) // 4]:
            path.unlink(missing_ok=True)
