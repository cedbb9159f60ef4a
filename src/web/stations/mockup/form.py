"""The mock-up's form: the gasket between head and deck, and the valve train."""

from typing import Any

from django import forms

from mockup.engine.mockup import LashAt, MockUp
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.words.report_text import (
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
from web.page.fields import LinesField
from web.page.record_form import FieldWords, RecordForm

LASH_AT = {LashAt.VALVE: "at the valve", LashAt.PUSHROD: "at the pushrod side"}


FIRST = (
    "gasket_state", "gasket_mm", "bolts", "lifters", "springs", "two_turns", "overlap", "dial_turns", "clay",
    "laid_mm", "shims_mm",
)  # fmt: skip
"""What is asked for every mock-up; everything else has its usual answer, folded away."""


class MockUpForm(RecordForm):
    """The conditions of one mock-up."""

    CORE = MockUp
    GIVEN = {"key": ""}
    FIELD_WORDS = {
        "gasket_state": FieldWords(label="Gasket in the mock-up", words=GASKET_WORDS),
        "gasket_mm": FieldWords(
            label="Its thickness",
            help_text="of another one: compressed; of a new one: free, if known; else empty",
            shown_empty=True,
        ),
        "gasket_known_to_mm": FieldWords(
            label="Gasket thickness known to, ±",
            help_text="empty: the usual of its kind",
            fine=True,
            example_mm=MM_PER_THOU,
            shown_empty=True,
        ),
        "bolts": FieldWords(label="Head bolts", words=BOLT_WORDS),
        "lifters": FieldWords(label="Lifters", words=LIFTER_WORDS),
        "plunger_mm": FieldWords(
            label="Lifters’ plunger travel",
            help_text="of ordinary lifters under light springs: what they can hide at most",
            example_mm=1.524,
        ),
        "springs": FieldWords(label="Springs", words=SPRING_WORDS),
        "springs_at": FieldWords(label="Checking springs on", help_text="which valves, which end, which bank"),
        "lash_mm": FieldWords(label="Lash left in", help_text="empty for zero lash", shown_empty=True),
        "lash_exhaust_mm": FieldWords(label="Exhaust’s, if different", help_text="empty: the same"),
        "lash_at": FieldWords(label="Lash measured", words=LASH_AT),
        "shims_mm": FieldWords(
            label="Base shims under the barrels", help_text="together; empty for none", shown_empty=True
        ),
        "clay": FieldWords(label="Clay", words=CLAY_WORDS),
        "laid_mm": FieldWords(
            label="Clay laid, thickness",
            help_text="if known: no print means more than that",
            shown_empty=True,
        ),
        "head": FieldWords(label="Which head, on which bank"),
        "fasteners": FieldWords(label="Fasteners", words=FASTENER_WORDS),
        "blocked_how": FieldWords(label="Lifters blocked how, marked how"),
        "rocker_ratio": FieldWords(label="Rockers in the mock-up", help_text="empty: the engine’s own"),
        "caps_as_run": FieldWords(label="Lash caps", words={True: "as it will run", False: "not as it will run"}),
        "cam_advance_deg": FieldWords(
            label="Cam advanced by, °",
            help_text="relative to where it will run; − behind",
            shown_empty=True,
        ),
        "wheel_checked": FieldWords(
            label="Degree wheel", words={True: "checked against TDC", False: "not checked, or none"}
        ),
        "pistons": FieldWords(label="Pistons", words=PISTON_WORDS),
        "also": FieldWords(label="Other parts in the mock-up"),
        "two_turns": FieldWords(
            label="Crank turned", words={False: "not two full turns", True: "two full turns"}, help_text="by hand"
        ),
        "dial_turns": FieldWords(
            label="Dial’s turns counted",
            words=DIAL_TURN_WORDS,
            help_text="of an indicator that goes past one turn",
        ),
        "overlap": FieldWords(
            label="Overlap TDC told by",
            words=OVERLAP_WORDS,
            help_text="one reading cannot tell it from firing TDC, and a wheel reads the same at both",
        ),
    }

    also = LinesField(
        label="Other parts in the mock-up, one a line",
        required=False,
        help_text="caps, spacers, washers under head bolts, stud length and thread engagement, plugs indexed: "
        "they go on the final assembly list",
    )

    def __init__(self, unit: Unit, separate_barrels: bool, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if not separate_barrels:
            del self.fields["shims_mm"]
        self.order_fields(self.FIELD_WORDS)
        self.read_in(unit)
        self.dress()

    @property
    def first(self) -> list[forms.BoundField]:
        """Return the fields asked first."""
        return [self[name] for name in FIRST if name in self.fields]

    @property
    def more(self) -> list[forms.BoundField]:
        """Return the fields with a usual answer."""
        return [self[name] for name in self.fields if name not in FIRST]

    @property
    def opened(self) -> bool:
        """Return whether the rest is open: something in it is wrong, or differs from the usual."""
        usual = self.shown(MockUp(key=""))
        return any(
            field.errors or self.initial.get(field.name, usual[field.name]) != usual[field.name] for field in self.more
        )
