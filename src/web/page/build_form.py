"""The form of a build: its engine as designed and how its log is kept.

Starts builds and changes them.
"""

import json
from typing import Any

from django import forms

from mockup.base.topics import EVERYTHING, Topic
from mockup.engine.block import MOST_CYLINDERS, Engine, Layout, Numbering
from mockup.engine.valves import Relief, Side
from mockup.limits.schools import READY_MADE
from mockup.quantity.typed import LengthError, parse_firing_order
from mockup.quantity.value import DeckSign, Unit
from web.builds.models import Build
from web.page.record_form import FieldWords, RecordForm

UNITS = [(Unit.INCH, "inches and thou"), (Unit.MILLIMETRE, "millimetres")]
SIGNS = [
    (DeckSign.DOWN_POSITIVE, "down is +"),
    (DeckSign.OUT_POSITIVE, "out is +"),
]
LIMIT_SETS = [(limits.key, limits.title) for limits in READY_MADE.values()]
USUAL = "empty: the usual, 0.02 mm (0.0008 in)"
IF_KNOWN = "if known"
FOR_THE_RATIO = "if known; a ratio needs it"
OF_THE_BUILD = ("name", "subtitle", "checking", "unit", "deck_sign", "limits")
"""Fields of the build that are not of its engine."""
FIRST = ("name", "subtitle", "layout", "cylinders", "intake_count", "exhaust_count", "unit", "limits")
DOUBT = "_known_to_mm"


def _valves(side: str) -> dict[str, FieldWords]:
    return {
        f"{side}_count": FieldWords(label=f"{side.capitalize()} valves a cylinder"),
        f"{side}_angle_deg": FieldWords(label="Angle to the bore, °", help_text="0 is upright; empty: not stated"),
        f"{side}_cant_deg": FieldWords(label="Cant across it, °"),
        f"{side}_relief": FieldWords(
            label="Faces", words={Relief.PARALLEL: "parallel relief", Relief.FLAT: "flat crown"}
        ),
        f"{side}_diameter_mm": FieldWords(
            label="Head diameter", help_text="for the drawing", big=True, shown_empty=True
        ),
    }


LIKE: dict[str, dict[str, str]] = {
    "single": {"layout": "inline", "cylinders": "1"},
    "flat twin": {"layout": "flat", "cylinders": "2"},
    "inline four": {"layout": "inline", "cylinders": "4"},
    "twin-cam four, 16 valves": {"layout": "inline", "cylinders": "4", "intake_count": "2", "exhaust_count": "2"},
    "inline six": {"layout": "inline", "cylinders": "6"},
    "vee eight": {"layout": "vee", "cylinders": "8"},
}
"""Usual layouts, and what they fill in: only numbers of parts and their arrangement."""
ONE_EACH = {"intake_count": "1", "exhaust_count": "1"}


def usual_layouts() -> dict[str, str]:
    """Return the fields filled in by each usual layout, as JSON."""
    return {words: json.dumps(ONE_EACH | filled) for words, filled in LIKE.items()}


class BuildForm(RecordForm):
    """All fields of a build. Lengths are read in the unit chosen in the same form."""

    CORE = Engine
    FIELD_WORDS = {
        "layout": FieldWords(label="Layout", words={Layout.INLINE: "inline", Layout.VEE: "vee", Layout.FLAT: "flat"}),
        "cylinders": FieldWords(label="Cylinders"),
        "numbering": FieldWords(
            label="Numbering",
            words={Numbering.ALTERNATE: "odd and even banks", Numbering.BY_BANK: "bank by bank"},
        ),
        "bore_mm": FieldWords(label="Bore", help_text=FOR_THE_RATIO, big=True),
        "stroke_mm": FieldWords(label="Stroke", help_text=FOR_THE_RATIO, big=True),
        "rod_length_mm": FieldWords(label="Rod length", help_text=IF_KNOWN, big=True),
        "bore_known_to_mm": FieldWords(label="Bore known to, ±", help_text=USUAL, fine=True, shown_empty=True),
        "stroke_known_to_mm": FieldWords(label="Stroke known to, ±", help_text=USUAL, fine=True, shown_empty=True),
        "rod_length_known_to_mm": FieldWords(
            label="Rod known to, ±", help_text="empty: the same", fine=True, shown_empty=True
        ),
        "pin_offset_mm": FieldWords(label="Pin offset, + to the thrust side", signed=True),
        "rocker_ratio": FieldWords(
            label="Rocker ratio", help_text="if known; 1 where a follower acts straight on the valve"
        ),
        "firing_order": FieldWords(label="Firing order"),
        "bore_spacing_mm": FieldWords(
            label="Bore to bore", help_text="if known; for the deck’s slope", big=True, shown_empty=True
        ),
        "separate_barrels": FieldWords(
            label="Barrels", words={False: "one deck a bank", True: "separate barrels on base shims"}
        ),
        "pistons_reversed": FieldWords(
            label="Pistons",
            words={False: "the right way round", True: "reversed, as it will run"},
            help_text="reversed on purpose; a mistake belongs to the mock-up",
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
        help_text="choose any; none ticked means everything",
        required=False,
    )
    unit = forms.ChoiceField(choices=UNITS, label="Kept in")
    deck_sign = forms.ChoiceField(choices=SIGNS, label="Deck signs")
    limits = forms.ChoiceField(choices=LIMIT_SETS, label="Limits")
    firing_order = forms.CharField(
        max_length=60, label="Firing order", required=False, help_text="as 1-5-3-6-2-4, if known"
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["cylinders"] = forms.IntegerField(label="Cylinders", min_value=1, max_value=MOST_CYLINDERS)
        self.order_fields([*OF_THE_BUILD, *self.FIELD_WORDS])
        asked = str(self.data.get("unit") or self.initial.get("unit") or Unit.INCH)
        self.read_in(Unit(asked) if asked in list(Unit) else Unit.INCH)
        self.dress()

    def clean_firing_order(self) -> tuple[int, ...]:
        """Return the cylinders in firing order."""
        try:
            return parse_firing_order(self.cleaned_data["firing_order"])
        except LengthError as error:
            raise forms.ValidationError(str(error)) from error

    def for_record(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return the engine's fields; the firing order was read already."""
        return super().for_record(found) | {"firing_order": found["firing_order"]}

    def clean_checking(self) -> tuple[Topic, ...]:
        """Return what it is checked for, in working order; all ticked is the same as none."""
        chosen = self.cleaned_data["checking"]
        return () if set(chosen) == EVERYTHING else tuple(topic for topic in Topic if topic in chosen)

    @property
    def first(self) -> list[forms.BoundField]:
        """Return the fields every build begins with."""
        return [self[name] for name in FIRST]

    @property
    def block(self) -> list[forms.BoundField]:
        """Return the optional fields of block, crank and rods."""
        own = [name for name in self.fields if name not in FIRST and name != "checking"]
        return [self[name] for name in own if not name.startswith(tuple(Side)) and not name.endswith(DOUBT)]

    @property
    def of_intake(self) -> list[forms.BoundField]:
        """Return the optional fields of the intake valves."""
        return self._of(Side.INTAKE)

    @property
    def of_exhaust(self) -> list[forms.BoundField]:
        """Return the optional fields of the exhaust valves."""
        return self._of(Side.EXHAUST)

    def _of(self, side: Side) -> list[forms.BoundField]:
        return [self[name] for name in self.fields if name.startswith(f"{side}_") and name not in FIRST]

    @property
    def doubts(self) -> list[forms.BoundField]:
        """Return the fields for the accuracy of its sizes."""
        return [self[name] for name in self.fields if name.endswith(DOUBT)]

    @property
    def opened(self) -> bool:
        """Return whether the optional part is open: for an existing build, or with a fault in it."""
        asked = {*FIRST, "checking", "__all__"}
        return (
            "name" in self.initial
            or bool(self.initial.get("bore_mm"))
            or any(name not in asked for name in self.errors)
        )

    @property
    def doubts_opened(self) -> bool:
        """Return whether an accuracy has a fault."""
        return any(field.errors for field in self.doubts)

    @property
    def of_the_build(self) -> dict[str, Any]:
        """Return the values that are of the build and not of its engine."""
        return {name: self.cleaned_data[name] for name in OF_THE_BUILD}


def initial_of(build: Build) -> dict[str, Any]:
    """Return the form's initial values for a build."""
    return initial_of_engine(build.engine) | {name: getattr(build, name) for name in OF_THE_BUILD}


def initial_of_engine(engine: Engine) -> dict[str, Any]:
    """Return the form's initial values for an engine."""
    return BuildForm.shown(engine) | {"firing_order": "-".join(map(str, engine.firing_order))}
