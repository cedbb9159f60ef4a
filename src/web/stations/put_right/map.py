"""The map: two levers at once, and a point of it taken as the what-if."""

from typing import Any
from urllib.parse import urlencode

from django import forms
from django.http import HttpRequest
from django.urls import reverse

from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever
from mockup.plans.room import levers_of
from mockup.plans.room_map import RoomMap, room_map
from mockup.quantity.value import Unit
from web.drawings.room_chart import room_chart
from web.page.build_page import BuildPage
from web.stations.put_right.typed_lever import amount_words, outward, step_of, typed_lever


class MapForm(forms.Form):
    """Which two levers are changed."""

    def __init__(self, levers: tuple[Lever, ...], data: Any = None) -> None:
        self.levers = {_key(lever): lever for lever in levers}
        super().__init__(data)
        choices = [(key, str(lever)[:1].upper() + str(lever)[1:]) for key, lever in self.levers.items()]
        for name, label in (("across", "Across"), ("up", "Upward")):
            self.fields[name] = forms.ChoiceField(choices=choices, label=label, required=False)
            self.fields[name].widget.attrs["class"] = "form-select"

    def pair(self) -> tuple[Lever, Lever]:
        """Return the two levers asked for; the usual ones for an empty or invalid query."""
        across, up = self._usual()
        if self.is_bound and self.is_valid():
            across = self.levers.get(self.cleaned_data["across"], across)
            up = self.levers.get(self.cleaned_data["up"], up)
        if across == up:
            up = next(lever for lever in self.levers.values() if lever != across)
        self.initial = {"across": _key(across), "up": _key(up)}
        self.data = self.initial
        return across, up

    def _usual(self) -> tuple[Lever, Lever]:
        """Return advance by gasket where both can be moved, else the first two levers."""
        every = list(self.levers.values())
        by_kind = {lever.kind: lever for lever in reversed(every)}
        across = by_kind.get(CAM_MOVED, every[0])
        up = by_kind.get(GASKET_CHANGED, every[1])
        return (across, up) if across != up else (every[0], every[1])


def _key(lever: Lever) -> str:
    return f"{lever.kind.slug}{f'-{lever.side}' if lever.side else ''}"


def _axis(lever: Lever) -> str:
    """Return a lever's axis label; for the cam with its positive direction."""
    return f"{lever} (+ advances)" if lever.kind is CAM_MOVED else str(lever)


def parts_of_the_map(request: HttpRequest, page: BuildPage, many: Batch) -> tuple[dict[str, Any], str]:
    """Return the map of two levers, and the what-if of a chosen point, empty where none was."""
    asked = {name: request.GET[name] for name in ("across", "up") if name in request.GET}
    form = MapForm(levers_of(page.report.job), asked or None)
    across, up = form.pair()
    found = room_map(many, across, up)
    picked = _picked(page, found, request.GET["at"]) if found and "at" in request.GET else ""
    parts: dict[str, Any] = {
        "map_form": form,
        "names": (str(across), str(up)),
        "axes": (_axis(across), _axis(up)),
    }
    return parts | (_told(page, found) if found else {}), picked


def _told(page: BuildPage, found: RoomMap) -> dict[str, Any]:
    unit = page.unit
    here = found.nearest == (0.0, 0.0)
    parts: dict[str, Any] = {"chart": room_chart(found, unit, amount_words), "clear_now": here, "any": found.nearest}
    parts["pick"] = f"{reverse('explore', args=[page.build.pk])}?{urlencode(_query(found))}"
    if found.nearest and not here:
        x, y = _outside(found, unit)
        typed = typed_lever(page.report, found.across, x) | typed_lever(page.report, found.up, y)
        parts["nearest_words"] = " with ".join(
            f"{lever} {amount_words(lever, amount, unit)}"
            for lever, amount in ((found.across, x), (found.up, y))
            if amount
        )
        parts["nearest_address"] = f"{reverse('put-right', args=[page.build.pk])}?{urlencode(typed)}"
    parts["edges"] = [edge.check.label for edge in found.edges()]
    return parts


def _outside(found: RoomMap, unit: Unit) -> tuple[float, float]:
    assert found.nearest
    x, y = (
        outward(amount, step_of(lever, unit)) if amount else 0.0
        for lever, amount in zip((found.across, found.up), found.nearest, strict=True)
    )
    return x, y


def _query(found: RoomMap) -> dict[str, str]:
    return {"across": _key(found.across), "up": _key(found.up)}


def _picked(page: BuildPage, found: RoomMap, text: str) -> str:
    """Return the what-if of a point of the map by column and row, ``12-30``; empty if invalid."""
    column, _, row = text.partition("-")
    if not (column.isdecimal() and row.isdecimal() and len(text) < 9):
        return ""
    if int(column) >= len(found.x) or int(row) >= len(found.y):
        return ""
    unit = page.unit
    amounts = []
    for lever, value in ((found.across, float(found.x[int(column)])), (found.up, float(found.y[int(row)]))):
        step = step_of(lever, unit)
        amounts.append(round(round(value / step) * step, 6))
    typed = typed_lever(page.report, found.across, amounts[0]) | typed_lever(page.report, found.up, amounts[1])
    return f"{reverse('put-right', args=[page.build.pk])}?{urlencode(typed)}"
