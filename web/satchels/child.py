"""The process that touches people's files: one job, within limits, then gone.

Reads a job as a line of JSON from standard input; writes lines of JSON: {"progress": 0.4} while it
works, then one {"result": ...} or {"error": {"code", "message"}}. Knows the core and no Django.
"""

import json
import resource
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from lighten import Copy, LightenError, Proof, Source, WeightSheet, make_proved_copy, plan, weigh
from lighten.coding_store import CodingStore
from lighten.errors import DoesNotFitError
from lighten.fitted import make_fitted_copy
from lighten.learning import learn
from lighten.planning import FitRules, worth
from lighten.report import copy_as_json, error_as_json, proof_as_json
from lighten.side_by_side import read_both
from lighten.splitting import Piece, make_pieces, piece_as_json
from lighten.stored import restore_sheet, restore_trials, store_sheet, store_trials
from lighten.stored_treatments import restore_exceptions, restore_preset
from lighten.thumbnails import write_thumbnails
from lighten.trials import Trials

_TOLD_EVERY_S = 1.5
_THUMBNAILS_AT_ONCE = 48

Job = dict[str, Any]


def main() -> int:
    job: Job = json.loads(sys.stdin.readline())
    memory = job["memory_bytes"]
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    try:
        _say(result=_WORK[job["work"]](job))
    except LightenError as error:
        _say(error=error_as_json(error))
    except BrokenPipeError:
        pass  # nobody listens any more
    except MemoryError:
        message = (
            f"{job['name']}: needs more memory than one file may take. Split it and try again."
        )
        _say(error={"code": "too_large", "message": message})
    return 0


def _learn(job: Job) -> Any:
    """Trials for what is wanted and for whatever else may be; told as they are found."""
    source, sheet = _source(job), restore_sheet(job["sheet"])
    known = restore_trials(job["trials"])
    chosen = plan(
        sheet,
        restore_preset(job["preset"]),
        exceptions=_exceptions(job),
        may_blur_text=job["may_blur_text"],
    )
    told_at, found = time.monotonic(), known
    for share, found in learn(
        source, sheet, chosen, Path(job["out"]), store=_store(job), known=known
    ):
        if time.monotonic() - told_at > _TOLD_EVERY_S:
            _say(progress=share, partial=_as_learned(sheet, found))
            told_at = time.monotonic()
    return _as_learned(sheet, found)


def _as_learned(sheet: WeightSheet, found: Trials) -> Any:
    return {"trials": store_trials(found), "worth": worth(sheet, found)}


def _weigh(job: Job) -> Any:
    source = _source(job)
    sheet = weigh(source, lambda share: _say(progress=share * 0.9))
    heaviest = sorted(
        (part for part in sheet.parts if part.picture), key=lambda part: -part.size_bytes
    )
    ids = [part.id for part in heaviest[:_THUMBNAILS_AT_ONCE]]
    write_thumbnails(source, ids, Path(job["thumbnails"]))
    return {"sheet": store_sheet(sheet), "worth": worth(sheet)}


def _draw(job: Job) -> Any:
    return write_thumbnails(_source(job), [job["part"]], Path(job["thumbnails"]))


def _lighten(job: Job) -> Any:
    source, sheet = _source(job), restore_sheet(job["sheet"])
    out = Path(job["out"])
    pieces: tuple[Piece, ...] = ()
    if job["fit"] is not None:
        copy, proof, pieces = _fit(job, source, sheet, out)
    else:
        chosen = plan(
            sheet,
            restore_preset(job["preset"]),
            exceptions=_exceptions(job),
            may_end_signature=job["may_end_signature"],
            may_blur_text=job["may_blur_text"],
        )
        copy, proof = make_proved_copy(
            source, sheet, chosen, out, lambda share: _say(progress=share), store=_store(job)
        )
    return {
        **copy_as_json(copy, proof),
        "proof": proof_as_json(proof) if proof else None,
        "pieces": [piece_as_json(piece) for piece in pieces],
    }


def _fit(
    job: Job, source: Source, sheet: WeightSheet, out: Path
) -> tuple[Copy, Proof | None, tuple[Piece, ...]]:
    """As gentle as the limit allows; where it cannot be met and that was asked for, in pieces."""
    asked, store = job["fit"], _store(job)
    trials = restore_trials(job["trials"])
    for share, found in learn(source, sheet, None, out.parent, store=store, known=trials):
        trials = found
        _say(progress=share * 0.3)
    wanted: dict[str, Any] = {
        "rules": FitRules(floor=asked["floor"], ways=tuple(asked["ways"])),
        "exceptions": _exceptions(job),
        "may_end_signature": job["may_end_signature"],
        "progress": lambda share: _say(progress=0.3 + share * 0.7),
        "store": store,
    }
    limit_bytes = job["limit_bytes"]
    try:
        copy, proof, _ = make_fitted_copy(source, sheet, trials, limit_bytes, out, **wanted)
    except DoesNotFitError as error:
        if not asked["may_split"]:
            raise
        lightest = error.lightest_bytes
        copy, proof, _, pieces = make_pieces(
            source, sheet, trials, limit_bytes, out, lightest_bytes=lightest, **wanted
        )
        return copy, proof, pieces
    return copy, proof, ()


def _view(job: Job) -> Any:
    """Pages and places of a copy and its original as they are asked for, until nobody asks."""
    original = _source(job)
    with read_both(original, Path(job["copy"])) as pages:
        _say(ready=True)
        for line in sys.stdin:
            asked = json.loads(line)
            try:
                pages.draw(asked["side"], asked["page"], asked["box"], asked["dpi"], asked["out"])
                _say(drawn=True)
            except LightenError as error:
                _say(drawn=False, message=error.message)
    return None


def _exceptions(job: Job) -> Any:
    return restore_exceptions(job["exceptions"], Path(job["replacements"]))


def _store(job: Job) -> CodingStore:
    return CodingStore(Path(job["store"]), most_bytes=job["store_bytes"])


_WORK: dict[str, Callable[[Job], Any]] = {
    "weigh": _weigh,
    "learn": _learn,
    "draw": _draw,
    "lighten": _lighten,
    "view": _view,
}


def _source(job: Job) -> Source:
    return Source(path=Path(job["path"]), password=job["password"], shown_as=job["name"])


def _say(**line: Any) -> None:
    print(json.dumps(line), flush=True)


if __name__ == "__main__":
    sys.exit(main())
