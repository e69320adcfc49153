"""Pictures that are bitonal or masks, and pages as pictures, under the trade's words."""

from typing import Any

from django.db import migrations

from web.renamed_values import rename_values

_NAMES = {"two-tone": "bitonal", "stencil": "mask"}
_STORED = {
    "Satchel": ("treatment", "fit_ways"),
    "Document": ("exceptions",),
    "Run": ("preset_snapshot", "fit"),
}


def rename(apps: Any, _editor: Any) -> None:
    for model, fields in _STORED.items():
        rename_values(apps.get_model("satchels", model), fields, _NAMES)


class Migration(migrations.Migration):
    dependencies = [("satchels", "0016_names")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
