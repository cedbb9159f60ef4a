from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('builds', '0001_builds_and_their_book'),
    ]

    operations = [
        migrations.AddField(
            model_name='build',
            name='bore_known_to_mm',
            field=models.FloatField(default=0.0),
        ),
        migrations.AddField(
            model_name='build',
            name='pistons_reversed',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='build',
            name='rod_length_known_to_mm',
            field=models.FloatField(default=0.0),
        ),
        migrations.AddField(
            model_name='build',
            name='stroke_known_to_mm',
            field=models.FloatField(default=0.0),
        ),
        migrations.AddField(
            model_name='mockup',
            name='gasket_known_to_mm',
            field=models.FloatField(default=0.0),
        ),
    ]
