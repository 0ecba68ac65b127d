"""How the tip is held: aslant, aside, away; and what that is told to cost."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, event, given, settings
from hypothesis import strategies as st

from mallet.light.aims import SIDEWAYS, Hold
from mallet.studies.hold_lessons import hold_lessons
from mallet.terms.case import read_case
from mallet.terms.plan import NoPlan, Plan
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan, work
from tests.core.sampler import brute_force


def held(case: dict[str, Any], **how: object) -> dict[str, Any]:
    return with_values(case, **{f"light__{name}": value for name, value in how.items()})


def open_case() -> dict[str, Any]:
    """Return a wide shallow box: a tilted tip still looks into it."""
    return with_values(
        first_case(),
        preparation__parts__1__height_mm=3.6,
        preparation__parts__1__wall_divergence_deg=10,
        preparation__parts__0__wall_divergence_deg=10,
        school__layering="horizontal",
    )


@pytest.mark.parametrize("side", SIDEWAYS)
def test_a_tilt_turns_the_axis_towards_its_side(side: str) -> None:
    towards = np.array(Hold(tilt_deg=20, lean=side).towards)
    assert np.linalg.norm(towards) == pytest.approx(1)
    assert towards @ np.array(SIDEWAYS[side]) == pytest.approx(math.sin(math.radians(20)))
    assert Hold(lean=side).towards == (0.0, 0.0, 1.0)


@pytest.mark.parametrize("lean", ["mesial", "lingual"])
def test_a_tilted_tip_meets_an_independent_sampler(lean: str) -> None:
    worked = work(read_case(held(open_case(), tip_tilt_deg=15, tip_lean=lean)))
    cured = worked.lit.cured[0]
    tip = cured.lit.aims[0].tip
    assert tip.towards[2] == pytest.approx(math.cos(math.radians(15)))
    assert cured.lit.weakest_mw_cm2 == pytest.approx(brute_force(worked, 0, 0), rel=0.015)


def test_a_tip_held_off_stands_off_by_that_much() -> None:
    straight, off, away = (
        work(read_case(held(open_case(), **how))).lit.cured[-1].lit.aims[0].tip.centre
        for how in ({}, {"tip_offset_mm": 1.5, "tip_lean": "lingual"}, {"tip_distance_mm": 3.0})
    )
    assert off[1] == pytest.approx(straight[1] - 1.5)
    assert away[2] == pytest.approx(straight[2] + 3.0)


@given(
    tilt=st.floats(1, 45),
    offset=st.sampled_from([0.0, 1.0, 3.0]),
    away=st.sampled_from([None, 0.0, 2.0]),
    lean=st.sampled_from(list(SIDEWAYS)),
)
@settings(max_examples=12, deadline=None, suppress_health_check=list(HealthCheck))
def test_however_it_is_held_enough_light_or_a_reason(
    tilt: float, offset: float, away: float | None, lean: str
) -> None:
    case = held(open_case(), tip_tilt_deg=tilt, tip_offset_mm=offset, tip_distance_mm=away, tip_lean=lean)
    made = plan(read_case(case))
    if isinstance(made, NoPlan):
        event("no plan")
        assert made.requirement.text
        return
    for one in made.increments:
        assert one.cured.dose_at_worst_point_j_cm2 >= one.cured.dose_needed_j_cm2
        assert one.cured.thickness_mm <= case["masses"][0]["max_increment_mm"] + 5e-3
    (layering,) = (d for d in made.decisions if d.topic == "build.layering")
    assert any(r.code == "layering.aslant" for r in layering.reasons)


def test_lessons_are_what_planning_so_would_find() -> None:
    worked = work(read_case(open_case()))
    twenty, forty_five, away = hold_lessons(worked)
    assert [twenty.tip_tilt_deg, forty_five.tip_tilt_deg, away.tip_distance_mm] == [20, 45, 5]
    assert 1 > twenty.share > forty_five.share
    assert away.share < 1
    # By another road: the whole case planned 5 mm away, where cuts are the same.
    further = work(read_case(held(open_case(), tip_distance_mm=5.0)))
    portion = next(c for c in worked.lit.cured if c.portion.name == away.portion)
    same = next(c for c in further.lit.cured if c.portion.name == away.portion)
    assert same.portion.solid.volume() == pytest.approx(portion.portion.solid.volume())
    assert away.share == pytest.approx(same.lit.weakest_mw_cm2 / portion.lit.weakest_mw_cm2, abs=0.01)
    assert away.seconds == same.seconds


def test_a_narrow_deep_box_goes_dark_aslant() -> None:
    _, forty_five, _ = hold_lessons(work(read_case(first_case())))
    assert (forty_five.share, forty_five.seconds) == (0.0, None)
    made = plan(read_case(held(first_case(), tip_tilt_deg=45, tip_lean="distal")))
    assert isinstance(made, NoPlan)
    assert made.requirement.code == "cure.dark"


def test_a_film_that_no_lamp_is_held_long_enough_for_fails_its_check() -> None:
    """The composite is quick to cure, so that only the film below it holds the plan up; none is lit beyond the longest
    exposure."""
    case = with_values(
        held(open_case(), tip_tilt_deg=35, tip_lean="distal"),
        masses__0__critical_exposure_j_cm2=0.02,
        house={"light.adhesive_dose_j_cm2": 20},
    )
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    (check,) = (c for c in made.checks if c.topic == "bond.light")
    assert check.verdict == "fail"
    assert all(s.seconds <= 40 for s in made.steps if s.id.startswith("bond.cure"))
    good = plan(read_case(held(open_case(), tip_distance_mm=0.0)))
    assert isinstance(good, Plan)
    assert {c.verdict for c in good.checks if c.topic.startswith("bond.")} == {"pass"}
