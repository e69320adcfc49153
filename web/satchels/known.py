"""What is known of a document, restored once and kept for the requests that follow."""

from functools import lru_cache
from uuid import UUID

from lighten import WeightSheet
from lighten.stored import restore_sheet, restore_trials
from lighten.trials import Trials
from web.satchels.models import Document

__all__ = ["sheet_of", "trials_of"]

# Large documents take some megabytes each.
_MOST_KEPT = 96


def sheet_of(document: Document) -> WeightSheet:
    """The weight sheet of a weighed document."""
    return _known(document.pk, document.version)[0]


def trials_of(document: Document) -> Trials:
    """What trials have found of it so far."""
    return _known(document.pk, document.version)[1]


@lru_cache(maxsize=_MOST_KEPT)
def _known(pk: UUID, _version: int) -> tuple[WeightSheet, Trials]:
    document = Document.objects.only("sheet", "trials").get(pk=pk)
    assert document.sheet is not None
    return restore_sheet(document.sheet), restore_trials(document.trials)
