"""Patients of one's own: found, added, changed, archived; a new restoration from the mouth chart; visits booked and moved."""

import datetime as dt
from typing import Any

import pytest
from django.utils import timezone

from practice.accounts.models import AuditEntry, Practice, User
from practice.restorations.models import Patient, Restoration, Visit
from tests.practice.conftest import Caller

pytestmark = pytest.mark.django_db
NEW = {"full_name": "Thea-Marit Ørsted Bjørnø", "born_on": "1984-02-29", "chart_number": "A-17"}


def added(call: Caller, **changes: Any) -> dict[str, Any]:
    status, patient = call("post", "patients", {**NEW, **changes})
    assert status == 201, patient
    return patient


class TestFinding:
    @pytest.mark.parametrize(
        "text", ["bjorno thea", "THEA", "ørsted", "Bjørnø Thea-Marit", "a-17", "1984-02-29", "29.02.1984"]
    )
    def test_by_words_in_any_order_without_accents_by_number_and_by_birth(
        self, call: Caller, text: str
    ) -> None:
        added(call)
        rows = call("get", f"patients?q={text}")[1]["rows"]
        assert [row["full_name"] for row in rows] == [NEW["full_name"]]

    def test_pages_are_of_a_fixed_number_and_take_a_fixed_number_of_queries(
        self, call: Caller, demo: Practice, django_assert_num_queries: Any
    ) -> None:
        for i in range(45):
            Patient.objects.create(practice=demo, full_name=f"Row {i:02}", born_on=dt.date(1990, 1, 1))
        found = call("get", "patients?q=row&page=2")[1]
        assert (found["count"], found["pages"], len(found["rows"])) == (45, 2, 15)
        with django_assert_num_queries(5):
            call("get", "patients?q=row")

    def test_who_is_expected_says_when(self, call: Caller, molar: Restoration) -> None:
        (row,) = call("get", "patients?q=casimir")[1]["rows"]
        assert row["next_visit"] is not None


class TestTelling:
    @pytest.mark.parametrize(
        ("changed", "path"),
        [
            ({"full_name": ""}, "full_name"),
            ({"born_on": ""}, "born_on"),
            ({"born_on": "1899-12-31"}, "born_on"),
            ({"born_on": "2999-01-01"}, "born_on"),
            ({"weight_kg": 700}, "weight_kg"),
            ({"allergies": [{"to": "cats"}]}, "allergies[0].to"),
            ({"chart_number": "2212"}, "chart_number"),
        ],
    )
    def test_what_cannot_be_is_told_by_its_field(
        self, call: Caller, changed: dict[str, Any], path: str
    ) -> None:
        status, refused = call("post", "patients", {**NEW, **changed})
        assert status == 422
        (problem,) = refused["problems"]
        assert problem["path"] == path
        assert problem["got"]
        assert problem["allowed"]

    def test_two_of_one_name_and_birth_are_asked_about(self, call: Caller) -> None:
        added(call)
        again = {**NEW, "chart_number": "A-18", "full_name": "thea-marit orsted bjorno"}
        status, refused = call("post", "patients", again)
        assert (status, refused["code"]) == (409, "patient.twice")
        assert "A-17" in refused["message"]
        assert added(call, chart_number="A-18", is_another=True)["chart_number"] == "A-18"

    def test_a_change_stands_in_the_trail_with_what_was_before(self, call: Caller) -> None:
        patient = added(call)
        path = f"patients/{patient['id']}"
        status, changed = call(
            "patch", path, {"anticoagulants": True, "weight_kg": 61.5, "chart_number": "A-17"}
        )
        assert (status, changed["flags"]["anticoagulants"], changed["weight_kg"]) == (200, True, 61.5)
        assert changed["full_name"] == NEW["full_name"]
        entry = AuditEntry.objects.get(action="patients.changed")
        assert entry.details["before"] == {"anticoagulants": False, "weight_kg": None}
        call("patch", path, {"weight_kg": None})
        assert Patient.objects.get(pk=patient["id"]).weight_kg is None

    def test_a_history_that_was_gone_through_names_day_and_person(self, call: Caller, dentist: User) -> None:
        patient = added(call)
        assert not patient["is_history_current"]
        checked = call("post", f"patients/{patient['id']}/history")[1]
        assert checked["is_history_current"]
        assert checked["history_checked_by"] == dentist.full_name

    def test_nobody_is_deleted_but_archived_for_a_reason_and_taken_back(self, call: Caller) -> None:
        path = f"patients/{added(call)['id']}/archive"
        assert call("post", path, {})[1]["problems"][0]["path"] == "reason"
        assert call("post", path, {"reason": "moved away"})[1]["archived_for"] == "moved away"
        assert call("get", "patients?q=thea")[1]["rows"] == []
        assert len(call("get", "patients?q=thea&archived=true")[1]["rows"]) == 1
        assert call("post", path, {"reason": ""})[1]["archived_for"] == ""
        assert len(call("get", "patients?q=thea")[1]["rows"]) == 1


def begun(call: Caller, patient: dict[str, Any], **asked: Any) -> int:
    body = {"tooth": "36", "surfaces": "MO", "cause": "caries", **asked}
    status, made = call("post", f"patients/{patient['id']}/restorations", body)
    assert status == 201, made
    return int(made["id"])


class TestBeginning:
    def test_a_tooth_its_surfaces_and_a_reason_make_a_plan_that_says_what_it_wants(
        self, call: Caller
    ) -> None:
        patient = added(call)
        made = call("get", f"restorations/{begun(call, patient)}")[1]
        assert (made["tooth"], made["starts_at"], made["patient_id"]) == ("36", None, patient["id"])
        case = made["case"]
        assert set(case["provenance"].values()) == {"estimated"}
        assert {part["kind"] for part in case["preparation"]["parts"]} == {"occlusal_box", "proximal_box"}
        answer = call("post", "preview", {"case": case})[1]
        assert answer["plan"]
        wanted = {reason["code"] for reason in answer["plan"]["wanted_before"]}
        assert {"assess.pulp_untold", "assess.tooth_untold"} & wanted or wanted

    def test_it_is_for_the_visit_that_is_booked_and_else_for_none(
        self, call: Caller, molar: Restoration
    ) -> None:
        other = begun(call, {"id": molar.patient_id}, tooth="47", surfaces="O")
        assert call("get", f"restorations/{other}")[1]["starts_at"] is not None
        shown = call("get", f"patients/{molar.patient_id}")[1]
        assert {one["tooth"] for one in shown["restorations"]} == {"36", "47"}
        (visit,) = shown["visits"]
        assert visit["restorations"] == ["36 MO", "47 O"]

    def test_the_last_one_there_is_where_another_starts_from(self, call: Caller) -> None:
        done = Restoration.objects.get(status="done")
        other = begun(call, {"id": done.patient_id}, tooth="46", surfaces="OD", last_id=done.pk)
        case = call("get", f"restorations/{other}")[1]["case"]
        before = done.plans.last().body.told["preparation"]["parts"]
        assert case["preparation"]["parts"][0]["depth_mm"] == before[0]["depth_mm"]
        assert set(case["provenance"].values()) == {"estimated"}

    @pytest.mark.parametrize(
        ("asked", "path"),
        [({"tooth": "39"}, "tooth.code"), ({"surfaces": "MI"}, "surfaces"), ({"surfaces": ""}, "surfaces")],
    )
    def test_what_no_tooth_has_is_told(self, call: Caller, asked: dict[str, Any], path: str) -> None:
        patient = added(call)
        body = {"tooth": "36", "surfaces": "MO", **asked}
        status, refused = call("post", f"patients/{patient['id']}/restorations", body)
        assert (status, refused["problems"][0]["path"]) == (422, path)

    def test_a_child_has_no_permanent_molar_yet(self, call: Caller) -> None:
        born = timezone.now().date() - dt.timedelta(days=3 * 366)
        patient = added(call, born_on=born.isoformat())
        status, refused = call(
            "post", f"patients/{patient['id']}/restorations", {"tooth": "36", "surfaces": "O"}
        )
        assert (status, refused["problems"][0]["path"]) == (422, "tooth")

    def test_started_without_a_booking_it_is_a_visit_of_now(self, call: Caller) -> None:
        made = begun(call, added(call))
        case = call("get", f"restorations/{made}")[1]["case"]
        case["findings"] |= {"pulp": "normal", "tooth_confirmed": True}
        assert call("post", f"restorations/{made}/plans", {"case": case})[0] == 201
        status, run = call("post", f"restorations/{made}/runs")
        assert status == 200, run
        visit = Visit.objects.get(parts__restoration_id=made)
        assert visit.status == "in_the_chair"


class TestTrial:
    """A cavity without a patient is its author's alone, is planned and saved, and becomes a patient's later."""

    def test_it_is_planned_for_nobody_and_attached_later(self, call: Caller, assistant: User) -> None:
        status, made = call("post", "trials", {"tooth": "36", "surfaces": "MO"})
        assert status == 201
        shown = call("get", f"restorations/{made['id']}")[1]
        assert (shown["patient"], shown["patient_id"]) == ("", None)
        case = shown["case"]
        case["findings"] |= {"pulp": "normal", "tooth_confirmed": True}
        assert call("post", f"restorations/{made['id']}/plans", {"case": case})[0] == 201
        assert call("post", f"restorations/{made['id']}/runs")[1]["code"] == "run.no_patient"
        assert [one["id"] for one in call("get", "trials")[1]] == [made["id"]]
        other = Caller(assistant)
        assert other("get", f"restorations/{made['id']}")[0] == 404
        assert other("get", "trials")[1] == []
        assert made["id"] not in {row["restoration_id"] for row in call("get", "today")[1]["visits"]}

        patient = added(call)
        path = f"trials/{made['id']}/attach"
        assert other("post", path, {"patient_id": patient["id"]})[0] == 404
        assert call("post", path, {"patient_id": patient["id"]})[0] == 200
        assert call("post", path, {"patient_id": patient["id"]})[1]["code"] == "trial.attached"
        assert call("get", "trials")[1] == []
        assert [one["id"] for one in call("get", f"patients/{patient['id']}")[1]["restorations"]] == [
            made["id"]
        ]
        assert other("get", f"restorations/{made['id']}")[0] == 200


HEAD = "full_name,born_on,chart_number,weight_kg,allergies,anticoagulants,alert_text"


class TestFile:
    def test_what_goes_out_comes_in_again_elsewhere(self, call: Caller, demo: Practice) -> None:
        allergies = [
            {"to": "latex", "substance": ""},
            {"to": "other", "substance": "penicillin, amoxicillin"},
        ]
        Patient.objects.filter(full_name="Jorunn Pell").update(allergies=allergies)
        text = call.client.get("/api/patients-file").content.decode()
        other = Practice.objects.create(name="Elsewhere")
        who = User.objects.create_user("o", password="x", full_name="O", role="dentist", practice=other)
        there = Caller(who)
        read = there("post", "patients-file", {"text": text})[1]
        assert (read["count"], read["problems"], read["kept"]) == (12, [], 0)
        assert Patient.objects.owned_by(other).count() == 0
        assert there("post", "patients-file", {"text": text, "keep": True})[1]["kept"] == 12
        assert Patient.objects.get(practice=other, full_name="Jorunn Pell").allergies == allergies
        assert there.client.get("/api/patients-file").content.decode() == text

    def test_each_bad_row_is_named_and_nothing_half_imported(self, call: Caller, demo: Practice) -> None:
        before = Patient.objects.owned_by(demo).count()
        rows = [
            "Good One,1980-01-01,B-1,61.5,latex,yes,",
            "Late Day,31.1.1980,B-2,,,,",
            "Twice Number,1980-01-01,B-1,,,,",
            "Casimir Adeyemi-Roth,1991-08-21,B-4,,,,",
            "Heavy,1980-01-01,B-5,much,cats,perhaps,",
            ",2999-01-01,,,,,",
        ]
        text = "\n".join([HEAD, *rows])
        read = call("post", "patients-file", {"text": text})[1]
        assert read["count"] == 1
        told = [problem["path"] for problem in read["problems"]]
        assert told == [
            "line 3, born_on", "line 4, chart_number", "line 5, full_name", "line 6, weight_kg", "line 6, anticoagulants",
            "line 7, full_name", "line 7, born_on",
        ]  # fmt: skip
        status, refused = call("post", "patients-file", {"text": text, "keep": True})
        assert (status, len(refused["problems"])) == (422, 7)
        assert Patient.objects.owned_by(demo).count() == before

    @pytest.mark.parametrize(
        ("text", "said"),
        [
            ("full_name;born_on\nA;1980-01-01", "semicolons"),
            ("full_name\tborn_on\nA\t1980-01-01", "tabs"),
            ("full_name,born_on\nBj\ufffdrn,1980-01-01", "another encoding"),
            ("full_name,birthday\nA,1980-01-01", "born_on"),
            ("full_name,born_on,shoe_size\nA,1980-01-01,41", "shoe_size"),
        ],
    )
    def test_another_encoding_delimiter_or_column_is_said_not_guessed(
        self, call: Caller, text: str, said: str
    ) -> None:
        status, refused = call("post", "patients-file", {"text": text})
        assert status == 422
        (problem,) = refused["problems"]
        assert said in f"{problem['path']} {problem['got']} {problem['allowed']}"


class TestVisits:
    def booked(self, call: Caller, patient: dict[str, Any], **told: Any) -> tuple[int, dict[str, Any]]:
        who = call("get", "colleagues")[1][0]["id"]
        body = {
            "patient_id": patient["id"],
            "starts_at": "2028-05-06T09:00",
            "chair": "chair 1",
            "dentist_id": who,
            **told,
        }
        return call("post", "visits", body)

    def test_a_day_shows_what_is_booked_and_how_long_it_takes(self, call: Caller) -> None:
        patient = added(call)
        ones = [begun(call, patient), begun(call, patient, tooth="47", surfaces="O")]
        assert self.booked(call, patient, restoration_ids=ones)[0] == 201
        day = call("get", "today?day=2028-05-06")[1]
        (visit,) = day["booked"]
        assert (visit["patient"], visit["minutes"], day["is_today"]) == (NEW["full_name"], 60.0, False)
        assert [row["tooth"] for row in day["visits"]] == ["36", "47"]
        assert call("get", "today?day=2028-05-07")[1]["booked"] == []
        assert (
            self.booked(call, patient, restoration_ids=ones[:1], chair="chair 2")[1]["code"] == "visit.booked"
        )

    def test_two_in_one_chair_want_a_reason(self, call: Caller) -> None:
        one, other = added(call), added(call, full_name="Another", chart_number="")
        assert self.booked(call, one)[0] == 201
        status, refused = self.booked(call, other, starts_at="2028-05-06T09:20")
        assert (status, refused["code"]) == (409, "visit.taken")
        assert "09:00" in refused["message"]
        assert self.booked(call, other, starts_at="2028-05-06T09:30")[0] == 201
        assert self.booked(call, other, starts_at="2028-05-06T09:20", reason="twins, one chair")[0] == 201

    def test_it_is_moved_canceled_for_a_reason_and_booked_again(self, call: Caller) -> None:
        visit = self.booked(call, added(call))[1]
        path = f"visits/{visit['id']}"
        moved = call("patch", path, {"starts_at": "2028-05-07T10:15", "chair": "chair 2"})[1]
        assert (moved["starts_at"][:10], moved["chair"]) == ("2028-05-07", "chair 2")
        assert call("patch", path, {"status": "canceled"})[1]["problems"][0]["path"] == "reason"
        assert call("patch", path, {"status": "canceled", "reason": "ill"})[1]["status"] == "canceled"
        assert call("patch", path, {"status": "arrived"})[1]["code"] == "visit.status"
        assert call("patch", path, {"status": "booked"})[1]["status"] == "booked"
        assert call("patch", path, {"status": "arrived"})[1]["status"] == "arrived"
        made = call("get", f"patients/{moved['patient_id']}")[1]["visits"]
        assert [one["status"] for one in made] == ["arrived"]
        trail = [e.details.get("status") for e in AuditEntry.objects.filter(action="visits.changed")]
        assert trail == [None, "canceled", "booked", "arrived"]

    def test_what_was_canceled_waits_to_be_booked_again(self, call: Caller) -> None:
        patient = added(call)
        one = begun(call, patient)
        first = self.booked(call, patient, restoration_ids=[one])[1]
        call("patch", f"visits/{first['id']}", {"status": "canceled", "reason": "ill"})
        (shown,) = call("get", f"patients/{patient['id']}")[1]["restorations"]
        assert (shown["visit_id"], shown["at"]) == (None, None)
        again = self.booked(call, patient, starts_at="2028-05-08T09:00", restoration_ids=[one])
        assert again[0] == 201
        (shown,) = call("get", f"patients/{patient['id']}")[1]["restorations"]
        assert shown["visit_id"] == again[1]["id"]
        assert call("patch", f"visits/{first['id']}", {"status": "booked"})[1]["code"] == "visit.booked"
        assert self.booked(call, patient, chair="chair 2", restoration_ids=[one])[1]["code"] == "visit.booked"

    @pytest.mark.parametrize(
        ("told", "path"),
        [
            ({"chair": "sofa"}, "chair"),
            ({"starts_at": "1999-05-06T09:00"}, "starts_at"),
            ({"starts_at": "2099-01-01T09:00"}, "starts_at"),
        ],
    )
    def test_what_cannot_be_booked_is_told(self, call: Caller, told: dict[str, Any], path: str) -> None:
        status, refused = self.booked(call, added(call), **told)
        assert (status, refused["problems"][0]["path"]) == (422, path)

    def test_who_is_expected_is_not_archived(self, call: Caller) -> None:
        patient = added(call)
        self.booked(call, patient)
        assert (
            call("post", f"patients/{patient['id']}/archive", {"reason": "moved"})[1]["code"]
            == "patient.expected"
        )
