"""The verb compare: settings side by side on the pictures of a document, as one page."""

import argparse
import sys
from pathlib import Path

from lighten import (
    DEFAULT_PRESET,
    Action,
    Decision,
    LightenError,
    Part,
    Plan,
    Preset,
    Source,
    Strip,
    Trials,
    WeightSheet,
    estimate,
    keep_workers,
    make_strips,
    plan,
    share_of,
    stakes_of,
    strips_page,
    weigh,
)
from lighten.cli.estimate import all_trials
from lighten.cli.printing import DONE, SOME_FAILED, WRONG_USAGE, not_written, progress_bar

__all__ = ["compare_settings"]

_MOST_SETTINGS = 3
_TRIALS_SHARE = 0.5


def compare_settings(options: argparse.Namespace) -> int:
    """Write the page that shows a document's pictures by each setting; the exit code."""
    presets: list[Preset] = options.preset or [DEFAULT_PRESET]
    if len(presets) > _MOST_SETTINGS:
        print(f"compare: at most {_MOST_SETTINGS} presets beside the original", file=sys.stderr)
        return WRONG_USAGE
    path, out = options.file, options.out
    try:
        page = _page(Source(path=path, password=options.password), presets, options.pictures)
        with out.open("w" if options.force else "x", encoding="utf-8") as file:
            file.write(page)
    except LightenError as error:
        print(error.message, file=sys.stderr)
        return SOME_FAILED
    except OSError as error:
        print(not_written(error, out)["message"], file=sys.stderr)
        return SOME_FAILED
    print(f"{out}: {path.name} by {', '.join(preset.title for preset in presets)}")
    return DONE


def _page(source: Source, presets: list[Preset], most_pictures: int) -> str:
    """Return the page. Raises: as `weigh`."""
    with progress_bar(source.name) as progress, keep_workers():
        sheet = weigh(source, share_of(progress, 0, 0.1, "weighing"))
        plans = [plan(sheet, preset) for preset in presets]
        trying = share_of(progress, 0.1, _TRIALS_SHARE, "trying codings")
        trials = all_trials(source, sheet, plans[-1], trying)
        parts = _parts_at_stake(sheet, plans, trials)[:most_pictures]
        shown: list[tuple[Part, list[Strip]]] = []
        for number, part in enumerate(parts):
            progress(_TRIALS_SHARE + (1 - _TRIALS_SHARE) * number / len(parts), "coding strips")
            original = Decision(part_id=part.id, action=Action.KEEP, reason="as it is")
            decisions = [original, *(one.by_part()[part.id] for one in plans)]
            shown.append((part, list(make_strips(source, sheet, part.id, decisions))))
    sizes = [sheet.size_bytes, *(estimate(sheet, one, trials).size_bytes for one in plans)]
    titles = ["Original", *(preset.title for preset in presets)]
    return strips_page(Path(source.name).name, titles, sizes, shown)


def _parts_at_stake(sheet: WeightSheet, plans: list[Plan], trials: Trials) -> list[Part]:
    """Return pictures by what is at stake in them, the first first; under any of the plans."""
    ranked = [stake for one in reversed(plans) for stake in stakes_of(sheet, one, trials)]
    return [sheet.part(part_id) for part_id in dict.fromkeys(one.part_id for one in ranked)]
