"""Amalgam from Today to the signed record: zones and nibs, a mix discarded on the way, the beat counted."""

import datetime as dt
import re

from playwright.sync_api import Locator, Page, expect

from practice.accounts.demo import PASSWORD
from tests.views.conftest import sign_in, type_day
from tests.views.test_journey import at_hand, figure, go_on, skip_to, step
from tools.server import Server


def opened(page: Page, name: str) -> Locator:
    page.get_by_role("navigation", name="Order of work").get_by_role("button", name=name).click()
    return page.get_by_role("region", name=name)


def test_a_lost_cusp_is_rebuilt_in_amalgam_from_today_to_the_signed_record(
    page: Page, server: Server
) -> None:
    sign_in(page, server)
    row = page.get_by_role("listitem").filter(has_text="Torvald Eskil Brannagh").first
    row.get_by_role("link", name="Bench").click()
    expect(page.locator("[data-figure=mixes]")).to_contain_text("1 × 600 mg")
    assert figure(page, "mixes") == 1
    # Many parts: one at a time is measured.
    at_hand(page, "slot facial")
    depth = page.get_by_role("textbox", name="slot facial depth")
    depth.fill("1.2")
    # Zones in order, each with its nib to scale in the drawing.
    page.keyboard.press("Escape")
    depth.blur()
    notes = opened(page, "Condensation")
    expect(notes).to_contain_text("Auk capsule 2")
    rows = notes.get_by_role("table", name="In order of placement").get_by_role("row")
    expect(rows).to_have_count(6)
    rows.nth(2).click()
    expect(page.get_by_test_id("nib").first).to_contain_text("1.5 mm nib, 25 N")
    notes.get_by_label("pairs of hands").select_option("one")
    expect(notes).to_contain_text("One pair of hands")
    notes.get_by_label("pairs of hands").select_option("two: dentist and assistant")
    opened(page, "Finishing and checks").get_by_label("polish", exact=True).select_option(
        "second visit, after 24 h"
    )
    expect(page.get_by_text("Polish after 24 h")).to_be_visible()
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 2 saved")).to_be_visible()

    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_text("14 MOF, amalgam")).to_be_visible()
    # The simulated mixer's programs take a second here.
    page.route(
        "**/api/devices/mixer",
        lambda route: route.continue_(post_data={"program_s": 1} if route.request.method == "POST" else None),
    )
    titles: list[str] = []
    while page.get_by_role("button", name="finish").count() == 0:
        titles.append(step(page))
        if titles[-1] == "Smooth walls and margins":
            page.get_by_role("button", name="dam torn").click()
            expect(page.get_by_role("button", name="dam to renew")).to_be_disabled()
        if titles[-1] == "Condense the reduced cusps" and "Mix discarded" not in titles:
            # The beat counts by itself, once its loads are carried.
            expect(page.get_by_test_id("beat")).to_contain_text(re.compile("load first|of 48 thrusts"))
            page.get_by_role("button", name="mix too old").click()
            expect(page.get_by_test_id("step-title")).to_have_text("Mix 1 into the well")
            expect(page.get_by_role("status").first).to_contain_text("triturate a fresh capsule")
            titles += ["Mix discarded", step(page)]
            go_on(page)
            titles.append(step(page))
        if titles[-1] == "Mix 1 into the well" and titles.count(titles[-1]) == 1:
            due = page.get_by_role("group", name="Mix due")
            due.get_by_role("button", name="start the mixer, 9 s").click()
            expect(due).to_be_hidden()
        if titles[-1] == "Carve":
            card = page.get_by_role("group", name="Work to")
            expect(card.get_by_role("button")).to_have_count(3)
            card.get_by_role("button", name="facial cusp").click()
            page.get_by_role("button", name="+0.1", exact=True).click()
            expect(card.get_by_role("status")).to_contain_text("Take it down before the patient closes")
            card.get_by_role("button", name="facial cusp").click()
            page.get_by_role("button", name="\u22120.4", exact=True).click()
            expect(card.get_by_role("status")).to_have_count(0)
        go_on(page)
    # The torn dam is renewed before the preparation is looked over.
    at = titles.index("Verify the preparation")
    assert titles[at - 1] == "Rubber dam on"
    wanted = ["Varnish, 2 coats", "Place the band", "Mix 1 into the well", "Condense the slots, grooves",
              "Condense the reduced cusps", "Mix discarded", "Overfill by 0.8 mm", "Band off", "Probe every gingival margin",
              "Carve", "Check the occlusion, softly"]  # fmt: skip
    told = [title for title in dict.fromkeys(titles) if title in wanted]
    assert told == wanted
    page.keyboard.press("Space")
    record = page.get_by_role("article")
    expect(record.get_by_role("heading", name="14 MOF, amalgam")).to_be_visible()
    expect(record).to_contain_text("AC280")
    expect(record).to_contain_text("Mix discarded at: Condense the reduced cusps")
    expect(record).to_contain_text("The dam tore at: Smooth walls and margins")
    expect(record.get_by_role("region", name="Measured at the chair").get_by_role("row").nth(1)).to_have_text(
        re.compile("facial cusp, against 13 tip to 15 facial.*\u22120.2 mm\u22120.5 mm\u22120.4 mm")
    )
    expect(record).to_contain_text(re.compile(r"Triturate mix 1 of 1, discarded: ready \d\d:\d\d"))
    expect(record.get_by_label("Scrap")).to_contain_text("2 capsules opened, 1 discarded")
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()


def test_a_core_s_band_comes_off_at_a_second_visit_of_its_own(page: Page, server: Server) -> None:
    sign_in(page, server)
    row = page.get_by_role("listitem").filter(has_text="Solveig Amparo Lind").first
    row.get_by_role("link", name="Bench").click()
    opened(page, "Finishing and checks")
    expect(page.get_by_text("band off after 8 to 12 h")).to_be_visible()
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 1 saved")).to_be_visible()
    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_text("37 MODFL, amalgam")).to_be_visible()
    skip_to(page)
    page.keyboard.press("Space")
    later = page.get_by_role("region", name="Next visit")
    expect(later).to_contain_text("Not before")
    # An hour from now it bears no cutting; eight hours from now it does.
    typed = later.locator("input")
    day = dt.datetime.strptime(typed.nth(0).input_value(), "%d %b %Y").date()
    offered = typed.nth(1).input_value()
    type_day(later.get_by_role("group", name="Day"), (day - dt.timedelta(days=1)).isoformat())
    later.get_by_role("button", name="Book it").click()
    expect(later.get_by_role("alert")).to_contain_text("or later. Take the band off at a second visit")
    type_day(later.get_by_role("group", name="Day"), day.isoformat())
    later.get_by_role("button", name="Book it").click()
    expect(later).to_contain_text(re.compile(rf"Booked: .* {offered}, chair 2"))
    page.get_by_role("link", name="Today").click()
    second = page.get_by_role("listitem").filter(has_text="Band off, crown preparation").first
    expect(second).to_contain_text("Too early")
    second.get_by_role("button", name="Start").click()
    expect(page.get_by_text("37 MODFL, amalgam: band off, crown preparation")).to_be_visible()
    expect(page.get_by_role("button", name="deeper")).to_be_disabled()
    skip_to(page)
    page.keyboard.press("Space")
    record = page.get_by_role("article")
    expect(
        record.get_by_role("heading", name="37 MODFL, amalgam: band off, crown preparation")
    ).to_be_visible()
    expect(record).to_contain_text("Slit the copper band and take it off")
    record.get_by_role("link", name=re.compile("^placed, ")).click()
    expect(record.get_by_role("heading", name="37 MODFL, amalgam", exact=True)).to_be_visible()
    expect(page.get_by_role("region", name="Next visit")).to_contain_text("Done: ")
