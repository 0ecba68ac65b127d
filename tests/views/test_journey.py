"""From Today to a signed record, as a dentist goes: real server, real interface, demo data."""

import json
import math
import re
import sqlite3
import time
import uuid
from contextlib import closing

from playwright.sync_api import Locator, Page, expect

from tests.views.conftest import bring_session, sign_in
from tools.server import Server

PASSWORD = "gannet-sound-demo"
BENCH_OF = """SELECT r.id FROM restorations_restoration r JOIN restorations_patient p ON p.id = r.patient_id
WHERE p.full_name = ?"""


def row(page: Page, patient: str) -> Locator:
    return page.get_by_role("listitem").filter(has_text=patient).first


def figure(page: Page, name: str) -> float:
    """Return a figure of the reckoning, once it is that of the plan drawn."""
    expect(page.get_by_role("complementary", name="Summary")).to_have_attribute("aria-busy", "false")
    text = page.locator(f"[data-figure={name}]").inner_text()
    return float(re.search(r"\d+(\.\d+)?", text.split("\n", 1)[1]).group())  # type: ignore[union-attr]


def field(page: Page, path: str) -> Locator:
    return page.locator(f'[data-path="{path}"]')


def technique(page: Page) -> Locator:
    return page.get_by_role("combobox", name="technique").first


def take_technique(page: Page, name: str) -> None:
    """Plan by a technique."""
    technique(page).click()
    page.get_by_role("option", name=name, exact=True).click()
    expect(technique(page)).to_have_text(name)


def at_hand(page: Page, part: str) -> None:
    """Bring a part's sizes to hand, or the curing light."""
    page.get_by_role("tablist", name="Part").get_by_role("tab", name=part).click()


def picture(page: Page) -> str:
    """Return the first of the pictures as it is painted, once it stands still."""
    canvas = page.get_by_role("img", name=re.compile("^Drawing")).first
    expect(canvas).to_have_attribute("data-painted", re.compile(r"\d"))
    seen = ""
    while seen != (now := canvas.get_attribute("data-painted") or ""):
        seen = now
        page.wait_for_timeout(600)
    painted: str = canvas.evaluate("canvas => canvas.toDataURL()")
    return painted


def expect_picture(page: Page, wanted: str) -> None:
    """Wait for a picture: each bitmap of a drag is hung in a frame of its own."""
    for _ in range(10):
        if picture(page) == wanted:
            return
    assert picture(page) == wanted


def open_bench(page: Page, server: Server, patient: str = "Casimir Adeyemi-Roth") -> None:
    """Open the Bench of a patient's restoration, as from a bookmark."""
    bring_session(page, server)
    with closing(sqlite3.connect(server.database)) as data:
        (restoration_id,) = data.execute(BENCH_OF, [patient]).fetchone()
    page.goto(f"{server.url}/bench/{restoration_id}")
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    page.wait_for_timeout(400)  # the drawing takes its size from the page's layout


HEIGHT = "preparation.parts[1].height_mm"


def test_today_tells_who_is_next_and_what_is_missing(page: Page, server: Server) -> None:
    sign_in(page, server)
    expect(row(page, "Casimir Adeyemi-Roth")).to_contain_text("next")
    expect(row(page, "Casimir Adeyemi-Roth")).to_contain_text("Ready to start")
    expect(row(page, "Orla Tamsin Brekke")).to_contain_text("Curing light A last read 47 days ago")
    unplanned = row(page, "Jorunn Pell")
    expect(unplanned).to_contain_text("No plan saved")
    expect(unplanned.get_by_role("button", name="Start")).to_be_disabled()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    page.goto(f"{server.url}/bench/2")
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()


def test_the_bench_follows_what_is_typed_and_says_why(page: Page, server: Server) -> None:
    open_bench(page, server)
    before = {name: figure(page, name) for name in ("light_seconds", "increments", "filling")}
    drawn = picture(page)

    field(page, HEIGHT).fill("6")
    expect(page.get_by_role("button", name=re.compile("mesial box, height: about 6.0"))).to_be_visible()
    expect(page.locator("[data-figure=filling]")).not_to_contain_text(str(before["filling"]))
    assert figure(page, "light_seconds") > before["light_seconds"]
    assert figure(page, "filling") > before["filling"]
    assert picture(page) != drawn
    expect(page.get_by_role("complementary", name="Summary")).to_contain_text("root dentin")

    for title, source in (
        ("Total curing time", "ISO 4049"),
        ("Lowest radiant exposure", "ISO 4049"),
        ("Increments", "Rueggeberg, Caughman, Curtis 1994"),
        ("Restoration", "handbook"),
        ("Chair time", "Our own estimate, no source"),
    ):
        page.get_by_role("button", name=f"Why: {title}", exact=True).click()
        reasons = page.get_by_role("dialog", name=f"Why: {title}")
        expect(reasons).to_contain_text(source)
        expect(reasons).to_contain_text("about 6 mm · estimated")
        expect(reasons).to_contain_text("measured")
        page.keyboard.press("Escape")
        expect(reasons).to_be_hidden()

    orders = {}
    for school in ("horizontal", "oblique", "proximal wall first"):
        take_technique(page, school)
        page.get_by_role("button", name=re.compile("Placement")).click()
        expect(page.get_by_text("Chosen: ").first).to_contain_text(school.removeprefix("proximal "))
        page.get_by_role("button", name="Close").click()
        orders[school] = picture(page)
    assert len(set(orders.values())) == 3


def test_a_wrong_value_keeps_picture_and_text_and_names_what_is_allowed(page: Page, server: Server) -> None:
    open_bench(page, server)
    good, light = picture(page), figure(page, "light_seconds")
    for wrong, allowed in (("60", "10 or less"), ("-1", "more than 0"), ("tall", "a number")):
        field(page, HEIGHT).fill(wrong)
        problem = page.get_by_role("alert").filter(has_text=f"Allowed: {allowed}")
        expect(problem).to_be_visible()
        expect(page.get_by_text("show the last plan that worked")).to_be_visible()
        expect(field(page, HEIGHT)).to_have_value(wrong)
        expect_picture(page, good)
        assert figure(page, "light_seconds") == light
        expect(page.get_by_role("button", name="Start chairside")).to_be_disabled()
    axial = "preparation.parts[1].axial_depth_mm"
    field(page, axial).fill("4")
    field(page, HEIGHT).fill("5")
    # What was measured over the pulp counts, and that the handbook would have it otherwise is told.
    expect(page.get_by_role("complementary", name="Summary")).to_contain_text(
        "The measured 1.5 mm of dentin count"
    )
    field(page, HEIGHT).fill("4.5")
    field(page, axial).fill("1.5")
    expect(page.get_by_text("show the last plan that worked")).to_be_hidden()
    expect(page.get_by_role("complementary", name="Summary")).not_to_contain_text("The measured 1.5 mm")
    expect_picture(page, good)


def step(page: Page) -> str:
    return page.get_by_test_id("step-title").inner_text()


def go_on(page: Page, *, passed: bool = True) -> None:
    """End the step at hand, in the order of the plan or done again, and wait for the next one."""
    header = page.get_by_text(re.compile(r"^step \d+ of \d+"))
    before = header.inner_text()
    page.get_by_role("button", name=re.compile("(passed|next)$" if passed else "failed$")).click()
    expect(header).not_to_have_text(before)


def skip_to(page: Page, title: str | None = None) -> list[str]:
    """Let another device of the same person end the steps up to one whose title begins so, or to the last; return their
    titles. The page follows by itself."""
    expect(page.get_by_test_id("step-title")).to_be_visible()
    origin, run_id = page.url.split("/chair/")
    path = f"{origin}/api/runs/{run_id}"
    run = page.request.get(path).json()
    steps, state = {step["id"]: step for step in run["steps"]}, run["state"]
    token = next(one["value"] for one in page.context.cookies() if one["name"] == "csrftoken")
    passed = []
    while state["index"] < state["count"] - 1:
        step = steps[state["step_id"]]
        if title is not None and step["title"].startswith(title):
            break
        event = {
            "client_id": str(uuid.uuid4()), "kind": "check_passed" if step.get("check") else "step_done",
            "step_id": state["step_id"], "expected_revision": state["revision"], "device": "another",
            "device_sequence": state["revision"], "client_wall": "2026-11-25T10:20:00Z", "client_monotonic_ms": 1000,
        }  # fmt: skip
        answer = page.request.post(
            f"{path}/events", data=event, headers={"X-CSRFToken": token, "Referer": origin}
        )
        if answer.status == 409:
            # What was pressed on the page came between.
            state = page.request.get(path).json()["state"]
            continue
        assert answer.ok, answer.text()
        passed.append(step["title"])
        state = answer.json()
    expect(page.get_by_test_id("step-title")).to_have_text(steps[state["step_id"]]["title"])
    return passed


def elapsed(page: Page) -> float:
    return float(page.get_by_test_id("timer").get_attribute("data-elapsed") or "nan")


def expect_elapsed_since(page: Page, began: float) -> None:
    """Wait until a step's clock is right: a slow answer sets it by half its way, the next quick one better."""
    off_s = math.inf
    for _ in range(20):
        page.wait_for_timeout(500)
        off_s = abs(elapsed(page) - (time.monotonic() - began))
        if off_s < 1:
            return
    assert off_s < 1


def test_from_plan_to_signed_record(page: Page, server: Server) -> None:
    sign_in(page, server)
    row(page, "Casimir Adeyemi-Roth").get_by_role("link", name="Bench").click()
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    field(page, HEIGHT).fill("6")
    expect(page.locator("[data-figure=increments]")).to_be_visible()
    expect(page.get_by_text("changed since plan 1")).to_be_visible()
    page.get_by_role("button", name="Start chairside").click()
    for title in ("Review the medical history", "Anesthetize the tooth", "Rubber dam on", "Open the tooth"):
        expect(page.get_by_test_id("step-title")).to_have_text(title)
        go_on(page)

    # Key repeat and a press too soon make no second step.
    page.evaluate(
        """() => {
          for (const _ of [1, 2]) {
            const key = { key: " ", code: "Space", bubbles: true, cancelable: true };
            document.body.dispatchEvent(new KeyboardEvent("keydown", key));
            document.body.dispatchEvent(new KeyboardEvent("keyup", key));
          }
        }"""
    )
    expect(page.get_by_test_id("step-title")).to_have_text("Cut the occlusal part")
    page.wait_for_timeout(420)
    for _ in range(3):
        go_on(page)
    expect(page.get_by_test_id("step-title")).to_have_text("Verify the preparation")

    # The page is loaded anew in the middle of a step: same step, right time.
    page.wait_for_timeout(1500)
    began = time.monotonic() - elapsed(page)
    page.reload()
    expect(page.get_by_test_id("step-title")).to_have_text("Verify the preparation")
    expect_elapsed_since(page, began)

    # The server dies; what is pressed meanwhile is kept and sent once it is back, once.
    page.wait_for_timeout(300)
    server.kill()
    page.keyboard.press("p")
    pressed = time.monotonic()
    expect(page.get_by_text("unsent: 1")).to_be_visible()
    expect(page.get_by_test_id("step-title")).to_have_text("Place the mesial band")
    page.wait_for_timeout(2000)
    server.start()
    expect(page.get_by_test_id("step-title")).to_have_text("Place the mesial band")
    expect(page.get_by_text("unsent: 1")).to_be_hidden()
    expect_elapsed_since(page, pressed)

    # And dies between two steps: nothing that was acknowledged is lost.
    began = time.monotonic() - elapsed(page)
    server.kill()
    server.start()
    page.reload()
    expect(page.get_by_test_id("step-title")).to_have_text("Place the mesial band")
    expect_elapsed_since(page, began)

    go_on(page)
    page.keyboard.press("Backspace")
    expect(page.get_by_test_id("step-title")).to_have_text("Place the mesial band")
    page.wait_for_timeout(420)
    go_on(page)
    go_on(page)
    assert step(page) == "Test the mesial seal"
    go_on(page, passed=False)
    expect(page.get_by_test_id("step-title")).to_have_text("Wedge the mesial embrasure")
    expect(page.get_by_role("status").filter(has_text="Next wedge size")).to_be_visible()

    titles = []
    while page.get_by_role("button", name="finish").count() == 0:
        titles.append(step(page))
        if titles[-1].startswith("Place the mesial gingival"):
            expect(page.get_by_text("Hand over next")).to_be_visible()
        go_on(page)
    assert "Light-cure the adhesive" in titles
    page.keyboard.press("Space")

    record = page.get_by_role("article")
    expect(record.get_by_role("heading", name="36 MO, composite")).to_be_visible()
    expect(record.get_by_role("list", name="Deviations")).to_contain_text("does the probe find no step?” No.")
    expect(record.get_by_role("list", name="Deviations")).to_contain_text("Went back from")
    expect(record.get_by_role("table").first).to_contain_text("SB4417")
    expect(record.locator('[data-step="matrix.mesial.seal"]')).to_contain_text("(2 times)")

    page.get_by_label("In your own words").fill("Second wedge held. Margin below the cementoenamel junction.")
    page.get_by_label("Your password, to sign").fill("not it")
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_role("alert")).to_contain_text("the password is wrong")
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()

    # Signed: nothing to change it with in the interface, and the server refuses.
    expect(page.get_by_label("In your own words")).to_have_count(0)
    expect(page.get_by_role("button", name="Sign the record")).to_have_count(0)
    number = page.url.rsplit("/", 1)[1]
    status = page.evaluate(
        """async (id) => {
            const token = document.cookie.match(/csrftoken=([^;]+)/)[1];
            const answer = await fetch(`/api/records/${id}`, {
                method: "PATCH",
                headers: {"X-CSRFToken": token, "Content-Type": "application/json"},
                body: JSON.stringify({free_text: "changed"}),
            });
            return answer.status;
        }""",
        number,
    )
    assert status == 409
    page.get_by_label("Amendment").fill("Patient called: no pain.")
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Amend").click()
    expect(page.get_by_text("Amended: Patient called: no pain.")).to_be_visible()
    expect(page.get_by_test_id("free-text")).to_have_text(
        "Second wedge held. Margin below the cementoenamel junction."
    )

    with page.expect_download() as download:
        page.get_by_role("link", name="Export JSON").click()
    exported = json.loads(download.value.path().read_text())
    assert exported["free_text"].startswith("Second wedge held")
    assert exported["case"]["preparation"]["parts"][1]["height_mm"] == 6
    assert [s["kind"] for s in exported["seals"]] == ["record", "amendment"]
    assert "3 seals whole" in server.manage("verify_records").stdout
    with closing(sqlite3.connect(server.database)) as database:
        sql = "UPDATE records_record SET free_text = replace(free_text, 'S', 's') WHERE id = ?"
        assert database.execute(sql, [number]).rowcount == 1
        database.commit()
    found = server.manage("verify_records")
    assert found.returncode != 0
    assert f"on record {number}: what it seals was altered" in found.stderr


def test_an_assistant_may_run_but_not_sign(page: Page, server: Server) -> None:
    sign_in(page, server, "Tomas Verhallen")
    row(page, "Sunniva Hallbjorn").get_by_role("link", name="Record").click()
    expect(page.get_by_role("heading", name="46 DO, composite")).to_be_visible()
    expect(page.get_by_label("Amendment")).to_have_count(0)
    page.goto(server.url)
    row(page, "Casimir Adeyemi-Roth").get_by_role("link", name="Bench").click()
    expect(page.get_by_role("button", name="Start chairside")).to_be_enabled()
    field(page, HEIGHT).fill("5")
    expect(page.get_by_text("changed since plan 1")).to_be_visible()
    expect(page.get_by_role("button", name="Save plan")).to_be_disabled()
    expect(page.get_by_role("button", name="Start chairside")).to_be_disabled()
