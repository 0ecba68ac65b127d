"""What must stop, what must be told, what must be off again: in the browser, on the real server."""

import re
import uuid

from playwright.sync_api import Page, expect

from tests.views.conftest import sign_in
from tests.views.test_journey import field, open_bench, skip_to
from tests.views.test_kills import Device
from tests.views.test_stages import opened
from tools.server import Server

CLASS_III = {
    "kind": "proximal_cavity", "side": "mesial", "face": "lingual", "height_mm": 2.0, "depth_mm": 1.6, "faciolingual_mm": 1.2,
}  # fmt: skip


def test_signs_that_contradict_the_pulp_stop_the_plan_until_they_are_settled(
    page: Page, server: Server
) -> None:
    open_bench(page, server)
    opened(page, "1")
    field(page, "findings.pain").select_option("spontaneous")
    refused = page.get_by_role("alert").filter(
        has_text="Recorded signs (spontaneous pain) conflict with the diagnosis"
    )
    expect(refused).to_be_visible()
    expect(page.get_by_role("button", name="Start chairside")).to_be_disabled()
    expect(page.get_by_role("button", name="Save plan")).to_be_disabled()
    field(page, "findings.pain").select_option("brief_on_cold")
    expect(refused).to_be_hidden()
    expect(page.get_by_role("button", name="Start chairside")).to_be_enabled()


def test_nothing_starts_before_pulp_and_tooth_are_told(page: Page, server: Server) -> None:
    open_bench(page, server, "Jorunn Pell")
    wanted = page.get_by_role("status", name="Before work may start")
    expect(wanted).to_be_visible()
    start = page.get_by_role("button", name="Start chairside")
    expect(start).to_be_disabled()
    wanted.get_by_role("button", name="Tell it").click()
    field(page, "findings.pulp").select_option("reversible")
    expect(wanted).to_contain_text("26")
    expect(start).to_be_disabled()
    field(page, "findings.tooth_confirmed").select_option("yes")
    expect(wanted).to_be_hidden()
    expect(start).to_be_enabled()


def test_the_dose_of_the_anesthetic_is_held_against_the_weight(page: Page, server: Server) -> None:
    open_bench(page, server)
    notes = opened(page, "4")
    agent = field(page, "isolation.anesthetics[0].agent")
    agent.select_option("articaine_epinephrine")
    volume = field(page, "isolation.anesthetics[0].volume_ml")
    # No volume is put in by itself.
    expect(volume).to_have_value("")
    volume.fill("1.7")
    checked = notes.get_by_role("listitem").filter(has_text="Anesthetic, share of its maximum")
    expect(checked.get_by_role("img", name="in order")).to_be_visible()
    # 7 mg/kg of 68 kg, 40 mg in a milliliter.
    expect(notes).to_contain_text("At most 11.9 mL of articaine for 68 kg")
    volume.fill("16")
    expect(checked.get_by_role("img", name="stop")).to_be_visible()
    expect(checked).to_contain_text("Give less, or finish in two visits")


def test_deeper_at_the_chair_is_the_drawing_of_the_record(page: Page, server: Server) -> None:
    open_bench(page, server)
    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    skip_to(page, "Verify the preparation")
    page.get_by_role("button", name="deeper").click()
    page.get_by_role("button", name="6.0 mm").click()
    expect(page.get_by_role("status").filter(has_text="6 mm instead of 4.5 mm")).to_be_visible()
    run_id = int(page.url.rsplit("/", 1)[1])
    device = Device(server)
    run = device("GET", f"runs/{run_id}")
    state, steps = run["state"], {s["id"]: s for s in run["steps"]}
    while not state["finished"]:
        at_end = state["index"] == state["count"] - 1
        kind = "finished" if at_end else "check_passed" if steps[state["step_id"]]["check"] else "step_done"
        event = {
            "client_id": str(uuid.uuid4()), "kind": kind, "step_id": state["step_id"],
            "expected_revision": state["revision"], "device": "test", "device_sequence": state["revision"],
            "client_wall": "2026-11-25T10:20:00Z", "client_monotonic_ms": 0, "detail": {},
        }  # fmt: skip
        state = device("POST", f"runs/{run_id}/events", event)
    kept = device("GET", f"records/{state['record_id']}")
    plans = device("GET", f"restorations/{kept['restoration_id']}")["plans"]
    last = device("GET", f"restorations/{kept['restoration_id']}/plans/{plans[-1]['number']}")
    assert kept["plan_number"] == plans[-1]["number"] > 1
    assert kept["drawing"] == last["drawing"]
    assert len(kept["placed"]) == len(last["plan"]["increments"])
    page.goto(f"{server.url}/records/{state['record_id']}")
    article = page.get_by_role("article")
    expect(article.get_by_role("img", name=re.compile("Drawing"))).to_be_visible()
    expect(article).to_contain_text(f"plan {plans[-1]['number']}")
    expect(article.get_by_role("list", name="Deviations")).to_contain_text("6 mm instead of 4.5 mm")
    expect(article.get_by_role("columnheader", name="thickness, mm")).to_be_visible()
    expect(article.get_by_role("columnheader", name="recorded s", exact=True)).to_be_visible()
    expect(article.get_by_role("list", name="Assumed")).to_be_visible()


def test_the_strip_of_a_front_tooth_is_off_before_the_floss(page: Page, server: Server) -> None:
    device = Device(server)
    visit = next(v for v in device("GET", "today")["visits"] if v["tooth"] == "11")
    restoration = f"restorations/{visit['restoration_id']}"
    case = device("GET", restoration)["case"]
    case["preparation"]["parts"] = [CLASS_III]
    case["restoration"]["surfaces"] = "ML"
    case["provenance"] = {}
    device("POST", f"{restoration}/plans", {"case": case})
    sign_in(page, server)
    page.goto(f"{server.url}/bench/{visit['restoration_id']}")
    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    titles = skip_to(page)
    put, off, floss = (next(i for i, t in enumerate(titles) if re.search(w, t)) for w in STRIP)
    assert put < off < floss, titles


STRIP = ("^Dead-soft strip and wedge", "^Strip and wedge off", "^Check the contact")
