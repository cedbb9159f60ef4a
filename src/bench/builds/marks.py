"""Short texts that are other ones as soon as something of a build is: by them a page knows that it is old."""

import json
from hashlib import sha256
from typing import Any

from bench.builds.models import Build, MockUp


def as_it_is(build: Build) -> str:
    """A short text that is another one as soon as a build's engine or book-keeping is."""
    kept = [
        build.name,
        build.subtitle,
        build.unit,
        build.deck_sign,
        build.sheet,
        build.checking_kept,
        build.engine_kept,
    ]
    return _print_of(kept)


def mockup_as_it_is(latest: MockUp | None) -> str:
    """The same of the latest mock-up of a build."""
    return _print_of([latest.letter, latest.conditions] if latest else [])


def _print_of(kept: list[Any]) -> str:
    return sha256(json.dumps(kept, sort_keys=True).encode()).hexdigest()[:16]
