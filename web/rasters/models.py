"""Pages of a document as pictures in TIFF, made when somebody asks for them."""

import shutil
import uuid
from pathlib import Path
from typing import Any

from django.db import models

from web.satchels.models import Document, UnderWay, WorkState

__all__ = ["Raster"]


class Raster(UnderWay):
    """One set of page pictures. wanted: fields of `lighten.RasterTreatment`; is_each: one file a
    page.

    pages: what each has become, as `web.jobs.process` tells it.
    """

    State = WorkState

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    document = models.ForeignKey(Document, models.CASCADE, related_name="rasters")
    wanted = models.JSONField()
    is_each = models.BooleanField(default=False)
    may_blur_text = models.BooleanField(default=False)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    pages = models.JSONField(default=list, blank=True)
    size_bytes = models.PositiveBigIntegerField(default=0)
    error_code = models.CharField(max_length=40, blank=True, default="")
    error_message = models.TextField(blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"{self.document}, {self.created_at:%H:%M}"

    @property
    def folder_path(self) -> Path:
        """Return the folder of its files, deleted with the document."""
        return self.document.folder_path / f"raster-{self.pk}"

    @property
    def file_paths(self) -> list[Path]:
        """The one file, or one a page, in order."""
        return sorted(self.folder_path.glob("pages*.tif"))

    @property
    def file_name(self) -> str:
        """Return the name of the download, after the person's document."""
        return f"{Path(self.document.name).stem}.{'zip' if self.is_each else 'tif'}"

    def page_name(self, number: int) -> str:
        """Return the name of the file of one page, where each has one."""
        return f"{Path(self.document.name).stem}-{number:03}.tif"

    def begin(self) -> bool:
        """Claim it; False if somebody else has, or it is done."""
        unfinished = Raster.objects.filter(pk=self.pk, state__in=self.State.unfinished())
        return bool(unfinished.update(state=self.State.WORKING, error_code="", error_message=""))

    def finish(self, made: dict[str, Any]) -> None:
        Raster.objects.filter(pk=self.pk).update(
            state=self.State.DONE, progress=1, pages=made["pages"], size_bytes=made["size_bytes"]
        )

    def fail(self, code: str, message: str) -> None:
        Raster.objects.filter(pk=self.pk).update(
            state=self.State.FAILED, error_code=code, error_message=message
        )

    def remove(self) -> None:
        """Delete it and its files."""
        folder = self.folder_path
        self.delete()
        shutil.rmtree(folder, ignore_errors=True)
