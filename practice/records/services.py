"""What can be done with a record: write it from a run, sign it, amend it, verify the chain."""

from __future__ import annotations

import csv
import datetime as dt
import io
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils import timezone

from mallet.plan import RESTORATIVE_NAMES, not_confirmed
from mallet.terms.canonical import sha256_of
from mallet.terms.case import read_case
from practice.accounts.models import Practice, User, audit
from practice.accounts.owned import Refused
from practice.records.content import decided, deviations, measured, mixed, placed, scrap, steps_done
from practice.records.models import Record, Seal

if TYPE_CHECKING:
    from practice.restorations.models import PlanVersion
    from practice.runs.models import Run
    from practice.runs.state import RunState

FIRST_HASH = "0" * 64


def write_record(run: Run, state: RunState, plan: PlanVersion, asked: dict[str, Any], who: User) -> Record:
    """Write the draft of a finished run's record; the plan is the one that it ended by, and what of it was asked for."""
    body = plan.body
    restoration = run.restoration
    content: dict[str, Any] = {
        "format": "mallet-record/2",
        "practice": run.practice.name,
        "patient": restoration.patient.full_name,
        "tooth": body.planned["tooth"],
        "surfaces": body.told["restoration"]["surfaces"],
        "material": RESTORATIVE_NAMES[body.told["restoration"]["material"]],
        "reason": restoration.reason,
        "visit": _visit_of(run, asked),
        "dentist": run.visit.dentist.full_name,
        "finished_by": who.full_name,
        "started_at": run.started_at.isoformat(),
        "finished_at": state.step_began.isoformat(),
        "plan": {
            "version": plan.number,
            "engine": plan.engine,
            "rulebook": plan.rulebook,
            "case_sha256": plan.case_sha256,
            "drawing_sha256": sha256_of(body.drawing),
            "is_confirmed": not not_confirmed(read_case(body.told)),
            "figures": [
                {k: f[k] for k in ("id", "title", "value", "unit", "detail")} for f in body.planned["figures"]
            ],
            "decisions": decided(body.planned),
            "assumptions": body.planned["assumptions"],
        },
        "case": body.told,
        "placed": placed(asked, state),
        "measured": measured(state),
        "mixes": mixed(state, asked),
        "scrap": scrap(asked, state),
        "lots": state.lots,
        "steps": steps_done(state),
        "deviations": deviations(state),
        "holds": _holds(run, state),
    }
    record = Record.objects.create(practice=run.practice, run=run, content=content)
    audit(who, "records.written", f"record {record.pk}")
    return record


def _visit_of(run: Run, asked: dict[str, Any]) -> dict[str, str]:
    """Return what the visit was for."""
    if run.part is None:
        return {"purpose": "place", "name": ""}
    name = next(one["name"] for one in asked["later"] if one["purpose"] == run.part.purpose)
    return {"purpose": run.part.purpose, "name": name}


def waste_log(practice: Practice) -> str:
    """Return a line for each restoration that left scrap to be kept apart, and their sum (mg), as CSV."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["day", "record", "tooth", "material", "lots", "capsules", "discarded", "scrap_mg"])
    total = 0.0
    for row in Record.objects.owned_by(practice).order_by("written_at"):
        left = row.content.get("scrap")
        if left:
            day = row.content["finished_at"][:10]
            told = [
                " + ".join(left["names"]),
                " + ".join(left["lots"]),
                left["capsules"],
                left["discarded"],
                left["scrap_mg"],
            ]
            table.writerow([day, row.pk, row.content["tooth"]["code"], *told])
            total += left["scrap_mg"]
    table.writerow(["sum", "", "", "", "", "", "", round(total)])
    return out.getvalue()


def _holds(run: Run, state: RunState) -> list[dict[str, str]]:
    """Return who passed which hold point and when, the last time that it was passed."""
    titles = {step["id"]: step["title"] for step in state.steps if step.get("hold")}
    passed = (
        run.events.filter(kind="check_passed", step_id__in=titles).select_related("who").order_by("revision")
    )
    last = {event.step_id: event for event in passed}
    return [
        {
            "title": title,
            "by": last[id].who.full_name,
            "role": last[id].who.role,
            "at": last[id].at.isoformat(),
        }
        for id, title in titles.items()
        if id in last
    ]


def set_free_text(record: Record, text: str) -> Record:
    """Keep the dentist's own words in a draft; raise Refused once it is signed."""
    record.free_text = text
    record.save(update_fields=["free_text"])
    return record


def sign_record(
    record: Record, free_text: str, who: User, password: str, at: dt.datetime | None = None
) -> Record:
    """Seal a record with the dentist's password; raise Refused for a wrong one or a second time.

    It is signed now unless a past time is given.
    """
    _check_password(who, password)
    with transaction.atomic():
        record = Record.objects.select_for_update().get(pk=record.pk)
        if record.signed_at:
            raise Refused("signed", "this record is signed already")
        if not record.content["plan"].get("is_confirmed", True):
            raise Refused("record.not_confirmed", "nobody confirmed the tooth and diagnosed its pulp")
        record.free_text = free_text
        record.signed_by, record.signed_at = who, at or timezone.now()
        record.save()
        _seal(record.practice, record, Seal.Kind.RECORD, "", who, record.signed_at)
        audit(who, "records.signed", f"record {record.pk}")
    return record


def amend_record(record: Record, text: str, who: User, password: str) -> Seal:
    """Add a signed amendment beneath a signed record."""
    _check_password(who, password)
    if not text.strip():
        raise Refused("amendment.empty", "an amendment needs text")
    with transaction.atomic():
        if not record.signed_at:
            raise Refused("unsigned", "a draft is changed, not amended: sign it first")
        seal = _seal(record.practice, record, Seal.Kind.AMENDMENT, text.strip(), who, timezone.now())
        audit(who, "records.amended", f"record {record.pk}")
    return seal


def seal_restore(who: User, password: str, taken_at: str) -> Seal:
    """Sign that all data was restored from a backup, which knows nothing of what came after it was taken."""
    _check_password(who, password)
    assert who.practice
    with transaction.atomic():
        seal = _seal(
            who.practice, None, Seal.Kind.RESTORED, f"restored as of {taken_at}", who, timezone.now()
        )
        audit(who, "records.restored", f"practice {who.practice.pk}", taken_at=taken_at)
    return seal


def broken_seals(practice: Practice) -> Iterator[str]:
    """Yield what does not fit in a practice's chain: altered, missing or out of place."""
    previous, expected = FIRST_HASH, 1
    for seal in Seal.objects.owned_by(practice).select_related("record"):
        name = f"seal {seal.sequence} on {f'record {seal.record_id}' if seal.record_id else 'a restore'}"
        if seal.sequence != expected:
            yield f"{name}: seal {expected} is missing before it"
        if seal.previous_hash != previous:
            yield f"{name}: does not follow the seal before it"
        if seal.hash != sha256_of(covered_by(seal)):
            yield f"{name}: what it seals was altered"
        previous, expected = seal.hash, seal.sequence + 1
    for record in Record.objects.owned_by(practice).select_related("run__restoration"):
        # Records of before drawings were sealed have no digest of theirs.
        digest = record.content and record.content["plan"].get("drawing_sha256")
        if digest and digest != sha256_of(record.drawn_plan.body.drawing):
            yield f"record {record.pk}: its drawing was altered"
    sealed = Seal.objects.owned_by(practice).filter(kind=Seal.Kind.RECORD).values("record")
    signed = Record.objects.owned_by(practice).filter(signed_at__isnull=False)
    for record in signed.exclude(pk__in=sealed):
        yield f"record {record.pk}: signed without a seal"


def _check_password(who: User, password: str) -> None:
    if not who.check_password(password):
        raise Refused("password", "the password is wrong")


def _seal(
    practice: Practice, record: Record | None, kind: str, text: str, who: User, at: dt.datetime
) -> Seal:
    last = Seal.objects.owned_by(practice).last()
    seal = Seal(
        practice=practice,
        record=record,
        sequence=last.sequence + 1 if last else 1,
        kind=kind,
        text=text,
        signed_by=who,
        signed_at=at,
        previous_hash=last.hash if last else FIRST_HASH,
    )
    seal.hash = sha256_of(covered_by(seal))
    seal.save()
    return seal


def covered_by(seal: Seal) -> dict[str, Any]:
    """Return what a seal's hash covers. An amendment covers the record beneath it too."""
    record = seal.record
    own = {
        "sequence": seal.sequence,
        "previous_hash": seal.previous_hash,
        "kind": seal.kind,
        "text": seal.text,
        "signed_by": seal.signed_by_id,
        "signed_at": seal.signed_at.isoformat(),
    }
    if record is None:
        return own
    return {
        **own,
        "record": record.pk,
        "run": record.run_id,
        "content": record.content,
        "free_text": record.free_text,
        "record_signed_at": record.signed_at.isoformat() if record.signed_at else "",
    }
