"""What is booked is what was shown: a form carries a digest of its page's words.

The server computes the result again and books it only if it reads the same; otherwise it says how it reads now.
"""

from collections.abc import Iterable, Mapping
from hashlib import blake2b

from mockup.base.faults import Fault, refuse
from mockup.checks.check import Check
from mockup.quantity.value import Unit
from mockup.words.report_text import figure_text, limit_text, margin_text

SHOWN = "shown"
"""The form field with the digest."""


def digest_of(words: Iterable[object]) -> str:
    """Return a digest of the words a page shows of a result."""
    return blake2b("\x1f".join(map(str, words)).encode(), digest_size=9).hexdigest()


def refuse_changed(posted: Mapping[str, str], now: str, words: str, path: str = SHOWN) -> None:
    """Raise FaultsError at ``path`` if a form comes from a page with another result.

    ``words`` describe the present result. A form without the field was not sent from our pages.
    """
    if SHOWN not in posted or posted[SHOWN] == now:
        return
    said = f"This has changed since it was shown: {words} Nothing was booked; check it and press again."
    refuse([Fault(path, said)])


def check_words(check: Check, unit: Unit) -> tuple[str, ...]:
    """Return the words a page shows of a check: figure with U, minimum, margin, state."""
    return (
        check.label,
        figure_text(check, unit),
        limit_text(check.limit, check.kind, unit),
        margin_text(check, unit),
        str(check.state),
    )
