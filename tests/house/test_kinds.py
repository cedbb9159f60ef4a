"""Every kind declares what the program needs; what lacks is named with its file."""

from pathlib import Path

import pytest

import mockup.checks  # noqa: F401, kinds declare themselves as they are read in
from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Affected, Along, ChangeKind, EffectFrom
from mockup.changes.options import WhatIfField
from mockup.checks.check import Kind
from mockup.limits.limit_set import LimitName
from mockup.limits.schools import READY_MADE
from mockup.readings.kinds import READING_KINDS, reading_kind
from mockup.readings.record import Reading
from web.page.answers import STATION_URLS
from web.stations.put_right.form import GROUPS, typed_fields


def file_of(kind, folder):
    """The module that declares a kind, by its words."""
    declares = f'{type(kind).__name__}(\n    "{kind}",'
    found = [path for path in Path("src/mockup", folder).glob("*.py") if declares in path.read_text()]
    return str(found[0]) if found else f"src/mockup/{folder}"


def untold(kinds, things):
    """Pairs of a change and something read of which nobody says whether it is moved."""
    return [
        f"{file_of(kind, 'changes')}: “{kind}” does not say whether it touches or leaves the {what}"
        for kind in kinds
        for what in things
        if not kind.is_told_of(what)
    ]


def undeclared(cores):
    """Classes of readings that are no kind: those that others are made of aside."""
    named = {f"{core.__module__}: {core.__name__}" for core in cores}
    return sorted(named - {f"{kind.core.__module__}: {kind.core.__name__}" for kind in READING_KINDS})


def below(core):
    """Every class made of one, however far down."""
    return [one for child in core.__subclasses__() for one in (child, *below(child))]


def test_of_every_change_and_everything_that_is_read_somebody_says_whether_it_moves_it():
    assert untold(ChangeKind.all(), Affected.all()) == []


def test_every_class_of_readings_is_declared_as_a_kind():
    ours = [core for core in below(Reading) if core.__module__.startswith("mockup.")]
    # A class with slots is made anew, and its first self stays among the subclasses: told apart by nothing but that.
    parents = {core.__name__ for core in ours if core.__subclasses__()}
    assert undeclared([core for core in ours if core.__name__ not in parents]) == []


@pytest.mark.parametrize("kind", list(READING_KINDS), ids=lambda kind: kind.name)
def test_every_kind_of_reading_fits_the_book_and_has_a_page(kind):
    assert len(kind.name) <= 12, f"{kind.core.__module__}: the name of a line has up to 12 letters"
    assert kind.station in STATION_URLS, f"{kind.core.__module__}: {kind.station} has no page"
    assert not kind.one_field or kind.echo, f"{kind.core.__module__}: say how its typing is echoed"


@pytest.mark.parametrize("kind", ChangeKind.all(), ids=str)
def test_every_kind_of_change_has_a_field_that_makes_it(kind):
    where = file_of(kind, "changes")
    assert kind.field.group in GROUPS, f"{where}: “{kind}” stands in no group of the what-if form"
    made = kind.field.own or kind in [one.kind for one in typed_fields()]
    assert made, f"{where}: no field makes “{kind}”"


def test_every_limit_is_asked_by_sheets_there_are_and_every_check_reads_at_a_station_there_is():
    for limit in LimitName.all():
        unknown = set(limit.usual) - set(READY_MADE)
        assert not unknown, f"{file_of(limit, 'checks')}: {limit} is asked by no sheet called {unknown}"
        assert limit.low < limit.high
    for kind in Kind.all():
        assert kind.station is None or kind.station in STATION_URLS
        assert all(station in STATION_URLS for station in kind.shows_at)
    assert set(STATION_URLS) == set(Station)


def test_the_guards_can_fail():
    declared = {
        "order": 999,
        "in_words": lambda *_: "",
        "again": "",
        "along": True,
        "is_length": False,
        "leaves": frozenset(Affected.all()) - {affected.DECK, affected.CAM},
        "field": WhatIfField(name="x", label="x", group="Stack", order=9),
    }
    with pytest.raises(ValueError, match="does not declare its touches"):
        ChangeKind("toy", **declared)
    with pytest.raises(ValueError, match="has no colour"):
        ChangeKind("toy", **declared, touches={}, colour="red")
    with pytest.raises(ValueError, match="moves the deck: say how by Along"):
        ChangeKind("toy", **declared, touches={affected.DECK: EffectFrom.UNKNOWN})
    with pytest.raises(ValueError, match="declared twice"):
        ChangeKind("deck cut", **declared, touches={})
    toy = ChangeKind("toy", **declared, touches={affected.DECK: Along(1.0)})
    try:
        assert untold([toy], Affected.all()) == [
            "src/mockup/changes: “toy” does not say whether it touches or leaves the cam timing"
        ]
    finally:
        ChangeKind.drop("toy")
    with pytest.raises(ValueError, match="same name or list"):
        reading_kind(name="clay", listed="x", words="", station=Station.CLAY, of=lambda _: None, reads=lambda _: None)(
            Reading
        )

    class Forgotten(Reading):
        pass

    assert undeclared([Forgotten]) == [f"{__name__}: Forgotten"]
