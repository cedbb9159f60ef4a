"""A build started from a quick check, whose reading is its first entry."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from django.http import HttpRequest, QueryDict

from mockup.base.stations import Station
from mockup.quantity.shown import bench_text
from mockup.quick.check import Quick
from mockup.quick.valve import QuickCheck
from mockup.readings.kinds import READING_KINDS
from web.builds import services
from web.builds.models import Build
from web.quick.views import quick_form
from web.shops.models import Person


@dataclass(frozen=True)
class Begun:
    """The quick check a build starts from, and its address."""

    check: Quick
    address: str
    typed: Mapping[str, str]

    @property
    def station(self) -> Station:
        """The station of its reading."""
        _, reading = next(iter(self.check.kept("A")))
        return READING_KINDS.of(type(reading)).station

    @property
    def words(self) -> str:
        """What was read, in one line."""
        check = self.check
        if isinstance(check, QuickCheck):
            read = bench_text(check.read_mm, check.unit)
            return f"{check.side} valve, {check.used}: {read}; gasket: {check.under}"
        return ", ".join(f"{name.rpartition('_')[0]} {self.typed.get(name, '')}" for name, _ in check.kept("A"))


UNREAD = "The quick check cannot be read: {address}. Start again to continue without it."


def begun_from(request: HttpRequest) -> tuple[Begun | None, str]:
    """Return the quick check in a request to start a build, or why it cannot be read."""
    address = request.POST.get("quick") or request.GET.get("quick", "")
    if not address:
        return None, ""
    asked = QueryDict(address)
    form = quick_form(asked, asked.get("what", "valve"))
    if form.is_bound and form.is_valid() and isinstance(form.item, Quick):
        return Begun(form.item, address, {name: str(asked[name]) for name in asked}), ""
    return None, UNREAD.format(address=address[:200])


def keep(begun: Begun, build: Build, by: Person) -> None:
    """Write the reading into the new build's log, and the final gasket, if stated."""
    check, letter = begun.check, ""
    if check.mockup:
        letter = services.save_mockup(build, by, replace(check.mockup, key="")).letter
    if check.final:
        services.write(build, check.final, by)
    for name, reading in check.kept(letter):
        services.write(build, reading, by, typed=begun.typed.get(name, ""))
