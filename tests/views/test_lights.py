"""The practice's lamps: read, fallen, told of everywhere; real server, real interface, demo data."""

import re

from playwright.sync_api import Page, expect

from tests.views.conftest import sign_in
from tests.views.test_journey import at_hand, figure, open_bench, row
from tools.server import Server

PATIENT = "Casimir Adeyemi-Roth"


def open_lamp(page: Page, name: str) -> None:
    page.get_by_role("link", name="Curing lights").click()
    page.get_by_role("link", name=name).click()
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def output(page: Page) -> float:
    text = page.locator("[data-output]").inner_text()
    return float(re.search(r"\d+", text).group())  # type: ignore[union-attr]


def test_a_lamp_that_falls_is_told_on_today_bench_and_at_the_chair(page: Page, server: Server) -> None:
    open_bench(page, server)
    light = figure(page, "light_seconds")
    open_lamp(page, "Curing light B")
    sound = output(page)
    expect(page.get_by_text(re.compile("% a month since"))).to_be_visible()
    page.get_by_role("radio", name="dirty").click()
    page.get_by_role("radio", name="8 years").click()
    kept = page.get_by_role("list", name="Readings not kept yet")
    for i, distance in enumerate((0, 4, 8)):
        page.get_by_role("button", name=f"Read at {distance} mm").click()
        expect(kept.get_by_role("listitem")).to_have_count(i + 1)
    page.get_by_role("button", name="Keep these 3 readings").click()
    said = page.get_by_role("list", name="State of the curing light")
    expect(said).to_contain_text(re.compile(r"Curing light B gives \d+ mW/cm².*requires \d+"))
    assert output(page) < 0.5 * sound
    expect(page.get_by_role("region", name="Plans made with more light")).to_contain_text(PATIENT)

    page.get_by_role("link", name="Today").click()
    expect(row(page, PATIENT)).to_contain_text("plan again")
    expect(row(page, PATIENT)).to_contain_text(re.compile(r"Curing light B gives \d+ mW/cm²; .* requires"))
    row(page, PATIENT).get_by_role("button", name="Start").click()
    expect(page.get_by_role("status").filter(has_text="plan again")).to_be_visible()

    page.goto(f"{server.url}/bench/{molar_id(page, server)}")
    expect(page.get_by_text("Read again since.")).to_be_visible()
    expect(page.get_by_text(re.compile(r"Curing light B gives \d+ mW/cm²; .* requires"))).to_be_visible()
    assert figure(page, "light_seconds") == light
    page.get_by_role("button", name="Take the new readings").click()
    expect(page.get_by_text("Read again since.")).to_have_count(0)
    expect(page.locator("[data-figure=light_seconds]")).not_to_contain_text(f"{light:g}")
    assert figure(page, "light_seconds") > light
    # Under half its output thin portions are lit twice from a place.
    expect(page.get_by_role("button", name=re.compile("^Cool the tooth with air")).first).to_be_attached()


def molar_id(page: Page, server: Server) -> int:
    visits = page.request.get(f"{server.url}/api/today").json()["visits"]
    return int(next(v["restoration_id"] for v in visits if v["patient"] == PATIENT))


def test_a_ramp_takes_longer_and_says_so_and_stays_with_the_plan(page: Page, server: Server) -> None:
    open_bench(page, server)
    steady = figure(page, "light_seconds")
    at_hand(page, "curing light")
    page.get_by_role("radio", name="ramp 5 s").click()
    expect(page.locator("[data-figure=light_seconds]")).not_to_contain_text(f"{steady:g}s")
    ramped = figure(page, "light_seconds")
    assert ramped > steady
    page.get_by_role("button", name="Why: Total curing time").click()
    why = page.get_by_role("dialog")
    expect(why).to_contain_text("ramp, from 30 % within 5 s")
    expect(why).to_contain_text("lit from occlusal alone")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text(re.compile(r"plan \d+ saved"))).to_be_visible()
    page.reload()
    at_hand(page, "curing light")
    expect(page.get_by_role("radio", name="ramp 5 s")).to_be_checked()
    assert figure(page, "light_seconds") == ramped


def test_a_file_with_bad_rows_names_each_and_keeps_the_good(page: Page, server: Server) -> None:
    sign_in(page, server)
    open_lamp(page, "Curing light A")
    page.get_by_role("radio", name="CSV file").click()
    rows = "distance_mm,irradiance_mw_cm2\n0,990\n4,bright\n4,630\n-3,700\n8,255\n"
    page.get_by_label("File of readings").set_input_files(
        {"name": "may.csv", "mimeType": "text/csv", "buffer": rows.encode()}
    )
    take = page.get_by_role("region", name="Take readings")
    expect(take.get_by_text("line 3, irradiance_mw_cm2: 'bright'?")).to_be_visible()
    expect(take.get_by_text("line 5, distance_mm: '-3'? Allowed: a number from 0 to 30")).to_be_visible()
    expect(page.get_by_role("list", name="Readings not kept yet").get_by_role("listitem")).to_have_count(3)
    page.get_by_role("button", name="Keep these 3 readings").click()
    expect(page.get_by_text(re.compile("Read on .*; due every 30 days"))).to_be_visible()
    page.get_by_role("link", name="Today").click()
    expect(page.get_by_text("last read 47 days ago")).to_have_count(0)


def test_readings_are_typed_and_a_wrong_set_is_refused(page: Page, server: Server) -> None:
    sign_in(page, server)
    open_lamp(page, "Curing light A")
    page.get_by_role("radio", name="type", exact=True).click()
    for distance, irradiance in (("0", "400"), ("4", "900")):
        page.get_by_label("distance, mm").fill(distance)
        page.get_by_label("reading, mW/cm²").fill(irradiance)
        page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name="Keep these 2 readings").click()
    expect(page.get_by_role("alert")).to_contain_text("Allowed: readings that fall with distance")
    expect(page.get_by_role("list", name="Readings not kept yet").get_by_role("listitem")).to_have_count(2)
    page.get_by_role("button", name="Drop them").click()
    expect(page.get_by_role("list", name="Readings not kept yet")).to_have_count(0)


def test_a_new_lamp_is_added_lent_and_retired(page: Page, server: Server) -> None:
    sign_in(page, server)
    open_lamp(page, "Curing light A")
    page.get_by_role("button", name="Add a curing light").click()
    page.get_by_label("name", exact=True).fill("Curing light C")
    page.get_by_label("tip diameter, mm").fill("10")
    page.get_by_text("Output other than full").click()
    page.get_by_label("ramp begins at").fill("40")
    page.get_by_role("button", name="Add", exact=True).click()
    # A ramp that begins and never rises.
    expect(page.get_by_role("alert")).to_contain_text("rise_s")
    page.get_by_label("ramp is full in").fill("3")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("ramp 3 s")).to_be_visible()
    expect(page.get_by_role("heading", name="Curing light C")).to_be_visible()
    expect(page.get_by_text("Curing light C was never read")).to_be_visible()
    page.get_by_label("note").fill("the other island")
    page.get_by_role("button", name="Lent").click()
    expect(page.get_by_text("Curing light C is lent to the other island").first).to_be_visible()
    page.get_by_role("button", name="Back again").click()
    expect(page.get_by_role("button", name="Retire")).to_be_visible()
    page.get_by_role("button", name="Retire").click()
    expect(page.get_by_text("Curing light C is retired")).to_be_visible()
    expect(page.get_by_role("navigation", name="Curing lights").get_by_role("link")).to_have_count(2)
    page.get_by_role("button", name="Back again").click()
    expect(page.get_by_role("navigation", name="Curing lights").get_by_role("link")).to_have_count(3)
