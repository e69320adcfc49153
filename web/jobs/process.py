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
    BitonalMethod,
    CodingCache,
    Corners,
    FitOrder,
    FitRules,
    LightenError,
    Order,
    PageColours,
    PageSize,
    Place,
    Progress,
    RasterTreatment,
    Source,
    TimeLeft,
    Trials,
    WeightSheet,
    dump_sheet,
    error_report,
    exceptions_from_json,
    gather,
    lay_page_apart,
    look_at_page,
    make,
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
    write_thumbnails,
)

_REPORTED_EVERY_S = 1.5
# How far a job stands back for others on the same cores (nice(2)): pages are answered first. What
# is drawn is part of a page; nobody waits for trials.
_BEHIND_THE_PAGES = 8
_BEHIND = {"view": 0, "draw": 0, "try": 14}
_THUMBNAILS_AT_ONCE = 48
_GATHERING_SHARE = 0.5

Job = dict[str, Any]


def main() -> int:
    line = sys.stdin.readline()
    if not line:
        return 0  # nobody wants anything done any more
    job: Job = json.loads(line)
    os.nice(_BEHIND.get(job["work"], _BEHIND_THE_PAGES))
    memory = job["memory_bytes"]
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    try:
        _say(result=_WORK[job["work"]](job))
    except LightenError as error:
        _say(error=error_report(error))
    except BrokenPipeError:
        pass  # nobody listens any more
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise
        message = (
            f"{job['name']}: the server's disk is full; nothing was changed. Make room and try "
            "again."
        )
        _say(error={"code": "no_room", "message": message})
    except MemoryError:
        message = (
            f"{job['name']}: needs more memory than one file may take. Split it and try again."
        )
        _say(error={"code": "too_large", "message": message})
    return 0


def _try(job: Job) -> Any:
    """Run trials for the order and for other choices, and report each result."""
    source, sheet = _source(job), sheet_from_json(job["sheet"])
    trials = trials_from_json(job["trials"])
    chosen = plan_order(sheet, _order(job))
    reported_at = time.monotonic()
    trying = run_trials(source, sheet, chosen, Path(job["out"]), cache=_cache(job), earlier=trials)
    for share, so_far in trying:
        trials = so_far
        if time.monotonic() - reported_at > _REPORTED_EVERY_S:
            _say(progress=share, doing="", seconds_left=None, partial=_as_tried(sheet, trials))
            reported_at = time.monotonic()
    return _as_tried(sheet, trials)


def _as_tried(sheet: WeightSheet, trials: Trials) -> Any:
    return {"trials": trials_to_json(trials), "savings": switch_savings(sheet, trials)}


def _weigh(job: Job) -> Any:
    """A document's sheet; one that is to be gathered from pictures is so first."""
    source, tell = _source(job), _teller()
    remarks: tuple[str, ...] = ()
    if job["pictures"]:
        remarks = _gather(job, source.path, share_of(tell, 0, _GATHERING_SHARE))
    sheet = weigh(
        source, share_of(tell, _GATHERING_SHARE if job["pictures"] else 0, 0.9, "weighing")
    )
    sheet = replace(sheet, remarks=(*sheet.remarks, *remarks))
    heaviest = sorted(
        (part for part in sheet.parts if part.picture), key=lambda part: -part.size_bytes
    )
    ids = [part.id for part in heaviest[:_THUMBNAILS_AT_ONCE]]
    write_thumbnails(source, sheet, ids, Path(job["thumbnails"]))
    return {"sheet": dump_sheet(sheet), "savings": switch_savings(sheet)}


def _gather(job: Job, out: Path, progress: Progress) -> tuple[str, ...]:
    pictures = [Source(path=Path(one["path"]), shown_as=one["name"]) for one in job["pictures"]]
    wanted = job["gathering"]
    out.parent.mkdir(parents=True, exist_ok=True)
    # From an attempt that was broken off.
    out.unlink(missing_ok=True)
    turns = {int(page): degrees for page, degrees in wanted["turns"].items()}
    corners = {int(page): _corners(points) for page, points in wanted.get("corners", {}).items()}
    gathered = gather(
        pictures,
        out,
        PageSize(wanted["page"]),
        progress,
        turns=turns,
        corners={page: points for page, points in corners.items() if points is not None},
        finds_sheets=wanted.get("finds_sheets", False),
    )
    return tuple(f"{name}: {remark}" for name, remark in gathered.remarks.items())


def _take_in(job: Job) -> Any:
    """Inspect a page that came: first its facts, reported at once, then its layers."""
    source, folder = _source(job), Path(job["thumbnails"]).parent
    corners = _corners(job["corners"])
    look = look_at_page(source, folder / "small.png", folder / "whole.jpg", corners=corners)
    _say(progress=0.1, doing="", seconds_left=None, partial=asdict(look))
    laid = lay_page_apart(source, folder, corners=corners, cache=_cache(job))
    return {
        "size_bytes": laid.size_bytes,
        "is_layered": laid.is_layered,
        "reason": laid.reason,
        "verdict": laid.verdict,
        "score": laid.score,
        "has_place": laid.as_it_came is not None,
    }


def _corners(points: list[list[float]] | None) -> Corners | None:
    """Read four corners. Raises: ValueError where there are not four."""
    if points is None:
        return None
    upper_left, upper_right, lower_right, lower_left = ((x, y) for x, y in points)
    return upper_left, upper_right, lower_right, lower_left


def _rasterise(job: Job) -> Any:
    """Pages to TIFF, with a picture of the place on each that has lost most."""
    wanted, folder = job["wanted"], Path(job["folder"])
    treatment = RasterTreatment(
        **{
            **wanted,
            "colours": PageColours(wanted["colours"]),
            "divide": BitonalMethod(wanted["divide"]),
        }
    )
    made = rasterise(
        _source(job),
        folder / "pages.tif",
        treatment,
        _teller(),
        each=job["is_each"],
        may_blur_text=job["may_blur_text"],
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


def _draw(job: Job) -> Any:
    sheet = sheet_from_json(job["sheet"])
    return write_thumbnails(_source(job), sheet, [job["part"]], Path(job["thumbnails"]))


def _lighten(job: Job) -> Any:
    sheet = sheet_from_json(job["sheet"])
    made = make(
        _source(job),
        sheet,
        _order(job),
        Path(job["out"]),
        _teller(),
        trials=trials_from_json(job["trials"]),
        cache=_cache(job),
    )
    return {
        **order_result_report(made, sheet),
        "proof": proof_report(made.proof) if made.proof else None,
    }


def _prove(job: Job) -> Any:
    """A copy that came back, held against the original."""
    copy = Source(path=Path(job["copy"]), password=job["password"], shown_as=job["copy_name"])
    proof = prove_any_two(_source(job), copy, _teller())
    return proof_report(proof)


def _view(job: Job) -> Any:
    """Places of a copy and its original as they are asked for, until nobody asks."""
    original = _source(job)
    with read_both(original, Path(job["copy"])) as both:
        _say(ready=True)
        for line in sys.stdin:
            request = json.loads(line)
            place = Place(
                page=request["page"],
                part_id=request["part"],
                size_pt=tuple(request["size_pt"]),
                box=tuple(request["box"]) if request["box"] else None,
            )
            try:
                both.draw(request["side"], place, request["dpi"], request["out"])
                _say(drawn=True)
            except LightenError as error:
                _say(drawn=False, message=error.message)
    return None


def _order(job: Job) -> Order:
    fit = job["fit"]
    return Order(
        preset=preset_from_json(job["preset"]),
        fit=FitOrder(
            limit_bytes=job["limit_bytes"],
            rules=FitRules(floor=fit["floor"], ways=tuple(fit["ways"])),
            may_split=fit["may_split"],
        )
        if fit
        else None,
        exceptions=exceptions_from_json(job["exceptions"], Path(job["replacements"])),
        may_end_signature=job["may_end_signature"],
        may_blur_text=job["may_blur_text"],
        lays_out=True,
    )


def _cache(job: Job) -> CodingCache:
    return CodingCache(Path(job["store"]), most_bytes=job["store_bytes"])


_WORK: dict[str, Callable[[Job], Any]] = {
    "weigh": _weigh,
    "try": _try,
    "draw": _draw,
    "take-in": _take_in,
    "rasterise": _rasterise,
    "lighten": _lighten,
    "prove": _prove,
    "view": _view,
}


def _source(job: Job) -> Source:
    path = Path(job["path"])
    return Source(path=path, password=job["password"], shown_as=job["name"], keeps_in=path.parent)


def _teller() -> Progress:
    """Says how far the job is, and how long it still takes."""
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
