"""Short texts that change with a build, by which a page notices that it is out of date."""

import json
from hashlib import sha256
from typing import Any

from web.builds.models import Build, MockUp


def as_it_is(build: Build) -> str:
    """Return a short text that changes with a build's engine or bookkeeping."""
    kept = [
        build.name,
        build.subtitle,
        build.unit,
        build.deck_sign,
        build.limits,
        build.checking_kept,
        build.engine_kept,
    ]
    return _print_of(kept)


def mockup_as_it_is(latest: MockUp | None) -> str:
    """Return a short text that changes with the latest mock-up of a build."""
    return _print_of([latest.letter, latest.conditions] if latest else [])


def _print_of(kept: list[Any]) -> str:
    return sha256(json.dumps(kept, sort_keys=True).encode()).hexdigest()[:16]
