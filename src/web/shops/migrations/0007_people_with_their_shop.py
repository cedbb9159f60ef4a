"""People are asked for with their shop; the manager that does so is no part of a migration's models."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("shops", "0006_hears_gauges")]

    operations = [migrations.AlterModelManagers(name="person", managers=[])]
