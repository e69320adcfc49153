"""Waiting times of the application: `python -m benchmarks.answers`.

A satchel with one PDF of 2,000 pictures, in a database in memory, everything asked through the API
as the browser asks it: answers of the bench; from an upload to the first estimate, and how wide
its band is after ten seconds of trials; pages in the loupe, with a renderer started and without.
"""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import django
import numpy as np

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
django.setup()

from django.contrib.auth import get_user_model  # noqa: E402 - after setup
from django.core.files.uploadedfile import SimpleUploadedFile  # noqa: E402
from django.test import override_settings  # noqa: E402
from django.test.runner import DiscoverRunner  # noqa: E402
from rest_framework.test import APIClient  # noqa: E402

from benchmarks.files import make_picture_book  # noqa: E402
from lighten import (  # noqa: E402
    Source,
    Trials,
    estimate,
    plan,
    preset_named,
    run_trials,
    weigh,
)

_PAGES, _PICTURES_A_PAGE = 667, 3
_ASKED = 40
_TRIED_S = 10.0
_AT_ONCE = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}


def main() -> None:
    runner = DiscoverRunner(verbosity=0)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        settings = override_settings(
            TASKS=_AT_ONCE,
            MEDIA_ROOT=folder / "files",
            CODINGS_PATH=folder / "codings.sqlite3",
            HAS_TRIALS=False,
        )
        with settings:
            _measure(folder)
    runner.teardown_databases(databases)
    runner.teardown_test_environment()


def _measure(folder: Path) -> None:
    book = folder / "book.pdf"
    make_picture_book(book, pages=_PAGES, ppis=(60, 75, 90))
    size = book.stat().st_size / 1e6
    print(f"{_PAGES * _PICTURES_A_PAGE:,} pictures on {_PAGES} pages, {size:.1f} MB")
    api = APIClient()
    api.force_authenticate(get_user_model().objects.create_user("owner", password="reeds"))
    satchel = api.post("/api/satchels", {"name": "Book"}, format="json").json()["id"]
    taken, document = _timed(
        lambda: api.post(
            f"/api/satchels/{satchel}/documents",
            {"file": SimpleUploadedFile("book.pdf", book.read_bytes())},
            format="multipart",
        ).json()["id"]
    )
    print(f"uploaded, weighed and estimated      {taken:7.2f} s")
    for name, path in (
        ("bench", f"/api/satchels/{satchel}"),
        ("weight sheet", f"/api/documents/{document}/sheet"),
    ):
        times = [_timed(lambda path=path: api.get(path).content)[0] for _ in range(_ASKED)]  # type: ignore[misc] # bound here
        print(f"{name + ', 95 in 100 answers':<36} {np.percentile(times, 95) * 1000:7.0f} ms")
    _measure_loupe(api, satchel)
    _measure_band(book, folder)


def _measure_loupe(api: APIClient, satchel: str) -> None:
    """Time the loupe for pages that nobody has opened before."""
    run = api.post(f"/api/satchels/{satchel}/runs", {}, format="json").json()["id"]
    copy = api.get(f"/api/satchels/{satchel}").json()["documents"][0]["copy"]
    assert copy["state"] == "done", (run, copy)

    def page(number: int) -> bytes:
        query = f"side=copy&page={number}&dpi=110"
        answer: Any = api.get(f"/api/copies/{copy['id']}/drawing?{query}")
        return b"".join(answer.streaming_content)

    cold, _ = _timed(lambda: page(1))
    warm = [_timed(lambda number=number: page(number))[0] for number in range(2, _ASKED)]  # type: ignore[misc] # bound here
    print(f"a page in the loupe, cold            {cold * 1000:7.0f} ms")
    print(f"warm, 95 in 100                      {np.percentile(warm, 95) * 1000:7.0f} ms")


def _measure_band(book: Path, folder: Path) -> None:
    """Print the width of the estimate's band at once, and after some time of trials."""
    source = Source(path=book)
    taken, sheet = _timed(lambda: weigh(source))
    preset = preset_named("reading-desk")
    chosen = plan(sheet, preset)
    first, likely = _timed(lambda: estimate(sheet, chosen))
    print(f"weighed in {taken:.2f} s, first estimate {first * 1000:.0f} ms after, {_band(likely)}")
    started = time.monotonic()
    trials = Trials()
    for _, so_far in run_trials(source, sheet, chosen, folder):
        trials = so_far
        if time.monotonic() - started > _TRIED_S:
            break
    print(f"after {_TRIED_S:.0f} s of trials, {_band(estimate(sheet, chosen, trials))}")


def _band(likely: Any) -> str:
    width = (likely.high_bytes - likely.low_bytes) / 2 / likely.size_bytes
    return f"its band {width:.1%} to either side"


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    started = time.perf_counter()
    result = work()
    return time.perf_counter() - started, result


if __name__ == "__main__":
    main()
