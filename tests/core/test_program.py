"""The least exposures from several sides, against every combination."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.light.program import least_program

LEAST, LONGEST = 5.0, 40.0


def sums_of(steps: list[float]) -> list[float]:
    """Return none and every length that presses can add up to, by plain enumeration."""
    counts = [range(int(LONGEST // s) + 1) for s in steps]
    sums = {sum(n * s for n, s in zip(some, steps, strict=True)) for some in itertools.product(*counts)}
    return sorted(t for t in sums if t == 0 or LEAST <= t <= LONGEST)


@given(
    field=st.lists(st.lists(st.floats(0, 900), min_size=3, max_size=3), min_size=1, max_size=6),
    dose=st.floats(0.3, 12),
    steps=st.lists(st.sampled_from([3.0, 5.0, 10.0, 20.0]), min_size=1, max_size=3, unique=True),
)
@settings(max_examples=120, deadline=None)
def test_no_combination_is_shorter_and_every_point_reaches_its_dose(
    field: list[list[float]], dose: float, steps: list[float]
) -> None:
    light = np.array(field)
    found = least_program(light, dose, steps, LEAST, LONGEST)
    enough = [
        times
        for times in itertools.product(sums_of(steps), repeat=3)
        if (light @ np.array(times) / 1000 >= dose - 1e-9).all()
    ]
    if found is None:
        assert not enough
        return
    assert sum(found.seconds) == pytest.approx(min(map(sum, enough)))
    assert (light @ np.array(found.seconds) / 1000 >= dose - 1e-6).all()
    # Whole presses never are less than what the linear program wants.
    assert sum(found.least_s) <= sum(found.seconds) + 1e-6
    assert (light @ np.array(found.least_s) / 1000 >= dose - 1e-6).all()
    assert all(set(one) <= set(steps) for one in found.presses)


def test_light_from_more_sides_is_never_longer() -> None:
    light = np.array([[200.0, 30.0, 0.0], [40.0, 220.0, 210.0], [45.0, 10.0, 260.0]])
    one = least_program(light[:, :1], 1.0, [5, 10, 20], LEAST, LONGEST)
    three = least_program(light, 1.0, [5, 10, 20], LEAST, LONGEST)
    assert one
    assert three
    assert sum(three.seconds) < sum(one.seconds)


def test_what_cannot_be_lit_has_no_program() -> None:
    light = np.array([[300.0, 100.0], [10.0, 5.0]])
    assert least_program(light, 2.0, [10], LEAST, LONGEST) is None
    assert least_program(light, 0.1, [60], LEAST, LONGEST) is None
