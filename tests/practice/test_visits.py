"""Visits: what they hold, where they stand, and what older data become."""

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from django.utils import timezone

from practice.accounts.models import Practice, User
from practice.accounts.owned import Refused
from practice.restorations.models import Patient, Restoration, Visit, VisitPart
from tests.practice.conftest import Caller, play_to_end

pytestmark = pytest.mark.django_db
ROOT = Path(__file__).parents[2]


def another_of(restoration: Restoration) -> Restoration:
    """Return one more restoration of the same patient."""
    return Restoration.objects.create(
        practice=restoration.practice,
        patient=restoration.patient,
        reason="sealed groove",
        draft=restoration.draft,
    )


def add(visit: Visit, restoration: Restoration, purpose: str = VisitPart.PLACE) -> VisitPart:
    return VisitPart.objects.create(
        practice=visit.practice, visit=visit, restoration=restoration, purpose=purpose
    )


@pytest.mark.parametrize("waits", [False, True])
def test_a_visit_is_done_with_its_last_restoration(call: Caller, molar: Restoration, waits: bool) -> None:
    visit = molar.visit
    if waits:
        add(visit, another_of(molar))
    assert visit.status == Visit.Status.BOOKED
    run = call("post", f"restorations/{molar.pk}/runs")[1]
    visit.refresh_from_db()
    assert visit.status == Visit.Status.IN_THE_CHAIR
    play_to_end(call, run["id"])
    visit.refresh_from_db()
    assert visit.status == (Visit.Status.IN_THE_CHAIR if waits else Visit.Status.DONE)


def test_a_restoration_may_take_several_visits_and_is_told_by_that_of_its_placing(
    call: Caller, molar: Restoration, dentist: User
) -> None:
    first = molar.visit
    later = Visit.objects.create(
        practice=molar.practice,
        patient=molar.patient,
        dentist=dentist,
        starts_at=timezone.now(),
        chair="chair 2",
    )
    add(later, molar, VisitPart.Purpose.POLISH)
    assert molar.visit == first
    # Booked anew, as once the first was canceled.
    add(later, molar)
    shown = next(v for v in call("get", "today")[1]["visits"] if v["restoration_id"] == molar.pk)
    assert (molar.visit, shown["chair"]) == (later, "chair 2")
    assert len(call("get", "today")[1]["visits"]) == Restoration.objects.count()


def test_a_visit_holds_restorations_of_its_own_patient(demo: Practice, molar: Restoration) -> None:
    other = Patient.objects.exclude(pk=molar.patient_id).first()
    assert other
    with pytest.raises(Refused, match="of its own patient"):
        add(other.visits.get(), molar)


OLD = """
import datetime as dt, json
from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
call_command("migrate", "accounts", "0003", verbosity=0)
call_command("migrate", "restorations", "0002", verbosity=0)
apps = MigrationExecutor(connection).loader.project_state([
    ("restorations", "0002_structured_alerts"), ("accounts", "0003_teaching"),
]).apps
def make(app, model, **told):
    return apps.get_model(app, model).objects.create(**told)
house = make("accounts", "Practice", name="Old House")
who = make("accounts", "User", username="old", full_name="Old Hand", role="dentist", practice_id=house.pk)
patient = make("restorations", "Patient", practice_id=house.pk, full_name="A Patient", born_on=dt.date(1980, 1, 1))
for hour, status in ((14, "open"), (9, "running"), (11, "done")):
    make(
        "restorations", "Restoration", practice_id=house.pk, patient_id=patient.pk, dentist_id=who.pk,
        starts_at=dt.datetime(2026, 11, 2, hour, tzinfo=dt.timezone.utc), chair=f"chair {hour}",
        reason="caries", draft={}, status=status,
    )
call_command("migrate", verbosity=0)
from practice.restorations.models import Restoration
print(json.dumps([
    [one.status, one.visit.starts_at.hour, one.visit.chair, one.visit.status, one.visit.dentist.full_name]
    for one in Restoration.objects.all()
]))
"""


def test_what_stood_with_a_restoration_stands_with_its_visit(tmp_path: Path) -> None:
    """By the migrations themselves, on a database of its own."""
    told = {**os.environ, "MALLET_VAR": str(tmp_path), "DJANGO_SETTINGS_MODULE": "practice.settings"}
    done = subprocess.run(
        [sys.executable, "manage.py", "shell", "--no-imports", "-c", OLD],
        cwd=ROOT,
        env=told,
        capture_output=True,
        text=True,
        check=True,
    )
    moved: list[list[Any]] = json.loads(done.stdout.splitlines()[-1])
    assert moved == [
        ["open", 14, "chair 14", "booked", "Old Hand"],
        ["running", 9, "chair 9", "in_the_chair", "Old Hand"],
        ["done", 11, "chair 11", "done", "Old Hand"],
    ]
