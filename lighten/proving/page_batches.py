"""Comparison of all pages of two documents, in batches in several processes."""

import math
import time
from collections.abc import Iterator
from dataclasses import replace

from lighten.model.proofs import PageProof
from lighten.model.source import Progress
from lighten.parallel import SECONDS_A_PAGE, open_workers
from lighten.proving.pages import PageBatch, compare_pages

__all__ = ["compare_all_pages"]

# Each batch opens both files anew; a few for each worker, so that none is waited for long.
_MOST_A_BATCH, _BATCHES = 16, 6


def compare_all_pages(
    whole: PageBatch,
    progress: Progress,
    known: tuple[PageProof, ...] = (),
    *,
    seconds_at_most: float = math.inf,
) -> tuple[PageProof, ...]:
    """The proofs of every page of the batch, in page order.

    known: of pages that need not be drawn again. seconds_at_most: after that no more pages are
    begun, and the rest has no proofs.
    """
    until = time.monotonic() + seconds_at_most
    proofs = list(known)
    done = {proof.page for proof in known}
    waiting = len(whole.pages) - len(done)
    batches = list(_in_batches(whole, done, max(1, min(_MOST_A_BATCH, waiting // _BATCHES))))
    seconds = SECONDS_A_PAGE * waiting
    with open_workers() as workers:
        if workers.are_worth_it(seconds):
            comparing = workers.in_processes(compare_pages, batches, seconds=seconds)
        else:
            comparing = workers.in_threads(compare_pages, batches)
        for compared in comparing:
            proofs += compared
            if time.monotonic() > until:
                break
            progress(len(proofs) / len(whole.pages))
    return tuple(sorted(proofs, key=lambda proof: proof.page))


def _in_batches(whole: PageBatch, done: set[int], length: int) -> Iterator[PageBatch]:
    pages = [(page, boxes) for page, boxes in whole.pages if page not in done]
    for start in range(0, len(pages), length):
        yield replace(whole, pages=tuple(pages[start : start + length]))
