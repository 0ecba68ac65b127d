"""A fissure sealant from Today to the signed record."""

from playwright.sync_api import Page, expect

from practice.accounts.demo import PASSWORD
from tests.views.conftest import sign_in
from tests.views.test_journey import figure, skip_to
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
    expect(page.get_by_role("alert")).to_contain_text("Caries under the fissure")
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
