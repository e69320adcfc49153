"""Pictures that are bitonal or masks, and pages as pictures, under the trade's words."""

from typing import Any

from django.db import migrations

from web.renamed_values import rename_values

_NAMES = {"two-tone": "bitonal", "stencil": "mask", "two_tone": "bitonal_method"}


def rename(apps: Any, _editor: Any) -> None:
    rename_values(apps.get_model("rasters", "Raster"), ("wanted",), _NAMES)


class Migration(migrations.Migration):
    dependencies = [("rasters", "0001_rasters")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
