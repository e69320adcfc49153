"""Pages drawn in the background. The task can run twice without harm."""

import shutil

from django_tasks import task

from lighten import RasterTreatment, from_json
from web.jobs.job_kinds import RasteriseJob
from web.jobs.runner import JobCancelledError, JobFailedError, Step, run_job
from web.rasters.models import Raster

__all__ = ["draw_pages"]

# Somebody waits for it, as for copies.
_WITH_COPIES = 20


@task(priority=_WITH_COPIES)
def draw_pages(raster_id: str) -> None:
    """Write the pages as TIFF, or store why that failed."""
    raster = Raster.objects.select_related("document").filter(pk=raster_id).first()
    if raster is None or not raster.begin():
        return

    def on_progress(step: Step) -> None:
        Raster.objects.filter(pk=raster_id).update(**step._asdict())

    def is_wanted() -> bool:
        return Raster.objects.filter(pk=raster_id).exists()

    # Of an attempt that was broken off.
    shutil.rmtree(raster.folder_path, ignore_errors=True)
    raster.folder_path.mkdir(parents=True)
    try:
        made = run_job(
            raster.document,
            RasteriseJob(
                treatment=from_json(raster.wanted, RasterTreatment, "treatment"),
                is_each=raster.is_each,
                may_blur_text=raster.may_blur_text,
                folder=str(raster.folder_path),
            ),
            on_progress=on_progress,
            is_wanted=is_wanted,
        )
    except JobFailedError as error:
        raster.fail(error.code, error.message)
    except JobCancelledError:
        shutil.rmtree(raster.folder_path, ignore_errors=True)
    else:
        raster.finish(made)
