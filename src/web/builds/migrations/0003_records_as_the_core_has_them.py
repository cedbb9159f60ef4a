"""Engines and mock-ups are kept as the core's own records, in one column each, in place of a column a field."""

from typing import Any

from django.db import migrations, models

ENGINE = (
    "layout", "numbering", "cylinders", "bore_mm", "stroke_mm", "rod_length_mm", "pin_offset_mm", "rocker_ratio",
    "bore_spacing_mm", "separate_barrels", "pistons_reversed", "bore_known_to_mm", "stroke_known_to_mm",
    "rod_length_known_to_mm",
)
ROW = ("count", "angle_deg", "cant_deg", "relief", "diameter_mm")
SIDES = ("intake", "exhaust")
MOCKUP = (
    "gasket_state", "gasket_mm", "bolts", "lifters", "springs", "lash_mm", "lash_at", "shims_mm", "clay", "two_turns",
    "lash_exhaust_mm", "head", "blocked_how", "fasteners", "rocker_ratio", "caps_as_run", "cam_advance_deg",
    "wheel_checked", "gasket_known_to_mm", "pistons",
)


def gather(apps: Any, schema_editor: Any) -> None:  # noqa: ARG001, what Django calls it with
    for build in apps.get_model("builds", "Build").objects.iterator():
        kept = {name: getattr(build, name) for name in ENGINE}
        order = build.firing_order.replace(",", " ").replace("-", " ").replace("–", " ").split()
        kept["firing_order"] = [int(part) for part in order]
        for side in SIDES:
            kept[side] = {name: getattr(build, f"{side}_{name}") for name in ROW}
        build.engine_kept = kept
        build.save(update_fields=["engine_kept"])
    for mockup in apps.get_model("builds", "MockUp").objects.iterator():
        mockup.conditions = {name: getattr(mockup, name) for name in MOCKUP}
        mockup.save(update_fields=["conditions"])


class Migration(migrations.Migration):

    dependencies = [
        ('builds', '0002_how_truly_things_are_known'),
    ]

    operations = [
        migrations.AddField('build', 'engine_kept', models.JSONField(default=dict)),
        migrations.AddField('mockup', 'conditions', models.JSONField(default=dict)),
        migrations.RunPython(gather, migrations.RunPython.noop),
        migrations.RemoveConstraint('build', 'one_to_sixteen_cylinders'),
        *(migrations.RemoveField('build', name) for name in (*ENGINE, 'firing_order')),
        *(migrations.RemoveField('build', f'{side}_{name}') for side in SIDES for name in ROW),
        *(migrations.RemoveField('mockup', name) for name in MOCKUP),
        migrations.AlterField('build', 'engine_kept', models.JSONField()),
        migrations.AlterField('mockup', 'conditions', models.JSONField()),
    ]
