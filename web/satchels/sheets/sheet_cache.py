"""Cache of results about documents, kept by one process for later requests."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Mapping
from functools import cache
from typing import TYPE_CHECKING, Any, TypeVar, cast

from lighten import Trials, WeightSheet, sheet_from_json, trials_from_json

if TYPE_CHECKING:
    from web.satchels.models import Document

__all__ = ["SheetCache", "sheet_cache"]

# Large documents take some megabytes each.
_MOST_DOCUMENTS, _MOST_SHARES, _MOST_ESTIMATES = 96, 16, 2_000

Value = TypeVar("Value")


class _Kept:
    """So many values by key, the longest unused going first; safe for several threads."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._values: OrderedDict[Hashable, Any] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: Hashable, work_out: Callable[[], Value]) -> Value:
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
                return cast(Value, self._values[key])
        value = work_out()
        with self._lock:
            self._values[key] = value
            while len(self._values) > self._most:
                self._values.popitem(last=False)
        return value


class SheetCache:
    """Weight sheets and trials by a document's id and version, and what follows from them.

    Whatever changes a sheet or trials moves the version, so that nothing here is ever stale.
    """

    def __init__(self) -> None:
        self._documents = _Kept(_MOST_DOCUMENTS)
        self._shares = _Kept(_MOST_SHARES)
        self._estimates = _Kept(_MOST_ESTIMATES)

    def sheet(self, document: "Document") -> WeightSheet:
        """The weight sheet of a weighed document."""
        return self._restored(document)[0]

    def trials(self, document: "Document") -> Trials:
        """Return the trials of a document so far."""
        return self._restored(document)[1]

    def shares(self, key: Hashable, work_out: Callable[[], Mapping[str, int]]) -> Mapping[str, int]:
        return self._shares.get(key, work_out)

    def estimate(
        self, document: "Document", key: str, work_out: Callable[[], dict[str, Any]]
    ) -> dict[str, Any]:
        """Return the estimate of an order, by its key, for the present document."""
        return self._estimates.get((document.pk, document.version, key), work_out)

    def _restored(self, document: "Document") -> tuple[WeightSheet, Trials]:
        def restore() -> tuple[WeightSheet, Trials]:
            stored = type(document).objects.only("sheet", "trials").get(pk=document.pk)
            assert stored.sheet is not None
            return sheet_from_json(stored.sheet), trials_from_json(stored.trials)

        return self._documents.get((document.pk, document.version), restore)


@cache
def sheet_cache() -> SheetCache:
    """Return the cache of this process."""
    return SheetCache()
