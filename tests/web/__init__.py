"""The web application: pages, entering, who may see what."""

STATION_PAGES = [
    "tdc",
    "deck",
    "stack",
    "volumes",
    "quench",
    "mock-up",
    "cam",
    "pushrods",
    "clay",
    "sweep",
    "verdict",
    "block",
]
