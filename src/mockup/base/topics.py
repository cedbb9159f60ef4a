"""What a build is checked for.

A builder who checks one part of the job is asked for that part alone.
"""

from collections.abc import Collection, Mapping
from enum import StrEnum

from mockup.base.stations import Station


class Topic(StrEnum):
    """What may be checked, alone or together."""

    VALVES = "valve clearance"
    DECK = "deck and quench"
    RATIO = "compression ratio"
    PUSHRODS = "pushrods"


EVERYTHING = frozenset(Topic)

STATIONS: Mapping[Station, frozenset[Topic]] = {
    Station.TDC: frozenset({Topic.DECK, Topic.VALVES}),
    Station.DECK: frozenset({Topic.DECK, Topic.RATIO}),
    Station.STACK: frozenset({Topic.VALVES, Topic.DECK, Topic.RATIO}),
    Station.VOLUMES: frozenset({Topic.RATIO}),
    Station.QUENCH: frozenset({Topic.DECK}),
    Station.MOCKUP: frozenset({Topic.VALVES, Topic.PUSHRODS}),
    Station.CAM: frozenset({Topic.VALVES}),
    Station.PUSHRODS: frozenset({Topic.PUSHRODS}),
    Station.CLAY: frozenset({Topic.VALVES}),
    Station.SWEEP: frozenset({Topic.VALVES}),
    Station.BUY: frozenset(),
}
"""The topics of each station; a station missing here belongs to all, one without topics is never a step."""


def topics_of(chosen: Collection[Topic]) -> frozenset[Topic]:
    """Return what is checked; an empty choice means everything."""
    return frozenset(chosen) or EVERYTHING


def is_asked(station: Station, topics: Collection[Topic]) -> bool:
    """Return whether a station belongs to a topic that is checked."""
    return not STATIONS.get(station, EVERYTHING).isdisjoint(topics)
