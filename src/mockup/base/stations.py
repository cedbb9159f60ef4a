"""The stations: where at the bench something is read, chosen or decided."""

from enum import StrEnum


class Station(StrEnum):
    """The stations, in bench order."""

    BLOCK = "block"
    TDC = "TDC"
    DECK = "deck"
    STACK = "gasket and cut"
    VOLUMES = "volumes"
    QUENCH = "quench"
    MOCKUP = "mock-up"
    CAM = "cam"
    PUSHRODS = "pushrods"
    CLAY = "clay"
    SWEEP = "indicator"
    VERDICT = "verdict"
    RIGHT = "put it right"
    BUY = "before you buy"
    ASSEMBLY = "final assembly"
