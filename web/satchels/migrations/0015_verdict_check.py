"""Rename the verdict "look" to "check", in columns and in stored proofs."""

from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor
from django.db.migrations.state import StateApps

_OLD, _NEW = "look", "check"


def _rename(apps: StateApps, old: str, new: str) -> None:
    copies = apps.get_model("satchels", "Copy").objects.filter(verdict=old)
    for copy in copies.exclude(proof=None).iterator():
        copy.proof = {**copy.proof, "verdict": new}
        copy.save(update_fields=["proof"])
    for name in ("Copy", "ReturnedCopy"):
        apps.get_model("satchels", name).objects.filter(verdict=old).update(verdict=new)


def forwards(apps: StateApps, _editor: BaseDatabaseSchemaEditor) -> None:
    _rename(apps, _OLD, _NEW)


def backwards(apps: StateApps, _editor: BaseDatabaseSchemaEditor) -> None:
    _rename(apps, _NEW, _OLD)


class Migration(migrations.Migration):
    dependencies = [("satchels", "0014_changes_dated")]
    operations = [migrations.RunPython(forwards, backwards)]
