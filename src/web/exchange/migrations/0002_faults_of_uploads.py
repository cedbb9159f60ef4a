"""Uploads of a shop made on 27 November, before 0001 was edited, have no column for their fault: it is added."""

from typing import Any

from django.db import migrations


def add_missing(apps: Any, schema_editor: Any) -> None:
    upload = apps.get_model("exchange", "Upload")
    connection = schema_editor.connection
    with connection.cursor() as cursor:
        there = {column.name for column in connection.introspection.get_table_description(cursor, upload._meta.db_table)}
    field = upload._meta.get_field("fault")
    if field.column not in there:
        schema_editor.add_field(upload, field)


class Migration(migrations.Migration):

    dependencies = [
        ('exchange', '0001_uploads'),
    ]

    operations = [
        migrations.RunPython(add_missing, migrations.RunPython.noop),
    ]
