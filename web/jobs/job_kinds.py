"""Jobs as they go from the server to a process: one dataclass a kind, sent as JSON."""

from dataclasses import dataclass
from typing import Any, ClassVar

from lighten import Decision, RasterTreatment, from_json, to_json

__all__ = [
    "DrawJob",
    "FitTerms",
    "Gathering",
    "InspectPageJob",
    "Job",
    "JobFile",
    "LightenJob",
    "NamedPath",
    "Points",
    "ProveJob",
    "RasteriseJob",
    "StoredOrder",
    "StripsJob",
    "TryJob",
    "ViewJob",
    "ViewRequest",
    "WeighJob",
    "dump_job",
    "points_of",
    "read_job",
]

# What the core wrote for the database and reads again; it is handed on as it is stored.
Stored = dict[str, Any]
Points = tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class JobFile:
    """The file that a job works on, and the means it has.

    name, password: for messages, and to open it. thumbnails: folder of small pictures.
    memory_bytes: limit of its process. cache, cache_bytes: of coded pictures.
    """

    path: str
    name: str
    password: str
    thumbnails: str
    memory_bytes: int
    cache: str
    cache_bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedPath:
    """A file with the name that messages show."""

    path: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Gathering:
    """Pages to make of pictures. page: a `PageSize`. turns, corners: by number of the page."""

    page: str
    turns: dict[str, int]
    corners: dict[str, Points | None]
    finds_sheets: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class FitTerms:
    """Limit of one copy. floor, ways: see `lighten.FitRules`."""

    limit_bytes: int
    floor: float
    ways: tuple[str, ...]
    may_split: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredOrder:
    """An order, with preset and exceptions as they are stored.

    replacements: folder of pictures that a person brought.
    """

    preset: Stored
    exceptions: Stored
    replacements: str
    fit: FitTerms | None = None
    may_end_signature: bool = False
    may_blur_text: bool = False


# niceness: how far a job stands back for others on the same cores (nice(2)): pages are answered
# first. What is drawn is part of a page; nobody waits for trials.
@dataclass(frozen=True, slots=True, kw_only=True)
class WeighJob:
    """Weigh a document; one with `pictures` is gathered from them first."""

    work: ClassVar[str] = "weigh"
    niceness: ClassVar[int] = 8
    pictures: tuple[NamedPath, ...] = ()
    gathering: Gathering | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class TryJob:
    """Run the trials that an order needs and that `trials` lack. out: folder for files."""

    work: ClassVar[str] = "try"
    niceness: ClassVar[int] = 14
    sheet: Stored
    trials: Stored
    order: StoredOrder
    out: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawJob:
    """Draw the thumbnail of one part."""

    work: ClassVar[str] = "draw"
    niceness: ClassVar[int] = 0
    sheet: Stored
    part: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StripsJob:
    """Code one picture by each decision, and write its pixels to the file named beside it."""

    work: ClassVar[str] = "strips"
    niceness: ClassVar[int] = 0
    sheet: Stored
    part: str
    decisions: tuple[Decision, ...]
    files: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class InspectPageJob:
    """Find the facts of a page that came, and its layers. corners: of the sheet on it."""

    work: ClassVar[str] = "inspect-page"
    niceness: ClassVar[int] = 8
    corners: Points | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RasteriseJob:
    """Write pages as TIFF to `folder`, with pictures of the places that lost most."""

    work: ClassVar[str] = "rasterise"
    niceness: ClassVar[int] = 8
    treatment: RasterTreatment
    is_each: bool
    may_blur_text: bool
    folder: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LightenJob:
    """Make a copy at `out`, and prove it."""

    work: ClassVar[str] = "lighten"
    niceness: ClassVar[int] = 8
    sheet: Stored
    trials: Stored
    order: StoredOrder
    out: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveJob:
    """Compare a copy that came back with its original."""

    work: ClassVar[str] = "prove"
    niceness: ClassVar[int] = 8
    copy: NamedPath


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewJob:
    """Draw regions of a copy and its original, a `ViewRequest` a line, until the input ends."""

    work: ClassVar[str] = "view"
    niceness: ClassVar[int] = 0
    copy: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewRequest:
    """A region to draw to the file `out`.

    side: "original", "copy" or "difference". page: or None, for the picture `part_id`. size_pt: of
    the picture. box: left, low, right, high in points; None for the whole.
    """

    side: str
    dpi: float
    page: int | None
    part_id: str
    size_pt: tuple[float, float]
    box: tuple[float, float, float, float] | None
    out: str


Job = (
    WeighJob
    | TryJob
    | DrawJob
    | StripsJob
    | InspectPageJob
    | RasteriseJob
    | LightenJob
    | ProveJob
    | ViewJob
)
_KINDS: dict[str, type[Job]] = {kind.work: kind for kind in Job.__args__}


def points_of(stored: list[list[float]] | None) -> Points | None:
    """Return corners that are stored as JSON."""
    return None if stored is None else tuple((x, y) for x, y in stored)


def dump_job(file: JobFile, job: Job) -> dict[str, Any]:
    """Return a job as JSON."""
    return {"work": job.work, "file": to_json(file), "job": to_json(job)}


def read_job(sent: dict[str, Any]) -> tuple[JobFile, Job]:
    """Return the job that `dump_job` was given. Raises: JsonMistakeError."""
    kind: type[Job] = _KINDS[sent["work"]]
    return from_json(sent["file"], JobFile, "file"), from_json(sent["job"], kind, "job")
