"""The process that touches people's files: one job, within limits, then gone.

Reads a job as a line of JSON from standard input; writes lines of JSON while it works, {"progress":
0.4, "doing": "proving", "seconds_left": 3.2} with null where nobody can tell, then one
{"result": ...} or {"error": {"code", "message"}}. Knows the core and no Django.
"""

import errno
import json
import os
import resource
import sys
import time
from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from lighten import (
    CodingCache,
    Corners,
    FitOrder,
    FitRules,
    LightenError,
    Order,
    PageSize,
    Place,
    Progress,
    Source,
    TimeLeft,
    Trials,
    WeightSheet,
    dump_sheet,
    error_report,
    exceptions_from_json,
    from_json,
    gather,
    lay_page_apart,
    look_at_page,
    make,
    make_strips,
    order_result_report,
    plan_order,
    preset_from_json,
    proof_report,
    prove_any_two,
    rasterise,
    read_both,
    run_trials,
    share_of,
    sheet_from_json,
    switch_savings,
    trials_from_json,
    trials_to_json,
    weigh,
    write_strip,
    write_thumbnails,
)
from web.jobs.job_kinds import (
    DrawJob,
    Gathering,
    InspectPageJob,
    JobFile,
    LightenJob,
    NamedPath,
    Points,
    ProveJob,
    RasteriseJob,
    StoredOrder,
    StripsJob,
    TryJob,
    ViewJob,
    ViewRequest,
    WeighJob,
    read_job,
)

_REPORTED_EVERY_S = 1.5
_THUMBNAILS_AT_ONCE = 48
_GATHERING_SHARE = 0.5


def main() -> int:
    line = sys.stdin.readline()
    if not line:
        return 0  # nobody wants anything done any more
    file, job = read_job(json.loads(line))
    os.nice(job.niceness)
    resource.setrlimit(resource.RLIMIT_AS, (file.memory_bytes, file.memory_bytes))
    try:
        _say(result=_WORK[type(job)](file, job))
    except LightenError as error:
        _say(error=error_report(error))
    except BrokenPipeError:
        pass  # nobody listens any more
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise
        message = (
            f"{file.name}: the server's disk is full; nothing was changed. Make room and try again."
        )
        _say(error={"code": "no_room", "message": message})
    except MemoryError:
        message = f"{file.name}: needs more memory than one file may take. Split it and try again."
        _say(error={"code": "too_large", "message": message})
    return 0


def _try(file: JobFile, job: TryJob) -> Any:
    """Run trials for the order and for other choices, and report each result."""
    source, sheet = _source(file), sheet_from_json(job.sheet)
    trials = trials_from_json(job.trials)
    chosen = plan_order(sheet, _order(job.order))
    reported_at = time.monotonic()
    trying = run_trials(source, sheet, chosen, Path(job.out), cache=_cache(file), earlier=trials)
    for share, so_far in trying:
        trials = so_far
        if time.monotonic() - reported_at > _REPORTED_EVERY_S:
            _say(progress=share, doing="", seconds_left=None, partial=_as_tried(sheet, trials))
            reported_at = time.monotonic()
    return _as_tried(sheet, trials)


def _as_tried(sheet: WeightSheet, trials: Trials) -> Any:
    return {"trials": trials_to_json(trials), "savings": switch_savings(sheet, trials)}


def _weigh(file: JobFile, job: WeighJob) -> Any:
    """Weigh a document; one to be gathered from pictures is gathered first."""
    source, tell = _source(file), _teller()
    remarks: tuple[str, ...] = ()
    if job.gathering is not None and job.pictures:
        remarks = _gather(
            job.pictures, job.gathering, source.path, share_of(tell, 0, _GATHERING_SHARE)
        )
    sheet = weigh(source, share_of(tell, _GATHERING_SHARE if job.pictures else 0, 0.9, "weighing"))
    sheet = replace(sheet, remarks=(*sheet.remarks, *remarks))
    heaviest = sorted(
        (part for part in sheet.parts if part.picture), key=lambda part: -part.size_bytes
    )
    ids = [part.id for part in heaviest[:_THUMBNAILS_AT_ONCE]]
    write_thumbnails(source, sheet, ids, Path(file.thumbnails))
    return {"sheet": dump_sheet(sheet), "savings": switch_savings(sheet)}


def _gather(
    pictures: tuple[NamedPath, ...], gathering: Gathering, out: Path, progress: Progress
) -> tuple[str, ...]:
    out.parent.mkdir(parents=True, exist_ok=True)
    # From an attempt that was broken off.
    out.unlink(missing_ok=True)
    corners = {int(page): _corners(points) for page, points in gathering.corners.items()}
    gathered = gather(
        [Source(path=Path(one.path), shown_as=one.name) for one in pictures],
        out,
        PageSize(gathering.page),
        progress,
        turns={int(page): degrees for page, degrees in gathering.turns.items()},
        corners={page: points for page, points in corners.items() if points is not None},
        finds_sheets=gathering.finds_sheets,
    )
    return tuple(f"{name}: {remark}" for name, remark in gathered.remarks.items())


def _inspect_page(file: JobFile, job: InspectPageJob) -> Any:
    """Inspect a page that came: first its facts, reported at once, then its layers."""
    source, folder = _source(file), Path(file.thumbnails).parent
    corners = _corners(job.corners)
    look = look_at_page(source, folder / "small.png", folder / "whole.jpg", corners=corners)
    _say(progress=0.1, doing="", seconds_left=None, partial=asdict(look))
    laid = lay_page_apart(source, folder, corners=corners, cache=_cache(file))
    return {
        "size_bytes": laid.size_bytes,
        "is_layered": laid.is_layered,
        "reason": laid.reason,
        "verdict": laid.verdict,
        "score": laid.score,
        "has_place": laid.as_it_came is not None,
    }


def _corners(points: Points | None) -> Corners | None:
    """Read four corners. Raises: ValueError where there are not four."""
    if points is None:
        return None
    upper_left, upper_right, lower_right, lower_left = ((x, y) for x, y in points)
    return upper_left, upper_right, lower_right, lower_left


def _rasterise(file: JobFile, job: RasteriseJob) -> Any:
    """Pages to TIFF, with a picture of the place on each that has lost most."""
    folder = Path(job.folder)
    made = rasterise(
        _source(file),
        folder / "pages.tif",
        job.treatment,
        _teller(),
        each=job.is_each,
        may_blur_text=job.may_blur_text,
    )
    for page in made.pages:
        page.draw_place(*(folder / f"{side}-{page.number}.png" for side in ("before", "after")))
    return {
        "size_bytes": made.size_bytes,
        "pages": [
            {
                "page": page.number,
                "width_px": page.width_px,
                "height_px": page.height_px,
                "kind": page.kind,
                "size_bytes": page.size_bytes,
                "remark": page.remark,
                "has_place": page.before is not None,
            }
            for page in made.pages
        ],
    }


def _draw(file: JobFile, job: DrawJob) -> Any:
    sheet = sheet_from_json(job.sheet)
    return write_thumbnails(_source(file), sheet, [job.part], Path(file.thumbnails))


def _strips(file: JobFile, job: StripsJob) -> Any:
    """Return the facts of each strip, in order; their pixels go to files."""
    strips = make_strips(
        _source(file), sheet_from_json(job.sheet), job.part, job.decisions, _cache(file)
    )
    facts = []
    for strip, path in zip(strips, job.files, strict=True):
        media_type = write_strip(strip, Path(path))
        height, width = strip.pixels.shape[:2]
        facts.append(
            {
                "action": strip.action,
                "reason": strip.reason,
                "bytes": strip.size_bytes,
                "ppi": strip.ppi,
                "quality": strip.quality,
                "score": strip.score,
                "words": strip.words,
                "lost": [list(box) for box in strip.lost],
                "cut": None if strip.cut is None else list(strip.cut),
                "width_px": width,
                "height_px": height,
                "media_type": media_type,
            }
        )
    return facts


def _lighten(file: JobFile, job: LightenJob) -> Any:
    sheet = sheet_from_json(job.sheet)
    made = make(
        _source(file),
        sheet,
        _order(job.order),
        Path(job.out),
        _teller(),
        trials=trials_from_json(job.trials),
        cache=_cache(file),
    )
    return {
        **order_result_report(made, sheet),
        "proof": proof_report(made.proof) if made.proof else None,
    }


def _prove(file: JobFile, job: ProveJob) -> Any:
    """A copy that came back, held against the original."""
    copy = Source(path=Path(job.copy.path), password=file.password, shown_as=job.copy.name)
    proof = prove_any_two(_source(file), copy, _teller())
    return proof_report(proof)


def _view(file: JobFile, job: ViewJob) -> Any:
    """Render regions of a copy and its original on request."""
    original = _source(file)
    with read_both(original, Path(job.copy)) as both:
        _say(ready=True)
        for line in sys.stdin:
            request = from_json(json.loads(line), ViewRequest, "request")
            place = Place(
                page=request.page,
                part_id=request.part_id,
                size_pt=request.size_pt,
                box=request.box,
            )
            try:
                both.draw(request.side, place, request.dpi, request.out)
                _say(drawn=True)
            except LightenError as error:
                _say(drawn=False, message=error.message)
    return None


def _order(stored: StoredOrder) -> Order:
    fit = stored.fit
    return Order(
        preset=preset_from_json(stored.preset),
        fit=FitOrder(
            limit_bytes=fit.limit_bytes,
            rules=FitRules(floor=fit.floor, ways=fit.ways),
            may_split=fit.may_split,
        )
        if fit
        else None,
        exceptions=exceptions_from_json(stored.exceptions, Path(stored.replacements)),
        may_end_signature=stored.may_end_signature,
        may_blur_text=stored.may_blur_text,
        lays_out=True,
    )


def _cache(file: JobFile) -> CodingCache:
    return CodingCache(Path(file.cache), most_bytes=file.cache_bytes)


_WORK: dict[type, Callable[[JobFile, Any], Any]] = {
    WeighJob: _weigh,
    TryJob: _try,
    DrawJob: _draw,
    StripsJob: _strips,
    InspectPageJob: _inspect_page,
    RasteriseJob: _rasterise,
    LightenJob: _lighten,
    ProveJob: _prove,
    ViewJob: _view,
}


def _source(file: JobFile) -> Source:
    path = Path(file.path)
    return Source(path=path, password=file.password, shown_as=file.name, keeps_in=path.parent)


def _teller() -> Progress:
    """Return a progress function that prints the share and the remaining time."""
    time_left, said = TimeLeft(), ""

    def tell(share: float, doing: str = "", /) -> None:
        nonlocal said
        said = doing or said
        _say(progress=share, doing=said, seconds_left=time_left.after(share))

    return tell


def _say(**line: Any) -> None:
    print(json.dumps(line), flush=True)


if __name__ == "__main__":
    sys.exit(main())
