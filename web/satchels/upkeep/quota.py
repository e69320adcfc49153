"""Quota of an account, and its use."""

from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.db.models import Sum

from web.problems import Problem
from web.satchels.models import Copy, Document

__all__ = ["Taken", "check_quota", "taken_by"]

_MB = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """Bytes used by originals and copies of one account."""

    documents: int
    bytes: int


def taken_by(owner: Any) -> Taken:
    documents = Document.objects.filter(satchel__owner=owner)
    copies = Copy.objects.filter(document__satchel__owner=owner, state=Copy.State.DONE)
    originals = documents.aggregate(all=Sum("size_bytes"))["all"] or 0
    return Taken(
        documents=documents.count(),
        bytes=originals + (copies.aggregate(all=Sum("bytes_after"))["all"] or 0),
    )


def check_quota(owner: Any, wanted_bytes: int) -> None:
    """Refuse uploads above the account's quota. Raises: Problem, with the missing bytes."""
    taken = taken_by(owner)
    missing = taken.bytes + wanted_bytes - settings.ACCOUNT_LIMIT_BYTES
    if missing > 0:
        raise Problem(
            "quota",
            f"This account has taken all of its room: {-(-missing // _MB):,} MB are missing. "
            "Delete satchels that are done.",
            status=507,
        )
    if taken.documents >= settings.ACCOUNT_DOCUMENTS_LIMIT:
        raise Problem(
            "quota",
            f"This account has {taken.documents:,} documents, as many as it may. Delete satchels "
            "that are done.",
            status=507,
        )
