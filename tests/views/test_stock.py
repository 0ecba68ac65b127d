"""Stock: a file with bad rows, a package scanned when it comes and when it is opened at the chair."""

import csv
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.views.conftest import sign_in
from tests.views.test_journey import open_bench, skip_to
from tools.server import Server

# Number, last day of use, lot.
CODE = "01" + "09520041701014" + "17" + "291231" + "10" + "SB9001"


def open_stock(page: Page) -> None:
    page.get_by_role("link", name="Stock").first.click()
    expect(page.get_by_role("heading", name="Stock", exact=True)).to_be_visible()


def test_a_file_with_bad_rows_and_a_thing_that_is_over(page: Page, server: Server, tmp_path: Path) -> None:
    sign_in(page, server)
    open_stock(page)
    expect(page.get_by_role("list", name="Needs attention")).to_contain_text(
        re.compile("Holm ionomer.* expired on")
    )
    with page.expect_download() as coming:
        page.get_by_role("link", name="Save stock as CSV").click()
    saved = tmp_path / "shelf.csv"
    coming.value.save_as(saved)
    header, *rows = list(csv.reader(saved.open()))
    wedge = next(row for row in rows if row[0] == "wedge")
    wide, late, new = list(wedge), list(wedge), list(wedge)
    wide[header.index("width_mm")] = "9"
    late[header.index("expires_on")] = "31.1.2029"
    new[header.index("name")], new[header.index("lot")], new[header.index("count")] = (
        "Tern wedge, soft",
        "S1",
        "7",
    )
    new[header.index("gtin")] = ""
    with saved.open("w", newline="") as file:
        csv.writer(file).writerows([header, wide, late, new])

    page.get_by_label("Read items from a file").set_input_files(saved)
    expect(page.get_by_text("line 2, width_mm: 9? Allowed: 5 or less")).to_be_visible()
    expect(page.get_by_text("line 3, expires_on: '31.1.2029'? Allowed: a day as 2027-01-31")).to_be_visible()
    rows_in = page.get_by_role("list", name="Rows not kept yet")
    expect(rows_in.get_by_role("listitem")).to_have_count(1)
    page.get_by_role("button", name="Add this row to stock").click()
    page.get_by_label("Search names, manufacturers, lots").fill("soft")
    page.get_by_role("navigation", name="Found").get_by_role("link").click()
    expect(page.locator("[data-left]")).to_contain_text("7")
    page.get_by_role("button", name="One less of lot S1").click()
    expect(page.locator("[data-left]")).to_contain_text("6")


def test_a_package_that_comes_is_scanned_and_put_in_stock(page: Page, server: Server) -> None:
    sign_in(page, server)
    open_stock(page)
    page.get_by_label("its code").fill(CODE)
    page.get_by_role("button", name="Look up").click()
    expect(page.get_by_role("article", name="Skarv body")).to_be_visible()
    lots = page.get_by_role("region", name="Lots")
    expect(lots.get_by_label("lot", exact=True)).to_have_value("SB9001")
    expect(lots.get_by_role("group", name="expires").locator("..").locator("input")).to_have_value(
        "31 Dec 2029"
    )
    lots.get_by_role("button", name="Add to stock").click()
    expect(lots.get_by_role("list")).to_contain_text("SB9001")
    page.get_by_role("article").get_by_role("link", name="Stock").click()
    page.get_by_label("its code").fill("0109520041799991")
    page.get_by_role("button", name="Look up").click()
    expect(page.get_by_role("alert")).to_contain_text("check digit")
    page.get_by_label("its code").fill("0109520041799998")
    page.get_by_role("button", name="Look up").click()
    expect(page.get_by_role("status")).to_contain_text("Not in stock: 09520041799998")
    form = page.get_by_role("region", name="Add an item to stock")
    expect(form.get_by_label("GTIN")).to_have_value("09520041799998")


def test_a_lot_scanned_at_the_chair_is_in_the_record(page: Page, server: Server) -> None:
    open_bench(page, server)
    page.get_by_role("button", name="Start chairside").click()
    page.get_by_role("button", name="scan lot").click()
    dialog = page.get_by_role("dialog", name="Hold the package before the reader")
    dialog.get_by_role("button", name="Skarv enamel SE2093").click()
    expect(dialog.get_by_role("status")).to_contain_text("Skarv enamel, lot SE2093")
    dialog.get_by_role("button", name="record it").click()
    expect(page.get_by_role("button", name="scan lot (1)")).to_be_visible()
    # A reader types into the field and ends with Enter.
    page.get_by_role("button", name="scan lot (1)").click()
    page.keyboard.type(CODE)
    page.keyboard.press("Enter")
    expect(dialog.get_by_role("status")).to_contain_text("Skarv body, lot SB9001")
    dialog.get_by_role("button", name="record it").click()
    expect(page.get_by_role("button", name="scan lot (2)")).to_be_visible()
    skip_to(page)
    page.keyboard.press("Space")
    packages = page.get_by_role("list", name="Packages scanned")
    expect(packages).to_contain_text("Skarv enamel, lot SE2093")
    expect(packages).to_contain_text("Skarv body, lot SB9001, expires 31 December 2029")
    expect(page.get_by_role("table").first).to_contain_text("SB9001")


def test_a_composite_that_nobody_measured_is_told_and_stands_among_the_shades(
    page: Page, server: Server
) -> None:
    sign_in(page, server)
    page.get_by_role("link", name="Shades").first.click()
    looks = page.get_by_role("table", name="Composites by their looks")
    expect(looks.get_by_role("row", name="Skarv dentin, opaque")).to_contain_text("0.8 mm")
    expect(looks.get_by_role("row", name="Skarv enamel")).to_contain_text("SE2093 1.3")
    page.get_by_role("region", name="Not measured").get_by_role("link", name="Skarv bulk").click()
    measure = page.get_by_role("region", name="Measure it")
    measure.get_by_role("radiogroup", name="Known by").get_by_text("CIELAB").click()
    readings = {"over black": ("62", "-1.5", "5"), "over white": ("58", "0.5", "14")}
    for backing, lab in readings.items():
        for axis, value in zip(("L*", "a*", "b*"), lab, strict=True):
            measure.get_by_role("group", name=backing).get_by_label(axis).fill(value)
    measure.get_by_role("button", name="Keep it").click()
    expect(measure).to_contain_text("over white lighter than over black")
    measure.get_by_role("group", name="over white").get_by_label("L*").fill("76")
    measure.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("region", name="How it looks")).to_contain_text(
        "by color over black and over white"
    )
    page.get_by_role("link", name="Shades").first.click()
    expect(looks.get_by_role("row", name="Skarv bulk")).to_contain_text("by CIELAB")
