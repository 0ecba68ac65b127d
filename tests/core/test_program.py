"""The least exposures from several sides, against every combination."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.light.presses import Button
from mallet.light.program import least_rungs, least_seconds
from mallet.terms.restoration import RampOutput

LEAST, LONGEST = 5.0, 40.0


def choices_of(button: Button) -> list[tuple[float, float]]:
    """Return each time that presses add up to and the most that any of them stand for at full output, by
    plain enumeration of how often each is pressed."""
    counts = [range(int(LONGEST // s) + 1) for s in button.steps_s]
    most: dict[float, float] = {}
    for some in itertools.product(*counts):
        pressed = list(zip(some, button.steps_s, strict=True))
        t, full = sum(n * s for n, s in pressed), sum(n * button.full_s(s) for n, s in pressed)
        most[t] = max(most.get(t, 0.0), full)
    return sorted((t, full) for t, full in most.items() if t == 0 or (full >= LEAST and t <= LONGEST))


@given(
    field=st.lists(st.lists(st.floats(0, 900), min_size=3, max_size=3), min_size=1, max_size=6),
    dose=st.floats(0.3, 12),
    steps=st.lists(st.sampled_from([3.0, 5.0, 10.0, 20.0]), min_size=1, max_size=3, unique=True),
    start=st.sampled_from([1.0, 0.25]),
)
@settings(max_examples=120, deadline=None)
def test_no_combination_is_shorter_and_every_point_reaches_its_dose(
    field: list[list[float]], dose: float, steps: list[float], start: float
) -> None:
    light, button = (
        np.array(field),
        Button(tuple(steps), RampOutput(kind="ramp", start_share=start, rise_s=4)),
    )
    rungs = least_rungs(light, dose, button, LEAST, LONGEST)
    choices = np.array(choices_of(button))
    # Every choice from three sides at once: indices (C, 3).
    every = np.array(list(itertools.product(range(len(choices)), repeat=3)))
    reached = (choices[every, 1] @ light.T / 1000 >= dose - 1e-9).all(axis=1)
    if rungs is None:
        assert not reached.any()
        return
    seconds = sum(rung.seconds for rung in rungs)
    assert seconds == pytest.approx(choices[every, 0].sum(axis=1)[reached].min())
    assert (light @ [rung.full_s for rung in rungs] / 1000 >= dose - 1e-6).all()
    # Whole presses never are less than what the linear program wants.
    least_s = least_seconds(light, dose, LONGEST)
    assert least_s
    assert sum(least_s) <= seconds + 1e-6
    assert (light @ least_s / 1000 >= dose - 1e-6).all()
    for rung in rungs:
        assert set(rung.presses) <= set(steps)
        assert rung.seconds == sum(rung.presses)
        assert rung.full_s == pytest.approx(sum(map(button.full_s, rung.presses)))


def test_light_from_more_sides_is_never_longer() -> None:
    light = np.array([[200.0, 30.0, 0.0], [40.0, 220.0, 210.0], [45.0, 10.0, 260.0]])
    one = least_rungs(light[:, :1], 1.0, Button((5, 10, 20)), LEAST, LONGEST)
    three = least_rungs(light, 1.0, Button((5, 10, 20)), LEAST, LONGEST)
    assert one
    assert three
    assert sum(rung.seconds for rung in three) < sum(rung.seconds for rung in one)


def test_what_cannot_be_lit_has_no_program() -> None:
    light = np.array([[300.0, 100.0], [10.0, 5.0]])
    assert least_rungs(light, 2.0, Button((10,)), LEAST, LONGEST) is None
    assert least_rungs(light, 0.1, Button((60,)), LEAST, LONGEST) is None
    assert least_seconds(light, 2.0, LONGEST) is None
