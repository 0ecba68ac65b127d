"""The API: signing in, previews, plans, errors that name their field."""

import base64
import io
import json
from typing import Any

import pytest
import trimesh
from django.test import Client

from mallet.plan import plan, work
from mallet.studies.shapes import shape_file
from mallet.terms.canonical import canonical_json
from mallet.terms.case import read_case
from practice.accounts.models import AuditEntry, Practice, User
from practice.accounts.owned import Refused
from practice.api import api
from practice.api.access import PERMISSIONS
from practice.equipment.models import Item
from practice.equipment.stock import planned_stock
from practice.restorations.models import PlanVersion, Restoration
from tests.core.conftest import first_case, with_values
from tests.practice.conftest import PASSWORD, Caller

pytestmark = pytest.mark.django_db


def routes() -> list[str]:
    """Return every method and route of the API, as the published description has them."""
    paths = api.get_openapi_schema(path_prefix="")["paths"]
    return [f"{method.upper()} {path.strip('/')}" for path, methods in paths.items() for method in methods]


def test_every_route_has_a_row_and_every_row_a_route() -> None:
    rows = [row.replace("<int:", "{").replace("<", "{").replace(">", "}") for row in PERMISSIONS]
    assert sorted(routes()) == sorted(rows)


def filled(route: str, restoration: Restoration) -> str:
    """Return a route with the ids of things that exist."""
    run = restoration.runs.last()
    return (
        route.replace("<int:restoration_id>", str(restoration.pk))
        .replace("<int:number>", "1")
        .replace("<shape>.<format>", "filling.stl")
        .replace("<int:part_id>", str(restoration.placing.pk))
        .replace("<int:light_id>", str(restoration.light.pk))
        .replace("<int:patient_id>", str(restoration.patient_id))
        .replace("<int:item_id>", str(Item.objects.get(practice=restoration.practice, name="Skarv body").pk))
        .replace("<int:visit_id>", str(restoration.visit.pk))
        .replace("<int:person_id>", str(User.objects.get(username="tomas").pk))
        .replace("<int:run_id>", str(run.pk if run else 1))
        .replace("<int:record_id>", str(run.record.pk if run else 1))
    )


@pytest.mark.parametrize("row", [r for r, roles in PERMISSIONS.items() if "anyone" not in roles])
def test_nobody_sees_anything_without_signing_in(row: str, demo: Practice) -> None:
    method, route = row.split(" ", 1)
    done = Restoration.objects.get(status="done")
    status, body = Caller()(method, filled(route, done), {} if method != "GET" else None)
    assert (status, body["code"]) == (401, "signed_out")


@pytest.mark.parametrize(
    "row", [r for r, roles in PERMISSIONS.items() if not {"assistant", "anyone"} & roles]
)
def test_an_assistant_may_not_do_what_is_the_dentist_s(row: str, assistant: User) -> None:
    method, route = row.split(" ", 1)
    if "session" in route:
        return
    done = Restoration.objects.get(status="done")
    status, body = Caller(assistant)(method, filled(route, done), {})
    assert (status, body["code"]) == (403, "role")


@pytest.mark.parametrize("row", [r for r in PERMISSIONS if "<int:" in r])
def test_another_practice_finds_nothing(row: str, demo: Practice) -> None:
    other = Practice.objects.create(name="Elsewhere")
    stranger = User.objects.create_user(
        "stranger", password=PASSWORD, full_name="A Stranger", role="dentist", practice=other, is_owner=True
    )
    method, route = row.split(" ", 1)
    done = Restoration.objects.get(status="done")
    bodies: dict[str, Any] = {
        "plans": {"case": first_case()},
        "restorative": {"case": first_case(), "material": "sealant"},
        "events": {"client_id": "0" * 8 + "-0000-4000-8000-" + "0" * 12, "kind": "step_done", "step_id": "x",
                   "expected_revision": 0, "device": "x", "device_sequence": 0,
                   "client_wall": "2026-11-25T10:00:00Z", "client_monotonic_ms": 0},
        "sign": {"free_text": "", "password": PASSWORD},
        "holds": {"username": "ines", "password": PASSWORD},
        "amendments": {"text": "x", "password": PASSWORD},
        "readings": {"source": "entered", "readings": [{"distance_mm": 0, "irradiance_mw_cm2": 900}]},
        "samples": {"distance_mm": 0},
        "color": {"text": "", "thickness_mm": 1},
        "optics": {"optics": {"kind": "family", "opacity": "body", "tab": [78, 1, 15]}},
            "later": {"purpose": "polish", "starts_at": "2030-01-07T09:00", "chair": "x"},
    }  # fmt: skip
    bodies["holds"] |= bodies["events"]
    bodies["attach"] = {"patient_id": done.patient_id}
    if "patient_id" in route:
        bodies["restorations"] = {"tooth": "36", "surfaces": "O"}
    if "light_id" in route:
        bodies["events"] = {"kind": "cleaned"}
    body = bodies.get(route.rsplit("/", 1)[-1], {"free_text": "mine"}) if method != "GET" else None
    status, answer = Caller(stranger)(method, filled(route, done), body)
    assert (status, answer["code"]) == (404, "not_found")
    assert Caller(stranger)("get", "today")[1]["visits"] == []


def test_signing_in_needs_the_csrf_token_and_the_right_password(demo: Practice) -> None:
    client = Client(enforce_csrf_checks=True)
    session = client.get("/api/session").json()
    assert session["user"] is None
    assert {a["username"] for a in session["demo_accounts"]} == {"ines", "tomas", "runa", "osk"}
    token = client.cookies["csrftoken"].value

    def post(password: str, **headers: str) -> int:
        body = json.dumps({"username": "ines", "password": password})
        return client.post("/api/session", body, content_type="application/json", headers=headers).status_code

    assert post(PASSWORD) == 403
    assert post("wrong-password", **{"X-CSRFToken": token}) == 401
    assert post(PASSWORD, **{"X-CSRFToken": token}) == 200
    assert client.get("/api/session").json()["user"]["role"] == "dentist"
    body = json.dumps({"case": first_case()})
    assert client.post("/api/preview", body, content_type="application/json").status_code == 403
    assert AuditEntry.objects.filter(action="accounts.signed_in").count() == 1


def test_demo_accounts_are_not_offered_elsewhere(demo: Practice) -> None:
    demo.is_demo = False
    demo.save()
    assert Client().get("/api/session").json()["demo_accounts"] == []


def test_today_says_who_is_next_and_what_is_missing(call: Caller) -> None:
    _, today = call("get", "today")
    visits = {v["tooth"]: v for v in reversed(today["visits"])}
    teeth = [v["tooth"] for v in today["visits"]]
    assert teeth == ["46", "36", "15", "14", "46", "26", "34", "11", "47", "51", "17", "37"]
    assert [m["code"] for m in visits["36"]["missing"]] == []
    assert {m["code"] for m in visits["15"]["missing"]} == {"lamp.old", "history.old"}
    assert {(m["code"], m["level"]) for m in visits["26"]["missing"]} == {("plan.none", "stop")}
    assert visits["46"]["signed"] is True


def test_each_that_is_on_today_opens_on_the_bench_saved_or_not(call: Caller) -> None:
    for visit in call("get", "today")[1]["visits"]:
        status, opened = call("get", f"restorations/{visit['restoration_id']}")
        assert status == 200, opened
        assert bool(opened["plans"]) == (visit["tooth"] in {"46", "36", "15", "14"})
        status, preview = call("post", "preview", {"case": opened["case"]})
        assert (status, bool(preview["plan"])) == (200, True)


def test_teeth_are_named_as_the_user_likes(dentist: User, call: Caller) -> None:
    dentist.notation = User.Notation.NUMBER
    dentist.save()
    assert call("get", "today")[1]["visits"][1]["tooth"] == "#19"


def test_a_pair_of_fine_scans_is_planned_from(call: Caller) -> None:
    worked = work(read_case(first_case()))

    def fine(name: str) -> str:
        mesh = trimesh.load(io.BytesIO(shape_file(worked, name, "stl")), file_type="stl")
        return base64.b64encode(mesh.subdivide().subdivide().export(file_type="stl")).decode()

    case = first_case()
    case["preparation"]["scan"] = {name: fine(name) for name in ("before", "after")}
    assert sum(map(len, case["preparation"]["scan"].values())) > 3_000_000
    status, out = call("post", "preview", {"case": case})
    assert status == 200
    volume = out["plan"]["geometry"]["volume_mm3"]
    assert volume == pytest.approx(worked.plan.geometry.volume_mm3, rel=0.01)


def test_a_preview_is_the_heart_s_own_plan(call: Caller) -> None:
    status, out = call("post", "preview", {"case": first_case()})
    practice = Practice.objects.get(is_demo=True)
    stock = planned_stock(practice, practice.today())
    made = plan(read_case({**first_case(), "stock": stock, "place": practice.place}))
    assert status == 200
    expected = made.model_dump(mode="json", by_alias=True)
    assert canonical_json(out["plan"]) == canonical_json(expected)
    section = next(s for s in out["drawing"]["sheets"] if s["view"] == "section")
    ids = [i["id"] for i in out["plan"]["increments"]]
    assert [s["id"] for s in section["shapes"] if s["role"] == "increment"] == ids
    height = next(d for d in section["dimensions"] if d["case_path"] == "preparation.parts[1].height_mm")
    assert height["p0"][1] - height["p1"][1] == pytest.approx(5.0, abs=2e-3)
    assert height["state"] == "estimated"


def test_a_shape_of_a_draft_comes_as_a_file(call: Caller) -> None:
    body = {"case": first_case()}
    status, names = call("post", "shapes", body)
    assert status == 200
    assert {"before", "after", "restoration", "mesial.gingival"} <= set(names)
    path = "/api/shapes/mesial.gingival.ply"
    answer = call.client.post(path, data=json.dumps(body), content_type="application/json")
    assert answer.headers["Content-Disposition"] == 'attachment; filename="mesial.gingival.ply"'
    assert answer.content.startswith(b"ply\n")
    status, refused = call("post", "shapes/restoration.obj", body)
    assert status == 422
    assert refused["problems"][0]["path"] == "format"


def test_a_bad_preview_names_each_field(call: Caller) -> None:
    bad = with_values(first_case(), preparation__parts__1__height_mm=-1, masses__0__max_increment_mm=99)
    status, body = call("post", "preview", {"case": bad})
    assert (status, body["code"]) == (422, "bad_input")
    assert [p["path"] for p in body["problems"]] == [
        "preparation.parts[1].height_mm",
        "masses[0].max_increment_mm",
    ]
    status, body = call("post", "preview", {"cases": 1})
    assert (status, body["code"]) == (422, "bad_request")


def test_a_refusal_is_an_answer(call: Caller) -> None:
    hopeless = with_values(first_case(), masses__0__critical_exposure_j_cm2=9.0)
    status, out = call("post", "preview", {"case": hopeless})
    assert status == 200
    assert out["plan"] is None
    assert out["refusal"]["requirement"]["code"] == "cure.too_long"


def test_the_case_comes_as_it_was_given_and_saves_as_the_next_version(
    call: Caller, molar: Restoration
) -> None:
    _, before = call("get", f"restorations/{molar.pk}")
    case = before["case"]
    assumed = call("post", "preview", {"case": case})[1]["plan"]["assumptions"]
    # The Bench has no fields for what was found before cutting.
    assert [a["path"] for a in assumed if not a["path"].startswith("findings.")] == []
    changed = with_values(case, preparation__parts__1__height_mm=6.0)
    status, row = call("post", f"restorations/{molar.pk}/plans", {"case": changed})
    assert (status, row["number"]) == (201, 2)
    _, after = call("get", f"restorations/{molar.pk}")
    assert after["case"]["preparation"]["parts"][1]["height_mm"] == 6.0
    assert [p["number"] for p in after["plans"]] == [1, 2]
    _, first = call("get", f"restorations/{molar.pk}/plans/1")
    assert first["case"]["preparation"]["parts"][1]["height_mm"] == 4.5
    hopeless = with_values(case, restoration__composites__0__critical_exposure_j_cm2=20.0)
    assert call("post", f"restorations/{molar.pk}/plans", {"case": hopeless})[0] == 409
    assert call("get", f"restorations/{molar.pk}")[1]["plans"] == after["plans"]


def test_saved_plans_are_never_changed(molar: Restoration) -> None:
    version = molar.plans.get()
    with pytest.raises(Refused):
        version.save()
    with pytest.raises(Refused):
        version.body.delete()
    with pytest.raises(Refused):
        PlanVersion.objects.all().update(number=9)
    with pytest.raises(Refused):
        PlanVersion.objects.all().delete()


def test_a_pit_has_the_shape_that_each_restorative_wants(call: Caller) -> None:
    """The same outline, with groove, points and bevel for gold only: what is compared is what each asks of the tooth."""
    (visit,) = (v for v in call("get", "today")[1]["visits"] if v["patient"].startswith("Aslaug"))
    where = f"restorations/{visit['restoration_id']}"
    gold = call("get", where)[1]["case"]

    def volume_mm3(case: dict[str, Any]) -> float:
        return float(call("post", "preview", {"case": case})[1]["plan"]["geometry"]["volume_mm3"])

    composite = call("post", f"{where}/restorative", {"case": gold, "material": "composite"})[1]
    (pit,) = composite["preparation"]["parts"]
    assert (pit["kind"], pit["bevel_mm"], pit["point_depth_mm"]) == ("gold_pit", 0.0, 0.0)
    assert volume_mm3(composite) < 0.8 * volume_mm3(gold)
    back = call("post", f"{where}/restorative", {"case": composite, "material": "gold_foil"})[1]
    assert "bevel_mm" not in back["preparation"]["parts"][0]
    assert volume_mm3(back) == pytest.approx(volume_mm3(gold), rel=1e-6)
    cut = {
        **gold["preparation"],
        "parts": [{"kind": "pit", "diameter_mm": 1.4, "depth_mm": 1.0, "above_cej_mm": 2.2}],
    }
    plain = call(
        "post", f"{where}/restorative", {"case": {**composite, "preparation": cut}, "material": "gold_foil"}
    )[1]
    (oval,) = plain["preparation"]["parts"]
    assert (oval["kind"], oval["height_mm"], oval["above_cej_mm"]) == ("gold_pit", 1.4, pytest.approx(2.9))
