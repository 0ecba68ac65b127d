"""Runs and records: one step once, nothing lost, sealed means sealed."""

import datetime as dt
import json
import uuid
import zlib
from io import BytesIO, StringIO
from pathlib import Path
from typing import Any

import pytest
from django.core.management import CommandError, call_command
from django.db import connection
from django.utils import timezone
from pypdf import PdfReader

from mallet.terms.canonical import sha256_of
from practice.accounts.models import Practice, User
from practice.accounts.owned import Refused
from practice.api import api
from practice.records.models import Record, Seal
from practice.records.services import amend_record, broken_seals, sign_record
from practice.restorations.models import Restoration
from practice.restorations.services import case_of
from practice.runs.models import Run, RunEvent
from practice.runs.services import state_of
from tests.practice.conftest import PASSWORD, Caller, event, play_to_end

pytestmark = pytest.mark.django_db
WEB_API = Path(__file__).parents[2] / "web" / "src" / "api"


@pytest.fixture
def run(call: Caller, molar: Restoration) -> dict[str, Any]:
    _, started = call("post", f"restorations/{molar.pk}/runs")
    return call("get", f"runs/{started['id']}")[1]


def send(call: Caller, run: dict[str, Any], body: dict[str, Any]) -> tuple[int, Any]:
    return call("post", f"runs/{run['id']}/events", body)


def test_starting_again_takes_up_the_open_run(call: Caller, molar: Restoration, run: dict[str, Any]) -> None:
    assert call("post", f"restorations/{molar.pk}/runs")[1]["id"] == run["id"]
    assert run["state"]["step_id"] == "assess.history"
    assert all(s["actor"] != "assistant" for s in run["steps"] if s["id"] in run["sequence"])


def test_no_run_without_a_plan(call: Caller) -> None:
    unplanned = Restoration.objects.get(draft__tooth__code="26")
    status, body = call("post", f"restorations/{unplanned.pk}/runs")
    assert (status, body["code"]) == (409, "run.no_plan")


def test_two_devices_that_both_press_next_make_one_step(call: Caller, run: dict[str, Any]) -> None:
    status, state = send(call, run, event(run["state"], "check_passed"))
    assert (status, state["index"]) == (200, 1)
    status, body = send(call, run, event(run["state"], "check_passed", device="other"))
    assert (status, body["code"]) == (409, "run.moved_on")
    assert RunEvent.objects.filter(run=run["id"]).count() == 1


def test_a_repeated_send_is_harmless(call: Caller, run: dict[str, Any]) -> None:
    sent = event(run["state"], "check_passed")
    first, again = send(call, run, sent), send(call, run, sent)
    assert first[0] == again[0] == 200
    assert first[1]["revision"] == again[1]["revision"] == 1


def test_back_is_an_event_and_a_failed_check_leads_to_its_remedy(call: Caller, run: dict[str, Any]) -> None:
    state = run["state"]
    while state["step_id"] != "matrix.mesial.seal":
        has_check = next(s for s in run["steps"] if s["id"] == state["step_id"])["check"]
        _, state = send(call, run, event(state, "check_passed" if has_check else "step_done"))
    _, state = send(call, run, event(state, "check_failed"))
    assert "wedge size" in state["remedy"]
    _, state = send(call, run, event(state, "step_back"))
    assert (state["step_id"], state["remedy"]) == ("matrix.mesial.band", "")
    assert RunEvent.objects.filter(run=run["id"]).count() == state["revision"]


@pytest.mark.parametrize(
    ("kind", "changes", "code"),
    [
        ("step_done", {}, "run.check_first"),
        ("step_back", {}, "run.first_step"),
        ("finished", {}, "run.not_at_end"),
        ("check_passed", {"step_id": "bond.scrub"}, "run.other_step"),
    ],
)
def test_what_does_not_fit_is_refused_and_not_kept(
    kind: str, changes: dict[str, Any], code: str, call: Caller, run: dict[str, Any]
) -> None:
    status, body = send(call, run, event(run["state"], kind, **changes))
    assert (status, body["code"]) == (409, code)
    assert not RunEvent.objects.filter(run=run["id"]).exists()


def test_events_are_only_added(call: Caller, run: dict[str, Any]) -> None:
    send(call, run, event(run["state"], "check_passed"))
    kept = RunEvent.objects.get(run=run["id"])
    kept.step_id = "other"
    for change in (kept.save, kept.delete, RunEvent.objects.all().delete):
        with pytest.raises(Refused):
            change()


def test_a_deeper_box_is_planned_anew_and_what_is_done_stays(
    call: Caller, molar: Restoration, run: dict[str, Any]
) -> None:
    state = run["state"]
    while state["step_id"] != "matrix.mesial.wedge":
        has_check = next(s for s in run["steps"] if s["id"] == state["step_id"])["check"]
        _, state = send(call, run, event(state, "check_passed" if has_check else "step_done"))
    assert state["step_id"] == "matrix.mesial.wedge"
    before, run_plan = len(molar.plans.all()), molar.plans.last()
    detail = {"path": "preparation.parts[1].height_mm", "value": 5.5}
    status, deeper = send(call, run, event(state, "deeper", detail=detail))
    assert status == 200, deeper
    assert deeper["plan_number"] == molar.plans.last().number == before + 1
    assert molar.plans.last().body.case["provenance"][detail["path"]] == "measured"
    # What was passed is another preparation now: it is verified again. The dam stays; the band that stands is too
    # low for the deeper box.
    assert deeper["step_id"] == "prepare.verify"
    now = call("get", f"runs/{run['id']}")[1]
    bands = [
        next(s["title"] + s["detail"] for s in r["steps"] if s["id"] == "matrix.mesial.band")
        for r in (run, now)
    ]
    assert bands[0] != bands[1]
    record = finished(call, run)
    assert record["plan_number"] == before + 1
    told = [d["text"] for d in record["deviations"] if d["kind"] == "deeper"]
    assert told == [
        f"Mesial box, height: 5.5 mm instead of 4.5 mm, planned again. Plan {before + 1} from here on."
    ]
    # The drawing is that of the plan which it ended by, and sealed with it.
    kept, drawn = Record.objects.get(pk=record["id"]), molar.plans.last().body.drawing
    assert kept.drawn_plan == molar.plans.last()
    assert kept.content["plan"]["drawing_sha256"] == sha256_of(drawn)
    assert drawn != run_plan.body.drawing
    assert record["drawing"] == drawn
    with connection.cursor() as cursor:
        sql = "UPDATE restorations_planbody SET drawing = '{}' WHERE version_id = %s"
        cursor.execute(sql, [kept.drawn_plan.pk])
    assert any("its drawing was altered" in line for line in broken_seals(molar.practice))


def test_nothing_starts_and_nothing_is_signed_before_the_tooth_is_confirmed(
    call: Caller, molar: Restoration, dentist: User
) -> None:
    case = case_of(molar)
    sure = dict(case["findings"])
    for missing in ({}, {"pulp": "reversible"}, {"tooth_confirmed": True}):
        case["findings"] = {k: v for k, v in sure.items() if k not in ("pulp", "tooth_confirmed")} | missing
        status, saved = call("post", f"restorations/{molar.pk}/plans", {"case": case})
        assert status == 201, saved
        status, body = call("post", f"restorations/{molar.pk}/runs")
        assert (status, body["code"]) == (409, "run.not_confirmed")
    case["findings"] = sure
    call("post", f"restorations/{molar.pk}/plans", {"case": case})
    status, started = call("post", f"restorations/{molar.pk}/runs")
    assert status == 200
    kept = finished(call, started)
    record = Record.objects.get(pk=kept["id"])
    assert record.content["plan"]["is_confirmed"]
    # A record of a run that was begun before this was asked for is refused the signature.
    Record.objects.filter(pk=record.pk).update(
        content={**record.content, "plan": {**record.content["plan"], "is_confirmed": False}}
    )
    with pytest.raises(Refused, match="nobody confirmed"):
        sign_record(Record.objects.get(pk=record.pk), "", dentist, PASSWORD)


@pytest.mark.parametrize(
    ("detail", "status", "code"),
    [
        ({"path": "preparation.parts[1].height_mm", "value": 15}, 422, "bad_input"),
        ({"path": "light.tip_diameter_mm", "value": 5}, 422, "bad_input"),
        ({"path": "preparation.parts[9].height_mm", "value": 5}, 422, "bad_input"),
        ({"reason": "tea"}, 422, "bad_input"),
    ],
)
def test_what_cannot_be_planned_or_is_no_reason_changes_nothing(
    detail: dict[str, Any], status: int, code: str, call: Caller, molar: Restoration, run: dict[str, Any]
) -> None:
    plans = molar.plans.count()
    kind = "paused" if "reason" in detail else "deeper"
    got, body = send(call, run, event(run["state"], kind, detail=detail))
    assert (got, body["code"]) == (status, code)
    assert call("get", f"runs/{run['id']}")[1]["state"]["revision"] == 0
    assert molar.plans.count() == plans


def test_what_was_sent_late_happened_when_it_happened(call: Caller, run: dict[str, Any]) -> None:
    Run.objects.filter(pk=run["id"]).update(started_at=timezone.now() - dt.timedelta(minutes=5))
    _, state = send(call, run, event(run["state"], "check_passed", age_ms=60_000))
    began, now = (dt.datetime.fromisoformat(state[k]) for k in ("step_began", "server_now"))
    assert (now - began).total_seconds() == pytest.approx(60, abs=1)
    # The request lay waiting for the server to start: the age it bears is short by that.
    pressed = now - dt.timedelta(seconds=50)
    late = event(state, "check_passed", age_ms=42_000) | {"client_wall": pressed.isoformat()}
    _, state = send(call, run, late)
    began = dt.datetime.fromisoformat(state["step_began"])
    assert began == pressed
    # Never before the step that it ends.
    _, state = send(call, run, event(state, "check_passed", age_ms=3_600_000))
    assert dt.datetime.fromisoformat(state["step_began"]) == began


def test_a_pause_is_kept_with_its_reason(call: Caller, run: dict[str, Any]) -> None:
    reason = run["pause_reasons"][0]
    _, state = send(call, run, event(run["state"], "paused", detail={"reason": reason}))
    assert state["paused_at"]
    assert state["paused_why"] == reason
    status, body = send(call, run, event(state, "check_passed"))
    assert (status, body["code"]) == (409, "run.paused")
    _, state = send(call, run, event(state, "resumed"))
    assert (state["paused_at"], state["revision"]) == (None, 2)


def finished(call: Caller, run: dict[str, Any]) -> dict[str, Any]:
    state = play_to_end(call, run["id"])
    return call("get", f"records/{state['record_id']}")[1]


def test_the_record_writes_itself_from_the_run(call: Caller, run: dict[str, Any]) -> None:
    record = finished(call, run)
    assert record["tooth"] == "36"
    assert [s["id"] for s in record["steps"]] == run["sequence"]
    assert all(s["visits"] == 1 and s["ended"] for s in record["steps"])
    assert len(record["placed"]) == len(run["increments"])
    # Played in an instant, every exposure was left early: the record must say so.
    lights = [s["id"] for s in record["steps"] if s["light"]]
    assert [d["step_id"] for d in record["deviations"] if d["kind"] == "light_short"] == lights
    assert Restoration.objects.get(pk=record["restoration_id"]).status == "done"


def test_times_come_from_the_events(demo: Practice) -> None:
    done = Restoration.objects.get(status="done").runs.get()
    content = done.record.content
    total = sum(s["actual_s"] for s in content["steps"])
    events = list(done.events.all())
    assert total == pytest.approx((events[-1].at - done.started_at).total_seconds(), abs=1)
    assert {d["kind"] for d in content["deviations"]} >= {"check_failed"}
    assert state_of(done).finished


def test_sign_then_only_amend(call: Caller, run: dict[str, Any], dentist: User) -> None:
    record = finished(call, run)
    path = f"records/{record['id']}"
    assert call("patch", path, {"free_text": "draft"})[1]["free_text"] == "draft"
    assert call("post", f"{path}/amendments", {"text": "x", "password": PASSWORD})[1]["code"] == "unsigned"
    assert call("post", f"{path}/sign", {"free_text": "", "password": "wrong"})[1]["code"] == "password"
    status, signed = call("post", f"{path}/sign", {"free_text": "As planned.", "password": PASSWORD})
    assert (status, signed["signed_by"]) == (200, dentist.full_name)

    for method, where, body in (
        ("patch", path, {"free_text": "other"}),
        ("post", f"{path}/sign", {"free_text": "other", "password": PASSWORD}),
    ):
        status, answer = call(method, where, body)
        assert (status, answer["code"]) == (409, "signed")
    kept = Record.objects.get(pk=record["id"])
    kept.free_text = "other"
    changes = (
        kept.save,
        kept.delete,
        lambda: Record.objects.filter(pk=kept.pk).update(free_text="other"),
        lambda: Record.objects.bulk_update([kept], ["free_text"]),
        lambda: Record.objects.filter(pk=kept.pk).delete(),
        Seal.objects.get(record=kept).delete,
    )
    for change in changes:
        with pytest.raises(Refused):
            change()
    _, amended = call("post", f"{path}/amendments", {"text": "Bite checked again.", "password": PASSWORD})
    assert [s["kind"] for s in amended["seals"]] == ["record", "amendment"]
    assert Record.objects.get(pk=kept.pk).free_text == "As planned."
    _, exported = call("get", f"{path}/export")
    assert exported["format"] == "mallet-record/2"
    assert exported["free_text"] == "As planned."
    assert [s["hash"] for s in exported["seals"]] == [s["hash"] for s in amended["seals"]]


def test_the_pages_say_what_the_record_says(call: Caller, demo: Practice, dentist: User) -> None:
    record = Record.objects.get()
    amend_record(record, "Łucja called: “no pain” at 4 °C.", dentist, PASSWORD)
    _, shown = call("get", f"records/{record.pk}")
    first, second = (call.client.get(f"/api/records/{record.pk}/pdf").content for _ in range(2))
    assert first == second
    pages = PdfReader(BytesIO(first)).pages
    text = " ".join(" ".join(page.extract_text() for page in pages).split())
    said = [shown["patient"], shown["reason"], shown["dentist"], shown["free_text"]]
    said += [s["hash"] for s in shown["seals"]] + [s["text"] for s in shown["seals"]]
    said += [s["title"] for s in shown["steps"]] + [d["text"] for d in shown["deviations"]]
    for words in said:
        assert " ".join(words.split()) in text, words
    assert f"page {len(pages)} of {len(pages)}" in text
    assert "no certified medical device" in text


def verified() -> str:
    out = StringIO()
    call_command("verify_records", stdout=out)
    return out.getvalue()


@pytest.mark.parametrize(
    "sql",
    [
        "UPDATE records_record SET free_text = replace(free_text, 'P', 'p') WHERE id = %s",
        "UPDATE records_record SET content = altered(content) WHERE id = %s",
        "UPDATE records_record SET content = torn(content) WHERE id = %s",
        "UPDATE records_seal SET text = 'x' WHERE record_id = %s",
    ],
)
def test_one_altered_byte_is_found(sql: str, demo: Practice) -> None:
    assert "1 seals whole" in verified()
    record = Record.objects.get()

    def altered(kept: bytes) -> bytes:
        return zlib.compress(zlib.decompress(kept).replace(b"lower", b"upper"))

    connection.connection.create_function("altered", 1, altered)
    connection.connection.create_function(
        "torn", 1, lambda kept: kept[:400] + bytes([kept[400] ^ 1]) + kept[401:]
    )
    with connection.cursor() as cursor:
        cursor.execute(sql, [record.pk])
        assert cursor.rowcount == 1
    with pytest.raises(CommandError, match=f"seal 1 on record {record.pk}: what it seals was altered"):
        verified()


def test_a_missing_seal_is_found(demo: Practice, dentist: User) -> None:
    record = Record.objects.get()
    for text in ("first", "second"):
        amend_record(record, text, dentist, PASSWORD)
    assert list(broken_seals(demo)) == []
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM records_seal WHERE sequence = 2")
    found = list(broken_seals(demo))
    assert any("seal 2 is missing" in line for line in found)
    assert any("does not follow" in line for line in found)


def test_the_elapsed_time_is_the_server_s(call: Caller, run: dict[str, Any]) -> None:
    wall = dt.datetime(2020, 1, 1, tzinfo=dt.UTC).isoformat()
    _, state = send(call, run, event(run["state"], "check_passed", client_wall=wall))
    began = dt.datetime.fromisoformat(state["step_began"])
    now = dt.datetime.fromisoformat(state["server_now"])
    assert 0 <= (now - began).total_seconds() < 2
    assert uuid.UUID(str(RunEvent.objects.get(run=run["id"]).client_id))


def test_the_interface_s_types_are_made_from_this_api() -> None:
    """A stale description fails: run `make types`."""
    kept = json.loads((WEB_API / "openapi.json").read_text())
    assert kept == json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/"), default=str))


def test_the_record_keeps_what_was_decided_and_what_was_said_to_it(call: Caller, molar: Restoration) -> None:
    case = call("get", f"restorations/{molar.pk}")[1]["case"]
    case["isolation"] = {"given": "1.8 ml, 2 %"}
    case["findings"] |= {"seen_on_other_teeth": "37 occlusal, stained", "esthetic_zone": True}
    case["preparation"]["remaining_dentin_mm"] = 0.4
    assert call("post", f"restorations/{molar.pk}/plans", {"case": case})[0] == 201
    _, run = call("post", f"restorations/{molar.pk}/runs")
    play_to_end(call, run["id"])
    record = Record.objects.get(run=run["id"])
    told = {d["about"]: d for d in call("get", f"records/{record.pk}")[1]["decisions"]}
    assert told["Field"]["said"] == "Given: 1.8 ml, 2 %."
    assert told["Treated for"]["said"].endswith("Seen besides, to be scheduled: 37 occlusal, stained.")
    assert told["Over the dentin"]["chosen"].startswith("calcium silicate base: Holm silicate")
    pages = PdfReader(BytesIO(call.client.get(f"/api/records/{record.pk}/pdf").content)).pages
    text = " ".join(" ".join(page.extract_text() for page in pages).split())
    assert "Field: dam, 37 to 42 \u00b7 Given: 1.8 ml, 2 %." in text
