"""What holds a filling, cut by a tap: plan, picture, checks and steps follow."""

import re

from playwright.sync_api import Page, expect

from tests.views.test_journey import field, figure, open_bench, skip_to
from tests.views.test_stages import opened
from tools.server import Server


def test_grooves_and_slots_are_cut_by_a_tap_and_taken_back(page: Page, server: Server) -> None:
    open_bench(page, server)
    before = figure(page, "filling")
    notes = opened(page, "5")
    notes.get_by_role("button", name="retention grooves in the mesial box").click()
    expect(field(page, "preparation.parts[2].depth_mm")).to_have_value("0.3")
    expect(notes).to_contain_text("Retention groove, mesial box")
    expect(notes).to_contain_text("Groove: from the pulp")
    expect(page.locator("[data-figure=filling]")).not_to_contain_text(str(before))
    page.get_by_role("radio", name="across").click()
    expect(page.get_by_role("slider", name=re.compile("mesial grooves, depth"))).to_be_visible()
    # A groove deeper than it is wide is told beside its field, and nothing is lost.
    field(page, "preparation.parts[2].depth_mm").fill("0.9")
    expect(page.get_by_role("alert").filter(has_text="up to its width, 0.7")).to_be_visible()
    field(page, "preparation.parts[2].depth_mm").fill("0.4")
    notes.get_by_role("button", name="retention grooves in the mesial box").click()
    expect(field(page, "preparation.parts[2].depth_mm")).to_be_hidden()

    # A slot needs the floor of a cusp that was taken down, and goes with it.
    expect(notes.get_by_role("button", name="slot at the distolingual cusp")).to_be_hidden()
    notes.get_by_role("button", name="distolingual", exact=True).click()
    field(page, "preparation.parts[2].tip_mm").fill("3.5")
    field(page, "preparation.parts[2].groove_mm").fill("2")
    notes.get_by_role("button", name="slot at the distolingual cusp").click()
    expect(notes).to_contain_text("Slot: tooth to the box")
    expect(notes).to_contain_text("Slot, distolingual cusp")
    notes.get_by_role("button", name="distolingual", exact=True).click()
    expect(notes).not_to_contain_text("Slot, distolingual cusp")
    expect(page.locator("[data-figure=filling]")).to_contain_text(str(before))


def test_a_core_goes_through_its_copper_band_at_the_chair(page: Page, server: Server) -> None:
    open_bench(page, server, "Hedvig Larsmoen")
    notes = opened(page, "7")
    expect(notes).to_contain_text("contoured copper band, annealed")
    notes.get_by_label("copper band", exact=True).select_option("hard, as supplied")
    expect(notes).to_contain_text("contoured copper band, hard")
    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    titles = skip_to(page)
    wanted = [
        "Shoulder",
        "Pin, distolingual cusp",
        "Verify the preparation",
        "Cut the copper band to the tooth",
        "Try the copper band in all occlusal contacts",
        "Place the copper band",
        "Wedge the mesial embrasure",
        "Copper band off",
        "Trim and contour",
    ]
    assert [title for title in titles if title in wanted] == wanted
