"""Pictures in line, and annotations by their kind, are parts now: documents wait to be weighed."""

from typing import Any

from django.db import migrations


def forget_sheets(apps: Any, _editor: Any) -> None:
    documents = apps.get_model("satchels", "Document").objects.filter(state="weighed")
    documents.update(state="waiting", progress=0, sheet=None, trials={}, learned=0, estimates={})


class Migration(migrations.Migration):
    dependencies = (("satchels", "0004_limits_and_links"),)

    operations = (migrations.RunPython(forget_sheets, migrations.RunPython.noop),)
