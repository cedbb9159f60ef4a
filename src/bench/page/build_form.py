"""The form of a build: its engine as designed and how its book is kept. Begins builds and changes them."""

import json
from typing import Any

from django import forms

from bench.builds.models import Build
from bench.page.record_form import RecordForm, Said
from mockup.engine.block import MOST_CYLINDERS, Engine, Layout, Numbering
from mockup.engine.valves import Relief, Side
from mockup.limits.sheets import READY_MADE
from mockup.quantity.typed import LengthError, parse_firing_order
from mockup.quantity.value import DeckSign, Unit
from mockup.topics import EVERYTHING, Topic

UNITS = [(Unit.INCH, "inches and thou"), (Unit.MILLIMETRE, "millimetres")]
SIGNS = [
    (DeckSign.DOWN_POSITIVE, "down is +"),
    (DeckSign.OUT_POSITIVE, "out is +"),
]
SHEETS = [(sheet.key, sheet.title) for sheet in READY_MADE.values()]
USUAL = "empty: the usual, 0.02 mm (0.0008 in)"
IF_KNOWN = "if known"
OF_THE_BUILD = ("name", "subtitle", "checking", "unit", "deck_sign", "sheet")
"""What is of the build and not of its engine."""
FIRST = ("name", "subtitle", "layout", "cylinders", "intake_count", "exhaust_count", "unit", "sheet")
DOUBT = "_known_to_mm"


def _valves(side: str) -> dict[str, Said]:
    return {
        f"{side}_count": Said(label=f"{side.capitalize()} valves a cylinder"),
        f"{side}_angle_deg": Said(label="Angle to the bore, °", help_text="0 is upright; empty: not said"),
        f"{side}_cant_deg": Said(label="Cant across it, °"),
        f"{side}_relief": Said(label="Faces", words={Relief.PARALLEL: "parallel relief", Relief.FLAT: "flat crown"}),
        f"{side}_diameter_mm": Said(label="Head diameter", help_text="for the drawing", big=True, shown_empty=True),
    }


LIKE: dict[str, dict[str, str]] = {
    "single": {"layout": "inline", "cylinders": "1"},
    "flat twin": {"layout": "flat", "cylinders": "2"},
    "inline four": {"layout": "inline", "cylinders": "4"},
    "twin-cam four, 16 valves": {"layout": "inline", "cylinders": "4", "intake_count": "2", "exhaust_count": "2"},
    "inline six": {"layout": "inline", "cylinders": "6"},
    "vee eight": {"layout": "vee", "cylinders": "8"},
}
"""Usual layouts, and what they fill in: nothing but how many there are of what, and how they stand."""
ONE_EACH = {"intake_count": "1", "exhaust_count": "1"}


def usual_layouts() -> dict[str, str]:
    """What each usual layout fills the form with, as JSON by the names of the fields."""
    return {words: json.dumps(ONE_EACH | filled) for words, filled in LIKE.items()}


class BuildForm(RecordForm):
    """All of a build's own fields. Lengths are read in the unit chosen in the same form."""

    CORE = Engine
    SAID = {
        "layout": Said(label="Layout", words={Layout.INLINE: "inline", Layout.VEE: "vee", Layout.FLAT: "flat"}),
        "cylinders": Said(label="Cylinders"),
        "numbering": Said(
            label="Numbering",
            words={Numbering.ALTERNATE: "odd and even banks", Numbering.BY_BANK: "bank by bank"},
        ),
        "bore_mm": Said(label="Bore", help_text=IF_KNOWN, big=True),
        "stroke_mm": Said(label="Stroke", help_text=IF_KNOWN, big=True),
        "rod_length_mm": Said(label="Rod length", help_text=IF_KNOWN, big=True),
        "bore_known_to_mm": Said(label="Bore known to, ±", help_text=USUAL, fine=True, shown_empty=True),
        "stroke_known_to_mm": Said(label="Stroke known to, ±", help_text=USUAL, fine=True, shown_empty=True),
        "rod_length_known_to_mm": Said(
            label="Rod known to, ±", help_text="empty: the same", fine=True, shown_empty=True
        ),
        "pin_offset_mm": Said(label="Pin offset, + to the thrust side", signed=True),
        "rocker_ratio": Said(label="Rocker ratio", help_text="if known; 1 where a follower acts straight on the valve"),
        "firing_order": Said(label="Firing order"),
        "bore_spacing_mm": Said(
            label="Bore to bore", help_text="if known; for the deck’s slope", big=True, shown_empty=True
        ),
        "separate_barrels": Said(
            label="Barrels", words={False: "one deck a bank", True: "separate barrels on base shims"}
        ),
        "pistons_reversed": Said(
            label="Pistons",
            words={False: "the right way round", True: "reversed, as it will run"},
            help_text="turned about on purpose; a mistake belongs to the mock-up",
        ),
        **_valves("intake"),
        **_valves("exhaust"),
    }

    name = forms.CharField(max_length=60, label="Name")
    subtitle = forms.CharField(max_length=59, label="What for", required=False)
    checking = forms.TypedMultipleChoiceField(
        choices=[(topic, topic.capitalize()) for topic in Topic],
        coerce=Topic,
        widget=forms.CheckboxSelectMultiple,
        label="What are you checking?",
        help_text="as many as you like; none ticked is everything",
        required=False,
    )
    unit = forms.ChoiceField(choices=UNITS, label="Kept in")
    deck_sign = forms.ChoiceField(choices=SIGNS, label="Deck signs")
    sheet = forms.ChoiceField(choices=SHEETS, label="Margin sheet")
    firing_order = forms.CharField(
        max_length=60, label="Firing order", required=False, help_text="as 1-5-3-6-2-4, if known"
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["cylinders"] = forms.IntegerField(label="Cylinders", min_value=1, max_value=MOST_CYLINDERS)
        self.order_fields([*OF_THE_BUILD, *self.SAID])
        asked = str(self.data.get("unit") or self.initial.get("unit") or Unit.INCH)
        self.read_in(Unit(asked) if asked in list(Unit) else Unit.INCH)
        self.dress()

    def clean_firing_order(self) -> tuple[int, ...]:
        """The cylinders in their order."""
        try:
            return parse_firing_order(self.cleaned_data["firing_order"])
        except LengthError as error:
            raise forms.ValidationError(str(error)) from error

    def for_record(self, found: dict[str, Any]) -> dict[str, Any]:
        """The engine's fields; the order was read already."""
        return super().for_record(found) | {"firing_order": found["firing_order"]}

    def clean_checking(self) -> tuple[Topic, ...]:
        """What it is checked for, in the order of the work; all of it is the same as none ticked."""
        chosen = self.cleaned_data["checking"]
        return () if set(chosen) == EVERYTHING else tuple(topic for topic in Topic if topic in chosen)

    @property
    def first(self) -> list[forms.BoundField]:
        """What every build begins with."""
        return [self[name] for name in FIRST]

    @property
    def block(self) -> list[forms.BoundField]:
        """What may be known of block, crank and rods."""
        own = [name for name in self.fields if name not in FIRST and name != "checking"]
        return [self[name] for name in own if not name.startswith(tuple(Side)) and not name.endswith(DOUBT)]

    @property
    def of_intake(self) -> list[forms.BoundField]:
        """What may be known of the intake valves."""
        return self._of(Side.INTAKE)

    @property
    def of_exhaust(self) -> list[forms.BoundField]:
        """What may be known of the exhaust valves."""
        return self._of(Side.EXHAUST)

    def _of(self, side: Side) -> list[forms.BoundField]:
        return [self[name] for name in self.fields if name.startswith(f"{side}_") and name not in FIRST]

    @property
    def doubts(self) -> list[forms.BoundField]:
        """How truly its sizes are known."""
        return [self[name] for name in self.fields if name.endswith(DOUBT)]

    @property
    def opened(self) -> bool:
        """Whether what may be known of the engine stands open: of a build that is there, or with a fault in it."""
        asked = {*FIRST, "checking", "__all__"}
        return (
            "name" in self.initial
            or bool(self.initial.get("bore_mm"))
            or any(name not in asked for name in self.errors)
        )

    @property
    def doubts_opened(self) -> bool:
        """Whether one of the doubts is wrong."""
        return any(field.errors for field in self.doubts)

    @property
    def of_the_build(self) -> dict[str, Any]:
        """What was said of the build and not of its engine."""
        return {name: self.cleaned_data[name] for name in OF_THE_BUILD}


def initial_of(build: Build) -> dict[str, Any]:
    """What the form shows of a build."""
    return initial_of_engine(build.engine) | {name: getattr(build, name) for name in OF_THE_BUILD}


def initial_of_engine(engine: Engine) -> dict[str, Any]:
    """What the form shows of an engine."""
    return BuildForm.shown(engine) | {"firing_order": "-".join(map(str, engine.firing_order))}
