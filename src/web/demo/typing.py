"""Enter demo builds as a person types, by the pages' reading and writing."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, TypeVar

from django.utils import timezone

from mockup.camera.marks import Marks
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.valves import Place, Side
from mockup.quantity.typed import parse_bench_length, parse_piston, parse_volume
from mockup.quantity.typed_angle import parse_crank_angle
from mockup.quantity.typed_deck import parse_deck_reading
from mockup.quantity.typed_train import Checker, parse_pushrod, parse_wipe
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.deck import CrownSpot, DeckReading, Pushed
from mockup.readings.instruments import INDICATOR
from mockup.readings.pushrods import PushrodReading, WipeReading
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from mockup.readings.volumes import VolumePart, VolumeReading
from web.builds import services
from web.builds.models import Build, Entry, MockUp
from web.pictures import services as pictures
from web.pictures.models import Picture
from web.pictures.services import Taken
from web.shops.models import Person

ClaySheet = Mapping[tuple[int, Side], tuple[Sequence[str], Sequence[str]]]
"""By cylinder and side: face thicknesses, edge gaps, as typed."""


Row = TypeVar("Row", MockUp, Entry | None)
BETWEEN_LINES = timedelta(seconds=95)


class Typist:
    """People working on one build on several days.

    An entry is written now, like every entry; ``dated`` then moves the log to the days of the story.
    """

    def __init__(self, build: Build, by: Person) -> None:
        self.build, self.by = build, by
        self.unit, self.sign = Unit(build.unit), DeckSign(build.deck_sign)
        self._clock = timezone.now()
        self._rows: list[tuple[Entry | MockUp, datetime]] = []

    def sits_down(self, by: Person, days_ago: int, hour: int, minute: int) -> None:
        """Let ``by`` continue on an earlier day. Sittings follow one another."""
        self.by = by
        day = timezone.localtime() - timedelta(days=days_ago)
        self._clock = day.replace(hour=hour, minute=minute, second=12, microsecond=0)

    def dated(self) -> None:
        """Move every entry to its day and minute in the story, and the build to the first."""
        for row, at in self._rows:
            row.at = at
            row.save(update_fields=["at"])
            if isinstance(row, Entry) and row.struck_at:
                Entry.objects.filter(pk=row.pk).update(struck_at=at + BETWEEN_LINES / 2)
        if self._rows:
            Build.objects.filter(pk=self.build.pk).update(begun_at=self._rows[0][1] - BETWEEN_LINES)

    def put(self, item: Any, typed: str) -> Entry | None:
        """Write one piece of the core into the log."""
        return self._noted(services.write(self.build, item, self.by, typed=typed))

    def mockup(self, conditions: CoreMockUp) -> MockUp:
        """Save a mock-up."""
        return self._noted(services.save_mockup(self.build, self.by, conditions))

    def strikes(self, entry: Entry | None, reason: str) -> None:
        """Strike out an entry just written."""
        assert entry is not None, "nothing was written"
        services.strike(entry, self.by, reason)
        entry.refresh_from_db()

    def _noted(self, row: Row) -> Row:
        if row is not None:
            self._rows.append((row, self._clock))
            self._clock += BETWEEN_LINES
        return row

    def tdc(self, *pairs: tuple[float, float]) -> None:
        """Enter pairs of wheel readings against a stop."""
        for before, after in pairs:
            reading = TdcReading(key="", before_deg=before, after_deg=after)
            self.put(reading, f"{before:g} before, {after:g} after")

    def deck(self, cylinder: int, typed: str, **where: Any) -> None:
        """Enter one deck reading."""
        found = parse_deck_reading(typed, self.unit, self.sign)
        reading = DeckReading(
            key="", cylinder=cylinder, clearance_mm=found.mm, half_width_mm=found.half_width_mm, **where
        )
        self.put(reading, typed)

    def rocked(self, cylinder: int, thrust: tuple[str, str], other: tuple[str, str], **where: Any) -> None:
        """Enter both edges across the pin, each with the thrust edge pushed down and then the other."""
        for spot, readings in ((CrownSpot.THRUST, thrust), (CrownSpot.OTHER, other)):
            for pushed, typed in zip((Pushed.THRUST, Pushed.OTHER), readings, strict=True):
                self.deck(cylinder, typed, spot=spot, pushed=pushed, **where)

    def chamber(self, cylinder: int, *fills: str) -> None:
        """Enter fills of one chamber."""
        for typed in fills:
            self.put(VolumeReading(key="", part=VolumePart.CHAMBER, cylinder=cylinder, cc=parse_volume(typed)), typed)

    def piston(self, cylinder: int | None, typed: str) -> None:
        """Enter a piston's volume."""
        found = parse_piston(typed, self.unit)
        reading = VolumeReading(key="", part=VolumePart.PISTON, cylinder=cylinder, cc=found.cc, depth_mm=found.depth_mm)
        self.put(reading, typed)

    def degree(self, side: Side, lift: str, opening: str, closing: str) -> None:
        """Enter wheel angles at one lift on both sides of a nose, with a corrected wheel."""
        bdc = 180.0 if side is Side.INTAKE else -180.0
        reading = DegreeReading(
            key="",
            side=side,
            lift_mm=parse_bench_length(lift, self.unit),
            opening_deg=parse_crank_angle(opening, bdc),
            closing_deg=parse_crank_angle(closing, bdc),
        )
        self.put(reading, f"{side} {opening} {closing}")

    def valve(self, mockup: MockUp, place: Place, lift: str, rod: str, checker: Checker, wipe: str = "") -> None:
        """Enter what was read of a valve before the clay: lift, pushrod trials, wipe pattern."""
        mm = parse_bench_length(lift, self.unit)
        self.put(LiftReading(key="", mockup=mockup.letter, place=place, lift_mm=mm), lift)
        trial = parse_pushrod(rod, self.unit, checker)
        where: dict[str, Any] = {"key": "", "mockup": mockup.letter, "place": place}
        self.put(PushrodReading(closed_mm=trial.closed_mm, turns=trial.turns, pitch_mm=trial.pitch_mm, **where), rod)
        if wipe:
            self.put(WipeReading(**asdict(parse_wipe(wipe, self.unit)), **where), wipe)

    def sweep(self, mockup: MockUp, place: Place, first_deg: int, *typed: str, instrument: str = INDICATOR) -> None:
        """Enter clearances of one valve every five degrees from ``first_deg``, in running direction."""
        for at, text in enumerate(typed):
            reading = SweepReading(
                key="",
                mockup=mockup.letter,
                place=place,
                crank_deg=float(first_deg + 5 * at),
                clearance_mm=parse_bench_length(text, self.unit),
                instrument=instrument,
            )
            self.put(reading, text)

    def drop(self, mockup: MockUp, place: Place, typed: str) -> None:
        """Enter how far one shut valve could be pushed at firing TDC."""
        mm = parse_bench_length(typed, self.unit)
        self.put(SweepReading(key="", mockup=mockup.letter, place=place, clearance_mm=mm, drop=True), typed)

    def clay(self, mockup: MockUp, sheet: ClaySheet) -> None:
        """Enter clay of several valves."""
        for (cylinder, side), gaps in sheet.items():
            for gap, thicknesses in zip(Gap, gaps, strict=True):
                for typed in thicknesses:
                    self.clayed(mockup, Place(cylinder, side), typed, gap)

    def clayed(self, mockup: MockUp, place: Place, typed: str, gap: Gap = Gap.FACE) -> Entry | None:
        """Enter one thickness of clay under one valve."""
        mm = parse_bench_length(typed, self.unit)
        return self.put(ClayReading(key="", mockup=mockup.letter, place=place, gap=gap, thickness_mm=mm), typed)

    def by_picture(self, mockup: MockUp, place: Place, file: Path, marks: Marks, words: str) -> None:
        """Enter one thickness of clay measured in a picture, which is printed on the build sheet."""
        with file.open("rb") as opened:
            picture = pictures.keep_picture(
                self.build, self.by, opened, file.stat().st_size, words=words, mockup=mockup.letter
            )
        at = Taken(place=place, gap=Gap.FACE, mockup=mockup.letter)
        self._noted(pictures.take_reading(picture, marks, at, self.by, None))
        pictures.change(picture, on_sheet=True)
        Picture.objects.filter(pk=picture.pk).update(at=self._clock - BETWEEN_LINES * 1.5)
