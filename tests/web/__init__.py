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
    "put-right",
    "remedies",
    "sensitivity",
    "assembly",
    "block",
]
BUILD_PAGES = [*STATION_PAGES, "history", "sheet"]
"""Those, and the pages of a build that are no station's."""
