from django.contrib.postgres.indexes import GinIndex, OpClass
from django.contrib.postgres.operations import TrigramExtension
from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ("builds", "0006_links"),
    ]

    operations = [
        # A trusted extension: whoever owns the database may add it.
        TrigramExtension(),
        migrations.AddIndex(
            model_name="summary",
            index=GinIndex(OpClass("words", name="gin_trgm_ops"), name="summary_by_words"),
        ),
    ]
