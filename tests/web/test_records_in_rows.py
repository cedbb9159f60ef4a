"""Engines and mock-ups in rows: what had columns before is the same record now."""

import pytest
from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django_scopes import scope, scopes_disabled

from mockup.engine.block import Engine, Layout
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Lifters, Springs
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.valves import Relief, ValveRow
from tests import making_rows as making
from web.builds.models import Build, MockUp, Summary


def migrated(*to):
    executor = MigrationExecutor(connection)
    executor.migrate(list(to))
    return MigrationExecutor(connection).loader.project_state(list(to)).apps


@pytest.mark.django_db(transaction=True)
def test_builds_and_mock_ups_written_before_are_read_as_they_were():
    old = migrated(("builds", "0002_how_truly_things_are_known"), ("shops", "0001_shops_and_people"))
    try:
        shop = old.get_model("shops", "Shop").objects.create(name="Old shop")
        by = old.get_model("shops", "Person").objects.create(username="tabitha", shop=shop)
        build = old.get_model("builds", "Build").objects.create(
            shop=shop, name="Gannet", layout="vee", cylinders=4, bore_mm=90.0, stroke_mm=80.0, rod_length_mm=140.0,
            firing_order="1-3-4-2", pistons_reversed=True, intake_count=2, exhaust_relief="flat",
            exhaust_angle_deg=20.0, stroke_known_to_mm=0.05,
        )  # fmt: skip
        old.get_model("builds", "MockUp").objects.create(
            build=build, letter="A", by=by, gasket_state="snugged", gasket_mm=1.2, lifters="unblocked", head="left",
            lash_exhaust_mm=0.1, wheel_checked=True,
        )  # fmt: skip
    finally:
        migrated(*MigrationExecutor(connection).loader.graph.leaf_nodes())
    with scopes_disabled():
        assert Build.objects.get().engine == Engine(
            layout=Layout.VEE, cylinders=4, bore_mm=90.0, stroke_mm=80.0, rod_length_mm=140.0,
            firing_order=(1, 3, 4, 2), pistons_reversed=True, intake=ValveRow(count=2, angle_deg=0.0), rocker_ratio=1.0,
            exhaust=ValveRow(relief=Relief.FLAT, angle_deg=20.0), stroke_known_to_mm=0.05,
        )  # fmt: skip
        assert MockUp.objects.get().core == CoreMockUp(
            key="A", gasket_state=GasketState.SNUGGED, gasket_mm=1.2, lifters=Lifters.UNBLOCKED, head="left",
            lash_exhaust_mm=0.1, wheel_checked=True, springs=Springs.CHECKING, two_turns=True,
        )  # fmt: skip
        # It stands on the stand at once, and with its figures as soon as they are made anew.
        assert Summary.objects.get().version == ""
        call_command("summarise")
        assert Summary.objects.get().card["engine_line"].startswith("vee")


def test_a_build_whose_engine_is_changed_has_the_new_one_at_once(member, built):
    with scope(shop=member.shop):
        other = making.save(built, member, cylinders=1)
        assert (other.engine.cylinders, Build.objects.get(pk=built.pk).engine.cylinders) == (1, 1)
        built.refresh_from_db()
    assert built.engine == other.engine
