"""The mock-up's form: what stood between head and deck, and what the valves moved on."""

from typing import Any

from django import forms

from bench.page.fields import LinesField
from bench.page.record_form import RecordForm, Said
from mockup.engine.mockup import LashAt, MockUp
from mockup.quantity.value import Unit
from mockup.words import (
    BOLT_WORDS,
    CLAY_WORDS,
    DIAL_TURN_WORDS,
    FASTENER_WORDS,
    GASKET_WORDS,
    LIFTER_WORDS,
    OVERLAP_WORDS,
    PISTON_WORDS,
    SPRING_WORDS,
)

LASH_AT = {LashAt.VALVE: "at the valve", LashAt.PUSHROD: "at the pushrod side"}


FIRST = (
    "gasket_state", "gasket_mm", "bolts", "lifters", "springs", "two_turns", "overlap", "dial_turns", "clay",
    "laid_mm", "shims_mm",
)  # fmt: skip
"""What is asked of every mock-up; all else has its usual answer, folded away."""


class MockUpForm(RecordForm):
    """The conditions of one mock-up."""

    CORE = MockUp
    GIVEN = {"key": ""}
    SAID = {
        "gasket_state": Said(label="Gasket in the mock-up", words=GASKET_WORDS),
        "gasket_mm": Said(
            label="Its thickness",
            help_text="of another one: compressed; of a new one: free, if known; else empty",
            shown_empty=True,
        ),
        "gasket_known_to_mm": Said(
            label="Known to, ±",
            help_text="empty: what is usual of its kind",
            fine=True,
            example_mm=0.0254,
            shown_empty=True,
        ),
        "bolts": Said(label="Head bolts", words=BOLT_WORDS),
        "lifters": Said(label="Lifters", words=LIFTER_WORDS),
        "springs": Said(label="Springs", words=SPRING_WORDS),
        "springs_at": Said(label="Checking springs on", help_text="which valves, which end, which bank"),
        "lash_mm": Said(label="Lash left in", help_text="empty for zero lash", shown_empty=True),
        "lash_exhaust_mm": Said(label="Exhaust’s, if another", help_text="empty: the same"),
        "lash_at": Said(label="Lash measured", words=LASH_AT),
        "shims_mm": Said(label="Base shims under the barrels", help_text="together; empty for none", shown_empty=True),
        "clay": Said(label="Clay", words=CLAY_WORDS),
        "laid_mm": Said(
            label="Clay laid how thick", help_text="if known: no print is then over that", shown_empty=True
        ),
        "head": Said(label="Which head, on which bank"),
        "fasteners": Said(label="Fasteners", words=FASTENER_WORDS),
        "blocked_how": Said(label="Lifters blocked how, marked how"),
        "rocker_ratio": Said(label="Rockers in the mock-up", help_text="empty: the engine’s own"),
        "caps_as_run": Said(label="Lash caps", words={True: "as it will run", False: "not as it will run"}),
        "cam_advance_deg": Said(
            label="Cam in advance by, °", help_text="of where it will run; − behind", shown_empty=True
        ),
        "wheel_checked": Said(label="Degree wheel", words={True: "checked against TDC", False: "not checked, or none"}),
        "pistons": Said(label="Pistons", words=PISTON_WORDS),
        "also": Said(label="What else stood there"),
        "two_turns": Said(
            label="Crank turned", words={False: "not two full turns", True: "two full turns"}, help_text="by hand"
        ),
        "dial_turns": Said(
            label="Dial’s turns counted",
            words=DIAL_TURN_WORDS,
            help_text="of an indicator that goes past one turn",
        ),
        "overlap": Said(
            label="Overlap TDC told by",
            words=OVERLAP_WORDS,
            help_text="one reading cannot tell it from firing TDC, and a wheel reads the same at both",
        ),
    }

    also = LinesField(
        label="What else stood there, a line each",
        required=False,
        help_text="caps, spacers, washers under head bolts, stud length and thread engagement, plugs indexed: "
        "they go to final assembly",
    )

    def __init__(self, unit: Unit, separate_barrels: bool, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if not separate_barrels:
            del self.fields["shims_mm"]
        self.order_fields(self.SAID)
        self.read_in(unit)
        self.dress()

    @property
    def first(self) -> list[forms.BoundField]:
        """What is asked first."""
        return [self[name] for name in FIRST if name in self.fields]

    @property
    def more(self) -> list[forms.BoundField]:
        """What is as usual unless somebody says otherwise."""
        return [self[name] for name in self.fields if name not in FIRST]

    @property
    def opened(self) -> bool:
        """Whether the rest stands open: something in it is wrong, or was said otherwise than usual."""
        usual = self.shown(MockUp(key=""))
        return any(
            field.errors or self.initial.get(field.name, usual[field.name]) != usual[field.name] for field in self.more
        )
