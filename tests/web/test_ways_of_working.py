"""Twenty-one builders, from "Begin a build" to an answer, each with their own readings."""

from dataclasses import dataclass, field
from typing import Any

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.base.topics import Topic
from tests.web import words
from tests.web.forms import PLAIN_MOCKUP
from web.builds.models import Build

BEGIN = {
    "name": "Tern", "unit": "in", "deck_sign": "down-positive", "limits": "street", "layout": "inline",
    "numbering": "alternate", "cylinders": "4", "intake_count": "1", "exhaust_count": "1",
    "intake_relief": "parallel", "exhaust_relief": "parallel",
}  # fmt: skip


@dataclass
class Way:
    """One way of working: what is begun, what is typed where, and what stands at the end."""

    topics: list[Topic]
    begin: dict[str, str] = field(default_factory=dict)
    typed: list[tuple[str, dict[str, str]]] = field(default_factory=list)
    says: list[tuple[str, list[str]]] = field(default_factory=list)


def stood(**conditions: str) -> tuple[str, dict[str, str]]:
    torqued = {"bolts": "torqued"} if conditions.get("gasket_state") == "final" else {}
    return "mock-up", PLAIN_MOCKUP | torqued | conditions


def clayed(cylinder: int, intake: str = "", exhaust: str = "", **more: str) -> tuple[str, dict[str, str]]:
    fields = {"clay-intake-1-face-0": intake, "clay-exhaust-1-face-0": exhaust} | more
    return f"clay?cylinder={cylinder}", {name: text for name, text in fields.items() if text}


def swept(cylinder: int, side: str, **angles: str) -> tuple[str, dict[str, str]]:
    return f"sweep?cylinder={cylinder}&valve={side}-1", {name.replace("_", "-"): text for name, text in angles.items()}


def decks(*typed: str) -> tuple[str, dict[str, str]]:
    return "deck", {f"deck-{cylinder}": text for cylinder, text in enumerate(typed, start=1)}


def gasket(compressed: str, bore: str = "") -> tuple[str, dict[str, str]]:
    return "stack", {"gasket": "1", "compressed_mm": compressed, "bore_mm": bore}


EIGHT = {"layout": "vee", "cylinders": "8"}

WAYS = {
    "deck by bridge on eight crowns": Way(
        [Topic.DECK],
        EIGHT,
        [
            decks("5 down", "4.5 down", "6 down", "5 down", "5.5 down", "4 down", "5 down", "6 down"),
            gasket("36"),
        ],
        [
            ("deck", ["6 down"]),
            ("verdict", ["Quench 6", "40 ±2", "Not asked for: valve clearance, compression ratio, pushrods"]),
            ("stack", ["Gasket to order:"]),
        ],
    ),
    "pushrod by turns, about 60 of preload": Way(
        [Topic.PUSHRODS],
        EIGHT,
        [
            stood(),
            ("pushrods", {"closed": "6.800", "rod-intake-1": "11.5 turns"}),
            ("pushrods", {"choice": "1", "lifter": "hydraulic", "aim_mm": "60", "step_mm": "50"}),
        ],
        [("pushrods", ["7.375 ±", "7.435", "7.450"]), ("verdict", ["Choose the pushrods"])],
    ),
    "one cut of clay a valve, gasket reused": Way(
        [Topic.VALVES],
        {},
        [stood(gasket_state="same, used"), clayed(1, "97", "121"), clayed(2, "99", "118")],
        [("clay", ["97 ±", "clear"]), ("verdict", ["Clear in all that was asked: 4 of 4", "Not asked for: deck"])],
    ),
    "indicator at 0 and 5 degrees only": Way(
        [Topic.VALVES],
        {},
        [stood(gasket_state="final", bolts="torqued"), swept(1, "intake", sweep_0="190", sweep_5="171")],
        [
            ("sweep?cylinder=1&valve=intake-1", ["One or two angles", "clear"]),
            ("verdict", ["1 of 8 checks clear", "not read: Intake 2"]),
        ],
    ),
    "dome piston, soft dough, plug and pads": Way(
        [Topic.VALVES, Topic.DECK],
        {"cylinders": "1"},
        [
            stood(gasket_state="final", clay="dough"),
            clayed(1, "104", "133", **{"head-plug": "88", "head-pad": "47", "head-dome": "131"}),
        ],
        [("clay", ["Plug 1", "Dome 1", "springs back"]), ("verdict", ["Quench 1", "47 ±"])],
    ),
    "one push at the smallest place, metal to metal": Way(
        [Topic.VALVES],
        {"cylinders": "2", "layout": "flat"},
        [stood(gasket_state="none"), swept(1, "intake", sweep_turning="66", turned="0"), gasket("41")],
        [("sweep?cylinder=1&valve=intake-1", ["smallest found by turning", "106"])],
    ),
    "zero deck by feelers and caliper, with rock": Way(
        [Topic.DECK],
        {"cylinders": "2"},
        [
            ("deck", {"deck-1": "zero", "deck-2": "goes 1 not 2 down", "instrument": "feelers"}),
            (
                "deck",
                {
                    "instrument": "depth-rod",
                    "edge-1-thrust-thrust": "2 down",
                    "edge-1-thrust-other": "3 out",
                },
            ),
            gasket("39"),
        ],
        [("deck", ["zero", "1.5 down"]), ("verdict", ["Quench 1", "39 ±"])],
    ),
    "clay, and how much more lift": Way(
        [Topic.VALVES],
        {"cylinders": "2"},
        [stood(gasket_state="final"), clayed(1, "131", "152"), clayed(2, "128", "149")],
        [("verdict", ["+48", "+49", "Clear in all that was asked"])],
    ),
    "milled head and block": Way(
        [Topic.VALVES],
        {"cylinders": "2"},
        [
            stood(gasket_state="final"),
            clayed(1, "112", "131"),
            ("stack", {"change": "1", "kind": "deck cut", "front_mm": "5", "rear_mm": "5"}),
            ("stack", {"change": "1", "kind": "head cut", "front_mm": "15", "rear_mm": "15"}),
            ("stack", {"done": "change-first"}),
            ("stack", {"done": "change-last"}),
        ],
        [("verdict", ["92 ±", "Clay again"])],
    ),
    "valves that hit, then a sweep by the degree": Way(
        [Topic.VALVES],
        {"cylinders": "1"},
        [
            stood(gasket_state="final"),
            clayed(1, "0"),
            stood(gasket_state="final", bolts="torqued", head="reliefs cut"),
            swept(1, "intake", **{f"sweep_{at}": str(60 + (at - 9) ** 2 // 2) for at in range(4, 15)}),
        ],
        [("clay", ["touches"]), ("sweep?cylinder=1&valve=intake-1", ["closest", "ATDC"])],
    ),
    "no print, then one angle each side of TDC": Way(
        [Topic.VALVES],
        {"cylinders": "1"},
        [
            stood(gasket_state="final", laid_mm="200"),
            clayed(1, "no print", "no print"),
            swept(1, "intake", **{"sweep_-5": "241", "sweep_5": "222"}),
        ],
        [("clay", ["over 200"]), ("verdict", ["Clear in all that was asked"])],
    ),
    "used gasket measured, valve not touched": Way(
        [Topic.VALVES],
        {"cylinders": "1"},
        [stood(gasket_state="compressed", gasket_mm="38"), clayed(1, "over 150", "over 150"), gasket("41")],
        [("verdict", ["at least 153", "clear"])],
    ),
    "full engine, dough, exhaust half an inch": Way(
        [Topic.VALVES],
        EIGHT,
        [stood(gasket_state="same, used", clay="dough"), clayed(1, "112", "500"), clayed(2, "109", "148")],
        [("clay", ["0.5000 in", "is a lot"]), ("verdict", ["Not clear: Exhaust 1", "its sisters"])],
    ),
    "careful record on a big engine, zero lash on a solid cam": Way(
        [],
        EIGHT | {"bore_mm": "4.25", "stroke_mm": "4.0", "rod_length_mm": "6.385", "rocker_ratio": "1.7"},
        [
            stood(
                gasket_state="final",
                bolts="torqued",
                lifters="solid",
                head="left, port side",
                springs_at="cylinder 1, both valves",
                also="hardened washers, 0.120 thick\nstuds 0.9 in into the block",
            ),
            clayed(1, "124", "139"),
        ],
        [("assembly", ["As in the mock-up: hardened washers", "studs 0.9 in"]), ("clay", ["124 ±"])],
    ),
    "small single, radial too": Way(
        [Topic.VALVES],
        {"cylinders": "1", "limits": "small-single", "unit": "mm"},
        [
            stood(gasket_state="final"),
            clayed(1, "1.9", "2.6", **{"clay-intake-1-radial-0": "1.7 wall", "clay-exhaust-1-radial-0": "1.0 wall"}),
        ],
        [("clay", ["Exhaust 1 edge", "Lay the relief’s edge back by", "at the wall"])],
    ),
    "three methods on one engine": Way(
        [Topic.VALVES],
        {"cylinders": "1"},
        [
            stood(gasket_state="final", bolts="torqued"),
            clayed(1, "96", "121"),
            stood(gasket_state="final", bolts="torqued", springs="running"),
            clayed(1, "131", "152"),
            stood(gasket_state="final", bolts="torqued"),
            swept(1, "intake", sweep_0="122", sweep_5="97", sweep_10="88", sweep_15="95", sweep_20="121"),
        ],
        [("verdict", ["Beside it:", "loaded", "+7"])],
    ),
    "a bigger valve against the eyebrow, pistons reversed on purpose": Way(
        [Topic.VALVES],
        {"cylinders": "1", "limits": "street-floor", "pistons_reversed": "yes", "rocker_ratio": "1.5"},
        [
            stood(gasket_state="final", pistons="reversed"),
            clayed(1, "122", "141", **{"clay-intake-1-radial-0": "9 wall", "clay-exhaust-1-radial-0": "60"}),
        ],
        [("clay", ["Intake 1 edge", "short", "Lay the relief’s edge back by", "at the wall"])],
    ),
    "free minus compressed": Way(
        [Topic.VALVES],
        {"cylinders": "2"},
        [stood(gasket_state="snugged", gasket_mm="55"), clayed(1, "130", "305"), gasket("40")],
        [("clay", ["115 ±", "gasket as mocked up, to the final one"])],
    ),
    "separate barrels and shims by chart": Way(
        [Topic.DECK, Topic.RATIO],
        {
            "cylinders": "2",
            "layout": "flat",
            "unit": "mm",
            "separate_barrels": "yes",
            "bore_mm": "92",
            "stroke_mm": "78",
        },
        [
            decks("0.10 down", "0.12 down"),
            gasket("0", ""),
            ("volumes", {"chamber-all": "68", "piston-all": "dish 2", "known": "measured"}),
        ],
        [("stack/deck-chart?targets=8.0", ["as ranges", "down to", "0.25"])],
    ),
    "dish piston without reliefs, snugged gasket": Way(
        [Topic.VALVES],
        {"cylinders": "1", "intake_relief": "flat", "exhaust_relief": "flat"},
        [stood(gasket_state="snugged"), clayed(1, "118", "140")],
        [("clay", ["113 ±"]), ("verdict", ["Clear in all that was asked: 2 of 2"])],
    ),
    "a quench target, to order a gasket": Way(
        [Topic.DECK],
        {},
        [
            (
                "verdict",
                {"change": "1", "limit": "quench_low-quench_high", "length": "52 ± 4", "reason": "what we build to"},
            ),
            decks("11 down", "10.5 down", "11 down", "11.5 down"),
        ],
        [("stack", ["Gasket to order: 41 thou", "keeps every cylinder inside"]), ("verdict", ["56"])],
    ),
}


@pytest.mark.parametrize("name", WAYS)
def test_a_builder_gets_an_answer_by_typing_only_what_such_a_person_has(bench, member, name):
    way = WAYS[name]
    answer = bench.post(reverse("new-build"), BEGIN | way.begin | {"checking": way.topics})
    assert answer.status_code == 302, words(answer)
    with scope(shop=member.shop):
        tern = Build.objects.get(name="Tern")
    if "chart" in name:
        put_shims_on(bench)
    for at, typed in way.typed:
        answer = bench.post(address(tern, at), named(bench, tern, typed))
        assert answer.status_code == 302, f"{at} {typed}: {words(answer)}"
    for at, said in way.says:
        page = words(bench.get(address(tern, at)))
        for text in said:
            assert text in page, f"{name}, {at}: {text}\n{page}"


def address(tern: Build, at: str) -> str:
    name, _, query = at.partition("?")
    page = {"stack/deck-chart": "deck-chart"}.get(name, name)
    return reverse(page, args=[tern.pk]) + (f"?{query}" if query else "")


def named(bench: Any, tern: Build, typed: dict[str, str]) -> dict[str, str]:
    """The key of the first or the last change that was decided."""
    if not typed.get("done"):
        return typed
    lines = bench.get(reverse("stack", args=[tern.pk])).context["changes"]
    return {"done": lines[0 if typed["done"] == "change-first" else -1].key}


def put_shims_on(bench: Any) -> None:
    for thickness in ("0.25", "0.5"):
        posted = {"unit": "mm", "shim": "1", "thickness_mm": thickness, "stock": "8", "name": thickness}
        assert bench.post(reverse("shelf"), posted).status_code == 302
