"""Runs begun."""

from django.db.models import Sum

from lighten import preset_to_json
from web.disk_room import check_room
from web.satchels.models import Copy, Document, Run, Satchel
from web.satchels.sheets.orders import orders_of
from web.satchels.tasks import start_copies
from web.satchels.upkeep.quota import check_quota

__all__ = ["make_run"]


def make_run(satchel: Satchel, documents: list[Document], **allowed: bool) -> Run:
    """Create a run with the satchel's present choices; unchanged copies are carried over.

    Raises: Problem, where the disk or the account has no room for the copies.
    """
    check_room(_most_bytes(documents))
    check_quota(satchel.owner, 0)
    order = orders_of(satchel).current
    title = order.preset.title if satchel.treatment is None else f"{order.preset.title}, tuned"
    fit = None
    if order.fit is not None:
        title = "As gently as the limit allows"
        fit = {
            "limit_bytes": order.fit.limit_bytes,
            "floor": satchel.fit_floor,
            "ways": satchel.fit_ways,
            "is_shared": satchel.is_limit_shared,
            "may_split": satchel.may_split,
        }
    run = Run.objects.create(
        satchel=satchel,
        round=satchel.next_round,
        names={str(document.pk): document.name for document in satchel.documents.only("name")},
        preset=satchel.preset,
        title=title,
        preset_snapshot=preset_to_json(order.preset),
        may_blur_text=order.may_blur_text,
        fit=fit,
        **allowed,
    )
    for document in documents:
        key = order.key(document)
        if (made := _made_before(run, document, key)) is not None:
            made.carry_over(run)
            continue
        limit_bytes = order.fit.limit_of(document) if order.fit is not None else None
        Copy.objects.create(run=run, document=document, key=key, limit_bytes=limit_bytes)
    start_copies(run)
    return run


def _made_before(run: Run, document: Document, key: str) -> Copy | None:
    """The copy for which the same was ordered, and which would come out the same.

    Shares of a limit for all are worked out anew with each run.
    """
    if run.fit is not None and run.fit["is_shared"]:
        return None
    same = document.copies.filter(
        key=key,
        state__in=(Copy.State.DONE, Copy.State.NONE),
        run__may_end_signature=run.may_end_signature,
    )
    latest = same.select_related("run", "document").order_by("-run__created_at").first()
    return latest if latest is not None and latest.run.fit == run.fit else None


def _most_bytes(documents: list[Document]) -> int:
    """Return the most bytes of pending copies: none gets heavier than its original."""
    promised = Copy.objects.filter(state__in=Copy.State.unfinished())
    others = promised.aggregate(all=Sum("document__size_bytes"))["all"] or 0
    return others + sum(document.size_bytes for document in documents)
