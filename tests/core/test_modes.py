"""Output that is not steady: what a press gives, and plans that count it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from mallet.curing.warmth import PulpHeat, Spot
from mallet.light.heat import dentin_of
from mallet.light.presses import Button
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from mallet.terms.plan import Plan
from mallet.terms.restoration import FULL, PulsedOutput, RampOutput
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan, work

RAMP = {"kind": "ramp", "start_share": 0.3, "rise_s": 5.0}
PULSED = {"kind": "pulsed", "on_share": 0.8}


def planned(**values: object) -> Plan:
    made = plan(read_case(with_values(first_case(), **values)), points="dimmest")
    assert isinstance(made, Plan)
    return made


@given(start=st.floats(0.05, 1), rise=st.floats(0.5, 30), press=st.floats(0.5, 60))
@settings(max_examples=60, deadline=None)
def test_a_ramp_gives_the_integral_of_its_output(start: float, rise: float, press: float) -> None:
    button = Button((press,), RampOutput(kind="ramp", start_share=start, rise_s=rise))
    area, _ = quad(lambda t: min(1.0, start + (1 - start) * t / rise), 0, press, points=[min(rise, press)])
    assert button.full_s(press) == pytest.approx(area, rel=1e-6)


def test_pulses_give_their_share_and_full_output_all_of_it() -> None:
    assert Button((10.0,), PulsedOutput(kind="pulsed", on_share=0.4)).full_s(10.0) == pytest.approx(4.0)
    assert Button((10.0,), FULL).full_s(10.0) == 10.0


def test_a_long_press_beats_short_ones_that_each_begin_the_ramp_anew() -> None:
    button = Button((10.0, 20.0), RampOutput(kind="ramp", start_share=0.5, rise_s=8.0))
    # 20 s lose 2 s, twice 10 s lose 4 s (worked by hand).
    assert button.least(18.0).presses == (20.0,)
    assert button.least(16.0).presses == (20.0,)
    assert button.least(18.1).presses == (20.0, 10.0)
    assert button.least(18.1).full_s == pytest.approx(26.0)


@pytest.mark.parametrize("mode", [RAMP, PULSED])
def test_a_plan_in_another_mode_still_brings_every_dose(mode: dict[str, object]) -> None:
    steady, other = planned(), planned(light__output_mode=mode)
    assert other.totals.cure_seconds > steady.totals.cure_seconds
    for one in other.increments:
        seconds = {e.source: e.seconds for e in one.cured.exposures}
        # As anyone can reckon it again: the mean irradiance of each exposure for as long as it lasts.
        doses = [
            sum(light * seconds[source] for source, light in point.irradiance_mw_cm2.items()) / 1000
            for point in one.cured.points or []
        ]
        assert min(doses) == pytest.approx(one.cured.dose_at_worst_point_j_cm2)
        assert min(doses) >= one.cured.dose_needed_j_cm2 - 1e-9
        for exposure in one.cured.exposures:
            assert exposure.full_output_seconds < exposure.seconds == sum(exposure.presses)
    decision = next(d for d in other.decisions if d.topic == "lamp.mode")
    assert decision.reasons[0].text
    assert "lamp.mode" not in {d.topic for d in steady.decisions}
    trays = {thing for step in other.steps if step.light for thing in step.tray}
    # The adhesive is lit at full output, whatever the increments get.
    assert trays == {
        f"curing light, set to {decision.chosen.split(',')[0]}",
        "curing light, set to full output",
        "orange filter",
    }
    of_bond = {thing for step in other.steps if step.light and step.stage == "bond" for thing in step.tray}
    assert of_bond == {"curing light, set to full output", "orange filter"}
    used = {i.path: i.value for i in other.figures[0].inputs}
    assert used["restoration.light.output_mode"] == decision.chosen


def test_a_ramp_from_full_output_is_full_output() -> None:
    level = planned(light__output_mode={"kind": "ramp", "start_share": 1.0, "rise_s": 5.0})
    steady = planned()
    assert level.increments == steady.increments
    same = {"tray": []}
    assert [s.model_copy(update=same) for s in level.steps] == [
        s.model_copy(update=same) for s in steady.steps
    ]


def test_steps_press_what_the_increments_list() -> None:
    thin = planned(light__output_mode=RAMP, preparation__remaining_dentin_mm=0.3)
    for one in thin.increments:
        own = [p for s in thin.steps if s.light and s.increment == one.order for p in s.presses]
        for exposure in one.cured.exposures:
            assert [p.seconds for p in own if p.source == exposure.source] == exposure.presses
    for step in thin.steps:
        assert step.light == bool(step.presses)
        if step.light:
            assert sum(p.seconds for p in step.presses) == step.seconds
            assert f"{step.presses[0].seconds:g}" in step.detail


def test_less_output_warms_less() -> None:
    """Conduction is linear: half of the light over the same seconds warms half as much."""
    worked = work(read_case(first_case()))
    tissue = dentin_of(load_rulebook())
    rises = [
        PulpHeat([Spot(1.0, False, [800.0] * 8)], 1.5, tissue, 0.5, Button((10.0,), mode)).rise_k(
            [step for step in worked.plan.steps if step.increment]
        )
        for mode in (FULL, PulsedOutput(kind="pulsed", on_share=0.5))
    ]
    assert rises[1] == pytest.approx(tuple(k / 2 for k in rises[0]))


def test_the_reckoning_says_what_other_ways_would_take() -> None:
    clear = planned(neighbours__mesial__rotated=True)
    light = clear.figures[0]
    assert "lit from occlusal alone" in light.how
    assert "whole restoration" in light.how
    assert np.isfinite(light.value)
