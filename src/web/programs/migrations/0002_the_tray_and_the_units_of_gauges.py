"""A reading of a gauge keeps when it was sent and since when it waits in the tray; a gauge has a unit."""

import django.db.models.deletion
import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("shops", "0006_hears_gauges"),
        ("programs", "0001_gauge_readings"),
    ]

    operations = [
        migrations.AddField(
            model_name="gaugereading",
            name="sent_at",
            field=models.DateTimeField(default=django.utils.timezone.now),
        ),
        migrations.AddField(
            model_name="gaugereading",
            name="in_tray_at",
            field=models.DateTimeField(null=True),
        ),
        migrations.CreateModel(
            name="GaugeUnit",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("gauge", models.CharField(blank=True, max_length=40)),
                (
                    "unit",
                    models.CharField(
                        blank=True,
                        choices=[
                            ("in", "inches"),
                            ("mm", "millimetres"),
                            ("thou", "thou"),
                            ("", "a number as it is: degrees or cc"),
                        ],
                        max_length=4,
                    ),
                ),
                (
                    "shop",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="shops.shop"
                    ),
                ),
            ],
            options={"ordering": ["gauge"]},
        ),
        migrations.AddConstraint(
            model_name="gaugeunit",
            constraint=models.UniqueConstraint(fields=("shop", "gauge"), name="one_unit_a_gauge"),
        ),
    ]
