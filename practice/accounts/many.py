"""A practice of many years, to measure at: the demo practice with patients and restorations by the thousand. Their names are
put together from parts; what is planned, run and recorded repeats what the demo plans. Of a run only its end is kept."""

from __future__ import annotations

import datetime as dt
import itertools
import random
import uuid
import zoneinfo
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import models, transaction

from mallet.terms.canonical import sha256_of
from practice.accounts.demo import fill_demo, play
from practice.accounts.models import Practice, User
from practice.accounts.packed import packed
from practice.records.models import Record, Seal
from practice.records.services import FIRST_HASH, covered_by
from practice.restorations.models import (
    Patient,
    PlanBody,
    PlanVersion,
    Restoration,
    Visit,
    VisitPart,
    searched_as,
)
from practice.runs.models import Run, RunEvent

GIVEN = [
    "Aune",
    "Brant",
    "Cale",
    "Dorthe",
    "Eskil",
    "Falka",
    "Gorm",
    "Hedda",
    "Ingmar",
    "Jorunn",
    "Kare",
    "Liv",
    "Mikkel",
    "Nanna",
    "Odd",
    "Perla",
]
MIDDLE = [
    "Alder",
    "Birk",
    "Clove",
    "Drift",
    "Ember",
    "Fenn",
    "Gale",
    "Heath",
    "Isle",
    "Juniper",
    "Knoll",
    "Lark",
    "Moss",
    "Nettle",
    "Orris",
    "Pine",
]
LAST = [
    "Varnholt",
    "Ostrey",
    "Kelloway",
    "Brinsdal",
    "Tamsund",
    "Harrowick",
    "Ulverstad",
    "Penmark",
    "Skarholm",
    "Fenwyth",
]
CHAIRS = 4
A_DAY = 40
OPEN_DAYS = 5
BATCH = 1000
SEED = 20_000


@dataclass(frozen=True)
class Kind:
    """A restoration that is made many times, with what it leaves: the rows to make again, its bodies packed once."""

    restoration: Restoration
    masses: list[int]
    plan: PlanVersion
    body: dict[str, bytes]
    content: dict[str, Any]


def fill_many(patients: int, restorations: int, kinds: int | None = None) -> Practice:
    """Return the demo practice with so many patients and restorations more, of the first so many kinds that it plans, or of
    all: those of the days to come are planned, all others placed and their records signed."""
    practice = fill_demo()
    if missing := CHAIRS - len(practice.chairs):
        practice.chairs += [f"chair {len(practice.chairs) + i}" for i in range(1, missing + 1)]
        practice.save(update_fields=["chairs"])
    dentist = practice.people.filter(role=User.Role.DENTIST).first()
    assert dentist
    made_of = list(itertools.islice(_kinds(practice, dentist), kinds))
    made = _patients(practice, patients)
    last = Seal.objects.owned_by(practice).last()
    chain = _Chain(practice, dentist, last.sequence if last else 0, last.hash if last else FIRST_HASH)
    # The oldest first, as seals follow each other.
    for first in range(0, restorations, BATCH):
        count = min(BATCH, restorations - first)
        rows = [
            (made_of[n % len(made_of)], made[n % len(made)], _when(practice, restorations - 1 - n))
            for n in range(first, first + count)
        ]
        with transaction.atomic():
            _place(practice, dentist, rows, chain)
    return practice


def _kinds(practice: Practice, dentist: User) -> Iterator[Kind]:
    """Yield what of the demo is planned and can be run to its end."""
    for plan in PlanVersion.objects.newest().filter(practice=practice).select_related("body", "restoration"):
        restoration = plan.restoration
        with transaction.atomic():
            if restoration.status == Restoration.Status.OPEN:
                play(restoration, dentist)
            run = restoration.placing_run
            content = run.record.content if run.finished_at else None
            transaction.set_rollback(True)
        if content:
            restoration.refresh_from_db()
            body = {name: packed(getattr(plan.body, name)) for name in ("case", "plan", "drawing")}
            masses = [item.pk for item in restoration.materials.all()]
            yield Kind(restoration, masses, plan, body, content)


def _patients(practice: Practice, count: int) -> list[Patient]:
    chance = random.Random(SEED)
    names = itertools.cycle(itertools.product(GIVEN, MIDDLE, LAST))
    first = Patient.objects.owned_by(practice).count() + 100_000
    rows = []
    for number, (given, middle, last) in zip(range(count), names, strict=False):
        full_name = f"{given} {middle} {last}"
        rows.append(
            Patient(
                practice=practice,
                full_name=full_name,
                searched=searched_as(full_name),
                born_on=dt.date(1945, 1, 1) + dt.timedelta(days=chance.randrange(22_000)),
                chart_number=f"M{first + number}",
                allergies=[{"to": "latex", "substance": ""}] if number % 17 == 0 else [],
            )
        )
    return Patient.objects.bulk_create(rows, batch_size=BATCH)


def _when(practice: Practice, back: int) -> dt.datetime:
    """Return when a visit is, the last ones some days ahead."""
    days, seat = divmod(back, A_DAY)
    at = dt.time(8 + seat // CHAIRS % 10, 30 * (seat // CHAIRS % 2))
    day = practice.today() + dt.timedelta(days=OPEN_DAYS - days)
    return dt.datetime.combine(day, at, zoneinfo.ZoneInfo(practice.zone))


Row = tuple[Kind, Patient, dt.datetime]


def _place(practice: Practice, dentist: User, rows: Sequence[Row], chain: _Chain) -> None:
    """Make restorations with their visits, plans, runs and signed records."""
    today = practice.day_starts(practice.today())
    is_done = [at < today for *_, at in rows]
    restorations = _bulk(
        Restoration(
            practice=practice,
            patient=patient,
            author=dentist,
            reason=kind.restoration.reason,
            light_id=kind.restoration.light_id,
            draft=kind.restoration.draft,
            status=Restoration.Status.DONE if done else Restoration.Status.OPEN,
        )
        for (kind, patient, _), done in zip(rows, is_done, strict=True)
    )
    _bulk(
        Restoration.materials.through(restoration_id=made.pk, item_id=mass)
        for made, (kind, *_) in zip(restorations, rows, strict=True)
        for mass in kind.masses
    )
    visits = _bulk(
        Visit(
            practice=practice,
            patient=patient,
            dentist=dentist,
            starts_at=at,
            chair=practice.chairs[n % CHAIRS],
            status=Visit.Status.DONE if done else Visit.Status.BOOKED,
        )
        for n, ((_, patient, at), done) in enumerate(zip(rows, is_done, strict=True))
    )
    _bulk(
        VisitPart(practice=practice, visit=visit, restoration=made)
        for visit, made in zip(visits, restorations, strict=True)
    )
    plans = _bulk(
        _again(kind.plan, restoration=made) for (kind, *_), made in zip(rows, restorations, strict=True)
    )
    _bulk(
        PlanBody(practice=practice, version=plan, **kind.body)
        for (kind, *_), plan in zip(rows, plans, strict=True)
    )
    done = [
        (kind, patient, at, made, plan)
        for (kind, patient, at), made, plan, is_over in zip(rows, restorations, plans, is_done, strict=True)
        if is_over
    ]
    runs = _bulk(
        Run(
            practice=practice,
            restoration=made,
            plan=plan,
            started_by=dentist,
            started_at=at,
            finished_at=at + dt.timedelta(minutes=plan.chair_minutes),
        )
        for _, _, at, made, plan in done
    )
    _bulk(_end_of(run, dentist) for run in runs)
    records = _bulk(
        Record(
            practice=practice,
            run=run,
            content=_content(kind, patient, run),
            signed_by=dentist,
            signed_at=run.finished_at,
        )
        for (kind, patient, *_), run in zip(done, runs, strict=True)
    )
    _bulk(chain.sealed(record) for record in records)


def _bulk(rows: Iterable[Any]) -> list[Any]:
    made = list(rows)
    if not made:
        return []
    kept: list[Any] = type(made[0])._default_manager.bulk_create(made)
    return kept


def _again(plan: PlanVersion, restoration: Restoration) -> PlanVersion:
    """Return a plan as that of another restoration."""
    told = {
        field.attname: getattr(plan, field.attname)
        for field in plan._meta.concrete_fields
        if not field.primary_key and not isinstance(field, models.DateTimeField)
    }
    return PlanVersion(**{**told, "restoration_id": restoration.pk, "number": 1})


def _end_of(run: Run, who: User) -> RunEvent:
    return RunEvent(
        practice=run.practice,
        run=run,
        revision=1,
        client_id=uuid.uuid4(),
        kind=RunEvent.Kind.FINISHED,
        step_id="",
        who=who,
        device="many",
        device_sequence=0,
        client_wall=run.finished_at,
        client_monotonic_ms=0,
        at=run.finished_at,
    )


def _content(kind: Kind, patient: Patient, run: Run) -> dict[str, Any]:
    return {
        **kind.content,
        "patient": patient.full_name,
        "started_at": run.started_at.isoformat(),
        "finished_at": run.finished_at.isoformat() if run.finished_at else "",
        "plan": {**kind.content["plan"], "version": 1},
    }


@dataclass
class _Chain:
    """The seals of a practice as they are added to."""

    practice: Practice
    who: User
    sequence: int
    hash: str

    def sealed(self, record: Record) -> Seal:
        """Return the next seal, on a record."""
        self.sequence += 1
        seal = Seal(
            practice=self.practice,
            record=record,
            sequence=self.sequence,
            kind=Seal.Kind.RECORD,
            signed_by=self.who,
            signed_at=record.signed_at,
            previous_hash=self.hash,
        )
        self.hash = seal.hash = sha256_of(covered_by(seal))
        return seal
