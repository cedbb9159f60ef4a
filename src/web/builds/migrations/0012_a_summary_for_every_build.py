"""Builds of a shop made on 27 November, before 0005 was edited, may have no summary: each gets one to be worked out."""

from typing import Any

from django.db import migrations


def begun(apps: Any, schema_editor: Any) -> None:
    build, summary = (apps.get_model("builds", name) for name in ("Build", "Summary"))
    rows = build.objects.filter(summary=None).values_list("pk", "begun_at", "name").iterator()
    summary.objects.bulk_create(
        (
            summary(
                build_id=pk, version="", card={"why": ""}, state="unreadable", rank=0.0, words=name.lower(), touched_at=at
            )
            for pk, at, name in rows
        ),
        batch_size=1000,
    )


class Migration(migrations.Migration):

    dependencies = [
        ('builds', '0011_a_line_is_written_once'),
    ]

    operations = [
        migrations.RunPython(begun, migrations.RunPython.noop),
    ]
