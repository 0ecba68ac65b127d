"""A practice of one's own: from an empty database to the first signed records; a first plan within few inputs."""

import csv
import datetime as dt
import re
import time
from collections.abc import Iterator
from pathlib import Path
from zoneinfo import ZoneInfo

import pytest
from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect

from tests.views.conftest import sign_in, type_day, type_time
from tests.views.test_journey import go_on, skip_to
from tests.views.test_reach import barriers, tab_to
from tests.views.test_stages import opened
from tools.server import ROOT, Server

PASSWORD = "a long enough pass phrase"
MOST_INPUTS, MOST_S = 8, 20
STOCK = ("Skarv body", "Skarv two-bottle adhesive", "Teist sealant")


@pytest.fixture
def empty(browsable: None, tmp_path: Path) -> Iterator[Server]:
    """A server on an empty database."""
    running = Server(tmp_path)
    running.manage("migrate", "--verbosity", "0")
    running.start()
    yield running
    running.kill()


@pytest.fixture
def tablet(browser: Browser) -> Iterator[BrowserContext]:
    context = browser.new_context(viewport={"width": 1024, "height": 768})
    yield context
    context.close()


def tooth(page: Page, code: str) -> Locator:
    return page.get_by_role("button", name=re.compile(rf"^{code}, "))


def test_from_an_empty_database_to_the_first_records(
    page: Page, empty: Server, tablet: BrowserContext, tmp_path: Path
) -> None:
    page.goto(empty.url)
    expect(page.get_by_role("heading", name="Set up your practice")).to_be_visible()
    assert barriers(page) == []
    page.get_by_label("Name of the practice").fill("Skerry Lane Dental")
    page.get_by_role("button", name="European Union").click()
    page.get_by_label("Your name").fill("Ragna Vestergaard-Obi")
    page.get_by_label("User name").fill("ragna")
    page.get_by_label("Password").fill("short")
    page.get_by_role("button", name="Set up and sign in").click()
    expect(page.get_by_text("5 characters? Allowed: This password is too short")).to_be_visible()
    expect(page.get_by_label("Name of the practice")).to_have_value("Skerry Lane Dental")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Set up and sign in").click()
    expect(page.get_by_text("Nothing is booked")).to_be_visible()

    second = invited(page, tablet)
    equip(page, tmp_path)
    began(page)
    page.get_by_role("button", name="Book a visit").click()
    # Near midnight the next quarter of an hour is another day's.
    zone = page.evaluate("Intl.DateTimeFormat().resolvedOptions().timeZone")
    type_day(page.get_by_role("group", name="Day"), dt.datetime.now(ZoneInfo(zone)).date().isoformat())
    type_time(page.get_by_role("group", name="Time"), "09:30")
    page.get_by_role("button", name="Book", exact=True).click()
    expect(page.get_by_role("region", name="Visits")).to_contain_text("36 MO, 46 O")
    for place, wanted in ((0, "36 MO"), (1, "46 O")):
        plan(page, place, wanted)
    page.get_by_role("link", name="Today").click()
    rows = page.get_by_role("listitem").filter(has_text="Thea-Marit")
    expect(rows).to_have_count(2)

    # Both at the chair, each on a device of their own.
    rows.nth(0).get_by_role("button", name="Start").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    second.goto(page.url)
    expect(second.get_by_test_id("step-title")).to_have_text(page.get_by_test_id("step-title").inner_text())
    go_on(page)
    expect(second.get_by_test_id("step-title")).to_have_text(page.get_by_test_id("step-title").inner_text())
    go_on(second)
    expect(page.get_by_test_id("step-title")).to_have_text(second.get_by_test_id("step-title").inner_text())
    sign(page)
    page.get_by_role("link", name="Today").click()
    rows.nth(1).get_by_role("button", name="Start").click()
    sign(page)
    page.get_by_role("link", name="Patients").click()
    page.get_by_role("link", name="Thea-Marit").click()
    expect(page.get_by_role("region", name="Restorations").get_by_text("signed")).to_have_count(2)
    expect(tooth(page, "36")).to_have_accessible_name(re.compile("MO composite, signed"))
    verified = empty.manage("verify_records")
    assert verified.returncode == 0, verified.stdout


def invited(page: Page, tablet: BrowserContext) -> Page:
    """Add an assistant, who sets a password by the link on another device; return that device's page."""
    page.get_by_role("link", name="People").click()
    page.get_by_role("button", name="Change the practice").click()
    assert barriers(page) == []
    page.get_by_label("Chairs").fill("chair 1, chair 2, window")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_role("button", name="Add a person").click()
    page.get_by_label("Name", exact=True).fill("Bo Lindqvist-Mensah")
    page.get_by_label("User name").fill("bo")
    page.get_by_role("button", name="Add", exact=True).click()
    row = page.get_by_role("row").filter(has_text="Bo Lindqvist-Mensah")
    expect(row).to_contain_text("no password set yet")
    row.get_by_role("button", name="Link to set a password").click()
    link = page.get_by_test_id("one-time-link").inner_text()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_test_id("one-time-link")).to_have_count(0)
    other = tablet.new_page()
    other.goto(link)
    expect(other.get_by_label("Password")).to_be_visible()
    assert barriers(other) == []
    other.get_by_label("Password").fill(PASSWORD)
    other.get_by_role("button", name="Set password and sign in").click()
    expect(other.get_by_text("assistant Bo Lindqvist-Mensah")).to_be_visible()
    other.goto(link)
    expect(other.get_by_text("this one no longer works")).to_be_visible()
    return other


def equip(page: Page, tmp_path: Path) -> None:
    """Add a curing light that was measured, and what is placed, from a file."""
    page.get_by_role("link", name="Curing lights").click()
    page.get_by_role("button", name="Add a curing light").click()
    page.get_by_label("name").fill("Lamp one")
    page.get_by_label("tip diameter, mm").fill("9")
    page.get_by_label("timer settings, s").fill("5, 10, 20")
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("radio", name="type", exact=True).click()
    for distance, irradiance in (("0", "1150"), ("4", "810"), ("8", "390")):
        page.get_by_label("distance, mm").fill(distance)
        page.get_by_label("reading, mW/cm²").fill(irradiance)
        page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name="Keep these 3 readings").click()
    expect(page.locator("[data-output]")).to_contain_text("1148 mW")
    header, *rows = list(csv.reader((ROOT / "demo" / "stock.csv").open()))
    file = tmp_path / "stock.csv"
    with file.open("w", newline="") as out:
        csv.writer(out).writerows([header, *(row for row in rows if row[1] in STOCK)])
    page.get_by_role("link", name="Stock").click()
    page.get_by_label("Read items from a file").set_input_files(file)
    page.get_by_role("button", name="Add these 3 rows to stock").click()
    expect(page.get_by_role("navigation", name="Found").get_by_role("link")).to_have_count(3)


def began(page: Page) -> None:
    """Add a patient, and begin two restorations from the mouth chart."""
    page.get_by_role("link", name="Patients").click()
    page.get_by_role("button", name="Add a patient").click()
    page.get_by_label("Name", exact=True).fill("Thea-Marit Ørsted")
    type_day(page.get_by_role("group", name="Born"), "1884-02-29")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("1884-02-29? Allowed: a day from 1900-01-01")).to_be_visible()
    # What was typed outlives a reload.
    page.reload()
    page.get_by_role("button", name="Add a patient").click()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Thea-Marit Ørsted")
    type_day(page.get_by_role("group", name="Born"), "1984-02-29")
    page.get_by_label("latex").check()
    page.get_by_label("latex: substance").fill("gloves")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("heading", name="Thea-Marit Ørsted")).to_be_visible()
    page.get_by_role("button", name="History checked now").click()
    for code, surfaces, why in (
        ("36", ("mesial", "occlusal"), "caries"),
        ("46", ("occlusal",), "deep fissures"),
    ):
        tooth(page, code).click()
        for surface in surfaces:
            page.get_by_role("checkbox", name=surface).click()
        page.get_by_role("button", name=why, exact=True).click()
        page.get_by_role("button", name="Plan on the Bench").click()
        expect(page.locator("[data-figure=chair_minutes]")).to_be_visible()
        expect(page.get_by_role("status", name="Before work may start")).to_be_visible()
        page.go_back()
        expect(page.get_by_role("group", name="Mouth chart")).to_be_visible()


def plan(page: Page, place: int, wanted: str) -> None:
    """Tell on the Bench what has to be told, and save the plan."""
    own = page.get_by_role("region", name="Restorations").get_by_role("link", name="Bench")
    # The newest stands first.
    own.nth(1 - place).click()
    expect(page.get_by_role("heading", name=wanted)).to_be_visible()
    expect(page.locator("[data-figure=chair_minutes]")).to_be_visible()
    opened(page, "1")
    page.locator("[data-path='findings.pulp']").select_option("normal")
    page.locator("[data-path='findings.tooth_confirmed']").select_option("yes")
    expect(page.get_by_role("status", name="Before work may start")).to_have_count(0)
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 1 saved")).to_be_visible()
    page.get_by_role("link", name="Patients").click()
    page.get_by_role("link", name="Thea-Marit").click()


def sign(page: Page) -> None:
    """Go to the end of a run and sign its record."""
    expect(page.get_by_test_id("step-title")).to_be_visible()
    skip_to(page)
    page.keyboard.press("Space")
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ragna Vestergaard-Obi")).to_be_visible()


def go_to(page: Page, target: Locator) -> None:
    """Go to something by Tab, and within a group by its arrows."""
    group = page.get_by_role("group", name="Why it is treated")
    first = group.get_by_role("button").first
    if target.evaluate("(e) => !!e.closest('[aria-label=\"Why it is treated\"]')"):
        tab_to(page, first)
        while not target.evaluate("e => e === document.activeElement"):
            page.keyboard.press("ArrowRight")
    else:
        tab_to(page, target)


@pytest.mark.parametrize("by_keys", [False, True], ids=["tapped", "by keys"])
def test_a_first_plan_takes_few_inputs_and_seconds(
    page: Page, server: Server, by_keys: bool, capsys: pytest.CaptureFixture[str]
) -> None:
    """From the patient's page, counted: each tap, and each key that chooses."""
    sign_in(page, server)
    page.get_by_role("link", name="Orla Tamsin Brekke").click()
    expect(page.get_by_role("group", name="Mouth chart")).to_be_visible()
    inputs, began_at = 0, time.monotonic()
    for target in (
        tooth(page, "26"),
        page.get_by_role("checkbox", name="mesial"),
        page.get_by_role("checkbox", name="occlusal"),
        page.get_by_role("checkbox", name="distal"),
        page.get_by_role("button", name="fracture"),
        page.get_by_role("button", name="Plan on the Bench"),
    ):
        if by_keys:
            go_to(page, target)
            page.keyboard.press("Enter")
        else:
            target.click()
        inputs += 1
    expect(page.locator("[data-figure=chair_minutes]")).to_be_visible()
    seconds = time.monotonic() - began_at
    expect(page.get_by_role("status", name="Before work may start")).to_be_visible()
    with capsys.disabled():
        print(f"\nfrom the patient's page to a plan: {inputs} inputs, {seconds:.1f} s")
    assert inputs <= MOST_INPUTS
    assert by_keys or seconds <= MOST_S


def test_a_cavity_is_tried_without_a_patient_and_attached_later(page: Page, server: Server) -> None:
    sign_in(page, server)
    page.get_by_role("link", name="Patients").click()
    page.get_by_role("link", name="Try a cavity").click()
    tooth(page, "13").click()
    page.get_by_role("checkbox", name="facial").click()
    assert barriers(page) == []
    page.get_by_role("button", name="wear").click()
    page.get_by_role("button", name="Plan on the Bench").click()
    expect(page.get_by_role("heading", name="13 F")).to_be_visible()
    expect(page.locator("[data-figure=chair_minutes]")).to_be_visible()
    expect(page.get_by_role("button", name="Start chairside")).to_be_disabled()
    page.get_by_role("link", name="tried without a patient").click()
    tried = page.get_by_role("region", name="Tried")
    expect(tried).to_contain_text("13 F")
    tried.get_by_role("button", name="Attach").click()
    page.get_by_label("Name, chart number or birth").fill("pell jor")
    page.get_by_role("option", name="Jorunn Pell").click()
    page.get_by_role("dialog").get_by_role("button", name="Attach").click()
    expect(page.get_by_role("heading", name="Jorunn Pell")).to_be_visible()
    expect(page.get_by_role("region", name="Visits")).to_contain_text("26 MO, 13 F")


def test_a_visit_is_moved_canceled_and_told_on_its_day(page: Page, server: Server) -> None:
    sign_in(page, server)
    page.get_by_role("button", name="Visit of Jorunn Pell: booked").click()
    visit = page.get_by_role("dialog")
    assert barriers(page) == []
    type_time(visit.get_by_role("group", name="Time"), "10:30")
    visit.get_by_role("button", name="Move").click()
    expect(visit).to_contain_text("chair 2 is taken at 10:20")
    type_time(visit.get_by_role("group", name="Time"), "21:30")
    visit.get_by_role("button", name="Move").click()
    expect(visit).to_have_count(0)
    row = page.get_by_role("listitem").filter(has_text="Jorunn Pell")
    expect(row).to_contain_text("21:30")
    page.get_by_role("button", name="Visit of Jorunn Pell: booked").click()
    visit.get_by_role("button", name="Cancel the visit").click()
    expect(visit).to_contain_text("Allowed: a reason, in a few words")
    visit.get_by_label("Reason").fill("ill")
    visit.get_by_role("button", name="Cancel the visit").click()
    expect(page.get_by_text("11 restorations")).to_be_visible()
    expect(row).to_contain_text("canceled")
    page.get_by_role("button", name="Next day").click()
    expect(page.get_by_text("Nothing is booked")).to_be_visible()
    page.get_by_role("button", name="Today").click()
    page.get_by_role("button", name="chair 1", exact=True).click()
    expect(page.get_by_text("6 restorations")).to_be_visible()
