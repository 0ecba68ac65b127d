"""The practice's lamps: readings that are kept, what is said of a lamp, and the simulated radiometer."""

import datetime as dt
from random import Random
from typing import Any

import pytest

from mallet.light.beam import Beam
from practice.accounts.models import AuditEntry, Practice, User
from practice.devices.radiometer import Condition, Radiometer, SimulatedRadiometer, read_steadily
from practice.equipment.models import Light, Reading
from practice.equipment.services import standing_of
from practice.restorations.models import Restoration
from tests.practice.conftest import Caller

pytestmark = pytest.mark.django_db

BEAM = Beam(4.5, 1150.0, 2.0)


@pytest.fixture
def lamp(demo: Practice) -> Light:
    found: Light = Light.objects.get(name="Curing light B")
    return found


def readings(*rows: tuple[float, float]) -> list[dict[str, float]]:
    return [{"distance_mm": z, "irradiance_mw_cm2": e} for z, e in rows]


def codes(answer: Any) -> list[str]:
    return [flag["code"] for flag in answer["flags"]]


WEAK = readings((0, 360), (4, 254), (8, 122))


def test_a_lamp_tells_how_it_stands(call: Caller, lamp: Light) -> None:
    status, found = call("get", f"lights/{lamp.pk}")
    assert status == 200
    assert (found["state"], found["flags"], found["outdated"]) == ("in_use", [], [])
    beam = found["beam"]
    assert beam["contact_mw_cm2"] == pytest.approx(1148, abs=1)
    assert [r["distance_mm"] for r in beam["residuals"]] == [0, 4, 8]
    assert beam["wanted"]["contact_mw_cm2"] < beam["contact_mw_cm2"]
    assert beam["table"]["rows"][0]["seconds"][0] <= beam["table"]["rows"][0]["seconds"][2]
    assert {"light.deep_floor_mm", "light.longest_exposure_s"} <= {r["rule"] for r in beam["wanted"]["rules"]}
    # Eight months of readings, each month about 1.2 % less.
    assert len(found["days"]) == found["trend"]["days"] == 8
    assert found["trend"]["share_a_month"] == pytest.approx(-0.012, abs=0.003)


def test_a_weaker_lamp_is_told_everywhere_and_the_plans_made_with_it(
    call: Caller, lamp: Light, molar: Restoration
) -> None:
    status, found = call("post", f"lights/{lamp.pk}/readings", {"source": "radiometer", "readings": WEAK})
    assert status == 200
    assert "lamp.weak" in codes(found)
    assert [o["restoration_id"] for o in found["outdated"]] == [molar.pk]
    newest = [r for r in found["readings"] if r["taken_on"] == found["today"]]
    assert {(r["source"], r["taken_by"]) for r in newest} == {("radiometer", "Ines Okafor-Lind")}
    visit = next(v for v in call("get", "today")[1]["visits"] if v["restoration_id"] == molar.pk)
    assert {m["code"] for m in visit["missing"]} == {"lamp.weak", "lamp.fallen"}
    assert {"lamp.weak", "lamp.fallen"} == {
        m["code"] for m in call("get", f"restorations/{molar.pk}")[1]["missing"]
    }
    run = call("post", f"restorations/{molar.pk}/runs")[1]["id"]
    assert {"lamp.weak", "lamp.fallen"} == {f["code"] for f in call("get", f"runs/{run}")[1]["flags"]}
    of_lamps = {row["name"]: row for row in call("get", "lights")[1]}
    assert codes(of_lamps["Curing light B"]) == ["lamp.weak"]
    assert AuditEntry.objects.filter(action="equipment.light.read").count() == 1


def test_a_lamp_under_the_least_output_stops(call: Caller, lamp: Light, molar: Restoration) -> None:
    low = readings((0, 200), (4, 140), (8, 70))
    _, found = call("post", f"lights/{lamp.pk}/readings", {"source": "entered", "readings": low})
    assert codes(found) == ["lamp.too_weak"]
    visit = next(v for v in call("get", "today")[1]["visits"] if v["restoration_id"] == molar.pk)
    assert ("lamp.too_weak", "stop") in {(m["code"], m["level"]) for m in visit["missing"]}


def test_cleaning_drops_that_day_s_readings_and_starts_the_trend_anew(call: Caller, lamp: Light) -> None:
    call("post", f"lights/{lamp.pk}/readings", {"source": "entered", "readings": WEAK})
    status, found = call("post", f"lights/{lamp.pk}/events", {"kind": "cleaned", "note": "paste on the tip"})
    assert status == 200
    assert found["beam"]["contact_mw_cm2"] == pytest.approx(1148, abs=1)
    assert found["trend"] is None
    assert found["events"][-1]["note"] == "paste on the tip"
    again = readings((0, 1120), (4, 790), (8, 380))
    _, found = call("post", f"lights/{lamp.pk}/readings", {"source": "entered", "readings": again})
    assert found["flags"] == []
    assert found["beam"]["contact_mw_cm2"] == pytest.approx(1120, rel=0.01)
    assert len([r for r in found["readings"] if r["taken_on"] == found["today"]]) == 6


def test_lent_and_retired_lamps_stop_and_are_not_offered(call: Caller, lamp: Light) -> None:
    def event(kind: str, note: str = "") -> tuple[int, Any]:
        return call("post", f"lights/{lamp.pk}/events", {"kind": kind, "note": note})

    assert event("returned")[1]["code"] == "not_away"
    _, lent = event("lent", "the other island")
    assert (lent["state"], codes(lent)) == ("lent", ["lamp.lent"])
    assert "the other island" in lent["flags"][0]["text"]
    assert event("returned")[1]["state"] == "in_use"
    assert codes(event("retired")[1]) == ["lamp.retired"]
    assert event("cleaned")[1]["code"] == "retired"
    assert lamp.name not in [row["name"] for row in call("get", "lights")[1]]
    # A slip of the finger is not for good.
    assert event("returned")[1]["state"] == "in_use"


@pytest.mark.parametrize(
    ("wrong", "path", "allowed"),
    [
        (readings((0, 900)), "readings", "readings at two distances or more"),
        (readings((0, 500), (4, 900)), "readings", "readings that fall with distance"),
        ([{**r, "taken_on": "2999-01-01"} for r in WEAK], "readings[0].taken_on", "a day up to"),
    ],
)
def test_readings_that_tell_no_beam_are_refused_and_nothing_is_kept(
    call: Caller, lamp: Light, wrong: object, path: str, allowed: str
) -> None:
    before = Reading.objects.count()
    status, body = call("post", f"lights/{lamp.pk}/readings", {"source": "entered", "readings": wrong})
    assert (status, body["problems"][0]["path"]) == (422, path)
    assert allowed in body["problems"][0]["allowed"]
    assert Reading.objects.count() == before


def test_a_file_names_each_bad_row_and_keeps_the_good_ones_in_hand(call: Caller) -> None:
    text = "distance_mm,irradiance_mw_cm2,taken_at\n0,1100,2026-11-01\n4,lots,2026-11-01\n60,80,\n8,300,soon\n8,350,\n"
    status, body = call("post", "readings-file", {"text": text})
    assert status == 200
    assert [(r["distance_mm"], r["taken_on"]) for r in body["readings"]] == [(0, "2026-11-01"), (8, None)]
    assert [p["path"] for p in body["problems"]] == [
        "line 3, irradiance_mw_cm2", "line 4, distance_mm", "line 5, taken_at",
    ]  # fmt: skip
    status, body = call("post", "readings-file", {"text": "a,b\n1,2\n"})
    assert (status, body["problems"][0]["path"]) == (422, "line 1")


def test_a_new_lamp_can_be_added_once_by_its_name(call: Caller) -> None:
    new = {"name": "Curing light C", "tip_diameter_mm": 8, "time_steps_s": [10, 20]}
    status, found = call("post", "lights", new)
    assert (status, codes(found), found["beam"]) == (201, ["lamp.unread"], None)
    assert call("post", "lights", new)[1]["code"] == "taken"
    assert call("post", "lights", {**new, "name": "D", "tip_diameter_mm": 1})[0] == 422


def test_what_a_lamp_offers_besides_full_output_is_kept_and_checked(call: Caller) -> None:
    new = {"name": "Curing light C", "tip_diameter_mm": 8, "time_steps_s": [10, 20]}
    pulsed = {"kind": "pulsed", "on_share": 0.8}
    status, found = call("post", "lights", {**new, "output_modes": [pulsed]})
    assert (status, found["output_modes"]) == (201, [pulsed])
    offered = {light["name"]: light["output_modes"] for light in call("get", "lights")[1]}
    assert offered["Curing light A"] == []
    assert [mode["kind"] for mode in offered["Curing light B"]] == ["ramp"]
    half = {"kind": "ramp", "start_share": 0, "rise_s": 5}
    status, refused = call("post", "lights", {**new, "name": "D", "output_modes": [half]})
    assert status == 422
    assert "start_share" in refused["problems"][0]["path"]


def test_a_case_takes_the_newest_day_only_however_long_the_lamp_was_read(lamp: Light) -> None:
    newest = lamp.readings.last().taken_on.isoformat()
    part = lamp.case_part()
    assert len(lamp.counting_readings()) == 24
    assert [(r["distance_mm"], r["taken_at"]) for r in part["readings"]] == [(z, newest) for z in (0, 4, 8)]
    assert "peak_nm" not in part
    lamp.peak_nm = 450
    assert lamp.case_part()["peak_nm"] == 450


def test_the_peak_of_a_lamp_tells_how_long_an_eye_may_look(call: Caller, lamp: Light) -> None:
    """B is 0.94 at 450 nm and 0.45 at 480 (ICNIRP 2013, from memory)."""

    def told(peak: float | None) -> Any:
        lamp.peak_nm = peak
        lamp.save()
        return call("get", f"lights/{lamp.pk}")[1]["beam"]["safety"]

    violet, green, unknown = told(450), told(480), told(None)
    assert green["direct_s"] / violet["direct_s"] == pytest.approx(0.94 / 0.45)
    assert "light.peak_nm" in {r["rule"] for r in unknown["eye_rules"]}
    assert "light.peak_nm" not in {r["rule"] for r in violet["eye_rules"]}
    assert unknown["warms_k"] > unknown["careful_from_k"]


def test_an_old_reading_and_a_young_one(lamp: Light) -> None:
    today = lamp.practice.today()
    assert standing_of(lamp, today).flags == ()
    (old,) = standing_of(lamp, today + dt.timedelta(days=30)).flags
    assert (old.code, old.level) == ("lamp.old", "caution")


class TestRadiometer:
    def test_it_waits_for_the_lamp_to_warm_up(self) -> None:
        simulated: Radiometer = SimulatedRadiometer(BEAM, Condition(), Random(1))
        cold = simulated.sample_mw_cm2(4.0)
        steady = read_steadily(simulated, 4.0)
        assert steady.is_steady
        assert steady.samples > 6
        assert cold > 1.05 * steady.irradiance_mw_cm2
        assert steady.irradiance_mw_cm2 == pytest.approx(BEAM.on_axis_mw_cm2(4.0), rel=0.04)

    def test_age_and_a_spoilt_tip_take_light(self) -> None:
        def reads(condition: Condition, distance: float) -> float:
            return read_steadily(SimulatedRadiometer(BEAM, condition, Random(2)), distance).irradiance_mw_cm2

        sound = reads(Condition(), 0.0)
        assert reads(Condition(battery_months=36), 0.0) < 0.8 * sound
        assert reads(Condition(tip="dirty"), 0.0) < 0.8 * sound
        # A chip scatters: more is lost away from the tip than in contact.
        chipped = Condition(tip="chipped")
        assert reads(chipped, 8.0) / reads(Condition(), 8.0) < 0.9 * reads(chipped, 0.0) / sound

    def test_what_never_holds_is_said_to(self) -> None:
        class Loose:
            name = "loose contact"
            turn = 0

            def sample_mw_cm2(self, distance_mm: float) -> float:
                self.turn += 1
                return 1000.0 if self.turn % 2 else 400.0

        steady = read_steadily(Loose(), 0.0)
        assert (steady.is_steady, steady.samples) == (False, 40)

    def test_the_api_reads_and_keeps_nothing(self, call: Caller, lamp: Light, dentist: User) -> None:
        before = Reading.objects.count()
        status, body = call("post", f"lights/{lamp.pk}/samples", {"distance_mm": 4, "tip": "dirty"})
        assert status == 200
        assert body["is_steady"]
        assert 400 < body["irradiance_mw_cm2"] < 700
        assert body["radiometer"] == "simulated radiometer"
        assert Reading.objects.count() == before

    def test_what_is_simulated_never_stands_beside_patients(self, call: Caller, lamp: Light) -> None:
        assert call("get", f"lights/{lamp.pk}")[1]["radiometer"] == "simulated radiometer"
        lamp.practice.is_demo = False
        lamp.practice.save()
        assert call("get", f"lights/{lamp.pk}")[1]["radiometer"] is None
        status, body = call("post", f"lights/{lamp.pk}/samples", {"distance_mm": 4})
        assert (status, body["code"]) == (409, "no_radiometer")
