"""Weight sheets tell more than before: documents are weighed again; copies know what each part is."""

from django.db import migrations, models


def weigh_again(apps, schema_editor):
    Document = apps.get_model("satchels", "Document")
    Document.objects.filter(state="weighed").update(
        state="waiting", sheet=None, facts=None, trials={}, estimates={}, savings={}, learned=0
    )


def tell_kinds(apps, schema_editor):
    """Ids of parts said once what kind they are; now each part says it itself."""
    Copy = apps.get_model("satchels", "Copy")
    for copy in Copy.objects.exclude(parts=[]).iterator():
        for part in copy.parts:
            kind, _, rest = part["id"].partition(":")
            part.setdefault("kind", kind)
            part.setdefault("extra", rest if kind == "extra" else None)
        copy.media_type = "application/pdf"
        copy.save(update_fields=["parts", "media_type"])


class Migration(migrations.Migration):
    dependencies = [("satchels", "0005_weigh_inline_pictures")]

    operations = [
        migrations.RenameField("document", "worth", "savings"),
        migrations.AddField(
            "copy",
            "media_type",
            models.CharField(blank=True, default="", max_length=80),
        ),
        migrations.RunPython(weigh_again, migrations.RunPython.noop),
        migrations.RunPython(tell_kinds, migrations.RunPython.noop),
    ]
