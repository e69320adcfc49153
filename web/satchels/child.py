"""The process that touches people's files: one job, within limits, then gone.

Reads a job as JSON from standard input; writes lines of JSON: {"progress": 0.4} while it works,
then one {"result": ...} or {"error": {"code", "message"}}. Knows the core and no Django.
"""

import json
import resource
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from lighten import (
    LightenError,
    Source,
    make_proved_copy,
    plan,
    weigh,
)
from lighten.planning import worth
from lighten.report import copy_as_json, error_as_json, proof_as_json
from lighten.stored import store_sheet
from lighten.stored_treatments import restore_exceptions, restore_preset
from lighten.thumbnails import write_thumbnails

_THUMBNAILS_AT_ONCE = 48

Job = dict[str, Any]


def main() -> int:
    job: Job = json.load(sys.stdin)
    memory = job["memory_bytes"]
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    try:
        _say(result=_WORK[job["work"]](job))
    except LightenError as error:
        _say(error=error_as_json(error))
    except MemoryError:
        message = (
            f"{job['name']}: needs more memory than one file may take. Split it and try again."
        )
        _say(error={"code": "too_large", "message": message})
    return 0


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
    source = _source(job)
    sheet = weigh(source, lambda share: _say(progress=share * 0.1))
    chosen = plan(
        sheet,
        restore_preset(job["preset"]),
        exceptions=restore_exceptions(job["exceptions"], Path(job["replacements"])),
        may_end_signature=job["may_end_signature"],
    )
    copy, proof = make_proved_copy(
        source, sheet, chosen, Path(job["out"]), lambda share: _say(progress=0.1 + share * 0.9)
    )
    return {**copy_as_json(copy, proof), "proof": proof_as_json(proof) if proof else None}


_WORK: dict[str, Callable[[Job], Any]] = {"weigh": _weigh, "draw": _draw, "lighten": _lighten}


def _source(job: Job) -> Source:
    return Source(path=Path(job["path"]), password=job["password"], shown_as=job["name"])


def _say(**line: Any) -> None:
    print(json.dumps(line), flush=True)


if __name__ == "__main__":
    sys.exit(main())
