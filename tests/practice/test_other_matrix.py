"""Another matrix at the chair: planned anew, what is done stays, why and what instead are in the record."""

from typing import Any

import pytest

from practice.records.content import deviations
from practice.restorations.models import Restoration
from practice.runs.models import Run
from practice.runs.services import MATRIX_REASONS, state_of
from tests.practice.conftest import Caller, event


def reach(call: Caller, run_id: int, step_id: str) -> dict[str, Any]:
    """Go on to a step, all checks passed."""
    run = call("GET", f"runs/{run_id}")[1]
    steps, state = {s["id"]: s for s in run["steps"]}, run["state"]
    while state["step_id"] != step_id:
        kind = "check_passed" if steps[state["step_id"]].get("check") else "step_done"
        status, state = call("POST", f"runs/{run_id}/events", event(state, kind))
        assert status == 200, state
    return dict(state)


def test_a_band_that_does_not_seal_is_changed_and_nothing_before_it_is_done_again(
    call: Caller, molar: Restoration
) -> None:
    run_id = call("POST", f"restorations/{molar.pk}/runs")[1]["id"]
    before = reach(call, run_id, "matrix.mesial.seal")
    assert call("GET", f"runs/{run_id}")[1]["matrix_reasons"] == list(MATRIX_REASONS)
    told = {"reason": "does not seal", "text": "circumferential"}
    status, state = call("POST", f"runs/{run_id}/events", event(before, "other_matrix", detail=told))
    assert status == 200
    run = call("GET", f"runs/{run_id}")[1]
    now = next(step for step in run["steps"] if step["id"] == state["step_id"])
    assert (now["stage"], state["index"] <= before["index"]) == ("matrix", True)
    assert "round" in now["id"]
    assert state["plan_number"] == before["plan_number"] + 1
    done = run["sequence"][: state["index"]]
    assert "prepare.verify" in done, "the preparation is as it was"
    case = molar.plans.last().body.told
    assert case["techniques"]["band"] == "circumferential"
    (told_so,) = (d for d in deviations(state_of(Run.objects.get(pk=run_id))) if d["kind"] == "other_matrix")
    assert told_so["text"].startswith(
        "Another matrix, since the first does not seal: retainer-held circumferential band"
    )


@pytest.mark.parametrize(
    ("detail", "path"),
    [
        ({"reason": "is ugly", "text": "clear"}, "detail.reason"),
        ({"reason": "does not seal", "text": "wood"}, "detail.text"),
        # It is the one that does not seal.
        ({"reason": "does not seal", "text": "sectional"}, "detail.text"),
    ],
)
def test_why_and_which_are_asked_for(
    call: Caller, molar: Restoration, detail: dict[str, str], path: str
) -> None:
    run_id = call("POST", f"restorations/{molar.pk}/runs")[1]["id"]
    state = reach(call, run_id, "matrix.mesial.seal")
    status, answer = call("POST", f"runs/{run_id}/events", event(state, "other_matrix", detail=detail))
    assert (status, answer["problems"][0]["path"]) == (422, path)
    assert molar.plans.count() == 1


def test_once_it_is_filled_the_matrix_stays(call: Caller, molar: Restoration) -> None:
    run_id = call("POST", f"restorations/{molar.pk}/runs")[1]["id"]
    state = reach(call, run_id, "build.mesial.gingival.place")
    told = {"reason": "does not stay", "text": "clear"}
    status, answer = call("POST", f"runs/{run_id}/events", event(state, "other_matrix", detail=told))
    assert (status, answer["code"]) == (409, "run.placed")
