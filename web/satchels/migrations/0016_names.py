"""Fields, and keys and values within stored treatments, under the names that say what they hold."""

from typing import Any

from django.db import migrations

_KEYS = {"two_tone": "bitonal_method"}
_STORED = {
    "Satchel": "treatment",
    "Document": "exceptions",
    "Run": "preset_snapshot",
}


def renamed(stored: Any) -> Any:
    """Return a stored treatment with present names, at any depth."""
    if isinstance(stored, list):
        return [renamed(entry) for entry in stored]
    if not isinstance(stored, dict):
        return stored
    present = {_KEYS.get(key, key): renamed(entry) for key, entry in stored.items()}
    if present.get("kind") == "lighten":
        present["kind"] = "brighten"
    return present


def rename_stored(apps: Any, _editor: Any) -> None:
    for model, field in _STORED.items():
        rows = apps.get_model("satchels", model).objects
        for row in rows.only("pk", field).iterator():
            present = renamed(getattr(row, field))
            if present != getattr(row, field):
                rows.filter(pk=row.pk).update(**{field: present})


class Migration(migrations.Migration):
    dependencies = [("satchels", "0015_verdict_check")]

    operations = [
        migrations.RenameField("document", "learned", "trial_progress"),
        migrations.RenameField("run", "wanted", "preset_snapshot"),
        migrations.RunPython(rename_stored, migrations.RunPython.noop),
    ]
