"""A line has the time it was typed, and its token is unique for the person and not only in one build."""

from django.db import migrations, models

# Before, one reading could be stored in two builds. Both stay in the log; only the first keeps the token.
SECOND_TOKENS = """
UPDATE builds_entry SET token = NULL WHERE id IN (
    SELECT id FROM (
        SELECT id, row_number() OVER (PARTITION BY by_id, token ORDER BY id) AS place
        FROM builds_entry WHERE token IS NOT NULL
    ) AS every WHERE place > 1
)
"""


class Migration(migrations.Migration):
    dependencies = [("builds", "0010_life_of_a_block")]

    operations = [
        migrations.AddField(
            model_name="entry",
            name="typed_at",
            field=models.DateTimeField(null=True),
        ),
        migrations.RemoveConstraint(model_name="entry", name="an_entry_is_written_once"),
        migrations.RunSQL(SECOND_TOKENS, migrations.RunSQL.noop),
        migrations.AddConstraint(
            model_name="entry",
            constraint=models.UniqueConstraint(fields=("by", "token"), name="a_line_is_written_once"),
        ),
    ]
