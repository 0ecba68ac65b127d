"""What can be done with a run: start it, and add what happened."""

from __future__ import annotations

import datetime as dt
import uuid
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from practice.accounts.models import User, audit
from practice.accounts.owned import Refused
from practice.records.services import write_record
from practice.restorations.models import Restoration
from practice.runs.models import Run, RunEvent
from practice.runs.state import RunState, advance, fold


@dataclass(frozen=True)
class Sent:
    """An event as a device sends it."""

    client_id: uuid.UUID
    kind: str
    step_id: str
    expected_revision: int
    device: str
    device_sequence: int
    client_wall: dt.datetime
    client_monotonic_ms: int


def start_run(restoration: Restoration, who: User, at: dt.datetime | None = None) -> Run:
    """Start the last saved plan at the chair; an open run of it is taken up again."""
    with transaction.atomic():
        running = restoration.runs.filter(finished_at__isnull=True).last()
        if running:
            return running
        plan = restoration.plans.last()
        if plan is None:
            raise Refused("run.no_plan", "save a plan before starting")
        if restoration.status == Restoration.Status.DONE:
            raise Refused("run.done", "this restoration is done")
        run = Run.objects.create(
            practice=restoration.practice,
            restoration=restoration,
            plan=plan,
            started_by=who,
            started_at=at or timezone.now(),
        )
        restoration.status = Restoration.Status.RUNNING
        restoration.save(update_fields=["status"])
        audit(who, "runs.started", f"run {run.pk}", plan=plan.number)
    return run


def state_of(run: Run) -> RunState:
    return fold(run.plan.body.plan, run.started_at, run.events.all())


def add_event(run: Run, sent: Sent, who: User, at: dt.datetime | None = None) -> RunState:
    """Add an event and return the state after it; it happened now unless a past time is given.

    Sending the same event again changes nothing. Raises Refused (`run.moved_on`) where another
    device was faster, or where the event does not fit.
    """
    with transaction.atomic():
        known = RunEvent.objects.filter(client_id=sent.client_id).first()
        state = state_of(run)
        if known:
            return state
        if sent.expected_revision != state.revision:
            raise Refused("run.moved_on", "another device moved the run on")
        event = RunEvent(
            practice=run.practice,
            run=run,
            revision=state.revision + 1,
            client_id=sent.client_id,
            kind=sent.kind,
            step_id=sent.step_id,
            who=who,
            device=sent.device,
            device_sequence=sent.device_sequence,
            client_wall=sent.client_wall,
            client_monotonic_ms=sent.client_monotonic_ms,
            at=at or timezone.now(),
        )
        advance(state, event)
        event.save()
        if state.finished:
            _finish(run, state, who)
    return state


def _finish(run: Run, state: RunState, who: User) -> None:
    run.finished_at = state.step_began
    run.save(update_fields=["finished_at"])
    run.restoration.status = Restoration.Status.DONE
    run.restoration.save(update_fields=["status"])
    audit(who, "runs.finished", f"run {run.pk}", events=state.revision)
    write_record(run, state, who)
