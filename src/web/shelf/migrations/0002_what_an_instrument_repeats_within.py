from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('shelf', '0001_gaskets_shims_pushrods_and_instruments'),
    ]

    operations = [
        migrations.AddField(
            model_name='shelfinstrument',
            name='repeats_mm',
            field=models.FloatField(default=0.01016),
        ),
    ]
