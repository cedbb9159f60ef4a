"""The marks of a picture as a page sends them: points "x,y" [px], lengths as typed."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from mockup.base.faults import FaultsError, message_of
from mockup.camera.marks import LONGEST_PX, Marks, Point
from mockup.quantity.shown import plain_mm_text
from mockup.quantity.typed import LengthError, parse_dimension, parse_fine_length
from mockup.quantity.value import MM_PER_THOU, Unit, rectangular

TWO, FOUR = "two", "four"
CORNERS = {TWO: ("p0", "p1"), FOUR: ("p0", "p1", "p2", "p3")}
ENDS = ("e0", "e1")
WITHIN_MM = 0.02
"""The assumed accuracy of a length measured with a caliper, half-width."""
LABELS = {
    TWO: {"p0": "edge 1 of the reference", "p1": "edge 2 of the reference"},
    FOUR: {f"p{at}": f"corner {at + 1} of the reference" for at in range(4)},
}
LONGEST_TYPED = 40


@dataclass(kw_only=True)
class MarksForm:
    """The marks on the page: reference, marks and typed lengths; ``wrong`` by field."""

    unit: Unit
    sides: str = FOUR
    points: dict[str, Point] = field(default_factory=dict)
    reach: float = 0.0
    length: str = ""
    across: str = ""
    within: str = ""
    wrong: dict[str, str] = field(default_factory=dict)

    @property
    def names(self) -> tuple[str, ...]:
        """Return the marks, in the order they are set."""
        return (*CORNERS[self.sides], *ENDS)

    @property
    def handles(self) -> list[tuple[str, str, float, float]]:
        """Return each mark: its name, what it marks, and its place [px]."""
        labels = LABELS[self.sides] | {"e0": "one end of the slice", "e1": "the other end of the slice"}
        return [(name, labels[name], *self.points[name]) for name in self.names]

    def marks(self) -> Marks | None:
        """Return the marks as core data, or None with the reason in ``wrong``."""
        length, across = self._mm("length"), self._mm("across") if self.across.strip() and self.sides == FOUR else 0.0
        within = self._within()
        if self.wrong or length is None or across is None:
            return None
        reference = tuple(self.points[name] for name in CORNERS[self.sides])
        ends = (self.points["e0"], self.points["e1"])
        try:
            return Marks(
                reference=reference,
                ends=ends,
                reach_px=self.reach,
                length_mm=length,
                across_mm=across,
                u_mm=rectangular(within),
            )
        except FaultsError as error:
            names = {"length_mm": "length", "across_mm": "across", "u_mm": "within"}
            for fault in error.faults:
                self.wrong[names.get(fault.path, "marks")] = fault.message
            return None

    def length_as(self, marks: Marks) -> None:
        """Take the length and accuracy of the reference from some marks."""
        self.length = _length(marks.length_mm, self.unit)
        self.across = _length(marks.across_mm, self.unit) if marks.across_mm else ""
        within = marks.u_mm * math.sqrt(3)
        self.within = f"{within / MM_PER_THOU:.2f}" if self.unit is Unit.INCH else f"{within:.3f}"

    def _mm(self, name: str) -> float | None:
        text = getattr(self, name).strip()
        if not text:
            self.wrong[name] = "Type the length of the reference, as 20 mm or 0.787 in: without it there is no scale."
            return None
        try:
            return parse_dimension(text[:LONGEST_TYPED], self.unit)
        except (LengthError, FaultsError) as error:
            self.wrong[name] = message_of(error)
            return None

    def _within(self) -> float:
        if not self.within.strip():
            return WITHIN_MM
        try:
            return parse_fine_length(self.within[:LONGEST_TYPED], self.unit)
        except (LengthError, FaultsError) as error:
            self.wrong["within"] = message_of(error)
            return WITHIN_MM


def sent(data: Mapping[str, str], unit: Unit, width: int, height: int) -> MarksForm:
    """Return the form as sent; an unreadable mark is at its initial place."""
    sides = data.get("sides", "")
    form = at_first(unit, sides if sides in CORNERS else FOUR, width, height)
    for name in form.names:
        # The marks of another type of reference are not there yet.
        text = data.get(name)
        point = None if text is None else _point(text)
        if point is not None:
            form.points[name] = point
        elif text is not None:
            form.wrong["marks"] = f"“{text[:LONGEST_TYPED]}” is not a place in the picture: as 120, 340."
    text = data.get("reach")
    reach = None if text is None else _number(text)
    if reach is not None:
        form.reach = reach
    elif text is not None:
        form.wrong["marks"] = f"“{text[:LONGEST_TYPED]}” is not a number of pixels."
    for name in ("length", "across", "within"):
        setattr(form, name, data.get(name, "")[:LONGEST_TYPED])
    return form


def at_first(unit: Unit, sides: str, width: int, height: int) -> MarksForm:
    """Return the initial marks: reference on the left, slice to its right."""
    side = min(0.32 * width, 0.6 * height)
    left, top = 0.08 * width, (height - side) / 2
    if sides == FOUR:
        corners = [(left, top), (left + side, top), (left + side, top + side), (left, top + side)]
    else:
        corners = [(left + side / 2, top), (left + side / 2, top + side)]
    points = dict(zip(CORNERS[sides], corners, strict=True))
    points |= {"e0": (0.55 * width, 0.5 * height), "e1": (0.9 * width, 0.5 * height)}
    return MarksForm(unit=unit, sides=sides, points=points, reach=0.12 * width)


def as_before(marks: Marks, unit: Unit) -> MarksForm:
    """Return the form with these marks."""
    sides = FOUR if len(marks.reference) == 4 else TWO
    points = dict(zip(CORNERS[sides], marks.reference, strict=True)) | dict(zip(ENDS, marks.ends, strict=True))
    form = MarksForm(unit=unit, sides=sides, points=points, reach=marks.reach_px)
    form.length_as(marks)
    return form


def _length(mm: float, unit: Unit) -> str:
    return plain_mm_text(mm) if unit is Unit.INCH else f"{mm:g}"


def _point(text: str) -> Point | None:
    x, comma, y = text.partition(",")
    found = (_number(x), _number(y))
    return (found[0], found[1]) if comma and found[0] is not None and found[1] is not None else None


def _number(text: str) -> float | None:
    try:
        found = float(text[:24])
    except ValueError:
        return None
    return found if abs(found) <= LONGEST_PX else None
