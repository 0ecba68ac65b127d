"""A proximal box filled in bulk behind a clear band, from the Bench to the signed record."""

import re

from playwright.sync_api import Page, expect

from practice.accounts.demo import PASSWORD
from tests.views.test_journey import figure, open_bench, skip_to
from tests.views.test_stages import opened
from tools.server import Server


def test_a_box_is_filled_in_bulk_behind_a_clear_band(page: Page, server: Server) -> None:
    open_bench(page, server)
    layers = figure(page, "increments")
    notes = opened(page, "9")
    notes.get_by_label("layering technique").select_option("bulk")
    # Made for layers, it is named.
    expect(page.get_by_role("list", name="Checks", exact=True)).to_contain_text(
        "Choose a composite made for bulk: Skarv body"
    )
    built_of = notes.get_by_role("group", name="built of")
    built_of.get_by_role("button", name=re.compile("Skarv bulk")).click()
    for layered in ("Skarv body", "Skarv enamel"):
        built_of.get_by_role("button", name=re.compile(layered)).click()
        expect(built_of.get_by_role("button", name=re.compile(layered))).to_have_attribute(
            "aria-pressed", "false"
        )
    # One stays.
    built_of.get_by_role("button", name=re.compile("Skarv bulk")).click()
    expect(built_of.get_by_role("button", name=re.compile("Skarv bulk"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_role("list", name="Checks", exact=True)).not_to_contain_text("made for bulk")

    notes = opened(page, "7")
    notes.get_by_role("button", name=re.compile("more: .*band")).click()
    notes.get_by_label("band", exact=True).select_option("clear")
    expect(notes).to_contain_text("clear anatomical band")
    expect(page.locator("[data-figure=increments]")).not_to_contain_text(str(layers))
    assert figure(page, "increments") < layers
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 2 saved")).to_be_visible()

    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    titles = skip_to(page)
    order = [title for title in titles if re.search(r"mesial band|bulk|Trim", title, re.IGNORECASE)]
    # Placed and lit behind the band, which is off before anything is trimmed.
    at = {
        word: next(i for i, title in enumerate(order) if word in title)
        for word in ("Place the mesial band", "Trim")
    }
    lit = [i for i, title in enumerate(order) if title.startswith("Light-cure")]
    off = next(i for i, title in enumerate(order) if "band off" in title.lower())
    assert at["Place the mesial band"] < lit[0] < off < at["Trim"]
    page.keyboard.press("Space")
    record = page.get_by_role("article")
    expect(record).to_contain_text("Skarv bulk")
    expect(record).to_contain_text("clear")
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()
