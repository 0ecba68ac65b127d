"""A fissure sealant from Today to the signed record."""

import re

from playwright.sync_api import Page, expect

from practice.accounts.demo import PASSWORD
from tests.views.conftest import sign_in
from tests.views.test_journey import field, figure, skip_to
from tools.server import Server


def test_fissures_of_two_molars_are_sealed_from_today_to_the_signed_record(
    page: Page, server: Server
) -> None:
    sign_in(page, server)
    row = page.get_by_role("listitem").filter(has_text="Ylva Marit Sandoe").first
    row.get_by_role("link", name="Bench").click()
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    alone = figure(page, "light_seconds")
    page.keyboard.press("8")
    notes = page.get_by_role("region", name="Placement and curing")
    notes.get_by_role("button", name="16", exact=True).click()
    expect(notes).to_contain_text("17, 16 in one order of work")
    assert figure(page, "light_seconds") == 2 * alone
    # Caries below is no fissure to be sealed.
    page.keyboard.press("4")
    prepare = page.get_by_role("region", name="Preparation")
    prepare.get_by_label("caries under the fissure").select_option("yes")
    expect(page.get_by_role("alert")).to_contain_text("caries is below")
    page.keyboard.press("Control+z")
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 1 saved")).to_be_visible()

    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    titles = skip_to(page)
    assert "Anesthetize the tooth" not in titles
    assert "Light-cure the sealant, 16" in titles
    page.keyboard.press("Space")
    record = page.get_by_role("article")
    expect(record.get_by_role("heading", name="17 O, sealant")).to_be_visible()
    expect(record).to_contain_text("Teist sealant")
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()


def test_a_fissure_with_caries_below_turns_into_a_restoration(page: Page, server: Server) -> None:
    sign_in(page, server)
    row = page.get_by_role("listitem").filter(has_text="Ylva Marit Sandoe").first
    row.get_by_role("link", name="Bench").click()
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    page.keyboard.press("4")
    prepare = page.get_by_role("region", name="Preparation")
    prepare.get_by_label("caries under the fissure").select_option("yes")
    expect(page.get_by_role("alert")).to_contain_text("Open it where it is carious")
    page.get_by_role("button", name="Plan with composite", exact=True).click()

    # Opened to dentin, all of it estimated until it is measured.
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    depth = field(page, "preparation.parts[0].depth_mm")
    expect(depth).to_be_visible()
    for size in ("depth", "width", "length"):
        expect(page.get_by_role("button", name=re.compile(f"{size}.*estimated"))).to_be_visible()
    depth.fill("2.4")
    expect(page.get_by_role("navigation", name="Order of work")).to_contain_text("Adhesion")
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 1 saved")).to_be_visible()
    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    titles = skip_to(page)
    wanted = ["Anesthetize the tooth", "Open the tooth", "Remove the caries", "Check the occlusion"]
    assert [title for title in titles if title in wanted] == wanted
    page.keyboard.press("Space")
    record = page.get_by_role("article")
    expect(record.get_by_role("heading", name="17 O, composite")).to_be_visible()
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()
