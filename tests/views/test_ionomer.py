"""Glass ionomer from Today to the signed record."""

import re

from playwright.sync_api import Page, expect

from practice.accounts.demo import PASSWORD
from tests.views.conftest import sign_in
from tests.views.test_journey import figure, skip_to
from tests.views.test_stages import opened
from tools.server import Server


def test_a_worn_tooth_gets_glass_ionomer_from_today_to_the_signed_record(page: Page, server: Server) -> None:
    sign_in(page, server)
    row = page.get_by_role("listitem").filter(has_text="Leif Maro Quennell").first
    row.get_by_role("link", name="Bench").click()
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()

    opened(page, "3").get_by_role("button", name="plan with glass ionomer").click()
    expect(page.locator("[data-figure=capsules]")).to_be_visible()
    expect(page.locator("[data-figure=light_seconds]")).to_have_count(0)
    assert figure(page, "set_seconds") == 300
    expect(page.get_by_text("keep dry until it has set").first).to_be_visible()
    # Its stages are its own, and what it asks for with them.
    page.keyboard.press("8")
    notes = page.get_by_role("region", name="Placement")
    expect(notes).to_contain_text("Teist capsule ionomer, in one")
    # What light sets asks for a curing light, and is placed in layers.
    notes.get_by_label("glass ionomer", exact=True).select_option("Teist light-cured ionomer")
    expect(page.get_by_role("alert").filter(has_text="is light-cured")).to_be_visible()
    page.get_by_role("radio", name="Curing light B").click()
    expect(notes).to_contain_text("Teist light-cured ionomer, in 1 layer")
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    notes.get_by_label("glass ionomer", exact=True).select_option("Teist capsule ionomer")
    expect(notes).to_contain_text("Teist capsule ionomer, in one")
    page.keyboard.press("9")
    notes = page.get_by_role("region", name="Finishing and checks")
    expect(notes).to_contain_text("Teist clear coat")
    notes.get_by_label("value when wet").select_option("too high")
    expect(notes).to_contain_text("Teist tinted coat")
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 1 saved")).to_be_visible()

    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    expect(page.get_by_text("34 F, glass ionomer")).to_be_visible()
    titles = skip_to(page)
    wanted = ["Condition the cavity", "Place the glass ionomer", "Leave it alone until it has set",
              "Trim under water", "Look for pits", "Coat it"]  # fmt: skip
    assert [title for title in titles if title in wanted] == wanted
    page.keyboard.press("Space")
    record = page.get_by_role("article")
    expect(record.get_by_role("heading", name="34 F, glass ionomer")).to_be_visible()
    expect(record.get_by_role("img", name=re.compile("Drawing"))).to_be_visible()
    expect(record).to_contain_text("TC118")
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()
