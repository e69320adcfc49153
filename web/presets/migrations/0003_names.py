"""Pictures that are bitonal or masks, and pages as pictures, under the trade's words."""

from typing import Any

from django.db import migrations

from web.renamed_values import rename_values

_NAMES = {"two-tone": "bitonal", "stencil": "mask", "two_tone": "bitonal_method"}


def rename(apps: Any, _editor: Any) -> None:
    rename_values(apps.get_model("presets", "OwnPreset"), ("treatment",), _NAMES)


class Migration(migrations.Migration):
    dependencies = [("presets", "0002_own_limits")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
