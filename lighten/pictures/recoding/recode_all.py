"""Many pictures made lighter, in the order in which they are given."""

from collections.abc import Iterable, Iterator

from lighten.parallel import Workers
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.pictures.recoding.recode import Recoded, RecodeJob, recode
from lighten.pictures.recoding.recoded_bytes import job_key

__all__ = ["recode_all"]


def recode_all(
    jobs: Iterable[RecodeJob], workers: Workers, cache: CodingCache | None
) -> Iterator[Recoded]:
    """Return the result of each job, from the cache where possible; new ones are stored there."""
    waiting: list[tuple[str, Recoded | None]] = []

    def jobs_to_do() -> Iterator[RecodeJob | None]:
        for job in jobs:
            key = job_key(job) if cache is not None else ""
            kept = cache.recoded(key) if cache is not None else None
            waiting.append((key, kept))
            yield job if kept is None else None

    for fresh in workers.in_threads(_recode_if_any, jobs_to_do()):
        key, kept = waiting.pop(0)
        recoded = kept or fresh
        assert recoded is not None
        if kept is None and cache is not None:
            cache.keep(key, recoded)
        yield recoded


def _recode_if_any(job: RecodeJob | None) -> Recoded | None:
    return None if job is None else recode(job)
