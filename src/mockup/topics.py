"""What a build is checked for: whoever came for a part of the job is asked for that part alone."""

from collections.abc import Collection, Mapping
from enum import StrEnum

from mockup.stations import Station


class Topic(StrEnum):
    """What may be checked, each on its own or together."""

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
}
"""What each station is for; one that is not here is for all."""


def topics_of(chosen: Collection[Topic]) -> frozenset[Topic]:
    """What is checked, from what was chosen: nothing chosen is everything."""
    return frozenset(chosen) or EVERYTHING


def is_asked(station: Station, topics: Collection[Topic]) -> bool:
    """Whether a station is for something that is checked."""
    return not STATIONS.get(station, EVERYTHING).isdisjoint(topics)
