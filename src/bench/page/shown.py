"""What is booked is what was shown: a form that books a result carries a digest of the words its page showed.

The server works the result out again and books it only where it reads the same; else it says what it reads now.
"""

from collections.abc import Iterable, Mapping
from hashlib import blake2b

from mockup.checks.check import Check
from mockup.faults import Fault, refuse
from mockup.quantity.value import Unit
from mockup.words import daylight_text, figure_text, limit_text

SHOWN = "shown"
"""The field of a form that carries the digest."""


def digest_of(words: Iterable[object]) -> str:
    """Return a digest of the words a page shows of a result."""
    return blake2b("\x1f".join(map(str, words)).encode(), digest_size=9).hexdigest()


def refuse_changed(posted: Mapping[str, str], now: str, words: str, path: str = SHOWN) -> None:
    """Raise FaultsError, at ``path``, where a form was posted from a page that showed something else.

    ``words`` say what it is now. A form without the field showed nothing: its sender has seen no page of ours.
    """
    if SHOWN not in posted or posted[SHOWN] == now:
        return
    said = f"This has changed since it was shown: {words} Nothing was booked; look and press again."
    refuse([Fault(path, said)])


def check_words(check: Check, unit: Unit) -> tuple[str, ...]:
    """Return the words a page shows of a check: figure with U, minimum, margin, state."""
    return (
        check.label,
        figure_text(check, unit),
        limit_text(check.limit, check.kind, unit),
        daylight_text(check, unit),
        str(check.state),
    )
