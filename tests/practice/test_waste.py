"""Amalgam scrap: what a run left of it, in its record and in the practice's log."""

import csv
import io

import pytest
from django.test import Client

from practice.accounts.demo import play
from practice.accounts.models import Practice, User
from practice.restorations.models import Restoration

DENSITY_MG_MM3 = 11.5


@pytest.mark.django_db
def test_scrap_is_what_was_opened_less_what_was_placed(demo: Practice) -> None:
    """By hand: one capsule of 600 mg at 0.45 makes 1091 mg; the cavity's volume times 11.5 mg/mm3 is placed."""
    dentist = User.objects.get(username="ines")
    restoration = next(r for r in Restoration.objects.all() if r.told["tooth"]["code"] == "14")
    play(restoration, dentist)
    record = restoration.runs.get().record
    left = record.content["scrap"]
    volume = restoration.plans.last().body.plan["geometry"]["volume_mm3"]
    assert (left["capsules"], left["discarded"], left["lots"]) == (1, 0, ["AC280"])
    assert left["scrap_mg"] == pytest.approx(600 / 0.55 - volume * DENSITY_MG_MM3, abs=2)
    client = Client()
    client.force_login(dentist)
    rows = list(csv.reader(io.StringIO(client.get("/api/waste-log").content.decode())))
    assert rows[0][0] == "day"
    assert rows[1][2:] == ["14", "Auk capsule 2", "AC280", "1", "0", str(left["scrap_mg"])]
    assert rows[-1] == ["sum", "", "", "", "", "", "", str(left["scrap_mg"])]
    # What is lit leaves none.
    assert all(r.content["scrap"] is None for r in type(record).objects.exclude(pk=record.pk))
