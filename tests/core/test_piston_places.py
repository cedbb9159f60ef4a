"""Which piston in which bore: against every order there is."""

from itertools import permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.plans.piston_places import least_spread
from tests.making import thou

DECKS = st.lists(st.integers(-10, 20).map(thou), min_size=2, max_size=5)


@settings(max_examples=60)
@given(DECKS, st.data())
def test_no_other_order_has_less_spread(decks, data):
    heights = data.draw(
        st.lists(st.integers(0, 8).map(lambda n: 40 + thou(n)), min_size=len(decks), max_size=len(decks))
    )
    numbers = range(1, len(decks) + 1)
    found = least_spread(dict(zip(numbers, decks, strict=True)), dict(zip(numbers, heights, strict=True)), [numbers])
    bores = [deck + height for deck, height in zip(decks, heights, strict=True)]
    every = []
    for order in permutations(heights):
        left = [bore - height for bore, height in zip(bores, order, strict=True)]
        every.append(max(left) - min(left))
    assert found.after_mm == pytest.approx(min(every), abs=1e-9)
    assert sorted(found.moves.values()) == list(numbers)
    left = found.decks_mm.values()
    assert max(left) - min(left) == pytest.approx(found.after_mm)


def test_a_tall_piston_in_a_deep_bore_evens_both():
    found = least_spread({1: thou(5), 2: thou(9)}, {1: 40 + thou(4), 2: 40.0}, [[1, 2]])
    # b is 9 in both bores: they cannot be evened, so nothing is moved.
    assert found.swaps == {}
    found = least_spread({1: thou(1), 2: thou(9)}, {1: 40 + thou(4), 2: 40.0}, [[1, 2]])
    assert found.swaps == {1: 2, 2: 1}
    assert (found.before_mm, found.after_mm) == pytest.approx((thou(8), 0.0), abs=1e-9)


def test_pistons_stay_in_their_bank_and_what_is_not_read_is_refused():
    decks, heights = {1: 0.0, 2: 0.3, 3: 0.0, 4: 0.3}, {1: 40.2, 2: 40.0, 3: 40.0, 4: 40.1}
    found = least_spread(decks, heights, [[1, 3], [2, 4]])
    assert all((bore in (1, 3)) == (piston in (1, 3)) for bore, piston in found.moves.items())
    for wrong in ({5: 40.0}, {1: 3.0}):
        with pytest.raises(FaultsError):
            least_spread(decks, wrong, [[1, 3], [2, 4]])
