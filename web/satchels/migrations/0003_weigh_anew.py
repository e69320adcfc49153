"""Weight sheets say more than they did: documents wait to be weighed again."""

from typing import Any

from django.db import migrations


def forget_sheets(apps: Any, _editor: Any) -> None:
    documents = apps.get_model("satchels", "Document").objects.filter(state="weighed")
    documents.update(state="waiting", progress=0, sheet=None, estimates={})


class Migration(migrations.Migration):
    dependencies = (("satchels", "0002_tuning_exceptions_slips"),)

    operations = (migrations.RunPython(forget_sheets, migrations.RunPython.noop),)
