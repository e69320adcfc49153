"""Fields under the names that say what they hold."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("satchels", "0015_verdict_check")]

    operations = [
        migrations.RenameField("document", "learned", "trial_progress"),
        migrations.RenameField("run", "wanted", "preset_snapshot"),
    ]
