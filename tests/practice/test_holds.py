"""Hold points: a trainee's are passed by a teacher, on either device, and the record tells by whom."""

import datetime as dt
from typing import Any

import pytest

from practice.accounts.models import Practice, User
from practice.restorations.models import Restoration
from practice.runs.models import RunEvent
from tests.practice.conftest import PASSWORD, Caller, event

pytestmark = pytest.mark.django_db
HOLDS = {"prepare.verify", "finish.verify"}


@pytest.fixture
def trainee(demo: Practice) -> Caller:
    return Caller(User.objects.get(username="runa"))


@pytest.fixture
def teacher(demo: Practice) -> Caller:
    return Caller(User.objects.get(username="osk"))


@pytest.fixture
def run(trainee: Caller, molar: Restoration) -> dict[str, Any]:
    _, started = trainee("post", f"restorations/{molar.pk}/runs")
    return trainee("get", f"runs/{started['id']}")[1]


def go_to(call: Caller, run: dict[str, Any], state: dict[str, Any], wanted: str) -> dict[str, Any]:
    while state["step_id"] != wanted:
        has_check = next(s for s in run["steps"] if s["id"] == state["step_id"])["check"]
        kind = "check_passed" if has_check else "step_done"
        status, state = call("post", f"runs/{run['id']}/events", event(state, kind))
        assert status == 200, state
    return state


def passed_by(state: dict[str, Any], username: str, password: str) -> dict[str, Any]:
    return {**event(state, "check_passed"), "username": username, "password": password}


def test_a_trainee_waits_for_a_teacher_at_both(
    trainee: Caller, teacher: Caller, assistant: User, run: dict[str, Any]
) -> None:
    assert {s["id"] for s in run["steps"] if s.get("hold")} == HOLDS
    assert {t["username"] for t in run["teachers"]} == {"osk", "ines"}
    state = go_to(trainee, run, run["state"], "prepare.verify")
    for somebody in (trainee, Caller(assistant)):
        status, body = somebody("post", f"runs/{run['id']}/events", event(state, "check_passed"))
        assert (status, body["code"]) == (409, "run.hold")
    for username, password in (
        ("osk", "wrong"),
        ("runa", PASSWORD),
        ("tomas", PASSWORD),
        ("nobody", PASSWORD),
    ):
        status, body = trainee("post", f"runs/{run['id']}/holds", passed_by(state, username, password))
        assert (status, body["code"]) == (403, "password")
    status, failed = trainee("post", f"runs/{run['id']}/events", event(state, "check_failed"))
    assert (status, failed["step_id"]) == (200, "prepare.verify")
    status, state = trainee("post", f"runs/{run['id']}/holds", passed_by(failed, "osk", PASSWORD))
    assert (status, state["step_id"] != "prepare.verify") == (200, True)
    assert (
        RunEvent.objects.get(run=run["id"], kind="check_passed", step_id="prepare.verify").who.username
        == "osk"
    )

    state = go_to(trainee, run, state, "finish.verify")
    status, state = teacher("post", f"runs/{run['id']}/events", event(state, "check_passed"))
    assert (status, state["step_id"]) == (200, "finish.tell")
    assert teacher("get", f"runs/{run['id']}")[1]["teachers"] == []
    _, state = trainee("post", f"runs/{run['id']}/events", event(state, "finished"))
    _, record = trainee("get", f"records/{state['record_id']}")
    told = [(row["title"], row["by"], row["role"]) for row in record["holds"]]
    assert told == [
        ("Verify the preparation", "Oskar Dunmore-Hale", "teacher"),
        ("Verify the finished work", "Oskar Dunmore-Hale", "teacher"),
    ]
    assert trainee("patch", f"records/{state['record_id']}", {"free_text": "Mine."})[0] == 200
    signing = {"free_text": "Seen.", "password": PASSWORD}
    assert trainee("post", f"records/{state['record_id']}/sign", signing)[1]["code"] == "role"
    assert teacher("post", f"records/{state['record_id']}/sign", signing)[0] == 200


def test_a_teacher_s_password_cannot_be_guessed_at_length(
    trainee: Caller, teacher: Caller, run: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    state = go_to(trainee, run, run["state"], "prepare.verify")

    def tried(username: str, password: str) -> tuple[int, str]:
        status, body = trainee("post", f"runs/{run['id']}/holds", passed_by(state, username, password))
        return status, body.get("message", "")

    for guess in range(5):
        assert tried("osk", f"guess {guess}") == (403, "this is no teacher's password")
    status, message = tried("osk", PASSWORD)
    assert status == 403
    assert "wait 5 minutes" in message
    # Others are heard, and the teacher on a device of their own.
    assert tried("ines", "wrong") == (403, "this is no teacher's password")
    assert teacher("post", f"runs/{run['id']}/events", event(state, "check_failed"))[0] == 200
    state = trainee("get", f"runs/{run['id']}")[1]["state"]
    monkeypatch.setattr("practice.runs.services.GUESSING_WAIT", dt.timedelta(0))
    assert tried("osk", PASSWORD)[0] == 200


def test_a_trainee_passes_none_in_another_s_run_either(
    call: Caller, trainee: Caller, teacher: Caller, assistant: User, molar: Restoration
) -> None:
    _, started = Caller(assistant)("post", f"restorations/{molar.pk}/runs")
    run = trainee("get", f"runs/{started['id']}")[1]
    assert {t["username"] for t in run["teachers"]} == {"osk", "ines"}
    state = go_to(trainee, run, run["state"], "prepare.verify")
    status, body = trainee("post", f"runs/{run['id']}/events", event(state, "check_passed"))
    assert (status, body["code"]) == (409, "run.hold")
    assert teacher("post", f"runs/{run['id']}/events", event(state, "check_passed"))[0] == 200


def test_a_dentist_s_own_run_asks_nobody(call: Caller, assistant: User, molar: Restoration) -> None:
    _, started = call("post", f"restorations/{molar.pk}/runs")
    run = Caller(assistant)("get", f"runs/{started['id']}")[1]
    assert run["teachers"] == []
    state = go_to(call, run, run["state"], "prepare.verify")
    status, _ = Caller(assistant)("post", f"runs/{run['id']}/events", event(state, "check_passed"))
    assert status == 200
    status, body = Caller()("post", f"runs/{run['id']}/holds", passed_by(state, "osk", PASSWORD))
    assert (status, body["code"]) == (401, "signed_out")
