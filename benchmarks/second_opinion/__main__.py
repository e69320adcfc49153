"""Make copies of files and say where a verdict and independent readers disagree.

`python -m benchmarks.second_opinion FILE|FOLDER... [--preset NAME]...`: one line a file and preset,
and a table of judgements. Ends with 1 where a copy called same or close has lost something.
"""

import argparse
import sys
import tempfile
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from benchmarks.second_opinion.findings import Comparison, Judgement, judge
from benchmarks.second_opinion.loose_pictures import compare_pictures
from benchmarks.second_opinion.packages import compare_open_documents, compare_packages
from benchmarks.second_opinion.pdfs import compare_pdfs
from benchmarks.second_opinion.samples import write_samples
from lighten import (
    LightenError,
    Order,
    Source,
    make,
    preset_named,
    weigh,
)

__all__ = ["Opinion", "opinions"]

_BY_ENDING: tuple[tuple[tuple[str, ...], Comparison], ...] = (
    ((".pdf",), compare_pdfs),
    ((".docx", ".docm", ".dotx", ".pptx", ".pptm", ".xlsx", ".xlsm"), compare_packages),
    ((".odt", ".ods", ".odp"), compare_open_documents),
    ((".jpg", ".jpeg", ".png", ".webp", ".gif", ".bmp", ".tif", ".tiff"), compare_pictures),
    ((".heic",), compare_pictures),
)
# Old forms become open ones, and are held against nothing but their own proof.
_OLD = (".doc", ".ppt", ".xls")


@dataclass(frozen=True, slots=True, kw_only=True)
class Opinion:
    """The outcome for one file and preset. verdict: None for no copy. found: by other readers."""

    path: Path
    preset: str
    verdict: str | None
    judgement: Judgement
    found: tuple[str, ...] = ()
    error: str = ""


def opinions(paths: Iterable[Path], presets: Iterable[str]) -> Iterator[Opinion]:
    """Make a copy of each file by each preset, and hold it against its original."""
    named = list(presets)
    for path in paths:
        for preset in named:
            with tempfile.TemporaryDirectory() as folder:
                yield _opinion(path, preset, Path(folder))


def _opinion(path: Path, preset: str, folder: Path) -> Opinion:
    source = Source(path=path)
    try:
        sheet = weigh(source)
        made = make(source, sheet, Order(preset=preset_named(preset)), folder / "copy")
    except LightenError as error:
        refused = Judgement.REFUSED
        return Opinion(
            path=path, preset=preset, verdict=None, judgement=refused, error=error.message
        )
    if made.copy.path is None or made.proof is None:
        return Opinion(path=path, preset=preset, verdict=None, judgement=Judgement.NO_COPY)
    copy = made.copy.path.rename(folder / made.name)
    found = tuple(_found(path, copy))
    verdict = str(made.proof.verdict)
    return Opinion(
        path=path,
        preset=preset,
        verdict=verdict,
        judgement=judge(verdict, found),
        found=found or made.proof.reasons[: verdict == "check"],
    )


def _found(original: Path, copy: Path) -> Iterator[str]:
    ending = original.suffix.lower()
    for endings, compare in _BY_ENDING:
        if ending in endings:
            yield from compare(original, copy)


def files_in(paths: Iterable[Path]) -> Iterator[Path]:
    """Yield files that were named, and those of known endings in folders that were."""
    known = {ending for endings, _ in _BY_ENDING for ending in endings} | set(_OLD)
    for path in paths:
        if path.is_file():
            yield path
        else:
            inner = (file for file in sorted(path.rglob("*")) if file.is_file())
            yield from (file for file in inner if file.suffix.lower() in known)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("paths", nargs="*", type=Path, help="without any, samples are made")
    parser.add_argument("--preset", action="append")
    options = parser.parse_args()
    counts: Counter[Judgement] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        paths = options.paths or write_samples(Path(folder))
        _print_all(files_in(paths), options.preset or ["reading-desk", "feather"], counts)
    print(", ".join(f"{count} {judgement}" for judgement, count in sorted(counts.items())))
    return 1 if counts[Judgement.FALSE_COMFORT] else 0


def _print_all(paths: Iterable[Path], presets: Iterable[str], counts: Counter[Judgement]) -> None:
    for opinion in opinions(paths, presets):
        counts[opinion.judgement] += 1
        remark = "; ".join(opinion.found) or opinion.error
        verdict = opinion.verdict or "-"
        print(
            f"{opinion.judgement:14} {verdict:6} {opinion.preset:13} {opinion.path.name}: {remark}"
        )
        sys.stdout.flush()


if __name__ == "__main__":
    sys.exit(main())
