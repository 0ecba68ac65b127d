"""What is missing, whose it is, the trail, and the demo practice itself."""

import datetime as dt
import importlib
import re
from io import StringIO
from pathlib import Path
from types import SimpleNamespace

import pytest
from django.core.management import call_command
from django.db import IntegrityError, models, transaction

from mallet.plan import plan
from mallet.terms.case import read_case
from mallet.terms.plan import NoPlan, Plan
from practice.accounts.demo import PASSWORD, fill_demo
from practice.accounts.models import ACTIONS, AuditEntry, Practice, User, audit
from practice.accounts.owned import Fixed, Owned, Refused
from practice.equipment.models import Item, Light, Lot, Reading
from practice.records.models import Record
from practice.restorations.models import FLAGS, Patient, PlanVersion, Restoration
from practice.restorations.services import case_of, missing_for
from tests.practice.conftest import Caller, play_to_end

pytestmark = pytest.mark.django_db
ROOT = Path(__file__).parents[2]


def subclasses(model: type[models.Model]) -> list[type[models.Model]]:
    return [m for c in model.__subclasses__() for m in ([c] if not c._meta.abstract else subclasses(c))]


def test_every_row_of_a_practice_names_it() -> None:
    owned = {m.__name__ for m in subclasses(Owned)}
    assert owned == {
        "AuditEntry", "HouseRule", "Item", "Light", "LightEvent", "Lot", "PasswordLink", "Patient", "PlanBody", "PlanVersion", "Reading", "Record",
        "Restoration", "Run", "RunEvent", "Seal", "Specimen", "Visit", "VisitPart",
    }  # fmt: skip
    for model in subclasses(Owned):
        field = model._meta.get_field("practice")
        assert not field.null
        assert field.remote_field.on_delete is models.PROTECT


def test_what_is_written_once_can_never_be_changed(demo: Practice) -> None:
    fixed = [m for m in subclasses(Fixed) if m.objects.exists()]
    assert {m.__name__ for m in fixed} >= {"AuditEntry", "PlanVersion", "PlanBody", "RunEvent", "Seal"}
    for model in fixed:
        kept = model.objects.first()
        for change in (
            kept.save,
            kept.delete,
            lambda m=model: m.objects.all().delete(),
            lambda m=model: m.objects.all().update(practice=demo),
            lambda m=model, k=kept: m.objects.bulk_update([k], ["practice"]),
        ):
            with pytest.raises(Refused):
                change()


class TestMissing:
    def codes(self, restoration: Restoration, day: dt.date | None = None) -> set[str]:
        restoration.refresh_from_db()
        return {m.code for m in missing_for(restoration, day or restoration.practice.today())}

    def test_nothing_for_the_one_that_is_ready(self, molar: Restoration) -> None:
        assert self.codes(molar) == set()

    def test_a_lamp_must_be_chosen_read_and_fresh(self, molar: Restoration) -> None:
        later = molar.practice.today() + dt.timedelta(days=27)
        assert "lamp.old" in self.codes(molar, later)
        assert "lamp.old" not in self.codes(molar, later - dt.timedelta(days=1))
        unread = Light.objects.create(
            practice=molar.practice, name="New", tip_diameter_mm=8, time_steps_s=[10]
        )
        # The lamp is the one that the saved plan names; without a plan, the one that was chosen.
        unplanned = Restoration.objects.get(patient__full_name="Jorunn Pell")
        unplanned.light = unread
        unplanned.save()
        assert "lamp.unread" in self.codes(unplanned)
        unplanned.light = None
        unplanned.save()
        assert "lamp.none" in self.codes(unplanned)

    def test_masses_must_be_there(self, molar: Restoration) -> None:
        lots = Lot.objects.filter(item=molar.materials.first())
        lots.update(expires_on=molar.practice.today())
        assert "shelf.soon" in self.codes(molar)
        lots.update(expires_on=molar.practice.today() - dt.timedelta(days=1))
        assert "shelf.over" in self.codes(molar)
        lots.update(count=0)
        assert "shelf.none" in self.codes(molar)
        molar.materials.clear()
        assert "masses.none" in self.codes(molar)

    def test_history_is_of_today(self, molar: Restoration) -> None:
        tomorrow = molar.practice.today() + dt.timedelta(days=1)
        assert "history.old" in self.codes(molar, tomorrow)


class TestCase:
    def test_a_new_restoration_takes_light_and_composites_from_stock(self, demo: Practice) -> None:
        unplanned = Restoration.objects.get(draft__tooth__code="26")
        case = case_of(unplanned)
        assert case["restoration"]["light"]["name"] == "Curing light B"
        assert [m["role"] for m in case["restoration"]["composites"]] == ["body", "enamel"]
        assert plan(read_case(case)).feasible

    def test_the_newest_readings_count(self, demo: Practice) -> None:
        lamp = Light.objects.get(name="Curing light B")
        before = plan(read_case(case_of(Restoration.objects.get(draft__tooth__code="26"))))
        for distance, irradiance in ((0, 800), (4, 560), (8, 270)):
            Reading.objects.create(
                practice=demo, light=lamp, distance_mm=distance, irradiance_mw_cm2=irradiance,
                taken_on=dt.date.today() + dt.timedelta(days=1),
            )  # fmt: skip
        after = plan(read_case(case_of(Restoration.objects.get(draft__tooth__code="26"))))
        assert after.totals.cure_seconds > before.totals.cure_seconds  # type: ignore[union-attr]

    def test_a_saved_plan_stays_when_stock_changes(self, molar: Restoration) -> None:
        before = case_of(molar)
        Item.objects.filter(kind="mass").update(properties={})
        assert case_of(molar) == before


class TestTrail:
    def test_an_action_is_registered_or_refused(self, dentist: User) -> None:
        with pytest.raises(ValueError, match="unregistered"):
            audit(dentist, "something.done", "x")
        source = "\n".join(p.read_text() for p in (ROOT / "practice").rglob("*.py"))
        assert set(re.findall(r"audit\(\s*\w+,\s*\"([\w.]+)\"", source)) == ACTIONS

    def test_a_run_leaves_its_trail(self, call: Caller, molar: Restoration) -> None:
        before = AuditEntry.objects.count()
        _, run = call("post", f"restorations/{molar.pk}/runs")
        state = play_to_end(call, run["id"])
        call("post", f"records/{state['record_id']}/sign", {"free_text": "", "password": PASSWORD})
        actions = [e.action for e in AuditEntry.objects.all()][before:]
        assert actions == ["runs.started", "runs.finished", "records.written", "records.signed"]

    def test_what_fails_leaves_none(self, call: Caller, molar: Restoration) -> None:
        before = (AuditEntry.objects.count(), PlanVersion.objects.count())
        assert call("post", f"restorations/{molar.pk}/plans", {"case": {"format": "x"}})[0] == 422
        assert (AuditEntry.objects.count(), PlanVersion.objects.count()) == before


class TestDemo:
    def test_filling_twice_changes_nothing(self, demo: Practice) -> None:
        counts = [m.objects.count() for m in (Practice, User, Patient, Restoration, Record)]
        assert fill_demo() == demo
        out = StringIO()
        call_command("fill_demo", stdout=out)
        assert [m.objects.count() for m in (Practice, User, Patient, Restoration, Record)] == counts
        assert "ines / " in out.getvalue()

    def test_its_work_covers_every_school_and_both_jaws(self, demo: Practice) -> None:
        drafts = [r.draft for r in Restoration.objects.all()]
        asked = [d["restoration"] for d in drafts]
        assert {one["material"] for one in asked} == {"composite", "sealant", "amalgam", "gold_foil"}
        techniques = {one["technique"] for one in asked if one["material"] == "composite"}
        assert techniques == {"wall_first", "horizontal", "oblique"}
        assert {d["tooth"]["code"][0] for d in drafts} == {"1", "2", "3", "4", "5"}
        assert {d["restoration"]["surfaces"] for d in drafts} == {
            "MO", "DO", "MOD", "O", "F", "MI", "MOF", "MODFL", "MIDFL",
        }  # fmt: skip

    def test_only_the_demo_s_own_password_opens_it(self, demo: Practice) -> None:
        assert all(u.check_password(PASSWORD) for u in demo.people.all())
        assert not Practice.objects.filter(is_demo=False).exists()


def test_a_plan_number_and_a_revision_are_taken_once(molar: Restoration, dentist: User) -> None:
    version = molar.plans.get()
    fields = {f.name: getattr(version, f.name) for f in PlanVersion._meta.fields if f.name != "id"}
    with pytest.raises(IntegrityError), transaction.atomic():
        PlanVersion.objects.create(**fields)


class TestPatient:
    def test_a_case_knows_the_patient_s_age_and_alerts(self, molar: Restoration) -> None:
        patient = molar.patient
        patient.born_on, patient.weight_kg, patient.pregnant = dt.date(2012, 11, 28), 41.0, True
        patient.allergies = [{"to": "latex", "substance": ""}, {"to": "chlorhexidine", "substance": "rinse"}]
        patient.alert_text = "Latex makes her hands itch"
        day = dt.date(2026, 11, 27)
        part = patient.case_part(day)
        assert (part["age_years"], part["weight_kg"], part["allergies"]) == (
            13,
            41.0,
            ["latex", "chlorhexidine"],
        )
        assert {flag for flag in FLAGS if part[flag]} == {"pregnant"}
        assert patient.case_part(day + dt.timedelta(days=1))["age_years"] == 14
        assert patient.alerts == [
            "Latex allergy", "Chlorhexidine allergy: rinse", "Pregnant", "Latex makes her hands itch",
        ]  # fmt: skip
        patient.allergies = [{"to": "gold dust"}]
        with pytest.raises(Refused, match="gold dust"):
            patient.save()

    @pytest.mark.parametrize(
        ("texts", "allergies", "flags"),
        [
            (["Latex allergy", "Pregnant, second trimester"], ["latex"], {"pregnant"}),
            (["Allergy to resin"], ["resin"], set()),
            # What may mean less is kept as text alone: somebody must read it.
            (["Latex allergy of her mother"], [], set()),
            (["No latex allergy"], [], set()),
            (["Pregnant?"], [], set()),
            (["Breast cancer 2019"], [], set()),
            (["Nursing", "Takes a blood thinner"], [], {"breast_feeding"}),
        ],
    )
    def test_alerts_that_stood_as_text_are_kept_as_text_and_read_where_they_are_plain(
        self, texts: list[str], allergies: list[str], flags: set[str]
    ) -> None:
        class Old:
            def __init__(self) -> None:
                self.alerts, self.allergies, self.saved = texts, [], False
                self.pregnant = self.breast_feeding = False
                self.alert_text = ""

            def save(self) -> None:
                self.saved = True

        old = Old()
        module = importlib.import_module("practice.restorations.migrations.0002_structured_alerts")
        model = SimpleNamespace(objects=SimpleNamespace(all=lambda: [old]))
        module.move(SimpleNamespace(get_model=lambda *_: model), None)
        assert old.saved
        assert old.alert_text == "; ".join(texts)
        assert [one["to"] for one in old.allergies] == allergies
        assert {flag for flag in ("pregnant", "breast_feeding") if getattr(old, flag)} == flags

    def test_an_allergy_to_resin_stops_the_saved_plan_from_being_made_anew(self, molar: Restoration) -> None:
        molar.patient.allergies = [{"to": "resin", "substance": "patch test 2024"}]
        molar.patient.save()
        made = plan(read_case(case_of(molar)))
        assert isinstance(made, NoPlan)
        assert "allergic to resin" in made.requirement.text
        # The plan that was saved before must not be started from Today either.
        (flag,) = [f for f in missing_for(molar, molar.practice.today()) if f.code == "choose.stopped"]
        assert flag.level == "stop"

    def test_the_place_is_the_practice_s(self, molar: Restoration) -> None:
        assert case_of(molar)["place"] == "us"
        Practice.objects.update(place="eu")
        molar = Restoration.objects.get(pk=molar.pk)
        assert case_of(molar)["place"] == "eu"
        made = plan(read_case(case_of(molar)))
        assert isinstance(made, Plan)
        (decision,) = [d for d in made.decisions if d.topic == "choose.material"]
        amalgam = next(o for o in decision.options if o.id == "amalgam")
        assert amalgam.is_stopped
        assert "2024/1849" in amalgam.limits[0].authority
