"""The set of limits and the margin of a signature get their new names, in columns and in the log's data."""

from typing import Any

from django.db import migrations, models


def _rename(before: str, after: str) -> Any:
    def rename(apps: Any, schema_editor: Any) -> None:
        entries = apps.get_model("builds", "Entry").objects.filter(kind="sign-off", data__has_key=before)
        for entry in entries.iterator():
            entry.data[after] = entry.data.pop(before)
            entry.save(update_fields=["data"])

    return rename


class Migration(migrations.Migration):

    dependencies = [
        ('builds', '0012_a_summary_for_every_build'),
    ]

    operations = [
        migrations.RemoveConstraint(model_name='build', name='a_known_margin_sheet'),
        migrations.RenameField(model_name='build', old_name='sheet', new_name='limits'),
        migrations.AddConstraint(
            model_name='build',
            constraint=models.CheckConstraint(condition=models.Q(('limits__in', ['street', 'street-floor', 'street-roller', 'turned-about', 'careful', 'small-single', 'loaded', 'makers'])), name='known_limits'),
        ),
        migrations.RunPython(_rename("daylight", "margin"), _rename("margin", "daylight")),
    ]
