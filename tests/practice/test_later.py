"""Visits after placing: not before it bears it, booked and moved, run and recorded on their own, linked with the first."""

import datetime as dt
import uuid
import zoneinfo
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from practice.accounts.models import AuditEntry, User
from practice.records.models import Record
from practice.restorations.models import Restoration, Visit, VisitPart
from practice.runs.models import Run
from practice.runs.services import Sent, add_event, start_run, state_of
from tests.practice.conftest import Caller

HOUR = dt.timedelta(hours=1)


@pytest.fixture
def core(dentist: User) -> Restoration:
    """Return a core that has been planned, not yet placed."""
    found: Restoration = Restoration.objects.get(patient__full_name="Solveig Amparo Lind")
    case = Caller(dentist)("GET", f"restorations/{found.pk}")[1]["case"]
    assert Caller(dentist)("POST", f"restorations/{found.pk}/plans", {"case": case})[0] == 201
    return found


def play(run: Run, who: User) -> None:
    """Run to the end, all checks passed, a second a step."""
    for sequence in range(200):
        state, at = state_of(run), run.started_at + dt.timedelta(seconds=sequence)
        kind = "check_passed" if state.step.get("check") else "finished" if state.at_end else "step_done"
        add_event(
            run,
            Sent(uuid.uuid4(), kind, state.step_id, state.revision, "test", sequence, at, sequence),
            who,
            at=at,
        )
        if kind == "finished":
            break
    run.refresh_from_db()


def placed(core: Restoration, who: User, hours_ago: float) -> Run:
    began = timezone.now() - hours_ago * HOUR - dt.timedelta(minutes=50)
    run = start_run(core, who, at=began)
    play(run, who)
    Run.objects.filter(pk=run.pk).update(finished_at=timezone.now() - hours_ago * HOUR)
    return run


def test_a_band_is_not_booked_off_before_the_core_bears_it(
    core: Restoration, dentist: User, call: Caller
) -> None:
    """Eight hours after the first visit is planned to end, by the practice's own clock; the rule is common practice."""
    route = f"restorations/{core.pk}/later"
    (one,) = call("GET", route)[1]
    ends = core.visit.starts_at + dt.timedelta(minutes=core.plans.last().chair_minutes)
    assert dt.datetime.fromisoformat(one["earliest"]) == ends + 8 * HOUR
    assert dt.datetime.fromisoformat(one["best_by"]) == ends + 12 * HOUR
    zone = zoneinfo.ZoneInfo(core.practice.zone)
    early = (ends + 7 * HOUR).astimezone(zone).strftime("%Y-%m-%dT%H:%M")
    told = {"purpose": "band_off", "starts_at": early, "chair": "chair 1"}
    status, answer = call("POST", route, told)
    assert (status, answer["problems"][0]["path"]) == (422, "starts_at")
    assert "or later. Take the band off at a second visit" in answer["problems"][0]["allowed"]
    assert not core.parts.filter(purpose="band_off").exists()
    assert call("POST", route, {**told, "starts_at": one["suggested"]})[0] == 200
    status, answer = call("POST", route, {**told, "purpose": "polish"})
    assert (status, answer["problems"][0]["allowed"]) == (422, "band_off")


def test_the_second_visit_is_moved_run_and_recorded_beside_the_first(
    core: Restoration, dentist: User, call: Caller
) -> None:
    first = placed(core, dentist, hours_ago=9)
    route = f"restorations/{core.pk}/later"
    in_two, in_four = ((timezone.now() + hours * HOUR).isoformat() for hours in (2, 4))
    told = {"purpose": "band_off", "chair": "chair 1"}
    (booked,) = call("POST", route, {**told, "starts_at": in_two})[1]
    assert booked["flags"] == []
    (moved,) = call("POST", route, {**told, "starts_at": in_four, "chair": "chair 2"})[1]
    assert moved["part_id"] == booked["part_id"]
    assert [flag["code"] for flag in moved["flags"]] == ["later.late"]
    assert AuditEntry.objects.filter(action="visits.booked").count() == 2
    rows = {row["part_id"]: row for row in call("GET", "today")[1]["visits"]}
    assert rows[moved["part_id"]]["visit"] == "Band off, crown preparation"
    assert rows[core.placing.pk]["to_book"] == []

    run_id = call("POST", f"parts/{moved['part_id']}/runs")[1]["id"]
    assert call("POST", f"parts/{moved['part_id']}/runs")[1]["id"] == run_id
    shown = call("GET", f"runs/{run_id}")[1]
    assert [step["id"] for step in shown["steps"]] == [
        "assess.history", "isolate.numb", "matrix.copper_off", "finish.look_core", "prepare.crown", "finish.tell",
    ]  # fmt: skip
    assert (shown["flags"], shown["chair"], shown["increments"]) == ([], "chair 2", [])
    assert shown["state"]["has_placed"], "the cavity cannot be measured deeper any more"
    assert call("POST", route, {**told, "starts_at": in_two})[1]["code"] == "visit.begun"
    play(Run.objects.get(pk=run_id), dentist)
    second = Record.objects.get(run=run_id)
    record = call("GET", f"records/{second.pk}")[1]
    assert record["visit"] == "Band off, crown preparation"
    assert [one["id"] for one in record["others"]] == [first.record.pk]
    assert (record["placed"], record["scrap"]) == ([], None)
    assert [one["visit"] for one in call("GET", f"records/{first.record.pk}")[1]["others"]] == [
        record["visit"]
    ]
    pages = Client()
    pages.force_login(dentist)
    assert pages.get(f"/api/records/{second.pk}/pdf").content.startswith(b"%PDF")
    part = VisitPart.objects.get(pk=moved["part_id"])
    assert (part.visit.status, part.is_done) == (Visit.Status.DONE, True)
    assert call("POST", f"parts/{part.pk}/runs")[1]["code"] == "run.done"


@pytest.mark.parametrize(("hours_ago", "code"), [(5.0, "later.early"), (9.0, None), (13.0, "later.late")])
def test_at_the_chair_it_is_told_how_old_the_core_is(
    core: Restoration, dentist: User, call: Caller, hours_ago: float, code: str | None
) -> None:
    """Told, not refused: the dentist decides."""
    placed(core, dentist, hours_ago)
    visit = Visit.objects.create(
        practice=core.practice,
        patient=core.patient,
        dentist=dentist,
        starts_at=timezone.now(),
        chair="chair 1",
    )
    part = VisitPart.objects.create(practice=core.practice, visit=visit, restoration=core, purpose="band_off")
    run_id = call("POST", f"parts/{part.pk}/runs")[1]["id"]
    flags: list[dict[str, Any]] = call("GET", f"runs/{run_id}")[1]["flags"]
    assert [flag["code"] for flag in flags] == ([code] if code else [])


def test_nothing_is_done_later_to_what_is_not_placed(core: Restoration, call: Caller) -> None:
    told = {
        "purpose": "band_off",
        "starts_at": call("GET", f"restorations/{core.pk}/later")[1][0]["suggested"],
    }
    (one,) = call("POST", f"restorations/{core.pk}/later", {**told, "chair": "chair 1"})[1]
    assert [flag["code"] for flag in one["flags"]] == ["later.not_placed"]
    assert call("POST", f"parts/{one['part_id']}/runs")[1]["code"] == "run.not_placed"
    assert core.visit.pk == core.placing.visit_id
