"""All pages of two documents, some at a time in several processes."""

from collections.abc import Iterator
from dataclasses import replace

from lighten.parallel import open_workers
from lighten.proofs import PageProof
from lighten.proving.pages import PageBatch, compare_pages
from lighten.source import Progress

__all__ = ["compare_all_pages"]

_PAGES_A_BATCH, _MANY_PAGES = 6, 4


def compare_all_pages(
    whole: PageBatch, progress: Progress, known: tuple[PageProof, ...] = ()
) -> tuple[PageProof, ...]:
    """The proofs of every page of the batch, in page order.

    known: of pages that need not be drawn again.
    """
    proofs = list(known)
    done = {proof.page for proof in known}
    batches = list(_in_batches(whole, done))
    waiting = sum(len(batch.pages) for batch in batches)
    with open_workers(None if waiting > _MANY_PAGES else 1) as workers:
        for compared in workers.run(compare_pages, batches):
            proofs += compared
            progress(len(proofs) / len(whole.pages))
    return tuple(sorted(proofs, key=lambda proof: proof.page))


def _in_batches(whole: PageBatch, done: set[int]) -> Iterator[PageBatch]:
    pages = [(page, boxes) for page, boxes in whole.pages if page not in done]
    for start in range(0, len(pages), _PAGES_A_BATCH):
        yield replace(whole, pages=tuple(pages[start : start + _PAGES_A_BATCH]))
