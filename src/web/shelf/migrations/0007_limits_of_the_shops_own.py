"""The shop's own limits get their new name."""

from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('shelf', '0006_gauges_on_a_cable'),
    ]

    operations = [
        migrations.RenameModel(old_name='ShelfMargins', new_name='ShelfLimits'),
        migrations.RenameField(model_name='shelfengine', old_name='sheet', new_name='limits'),
    ]
