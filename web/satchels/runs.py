"""Runs begun."""

from lighten.stored_treatments import store_preset
from web.satchels.models import Copy, Document, Run, Satchel
from web.satchels.tasks import start_copies
from web.satchels.wanted import wanted_of

__all__ = ["make_run"]


def make_run(satchel: Satchel, documents: list[Document], **allowed: bool) -> Run:
    """A run over some documents with what the satchel asks for now."""
    asked = wanted_of(satchel).current
    title = asked.preset.title if satchel.treatment is None else f"{asked.preset.title}, tuned"
    fit = None
    if asked.fit is not None:
        title = "As gently as the limit allows"
        fit = {
            "limit_bytes": asked.fit.limit_bytes,
            "floor": satchel.fit_floor,
            "ways": satchel.fit_ways,
            "is_shared": satchel.is_limit_shared,
            "may_split": satchel.may_split,
        }
    run = Run.objects.create(
        satchel=satchel,
        preset=satchel.preset,
        title=title,
        wanted=store_preset(asked.preset),
        may_blur_text=asked.may_blur_text,
        fit=fit,
        **allowed,
    )
    for document in documents:
        limit_bytes = asked.fit.limit_of(document) if asked.fit is not None else None
        Copy.objects.create(
            run=run, document=document, key=asked.key(document), limit_bytes=limit_bytes
        )
    start_copies(run)
    return run
