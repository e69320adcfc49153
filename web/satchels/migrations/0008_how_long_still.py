"""How long work still takes; weight sheets tell which fonts can go: weighed again."""

from django.db import migrations, models


def weigh_again(apps, schema_editor):
    Document = apps.get_model("satchels", "Document")
    Document.objects.filter(state="weighed").update(
        state="waiting", sheet=None, facts=None, trials={}, estimates={}, savings={}, learned=0
    )


class Migration(migrations.Migration):

    dependencies = [
        ('satchels', '0007_copies_that_came_back'),
    ]

    operations = [
        migrations.AddField(
            model_name='copy',
            name='doing',
            field=models.CharField(blank=True, default='', max_length=40),
        ),
        migrations.AddField(
            model_name='copy',
            name='seconds_left',
            field=models.FloatField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='document',
            name='doing',
            field=models.CharField(blank=True, default='', max_length=40),
        ),
        migrations.AddField(
            model_name='document',
            name='seconds_left',
            field=models.FloatField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='returnedcopy',
            name='doing',
            field=models.CharField(blank=True, default='', max_length=40),
        ),
        migrations.AddField(
            model_name='returnedcopy',
            name='seconds_left',
            field=models.FloatField(blank=True, null=True),
        ),
        migrations.RunPython(weigh_again, migrations.RunPython.noop),
    ]
