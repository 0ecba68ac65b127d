"""The fold of a run's events: pure, total over what fits, and closed to what does not."""

import datetime as dt
import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.plan import plan
from mallet.terms.case import read_case
from practice.accounts.owned import Refused
from practice.records.content import decided, deviations, measured, placed, steps_done
from practice.runs.state import RunState, advance, fold, refuse_unfit, stepped

START = dt.datetime(2026, 11, 25, 10, 20, tzinfo=dt.UTC)
KINDS = (
    "step_done", "step_back", "check_passed", "check_failed", "got_wet", "mix_too_old", "dam_torn", "paused", "resumed", "lot_scanned", "measured", "finished"
)  # fmt: skip
EXAMPLES = Path(__file__).parents[2] / "examples"
TARGET = {
    "id": "cusp.facial", "title": "facial cusp", "detail": "against a line", "unit": "mm", "before": -0.2, "value": -0.5,
    "low": -1.0, "high": -0.2, "under": "Add to it.", "over": "Take it down.",
}  # fmt: skip
FOLDS = json.loads((Path(__file__).parents[2] / "web/src/chair/fold.cases.json").read_text())


def step(
    name: str,
    *,
    check: str | None = None,
    light: bool = False,
    seconds: float = 20.0,
    redo: list[str] | None = None,
) -> dict[str, Any]:
    return {
        "id": name,
        "title": name.capitalize(),
        "stage": "build",
        "actor": "dentist",
        "seconds": seconds,
        "timed": light,
        "light": light,
        "detail": "",
        "increment": None,
        "wet": {"redo": redo or [], "reason": {"text": "Dry it."}},
        "check": {"question": "In order?", "remedy": "Do it again.", "back_to": check} if check else None,
    }


PLAN: dict[str, Any] = {
    "steps": [
        step("dam", check="dam"),
        {**step("portion"), "actor": "assistant"},
        step("band"),
        step("wedge", check="band"),
        step("light", light=True, seconds=15, redo=["band", "wedge"]),
        {**step("polish", seconds=60), "targets": [TARGET]},
    ]
}


@dataclass(frozen=True)
class Event:
    revision: int
    kind: str
    step_id: str
    at: dt.datetime
    detail: dict[str, Any] = field(default_factory=dict)


def folded(events: list[Event]) -> RunState:
    return fold({1: PLAN}, 1, START, events)


def played(
    kinds: list[str], seconds: float = 10.0, plan: dict[str, Any] = PLAN
) -> tuple[RunState, list[Event]]:
    """Play those of a list of kinds that fit, each some seconds after the one before."""
    state, events = fold({1: plan}, 1, START, []), []
    at = START
    for kind in kinds:
        detail = {"id": TARGET["id"], "value": 0.1} if kind == "measured" else {}
        event = Event(state.revision + 1, kind, state.step_id, at + dt.timedelta(seconds=seconds), detail)
        try:
            advance(state, event, {})
        except Refused:
            continue
        at = event.at
        events.append(event)
    return state, events


def test_the_assistant_s_own_steps_are_not_stepped_through() -> None:
    assert [s["id"] for s in stepped(PLAN)] == ["dam", "band", "wedge", "light", "polish"]


@given(kinds=st.lists(st.sampled_from(KINDS), max_size=40))
@settings(max_examples=200)
def test_any_run_folds_to_the_same_state_however_it_is_read(kinds: list[str]) -> None:
    state, events = played(kinds)
    again = folded(events)
    assert again == state
    assert 0 <= state.index < len(state.steps)
    assert state.step in state.steps
    beside = sum(e.kind in ("paused", "resumed", "lot_scanned", "measured") for e in events)
    assert state.revision == len(events) == len(state.visits) + beside


def test_the_last_figure_typed_stands_and_what_is_off_is_told() -> None:
    """Over -0.2 it is bitten first, under -1.0 too short; both ends are good."""
    through = ["check_passed", "step_done", "check_passed", "step_done"]
    for values, said in (
        ((-0.2,), ""),
        ((-1.0,), ""),
        ((-0.5, -0.1), "Take it down."),
        ((0.3, -1.1), "Add to it."),
    ):
        state, events = played(through)
        for value in values:
            event = Event(
                state.revision + 1, "measured", "polish", START, {"id": TARGET["id"], "value": value}
            )
            advance(state, event, {})
            events.append(event)
        (row,) = measured(folded(events))
        assert (row["before"], row["planned"], row["measured"]) == (-0.2, -0.5, values[-1])
        assert row["text"] == said
    with pytest.raises(Refused, match="nothing is measured"):
        refuse_unfit(played([])[0], "measured", "dam")


@given(kinds=st.lists(st.sampled_from(KINDS), max_size=40), cut=st.integers(0, 40))
@settings(max_examples=100)
def test_a_fold_can_stop_and_go_on(kinds: list[str], cut: int) -> None:
    """As after a restart: half the events first, the rest later."""
    _, events = played(kinds)
    whole = folded(events)
    halted = folded(events[:cut])
    for event in events[cut:]:
        advance(halted, event, {})
    assert (halted.index, halted.visits, halted.finished) == (whole.index, whole.visits, whole.finished)


@given(kinds=st.lists(st.sampled_from(KINDS), max_size=40))
@settings(max_examples=100)
def test_visits_cover_the_time_without_gap_or_overlap(kinds: list[str]) -> None:
    state, _ = played(kinds)
    clock = START
    for visit in state.visits:
        assert visit.began == clock
        clock = visit.ended
    assert state.step_began == clock
    total = sum(row["actual_s"] for row in steps_done(state))
    paused = sum(v.paused_s for v in state.visits)
    assert total + paused == pytest.approx((clock - START).total_seconds())


def test_only_what_fits_is_taken() -> None:
    state = folded([])
    for kind, code in (
        ("step_done", "run.check_first"),
        ("step_back", "run.first_step"),
        ("finished", "run.not_at_end"),
    ):
        with pytest.raises(Refused) as caught:
            refuse_unfit(state, kind, "dam")
        assert caught.value.code == code
    with pytest.raises(Refused, match="the run is at dam, not at band"):
        refuse_unfit(state, "check_passed", "band")


def test_a_failed_check_leads_back_and_its_remedy_goes_with_the_next_event() -> None:
    state, _ = played(["check_passed", "step_done", "check_failed"])
    assert (state.step_id, state.remedy) == ("band", "Do it again.")
    state, _ = played(["check_passed", "step_done", "check_failed", "step_done"])
    assert (state.step_id, state.remedy) == ("wedge", "")


def test_the_last_step_ends_only_with_finishing() -> None:
    to_end = ["check_passed", "step_done", "check_passed", "step_done"]
    state, _ = played([*to_end, "step_done"])
    assert (state.step_id, state.finished) == ("polish", False)
    state, _ = played([*to_end, "finished", "step_back", "step_done"])
    assert state.finished
    assert state.revision == 5


@pytest.mark.parametrize("case", FOLDS["cases"], ids=lambda case: case["name"])
def test_the_server_folds_as_the_chairside_view_does(case: dict[str, Any]) -> None:
    steps = [
        {
            **step(s["id"], check=s["check"] and s["check"]["back_to"], redo=s["redo"]),
            "stale": s["stale"] and {"redo": s["stale"], "reason": {"text": "Fresh."}},
            "hold": s["hold"],
        }
        for s in FOLDS["steps"]
    ]
    state, _ = played(case["kinds"], plan={"steps": steps})
    found = {
        "at": state.step_id,
        "index": state.index,
        "detour": list(state.detour),
        "remedy": bool(state.remedy),
        "paused": state.paused_at is not None,
        "finished": state.finished,
    }
    assert found == {key: case[key] for key in found}


class TestANewDepth:
    def replanned(self, kinds: list[str], **changes: Any) -> RunState:
        """Play some events by the plan, then one that brings a new plan with some steps changed."""
        state, _ = played(kinds)
        steps = [{**s, **changes.get(s["id"], {})} for s in PLAN["steps"]]
        detail = {"plan": 2, "text": "Deeper."}
        event = Event(state.revision + 1, "deeper", state.step_id, state.step_began, detail)
        advance(state, event, {2: {"steps": steps}})
        return state

    def test_what_is_done_stays(self) -> None:
        state = self.replanned(["check_passed", "step_done"])
        assert (state.plan_number, state.step_id, state.remedy) == (2, "wedge", "Deeper.")

    def test_what_must_be_done_otherwise_now_is_done_again(self) -> None:
        state = self.replanned(["check_passed", "step_done"], band={"detail": "a higher band"})
        assert state.step_id == "band"

    def test_bonding_never_outlasts_a_cut(self) -> None:
        state = self.replanned(["check_passed", "step_done"], band={"stage": "bond"})
        assert state.step_id == "band"

    def test_not_once_filling_has_begun(self) -> None:
        state, _ = played(["check_passed"], plan={"steps": [step("dam", check="dam"), step("portion")]})
        state.steps[1]["increment"] = 1
        with pytest.raises(Refused, match="restoration has begun"):
            refuse_unfit(state, "deeper", "portion")


class TestRecordContent:
    def test_pauses_are_told_and_not_counted_as_work(self) -> None:
        state, _ = played(["paused", "resumed", "check_passed"], seconds=20)
        assert [(d["kind"], d["text"]) for d in deviations(state)] == [
            ("paused", "Paused for 20 s at: Dam ()")
        ]
        assert steps_done(state)[0]["actual_s"] == 40

    def test_wet_is_told_with_what_was_done_again(self) -> None:
        state, _ = played(["check_passed", "step_done", "check_passed", "got_wet"], seconds=15)
        assert state.step_id == "band"
        (told,) = deviations(state)
        assert told["text"] == "The field was contaminated at: Light. Dry it. Done again: Band, Wedge."

    def test_a_discarded_mix_and_a_torn_dam_are_told_with_their_steps(self) -> None:
        mixed = {"stale": {"redo": ["look"], "reason": {"text": "Triturate a fresh capsule."}}}
        steps = [
            step("isolate.dam"),
            step("look"),
            {**step("pack"), **mixed},
            {**step("verify"), "hold": "finished"},
        ]
        state, _ = played(
            ["step_done", "dam_torn", "step_done", "mix_too_old", "step_done", "step_done"],
            5,
            {"steps": steps},
        )
        assert (state.step_id, state.detour) == ("isolate.dam", ("isolate.dam",))
        assert [(d["kind"], d["text"]) for d in deviations(state)] == [
            ("dam_torn", "The dam tore at: Look. Renewed before the next check."),
            ("mix_too_old", "Mix discarded at: Pack. Triturate a fresh capsule."),
        ]

    def test_light_left_early_is_told(self) -> None:
        state, _ = played(["check_passed", "step_done", "check_passed", "step_done"], seconds=10)
        found = [d for d in deviations(state) if d["kind"] == "light_short"]
        assert [d["text"] for d in found] == ["Light: left after 10 s of 15 s"]

    def test_light_in_full_is_no_deviation(self) -> None:
        state, _ = played(["check_passed", "step_done", "check_passed", "step_done"], seconds=15)
        assert deviations(state) == []

    def test_much_longer_than_planned_is_told_once(self) -> None:
        state, _ = played(["check_passed", "step_done"], seconds=90)
        assert [(d["kind"], d["step_id"]) for d in deviations(state)] == [
            ("longer", "dam"),
            ("longer", "band"),
        ]

    def test_failed_checks_and_steps_gone_back_to_come_in_order(self) -> None:
        state, _ = played(["check_failed", "check_passed", "step_back", "check_passed"], seconds=5)
        assert [d["kind"] for d in deviations(state)] == ["check_failed", "step_back"]
        assert "Do it again." in deviations(state)[0]["text"]

    def test_a_step_never_reached_has_no_times(self) -> None:
        state, _ = played(["check_passed"])
        rows = {r["id"]: r for r in steps_done(state)}
        assert rows["dam"]["visits"] == 1
        assert (rows["polish"]["visits"], rows["polish"]["began"], rows["polish"]["actual_s"]) == (0, None, 0)

    @pytest.mark.parametrize("example", sorted(EXAMPLES.glob("*.json")), ids=lambda path: path.stem)
    def test_whatever_a_restorative_decides_has_a_word_for_what_it_is_about(self, example: Path) -> None:
        made = plan(read_case(json.loads(example.read_text()))).model_dump(mode="json")
        assert all(row["about"] for row in decided(made))

    def test_masses_sum_their_exposures(self) -> None:
        numbered = {"steps": [{**s, "increment": 1} if s["light"] else s for s in PLAN["steps"]]}
        state, _ = played(["check_passed", "step_done", "check_passed"], 15, numbered)
        increment = {
            "order": 1, "name": "n", "product": "m", "mass_g": 0.01234,
            "measures": [{"id": "received", "title": "received", "value": 1.12, "unit": "x", "why": "so"}],
            "detail": {"kind": "cured", "exposures": [{"seconds": 10}, {"seconds": 10}]},
        }  # fmt: skip
        (row,) = placed({"increments": [increment]}, state)
        assert (row["planned_s"], row["recorded_s"]) == (15, None)
        assert ([m["value"] for m in row["measures"]], row["mass_g"]) == ([1.12], 0.012)
        # What the light step was worked at is told beside what was planned, and not in its place.
        done, _ = played(["check_passed", "step_done", "check_passed", "step_done"], 12, numbered)
        (row,) = placed({"increments": [increment]}, done)
        assert (row["planned_s"], row["recorded_s"]) == (15, 12)
