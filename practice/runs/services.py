"""What can be done with a run: start it, and add what happened."""

from __future__ import annotations

import copy
import datetime as dt
import uuid
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from django.db import transaction
from django.utils import timezone

from mallet.plan import not_confirmed
from mallet.terms.case import read_case, set_path
from mallet.terms.errors import InputError
from mallet.terms.upgrade_plan import upgrade_plan
from practice.accounts.models import AuditEntry, User, audit
from practice.accounts.owned import Refused
from practice.devices.barcode import read_package
from practice.equipment.stock import known_by
from practice.records.services import write_record
from practice.restorations.later import later_for
from practice.restorations.models import Restoration, Visit, VisitPart
from practice.restorations.services import save_plan
from practice.restorations.visits import visit_now
from practice.runs.models import Run, RunEvent
from practice.runs.state import PLANS_ANEW, RunState, advance, fold, refuse_unfit

PAUSE_REASONS = ("patient needs a break", "anesthesia wears off", "called away", "something else")

MATRIX_REASONS = ("does not seal", "does not reach the margin", "leaves no contact", "does not stay")
BANDS = ("sectional", "circumferential", "clear")
MATRIX_TOPICS = ("matrix.mesial", "matrix.distal")

# No request waits longer for an answer; a device that is further off has another time of day.
MOST_WAIT = dt.timedelta(seconds=30)
# No length that is measured in a mouth is greater (mm), and no part of a color (CIELAB).
MOST_MEASURED = {"mm": 12.0, "": 100.0}
# So many wrong passwords of one person on others' devices are heard within so long.
MOST_GUESSES, GUESSING_WAIT = 5, dt.timedelta(minutes=5)


@dataclass(frozen=True)
class Sent:
    """An event as a device sends it.

    `age_ms` is how long ago it happened by the device's own clock, when it could not be sent at once.
    `detail` is the reason of a pause, the path and value of a measurement, or the target that it was held against, or the
    text of a code.
    """

    client_id: uuid.UUID
    kind: str
    step_id: str
    expected_revision: int
    device: str
    device_sequence: int
    client_wall: dt.datetime
    client_monotonic_ms: int
    age_ms: int = 0
    detail: dict[str, Any] = field(default_factory=dict)


def start_run(restoration: Restoration, who: User, at: dt.datetime | None = None) -> Run:
    """Start the last saved plan at the chair; an open run of it is taken up again."""
    with transaction.atomic():
        running = restoration.runs.filter(finished_at__isnull=True, part__isnull=True).last()
        if running:
            return running
        if restoration.patient is None:
            raise Refused("run.no_patient", "attach this trial to a patient before starting")
        plan = restoration.plans.last()
        if plan is None:
            raise Refused("run.no_plan", "save a plan before starting")
        if restoration.status == Restoration.Status.DONE:
            raise Refused("run.done", "this restoration is done")
        if wanted := not_confirmed(read_case(plan.body.told)):
            raise Refused("run.not_confirmed", " ".join(reason.text for reason in wanted))
        run = Run.objects.create(
            practice=restoration.practice,
            restoration=restoration,
            plan=plan,
            started_by=who,
            started_at=at or timezone.now(),
        )
        restoration.status = Restoration.Status.RUNNING
        restoration.save(update_fields=["status"])
        visit = restoration.visit or visit_now(restoration, who)
        visit.move_to(Visit.Status.IN_THE_CHAIR)
        audit(who, "runs.started", f"run {run.pk}", plan=plan.number)
    return run


def start_later(part: VisitPart, who: User) -> Run:
    """Start what a later visit is for; an open run of it is taken up again."""
    restoration = part.restoration
    if part.purpose == VisitPart.PLACE:
        return start_run(restoration, who)
    with transaction.atomic():
        running = part.runs.filter(finished_at__isnull=True).last()
        if running:
            return running
        later = later_for(part)
        if not later.is_placed:
            raise Refused("run.not_placed", "the restoration is not placed yet")
        if part.is_done:
            raise Refused("run.done", "this visit is done")
        run = Run.objects.create(
            practice=part.practice,
            restoration=restoration,
            part=part,
            plan=restoration.plans.last(),
            started_by=who,
            started_at=timezone.now(),
        )
        part.visit.move_to(Visit.Status.IN_THE_CHAIR)
        audit(who, "runs.started", f"run {run.pk}", plan=run.plan.number, purpose=part.purpose)
    return run


def asked_of(run: Run, plan: dict[str, Any]) -> dict[str, Any]:
    """Return what a plan asks for at a run: of a later visit only what that visit is for."""
    if run.part is None:
        return plan
    steps = next(one["steps"] for one in plan["later"] if one["purpose"] == run.part.purpose)
    return {**plan, "steps": steps, "increments": [], "wants": [], "supplies": []}


def state_of(run: Run) -> RunState:
    events = list(run.events.all())
    numbers = {run.plan.number, *(e.detail["plan"] for e in events if e.kind in PLANS_ANEW)}
    plans, is_placed = _plans(run, numbers), run.part is not None
    return fold(plans, run.plan.number, run.started_at, events, is_placed=is_placed)


def _plans(run: Run, numbers: Iterable[int]) -> dict[int, dict[str, Any]]:
    plans = run.restoration.plans.filter(number__in=numbers)
    return {
        number: asked_of(run, upgrade_plan(plan))
        for number, plan in plans.values_list("number", "body__plan")
    }


def add_event(run: Run, sent: Sent, who: User, at: dt.datetime | None = None) -> RunState:
    """Add an event and return the state after it; it happened now, less its age, unless a past time
    is given.

    Sending the same event again changes nothing. Raises Refused (`run.moved_on`) where another
    device was faster, or where the event does not fit; and what `save_plan` raises, for a depth
    that can't be planned.
    """
    with transaction.atomic():
        state = state_of(run)
        if RunEvent.objects.filter(client_id=sent.client_id).exists():
            return state
        if sent.expected_revision != state.revision:
            raise Refused("run.moved_on", "another device moved the run on")
        refuse_unfit(state, sent.kind, sent.step_id)
        if sent.kind == RunEvent.Kind.CHECK_PASSED and needs_teacher(run, state, who):
            raise Refused(
                "run.hold", "a teacher passes this: here with their password, or on their own device"
            )
        happened = at or _happened(sent, timezone.now())
        event = RunEvent(
            practice=run.practice,
            run=run,
            revision=state.revision + 1,
            client_id=sent.client_id,
            kind=sent.kind,
            step_id=sent.step_id,
            detail=_detail(run, state, sent, who),
            who=who,
            device=sent.device,
            device_sequence=sent.device_sequence,
            client_wall=sent.client_wall,
            client_monotonic_ms=sent.client_monotonic_ms,
            at=max(happened, state.paused_at or state.step_began),
        )
        numbers = {event.detail["plan"]} if event.kind in PLANS_ANEW else set()
        advance(state, event, _plans(run, numbers))
        event.save()
        if state.finished:
            _finish(run, state, who)
    return state


def needs_teacher(run: Run, state: RunState, who: User) -> bool:
    """Tell whether the step at hand is a hold point that somebody else has to pass."""
    return state.step.get("hold") is not None and is_supervised(run, who)


def is_supervised(run: Run, who: User) -> bool:
    """Tell whether hold points wait for a teacher: in a trainee's run for everybody, a trainee's in any run."""
    has_trainee = User.Role.TRAINEE in (run.started_by.role, who.role)
    return has_trainee and not who.may_pass_holds


def pass_hold(run: Run, sent: Sent, username: str, password: str, asked_by: User) -> RunState:
    """Pass a hold point on a trainee's device, as the teacher whose password it is; raise Refused otherwise."""
    since = timezone.now() - GUESSING_WAIT
    wrong = AuditEntry.objects.owned_by(run.practice).filter(action="runs.hold_refused", at__gt=since)
    if wrong.filter(details__name=username).count() >= MOST_GUESSES:
        minutes = GUESSING_WAIT.seconds // 60
        text = f"{MOST_GUESSES} wrong passwords: wait {minutes} minutes, or have it passed on the teacher's own device"
        raise Refused("password", text)
    teacher = User.objects.filter(practice=run.practice, username=username, is_active=True).first()
    if teacher is None or not teacher.may_pass_holds or not teacher.check_password(password):
        audit(asked_by, "runs.hold_refused", f"run {run.pk}", step=sent.step_id, name=username)
        raise Refused("password", "this is no teacher's password")
    return add_event(run, replace(sent, kind=RunEvent.Kind.CHECK_PASSED), teacher)


def _happened(sent: Sent, now: dt.datetime) -> dt.datetime:
    """Return when a device says that an event happened.

    Its age counts up to the sending; where the request then lay waiting, as it does while the server
    starts, the device's time of day, which it holds by ours, is the better word.
    """
    happened = now - dt.timedelta(milliseconds=sent.age_ms)
    waited = happened - sent.client_wall
    return sent.client_wall if dt.timedelta() < waited <= MOST_WAIT else happened


def _detail(run: Run, state: RunState, sent: Sent, who: User) -> dict[str, Any]:
    """Return what is kept of an event's detail; a new depth is planned and saved."""
    if sent.kind == RunEvent.Kind.PAUSED:
        reason = sent.detail.get("reason")
        if reason not in PAUSE_REASONS:
            raise InputError.at("detail.reason", reason, ", ".join(PAUSE_REASONS))
        return {"reason": reason}
    if sent.kind == RunEvent.Kind.LOT_SCANNED:
        return _scanned(run, sent)
    if sent.kind == RunEvent.Kind.MEASURED:
        return _measured(state, sent)
    if sent.kind == RunEvent.Kind.MIXED:
        if sent.detail.get("id") not in state.mixable:
            raise InputError.at(
                "detail.id", sent.detail.get("id"), f"one of {', '.join(sorted(state.mixable))}"
            )
        return {"id": sent.detail["id"]}
    if sent.kind == RunEvent.Kind.OTHER_MATRIX:
        return _other_matrix(run, state, sent, who)
    if sent.kind != RunEvent.Kind.DEEPER:
        return {}
    path, value = sent.detail.get("path"), sent.detail.get("value")
    body = run.restoration.plans.get(number=state.plan_number).body
    drawn = [d for sheet in body.drawn["sheets"] for d in sheet["dimensions"]]
    sizes = {d["case_path"]: d for d in drawn if d["case_path"].startswith("preparation.")}
    if path not in sizes:
        raise InputError.at("detail.path", path, f"one of {', '.join(sorted(sizes))}")
    case = copy.deepcopy(body.told)
    set_path(case, path, value)
    case.setdefault("provenance", {})[path] = "measured"
    version = save_plan(run.restoration, case, who)
    before, title = sizes[path]["value"], sizes[path]["title"]
    text = f"{title.capitalize()}: {value:g} mm instead of {before:g} mm, planned again."
    return {"path": path, "before": before, "value": value, "plan": version.number, "text": text}


def bands_of(plan: dict[str, Any]) -> list[str]:
    """Return the bands that a plan places beside the tooth."""
    return [d["chosen"] for d in plan["decisions"] if d["topic"] in MATRIX_TOPICS]


def has_other_matrix(plan: dict[str, Any]) -> bool:
    """Tell whether a plan has a band beside a tooth, of which there are other kinds."""
    return bool(bands_of(plan)) and not any("copper" in chosen for chosen in bands_of(plan))


def _other_matrix(run: Run, state: RunState, sent: Sent, who: User) -> dict[str, Any]:
    """Plan with another kind of band, and return that plan, why, and what is placed instead."""
    reason, band = sent.detail.get("reason"), sent.detail.get("text")
    if reason not in MATRIX_REASONS:
        raise InputError.at("detail.reason", reason, ", ".join(MATRIX_REASONS))
    if band not in BANDS:
        raise InputError.at("detail.text", band, ", ".join(BANDS))
    body = run.restoration.plans.get(number=state.plan_number).body
    case = copy.deepcopy(body.told)
    set_path(case, "techniques.band", band)
    version = save_plan(run.restoration, case, who)
    now = bands_of(version.body.planned)
    if now == bands_of(body.planned):
        # Taken back with the plan: whoever asked is told, and the run goes on as it was.
        raise InputError.at("detail.text", band, f"another: this cavity takes {'; '.join(now)}")
    text = f"Another matrix, since the first {reason}: {'; '.join(now)}. Planned again."
    return {"band": band, "reason": reason, "plan": version.number, "text": text}


def _measured(state: RunState, sent: Sent) -> dict[str, Any]:
    """Return which target of the step at hand was measured, and what it came to."""
    targets = {target["id"]: target for target in state.step["targets"]}
    if sent.detail.get("id") not in targets:
        raise InputError.at("detail.id", sent.detail.get("id"), f"one of {', '.join(targets)}")
    value, most = sent.detail.get("value"), MOST_MEASURED[targets[sent.detail["id"]]["unit"]]
    if value is None or abs(value) > most:
        allowed = f"{-most:g} to {most:g}"
        raise InputError.at("detail.value", value, allowed)
    return {"id": sent.detail["id"], "value": value}


def _scanned(run: Run, sent: Sent) -> dict[str, Any]:
    """Return what a package's code says and what stock knows of it. One that cannot be read is kept as
    its text: at the chair nothing that happened is refused."""
    text = str(sent.detail.get("text") or "").strip()
    try:
        package = read_package(text)
    except InputError:
        return {"text": text, "name": None, "kind": None, "lot": "", "expires_on": None, "is_over": False}
    item = known_by(run.practice, package)
    over = bool(package.expires_on and package.expires_on < run.practice.today())
    return {
        "text": text,
        "name": item.name if item else None,
        "kind": item.kind if item else None,
        "lot": package.lot,
        "expires_on": package.expires_on.isoformat() if package.expires_on else None,
        "is_over": over,
    }


def _finish(run: Run, state: RunState, who: User) -> None:
    run.finished_at = state.step_began
    run.save(update_fields=["finished_at"])
    if run.part is None:
        run.restoration.status = Restoration.Status.DONE
        run.restoration.save(update_fields=["status"])
    if run.visit.is_done:
        run.visit.move_to(Visit.Status.DONE)
    audit(who, "runs.finished", f"run {run.pk}", events=state.revision)
    plan = run.restoration.plans.get(number=state.plan_number)
    write_record(run, state, plan, asked_of(run, plan.body.planned), who)
