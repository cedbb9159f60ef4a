"""A build that begins from a quick check: its reading is the first line of the book, under its own mock-up."""

from dataclasses import dataclass, replace
from typing import Any

from django import forms
from django.http import HttpRequest, QueryDict

from bench.builds import services
from bench.builds.models import Build
from bench.page.fields import LengthField, UnitFormMixin
from bench.shops.models import Person
from bench.stand.quick import QuickForm, quick_form
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.faults import FaultsError
from mockup.quantity.shown import bench_text
from mockup.quantity.value import Unit
from mockup.quick.valve import QuickCheck, Under
from mockup.reading_kinds import READING_KINDS
from mockup.stations import Station


@dataclass(frozen=True)
class Begun:
    """The quick check a build begins from, and the address it stood in."""

    check: QuickCheck
    address: str
    typed: str

    @property
    def station(self) -> Station:
        """Where its reading stands in a build."""
        return READING_KINDS.of(type(self.check.reading())).station

    @property
    def words(self) -> str:
        """The reading in one line."""
        check = self.check
        return f"{check.side} valve, {check.method}: {bench_text(check.read_mm, check.unit)}; gasket: {check.under}"


UNREAD = "The quick check this begins from cannot be read: {address}. Begin once more to go on without it."


def begun_from(request: HttpRequest) -> tuple[Begun | None, str]:
    """The quick check that a request to begin a build carries, or what is to be said of one that cannot be read."""
    address = request.POST.get("quick") or request.GET.get("quick", "")
    if not address:
        return None, ""
    form: QuickForm = quick_form(QueryDict(address))
    if form.is_bound and form.is_valid():
        return Begun(form.item, address, form.data["read_mm"]), ""
    return None, UNREAD.format(address=address[:200])


class StoodForm(UnitFormMixin, forms.Form):
    """What a build must know of the gasket, and a quick check need not: how thick it was; its bore, to choose it."""

    stood_mm = LengthField(label="Gasket when it was read", help_text="without it no other gasket can be corrected for")
    bore_mm = LengthField(
        big=True, required=False, label="Bore of the one it will run", help_text="if known: it is chosen then"
    )

    def __init__(self, begun: Begun, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.check = begun.check
        if self.check.stood_mm is not None or self.check.under is Under.NONE:
            del self.fields["stood_mm"]
        self.read_in(unit)
        if self.check.final_mm is not None:
            kept = bench_text(self.check.final_mm, self.check.unit)
            self.fields["bore_mm"].help_text = f"with it the gasket of {kept} is chosen; without, it is not kept"
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Hold them against the core; faults are shown at their fields."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.conditions, self.final = self._made(found.get("stood_mm"), found["bore_mm"])
            except FaultsError as error:
                for fault in error.faults:
                    name = "bore_mm" if fault.path == "bore_mm" else "stood_mm"
                    self.add_error(name if name in self.fields else None, fault.message)
        return found

    def _made(self, stood_mm: float | None, bore_mm: float | None) -> tuple[Any, FinalGasket | None]:
        conditions, final_mm = self.check.mockup, self.check.final_mm
        if stood_mm is not None:
            snugged = self.check.under is Under.SNUGGED
            state = GasketState.SNUGGED if snugged else GasketState.COMPRESSED
            known = conditions.gasket_known_to_mm if self.check.under is Under.USED else 0.0
            conditions = replace(conditions, gasket_state=state, gasket_mm=stood_mm, gasket_known_to_mm=known)
            final_mm = stood_mm if self.check.under in (Under.FINAL, Under.USED) else final_mm
        if bore_mm is None or final_mm is None:
            return conditions, None
        return conditions, FinalGasket(compressed_mm=final_mm, bore_mm=bore_mm)


def keep(begun: Begun, form: StoodForm, build: Build, by: Person) -> None:
    """Write the reading into the new build's book, under its mock-up; and its gasket, where it is known whole."""
    mockup = services.save_mockup(build, by, replace(form.conditions, key=""))
    if form.final:
        services.write(build, form.final, by)
    services.write(build, begun.check.reading(key="", mockup=mockup.letter), by, typed=begun.typed)
