"""The run sheet: order, two hands, windows; and the matrix's geometry."""

import itertools
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.runsheet.schedule import HANDS, missed_windows, schedule
from mallet.terms.case import read_case
from mallet.terms.plan import Plan, Step, Within
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan, work


@st.composite
def graphs(draw: st.DrawFn) -> list[Step]:
    count = draw(st.integers(1, 14))
    steps = []
    for i in range(count):
        before = draw(st.lists(st.integers(0, i - 1), max_size=3, unique=True)) if i else []
        steps.append(
            Step(
                id=f"s{i}",
                stage="x",
                title="",
                detail="",
                actor=draw(st.sampled_from(["dentist", "assistant", "both"])),
                seconds=draw(st.integers(0, 60)),
                after=[f"s{b}" for b in before],
            )
        )
    return draw(st.permutations(steps))


@given(steps=graphs())
@settings(max_examples=150, deadline=None)
def test_no_hand_does_two_things_and_no_step_comes_early(steps: list[Step]) -> None:
    timed = schedule(steps)
    by_id = {s.id: s for s in timed}
    assert sorted(by_id) == sorted(s.id for s in steps)
    for step in timed:
        assert step.end_s - step.start_s == pytest.approx(step.seconds)
        assert all(by_id[name].end_s <= step.start_s + 1e-9 for name in step.after)
    for hand in ("dentist", "assistant"):
        lane = sorted((s.start_s, s.end_s) for s in timed if hand in HANDS[s.actor] and s.seconds > 0)
        assert all(a[1] <= b[0] + 1e-9 for a, b in itertools.pairwise(lane))
    assert schedule(steps) == timed


def test_circles_strangers_and_doubles_are_refused() -> None:
    one = Step(id="a", stage="x", title="", detail="", actor="both", seconds=1, after=["b"])
    two = one.model_copy(update={"id": "b", "after": ["a"]})
    with pytest.raises(ValueError, match="wait for each other"):
        schedule([one, two])
    with pytest.raises(ValueError, match="which is no step"):
        schedule([one])
    with pytest.raises(ValueError, match="share an id"):
        schedule([two, two])


def test_a_window_that_cannot_be_kept_is_told() -> None:
    mix = Step(id="mix", stage="x", title="", detail="", actor="both", seconds=10)
    wait = Step(id="wait", stage="x", title="", detail="", actor="both", seconds=100, after=["mix"])
    use = Step(
        id="use", stage="x", title="", detail="", actor="both", seconds=5, after=["wait"],
        within=[Within(step="mix", seconds=60)],
    )  # fmt: skip
    ((late, earlier, seconds),) = missed_windows(schedule([mix, wait, use]))
    assert (late.id, earlier, seconds) == ("use", "mix", 40)


def test_the_demo_run_is_in_the_order_of_doing() -> None:
    made = plan(read_case(first_case()))
    assert isinstance(made, Plan)
    starts = {s.id: s.start_s for s in made.steps}
    order = [
        "isolate.dam", "prepare.verify", "matrix.mesial.band", "matrix.mesial.wedge",
        "matrix.mesial.seal", "bond.etch_enamel", "bond.rinse", "bond.dry", "bond.scrub", "bond.wick",
        "bond.air", "bond.cure", "build.mesial.gingival.place", "build.mesial.gingival.light",
        "build.occlusal.surface.light", "matrix.mesial.off", "build.mesial.final.facial",
        "finish.trim", "finish.contact", "isolate.dam_off", "finish.bite", "finish.polish",
    ]  # fmt: skip
    assert [starts[name] for name in order] == sorted(starts[name] for name in order)
    assert all(s.tray or s.actor for s in made.steps)
    by_id = {s.id: s for s in made.steps}
    for step in made.steps:
        if step.check and step.check.back_to:
            assert step.check.back_to in by_id
        if step.id.endswith(".ready"):
            place = by_id[step.id.replace(".ready", ".place")]
            assert place.start_s - step.end_s <= 60
    assert made.totals.chair_minutes * 60 >= max(s.end_s for s in made.steps)


def test_band_and_wedge_follow_box_ridge_and_embrasure() -> None:
    def topics(**values: Any) -> tuple[dict[str, Any], Any]:
        worked = work(read_case(with_values(first_case(), **values)))
        return {d.topic: d for d in worked.plan.decisions}, worked.bands[0]

    decisions, band = topics()
    assert "sectional" in decisions["matrix.mesial"].chosen
    assert band.top_mm == pytest.approx(band.beside.ridge_mm)
    assert band.bottom_mm == pytest.approx(band.beside.ridge_mm - 5.0 - 0.75, abs=1e-6)
    assert band.wedge.width_mm >= band.wedge.gap_mm + 0.04
    assert band.wedge.width_mm - band.wedge.gap_mm < 0.04 + 0.03 + 0.2
    _, deeper = topics(preparation__parts__1__height_mm=6.0)
    assert deeper.height_mm >= band.height_mm + 0.5
    assert deeper.wedge.gap_mm > band.wedge.gap_mm
    rotated, clear = topics(neighbours__mesial__rotated=True)
    assert clear.kind == "clear"
    assert "rotated" in rotated["matrix.mesial"].reasons[0].text
    alone, round_band = topics(neighbours__mesial__missing=True)
    assert round_band.wedge is None
    assert "circumferential" in alone["matrix.mesial"].chosen
    _, higher = topics(neighbours__mesial__ridge_offset_mm=0.5)
    assert higher.top_mm == pytest.approx(band.top_mm + 0.5)


def test_a_clear_band_lets_light_pass_and_needs_no_side_light() -> None:
    metal = work(read_case(first_case()))
    clear = work(read_case(with_values(first_case(), neighbours__mesial__rotated=True)))
    weakest = [w.lit.cured[0].lit.weakest_mw_cm2 for w in (metal, clear)]
    assert weakest[1] >= weakest[0]
    sides = [[s.id for s in w.plan.steps if ".final." in s.id] for w in (metal, clear)]
    assert len(sides[0]) == 2
    assert sides[1] == []


def test_wet_undoes_what_is_bonded_and_not_cured() -> None:
    """Common practice, no source: see `mallet.runsheet.wet`."""
    made = plan(read_case(first_case()))
    assert isinstance(made, Plan)
    wet = {step.id: step.wet for step in made.steps if step.wet}
    assert wet.keys() == {step.id for step in made.steps if step.actor != "assistant"}
    bonding = [step.id for step in made.steps if step.stage == "bond"]
    for step in made.steps:
        undone = wet[step.id].redo if step.id in wet else []
        if step.id in bonding:
            assert undone == bonding[: bonding.index(step.id)]
        elif step.increment is not None and step.actor != "assistant":
            placed = [s.id for s in made.steps if s.increment == step.increment and s.id.endswith(".place")]
            assert undone == bonding + (placed if step.light else [])
        else:
            assert undone == []


def test_what_waits_for_an_assistant_s_step_waits_for_it_where_it_comes_to_lie() -> None:
    """A mix is made as late as it serves; carving counts from its end all the same."""
    steps = [
        Step(id="band", stage="x", title="", detail="", actor="dentist", seconds=60),
        Step(id="mix", stage="x", title="", detail="", actor="assistant", seconds=10),
        Step(id="pack", stage="x", title="", detail="", actor="dentist", seconds=20, after=["band", "mix"]),
        Step(id="carve", stage="x", title="", detail="", actor="dentist", seconds=30, after=["pack"], no_sooner=[Within(step="mix", seconds=180)]),
    ]  # fmt: skip
    by_id = {step.id: step for step in schedule(steps)}
    assert (by_id["mix"].end_s, by_id["pack"].start_s, by_id["carve"].start_s) == (60, 60, 240)
    alone = {step.id: step for step in schedule(steps, is_alone=True)}
    assert {step.actor for step in alone.values()} == {"dentist"}
    assert alone["carve"].start_s == alone["mix"].end_s + 180
