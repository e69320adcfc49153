"""Many pictures made lighter, in the order in which they are given."""

from collections.abc import Iterable, Iterator

from lighten.parallel import Workers
from lighten.pictures.coding_cache import CodingCache
from lighten.pictures.recode import Recoded, RecodeJob, recode
from lighten.pictures.recoded_bytes import job_key
from lighten.weights import PictureClass

__all__ = ["recode_all"]


def recode_all(
    jobs: Iterable[RecodeJob], workers: Workers, cache: CodingCache | None
) -> Iterator[Recoded]:
    """What comes of each job, unless the cache has it already; new ones are kept there."""
    waiting: list[tuple[str, Recoded | None]] = []

    def jobs_to_do() -> Iterator[RecodeJob | None]:
        for job in jobs:
            key = job_key(job) if cache is not None else ""
            kept = cache.recoded(key) if cache is not None else None
            waiting.append((key, kept))
            yield job if kept is None else None

    for fresh in workers.run(_recode_if_any, jobs_to_do(), suits_thread=_suits_thread):
        key, kept = waiting.pop(0)
        recoded = kept or fresh
        assert recoded is not None
        if kept is None and cache is not None:
            cache.keep(key, recoded)
        yield recoded


def _suits_thread(job: RecodeJob | None) -> bool:
    """JPEG in and out: its library lets go of the interpreter, that of exact codings does not."""
    if job is None:
        return True
    is_photo = job.picture_class in (PictureClass.PHOTO, PictureClass.PAGE_SCAN)
    return is_photo and job.picture.is_lossy and not job.is_exact


def _recode_if_any(job: RecodeJob | None) -> Recoded | None:
    return None if job is None else recode(job)
