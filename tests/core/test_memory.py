"""What a shop remembers, held against random benches of known truth."""

from dataclasses import replace

import numpy as np
import pytest

from mockup.engine.parts import PART_U_MM, PartsDiffer
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.memory.shop_memory import (
    FEWEST_FREEDOM,
    Squares,
    facts_of,
    part_scatter,
    part_squares,
    repeats_of,
    repeats_within,
)
from mockup.readings.record import Record
from tests.making import clay, deck, engine, job, short_eight, thou


def a_build(rng, part_mm, read_mm, cylinders=6):
    """Six cylinders whose parts differ, their valves read three times each."""
    decks = tuple(deck(at, float(rng.normal(5, 2))) for at in range(1, cylinders + 1))
    slices = []
    for at in range(1, cylinders + 1):
        for side in Side:
            truth = 2.6 + decks[at - 1].clearance_mm + rng.normal(0, part_mm)
            for which in range(3):
                read = truth + rng.normal(0, read_mm)
                slices.append(clay(1, at, side, key=f"{side}-{at}-{which}", thickness_mm=float(read), spot="middle"))
    return evaluate(job(engine=engine(cylinders=cylinders), deck=decks, clay=tuple(slices), volumes=()))


@pytest.mark.parametrize("part_mm", [0.03, 0.08, 0.2])
@pytest.mark.parametrize("read_mm", [0.005, 0.05])
def test_over_many_builds_the_scatter_of_parts_is_found_and_never_promised_less(part_mm, read_mm):
    rng = np.random.default_rng(7)
    sums = sum((part_squares(a_build(rng, part_mm, read_mm)) for _ in range(60)), Squares())
    assert sums.freedom == 60 * 2 * 5
    found = part_scatter(sums)
    # What the repeats at this bench scatter by themselves is taken off.
    assert 0.93 * part_mm < found.u_mm < 1.10 * part_mm


def test_of_few_cylinders_nothing_is_offered_and_of_some_it_leans_on_what_is_usual():
    assert part_scatter(Squares(0.5, FEWEST_FREEDOM - 1)) is None
    assert part_scatter(Squares(0.0, 6)).u_mm == pytest.approx(PART_U_MM * (4 / 10) ** 0.5)


def repeated(rng, sigma, count):
    decks = tuple(
        deck(cylinder, 0, key=f"{by}-{cylinder}-{at}", clearance_mm=float(rng.normal(0.1, sigma)), record=Record(by=by))
        for cylinder in (1, 2)
        for by in ("Ottoline", "Rosalind")
        for at in range(count)
    )
    return job(deck=decks)


def test_how_an_instrument_repeats_is_told_by_person_and_close_to_the_truth():
    rng = np.random.default_rng(3)
    found = [one for _ in range(40) for one in repeats_of(repeated(rng, 0.012, 3))]
    assert {(one.instrument, one.by) for one in found} == {("bridge", "Ottoline"), ("bridge", "Rosalind")}
    squares, freedom = sum(one.squares for one in found), sum(one.freedom for one in found)
    assert freedom == 40 * 2 * 2 * 2
    assert repeats_within(squares, freedom) == pytest.approx(0.012, rel=0.1)
    assert repeats_within(1.0, 3) is None
    # Of few repeats it leans on what the instrument is said to: four readings' worth (scaled inverse chi-square).
    assert repeats_within(4 * 0.001**2, 4, 0.0127) == pytest.approx(((4 * 0.0127**2 + 4 * 0.001**2) / 8) ** 0.5)


def test_other_places_other_edges_struck_lines_and_unnamed_slices_are_no_repeats():
    by = Record(by="Ottoline")
    decks = (deck(1, 4, key="a", record=by), deck(1, 5, key="b", record=replace(by, struck="typed wrong")))
    decks += (deck(2, 4, key="c", record=by), deck(2, 5, key="d", record=by, shims_mm=0.5))
    slices = tuple(clay(count, key=str(count), record=by) for count in (90, 95, 99))
    assert repeats_of(job(deck=decks, clay=slices)) == []
    named = tuple(replace(one, spot="toward the plug") for one in slices)
    (one,) = repeats_of(job(deck=(), clay=named))
    assert (one.freedom, one.squares) == (
        2,
        pytest.approx(sum(thou(d) ** 2 for d in (-14 / 3, 1 / 3, 13 / 3)), rel=1e-6),
    )


def test_the_facts_of_a_build_are_plain_data_of_how_it_stood():
    report = evaluate(short_eight())
    facts = facts_of(report)
    assert facts["layout"] == "inline"
    assert len(facts["decks"]) == 8
    assert facts["closest"][0]["left"] == min(c.margin for c in report.checks if c.figure and c.limit.is_set)
    assert all(set(one) == {"label", "value", "U", "left", "state", "length"} for one in facts["closest"])


def test_what_is_chosen_of_parts_is_what_valves_not_read_are_inferred_with():
    found = job(engine=engine(cylinders=2), clay=(clay(95),))

    def u_of(given):
        (unread,) = [check for check in evaluate(given).checks if check.label == "Intake 2"]
        return unread.inferred.figure.u

    usual, wide = u_of(found), u_of(replace(found, parts_differ=PartsDiffer(u_mm=0.2)))
    assert wide**2 - usual**2 == pytest.approx(2 * (0.2**2 - PART_U_MM**2))
