"""Jobs for documents and copies, from what is stored of them."""

from lighten import Preset, preset_to_json
from web.jobs.job_kinds import (
    FitTerms,
    Gathering,
    LightenJob,
    NamedPath,
    StoredOrder,
    TryJob,
    WeighJob,
    points_of,
)
from web.satchels.models import Copy, Document

__all__ = ["lighten_job", "try_job", "weigh_job"]


def weigh_job(document: Document) -> WeighJob:
    """Raises: Document.DoesNotExist if a picture that it is gathered from has gone."""
    stored = document.gathering
    if stored is None:
        return WeighJob()
    return WeighJob(
        pictures=tuple(
            NamedPath(path=str(path), name=name) for path, name in document.pictures_to_gather()
        ),
        gathering=Gathering(
            page=stored["page"],
            turns=stored.get("turns", {}),
            corners={
                page: points_of(corners) for page, corners in stored.get("corners", {}).items()
            },
            finds_sheets=stored.get("finds_sheets", False),
        ),
    )


def try_job(document: Document, preset: Preset, *, may_blur_text: bool) -> TryJob:
    """Return the job of the trials that a document lacks for a preset."""
    return TryJob(
        sheet=document.sheet or {},
        trials=document.trials,
        order=StoredOrder(
            preset=preset_to_json(preset),
            exceptions=document.exceptions,
            replacements=str(document.replacements_path),
            may_blur_text=may_blur_text,
        ),
        out=str(document.folder_path),
    )


def lighten_job(copy: Copy) -> LightenJob:
    """Return the job of a copy, as its run ordered it."""
    document, run = copy.document, copy.run
    fit = run.fit
    return LightenJob(
        sheet=document.sheet or {},
        trials=document.trials,
        order=StoredOrder(
            preset=run.preset_snapshot,
            exceptions=document.exceptions,
            replacements=str(document.replacements_path),
            fit=FitTerms(
                limit_bytes=copy.limit_bytes,
                floor=fit["floor"],
                ways=tuple(fit["ways"]),
                may_split=fit["may_split"],
            )
            if fit and copy.limit_bytes
            else None,
            may_end_signature=run.may_end_signature,
            may_blur_text=run.may_blur_text,
        ),
        out=str(copy.path),
    )
