"""The views beside the main journey: other sizes, other devices, other ways to go wrong."""

import gzip
import re
from io import BytesIO

import pytest
from playwright.sync_api import Browser, Locator, Page, expect
from pypdf import PdfReader

from tests.views.conftest import sign_in
from tests.views.test_journey import (
    HEIGHT,
    at_hand,
    expect_picture,
    field,
    figure,
    open_bench,
    picture,
    row,
    take_technique,
    technique,
)
from tools.server import Server

MOST_FIRST_SCRIPT = 250_000
PHONE = {"width": 390, "height": 844}
TABLET = {"width": 768, "height": 1024}


def test_a_wrong_password_is_told_and_opens_nothing(page: Page, server: Server) -> None:
    page.goto(server.url)
    expect(page.get_by_text("Not a certified medical device")).to_be_visible()
    page.get_by_label("User name").fill("ines")
    page.get_by_label("Password").fill("wrong")
    page.get_by_label("Password").press("Enter")
    expect(page.get_by_role("alert")).to_have_text("User name or password is wrong.")
    page.get_by_label("Password").fill("gannet-sound-demo")
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_text("12 restorations")).to_be_visible()


def test_another_lamp_takes_longer_and_the_plan_is_saved_with_it(page: Page, server: Server) -> None:
    open_bench(page, server)
    before = figure(page, "light_seconds")
    at_hand(page, "curing light")
    page.get_by_role("radio", name="Curing light A").click()
    expect(page.locator("[data-figure=light_seconds]")).not_to_contain_text(str(int(before)))
    assert figure(page, "light_seconds") > before
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 2 saved")).to_be_visible()
    page.reload()
    at_hand(page, "curing light")
    expect(page.get_by_role("radio", name="Curing light A")).to_be_checked()
    expect(page.get_by_text("plan 2 saved")).to_be_visible()


def test_a_measurement_is_marked_as_estimated_and_back(page: Page, server: Server) -> None:
    open_bench(page, server)
    at_hand(page, "occlusal box")
    toggle = page.get_by_role("button", name="occlusal box depth: measured; change")
    toggle.click()
    expect(
        page.get_by_role("button", name=re.compile("occlusal box, depth: about 2.0 mm, estimated"))
    ).to_be_visible()
    page.get_by_role("button", name="Why: Restoration").click()
    expect(page.get_by_role("dialog")).to_contain_text("about 2 mm · estimated")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="occlusal box depth: estimated; change").click()
    expect(
        page.get_by_role("button", name=re.compile("occlusal box, depth: 2.0 mm, measured"))
    ).to_be_visible()


def test_holding_the_tip_away_is_told_planned_and_taken_back(page: Page, server: Server) -> None:
    open_bench(page, server)
    light = figure(page, "light_seconds")
    hold = page.get_by_role("region", name="Effect of tip angle and distance")
    hold.get_by_text("Effect of tip angle and distance").click()
    lessons = hold.get_by_role("listitem")
    expect(lessons).to_have_count(3)
    expect(lessons.nth(2)).to_contain_text(re.compile(r"5 mm away\s*\d+ % light, \d+ s"))
    hold.get_by_role("button", name="Why: How the tip is held").click()
    expect(page.get_by_role("dialog")).to_contain_text("Share of the scraped length")
    page.keyboard.press("Escape")
    hold.get_by_role("button", name="plan with the tip 5 mm away").click()
    expect(hold).to_contain_text("The tip is held 5 mm away")
    expect(page.locator("[data-figure=light_seconds]")).not_to_contain_text(f"{light:g}s")
    assert figure(page, "light_seconds") > light
    hold.get_by_role("button", name="close and straight again").click()
    expect(page.locator("[data-figure=light_seconds]")).to_contain_text(f"{light:g}s")


def test_increments_are_stepped_through_with_their_light(page: Page, server: Server) -> None:
    open_bench(page, server)
    count = int(figure(page, "increments"))
    after = page.get_by_role("button", name="Increment after")
    for order in range(1, count + 1):
        after.click()
        expect(page.get_by_text(re.compile(rf"^{order} \w+")).first).to_be_visible()
        expect(page.get_by_text("× required").last).to_be_visible()
    after.click()
    expect(page.get_by_text("1 mesial gingival increment")).to_be_visible()
    page.get_by_role("button", name="Why: Light-cure the mesial gingival increment").click()
    expect(
        page.get_by_text(
            re.compile(r"point of lowest radiant exposure gets \d+ mW/cm² and needs [\d.]+ J/cm²")
        )
    ).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Increment before").click()
    expect(page.get_by_text(f"{count} occlusal surface layer")).to_be_visible()


def test_a_dimension_in_the_drawing_leads_to_its_field(page: Page, server: Server) -> None:
    open_bench(page, server)
    page.get_by_role("button", name=re.compile("^mesial box, height")).click()
    expect(field(page, HEIGHT)).to_be_focused()
    page.keyboard.press("Control+A")
    page.keyboard.type("5.2")
    expect(page.get_by_role("button", name=re.compile("mesial box, height: about 5.2"))).to_be_visible()


def grip(page: Page) -> Locator:
    return page.locator(f'[data-grip="{HEIGHT}"]')


def expect_drawn(page: Page, height: str) -> None:
    """Wait until the picture shows a box height, with nothing still on its way."""
    expect(page.get_by_role("button", name=f"mesial box, height: about {height} mm")).to_be_visible()
    expect(grip(page)).to_have_attribute("aria-valuenow", str(float(height)))


def test_drag_keys_and_typing_give_the_same_plan(page: Page, server: Server) -> None:
    open_bench(page, server)
    start, light = picture(page), figure(page, "light_seconds")
    field(page, HEIGHT).fill("5.5")
    expect_drawn(page, "5.5")
    typed, typed_light = picture(page), figure(page, "light_seconds")
    assert typed != start

    page.get_by_role("button", name="Undo").click()
    expect_drawn(page, "4.5")
    expect_picture(page, start)
    assert figure(page, "light_seconds") == light
    page.get_by_role("button", name="Redo").click()
    expect_drawn(page, "5.5")
    page.get_by_role("button", name="Undo").click()
    expect_drawn(page, "4.5")

    grip(page).focus()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowUp")
        page.wait_for_timeout(50)
    expect_drawn(page, "5.5")
    expect_picture(page, typed)
    assert figure(page, "light_seconds") == typed_light
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect_drawn(page, "4.5")
    expect_picture(page, start)

    asked: list[str] = []
    page.on("request", lambda r: asked.append("sent") if r.url.endswith("/preview") else None)
    page.on("requestfinished", lambda r: asked.append("done") if r.url.endswith("/preview") else None)
    box = grip(page).bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    scale = scale_of(page, "mesiodistal section")
    page.mouse.move(x, y)
    page.mouse.down()
    for i in range(1, 21):
        page.mouse.move(x + 3, y + scale * i / 20)
    expect(page.get_by_test_id("ghost")).to_have_count(1)
    # Picture, numbers and field keep with the grip; the case changes when it is let go.
    expect(page.locator("[data-figure=light_seconds]")).to_contain_text(f"{typed_light:g}")
    expect_picture(page, typed)
    expect(field(page, HEIGHT)).to_have_value("5.5")
    page.mouse.up()
    expect(page.get_by_test_id("ghost")).to_have_count(0)
    expect_drawn(page, "5.5")
    expect(field(page, HEIGHT)).to_have_value("5.5")
    page.wait_for_timeout(800)
    expect_picture(page, typed)
    assert figure(page, "light_seconds") == typed_light
    # One request in flight: never two sent without an answer between.
    assert "sent" in asked
    assert "sent sent" not in " ".join(asked)


def test_a_drag_too_far_keeps_the_last_good_picture_and_says_why(page: Page, server: Server) -> None:
    open_bench(page, server)
    start, light = picture(page), figure(page, "light_seconds")
    box = grip(page).bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 3.9 * scale_of(page, "mesiodistal section"), steps=4)
    refused = page.get_by_role("alert").filter(has_text="the last plan that worked")
    expect(refused).to_be_visible()
    page.mouse.move(x, y + 0.6 * scale_of(page, "mesiodistal section"), steps=4)
    expect(refused).to_be_hidden()
    page.mouse.up()
    expect_drawn(page, "5.1")
    assert picture(page) != start
    page.get_by_role("button", name="Undo").click()
    expect_drawn(page, "4.5")
    expect_picture(page, start)
    assert figure(page, "light_seconds") == light
    page.keyboard.press("Control+z")
    expect_drawn(page, "4.5")


def scale_of(page: Page, title: str) -> float:
    """Return the pixels a millimetre of a picture."""
    drawn = page.get_by_role("img", name=re.compile(f"^Drawing: {title}"))
    return float(drawn.get_attribute("data-scale") or 0)


def test_a_portion_is_picked_in_any_picture(page: Page, server: Server) -> None:
    open_bench(page, server)
    invitation = page.get_by_text("step through, or click one")
    seen = set()
    for view in ("above", "mesial", "section"):
        page.get_by_role("radio", name=view).click()
        whole = picture(page)
        drawn = page.get_by_role("img", name=re.compile("^Drawing"))
        box = drawn.bounding_box()
        assert box
        places = [{"x": box["width"] * i / 20, "y": box["height"] * 0.36} for i in range(4, 17)]
        for place in places:
            drawn.click(position=place)  # type: ignore[arg-type]
            page.wait_for_timeout(60)
            if not invitation.is_visible():
                break
        expect(invitation).to_be_hidden()
        expect(drawn).to_have_attribute("data-painted", re.compile(r"[2-9]|\d\d"))
        seen |= {whole, picture(page)}
        drawn.click(position=place)  # type: ignore[arg-type]
        expect(invitation).to_be_visible()
    assert len(seen) == 6


def test_section_and_view_from_above_share_one_scale(page: Page, server: Server) -> None:
    open_bench(page, server)
    assert scale_of(page, "mesiodistal section") == scale_of(page, "from occlusal") > 15


def test_the_tape_comes_nearer_and_a_figure_and_its_steps_light_each_other(
    page: Page, server: Server
) -> None:
    open_bench(page, server)
    tape = page.get_by_role("group", name="Steps over time")

    def wide() -> float:
        return float(tape.get_attribute("width") or 0)

    whole = wide()
    page.get_by_role("button", name="Zoom the timeline in").click()
    assert wide() == pytest.approx(2 * whole, abs=1)
    tape.get_by_role("button").first.focus()
    page.keyboard.press("+")
    assert wide() == pytest.approx(4 * whole, abs=1)
    for _ in range(2):
        page.get_by_role("button", name="Zoom the timeline out").click()
    assert wide() == pytest.approx(whole, abs=1)
    expect(page.get_by_role("button", name="Zoom the timeline out")).to_be_disabled()

    page.mouse.move(5, 5)
    lit = tape.locator('rect[stroke-width="3"]')
    expect(lit).to_have_count(0)
    page.locator("[data-figure=light_seconds]").hover()
    exposures = int(
        re.search(r"(\d+) exposures", page.locator("[data-figure=light_seconds]").inner_text()).group(1)
    )  # type: ignore[union-attr]
    # Both pairs of hands hold the light.
    expect(lit).to_have_count(2 * exposures)
    tape.get_by_role("button", name=re.compile("^Light-cure the occlusal body 1")).first.hover()
    for name, is_lit in (("light_seconds", "true"), ("filling", "false")):
        expect(page.locator(f"[data-figure={name}]")).to_have_attribute("data-lit", is_lit)


def test_a_step_pointed_at_lights_up_its_portion_and_says_what_it_is(page: Page, server: Server) -> None:
    open_bench(page, server)
    tape = page.get_by_role("group", name="Steps over time")
    portion = page.get_by_text("step through, or click one")
    expect(portion).to_be_visible()
    tape.get_by_role("button", name=re.compile("^Place the mesial wall, lift 1")).hover()
    expect(page.get_by_test_id("pointed-step")).to_contain_text("Adapt it to the band")
    expect(page.get_by_text(re.compile("^2 mesial wall, lift 1"))).to_be_visible()
    section = page.get_by_role("group", name=re.compile("^Light and dimensions: mesiodistal"))
    expect(section.get_by_test_id("light-lines").locator("path").first).to_be_attached(timeout=15000)
    page.mouse.move(600, 60)
    expect(portion).to_be_visible()
    expect(section.get_by_test_id("light-lines").locator("path")).to_have_count(0)
    tape.get_by_role("button").first.focus()
    while "Open the tooth" not in (page.get_by_test_id("pointed-step").text_content() or ""):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_test_id("pointed-step")).to_contain_text("Rubber dam on")


def test_compare_puts_the_schools_beside_each_other(page: Page, server: Server) -> None:
    open_bench(page, server)
    by_hand = {}
    for school in ("horizontal", "oblique", "proximal wall first"):
        take_technique(page, school)
        page.wait_for_timeout(1200)
        by_hand[school] = {name: figure(page, name) for name in ("light_seconds", "increments", "filling")}
    page.keyboard.press("c")
    compare = page.get_by_role("region", name="Compare")
    for school, figures in by_hand.items():
        column = compare.locator(f'[data-variant="{school}"]')
        for name, value in figures.items():
            shown = column.locator(f"[data-figure-of={name}] dd")
            expect(shown).to_contain_text(re.compile(rf"^{value:g}"))
            weight = shown.evaluate("e => getComputedStyle(e).fontWeight")
            assert weight == ("400" if name == "filling" else "700")
    expect(compare.locator('[data-variant="proximal wall first"]').get_by_role("button")).to_be_disabled()
    compare.get_by_role("radio", name="curing lights").click()
    expect(compare.locator('[data-variant="Curing light A"]')).to_contain_text("Total curing time")
    compare.get_by_role("radio", name="techniques").click()
    compare.locator('[data-variant="horizontal"]').get_by_role("button", name="Use this plan").click()
    expect(technique(page)).to_have_text("horizontal")
    expect(page.locator("[data-figure=increments]")).to_contain_text(
        f"{by_hand['horizontal']['increments']:g}"
    )


def test_what_to_measure_first_and_its_key(page: Page, server: Server) -> None:
    open_bench(page, server)
    first = page.get_by_role("region", name="Measure first")
    expect(first).to_contain_text("mesial box, height. About 4.5 \u00b1 0.5 mm moves the light")
    light = figure(page, "light_seconds")
    page.keyboard.press("m")
    expect(first.filter(has_text="mesial box, height")).to_have_count(0)
    expect(page.get_by_role("button", name="mesial box height: measured; change")).to_be_visible()
    assert figure(page, "light_seconds") == light
    page.keyboard.press("Control+z")
    expect(first).to_contain_text("mesial box, height")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("compare")


def test_the_bench_fits_a_chairside_screen_without_scrolling(page: Page, server: Server) -> None:
    page.set_viewport_size({"width": 1280, "height": 800})
    open_bench(page, server)
    assert page.evaluate("document.documentElement.scrollHeight") == 800


def test_the_bench_prints_on_one_page(page: Page, server: Server) -> None:
    page.set_viewport_size({"width": 1280, "height": 800})
    open_bench(page, server)
    printed = PdfReader(BytesIO(page.pdf(prefer_css_page_size=True))).pages
    assert len(printed) == 1
    assert printed[0].mediabox.width > printed[0].mediabox.height
    text = " ".join(printed[0].extract_text().split())
    for words in ("36 MO", "Chair time", "Lowest radiant exposure", "dentist", "Polish"):
        assert words in text
    assert "Start chairside" not in text
    assert page.evaluate("document.documentElement.scrollHeight") == 800


def test_the_first_load_is_light(page: Page, server: Server) -> None:
    """Views are loaded when they are asked for, and the script before that stays small."""
    scripts = []
    page.on("request", lambda r: scripts.append(r.url) if r.resource_type == "script" else None)
    page.goto(server.url)
    page.wait_for_load_state("networkidle")
    first = list(scripts)
    size = sum(len(gzip.compress(page.request.get(url).body())) for url in first)
    print(f"script of the first load: {size / 1000:.0f} kB gzip in {len(first)} files")
    assert size <= MOST_FIRST_SCRIPT
    open_bench(page, server)
    assert any("BenchView" in url for url in scripts)
    assert not any("BenchView" in url or "ChairView" in url for url in first)


@pytest.mark.parametrize("size", [PHONE, TABLET], ids=["phone", "tablet"])
def test_nothing_runs_out_of_a_small_screen(size: dict[str, int], browser: Browser, server: Server) -> None:
    page = browser.new_context(viewport=size, locale="en-GB").new_page()  # type: ignore[arg-type]
    sign_in(page, server)
    for path in (
        "/",
        "/bench/2",
        "/lights",
        "/rules",
        "/rules/bond.etch_enamel_s",
        "/stock",
        "/stock/1",
        "/shades",
        "/records",
        "/records/1",
    ):
        page.goto(server.url + path)
        page.wait_for_load_state("networkidle")
        expect(page.get_by_role("heading").first).to_be_visible()
        wide = page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
        assert wide <= 0, path
    page.goto(server.url)
    row(page, "Casimir Adeyemi-Roth").get_by_role("button", name="Start").click()
    expect(page.get_by_test_id("timer")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth - window.innerWidth") <= 0
    for button in page.get_by_role("button").all():
        box = button.bounding_box()
        assert box
        assert box["height"] >= 56
    # The time and the way onward stay in sight however far down one reads; all else is one tap away.
    page.get_by_text("Hand over next").scroll_into_view_if_needed()
    page.mouse.wheel(0, 2000)
    for kept in (page.get_by_test_id("timer"), page.get_by_role("button", name="passed")):
        expect(kept).to_be_in_viewport(ratio=1)
    if size is PHONE:
        expect(page.get_by_role("button", name="pause")).to_be_hidden()
        page.get_by_role("button", name="more").click()
        bar = page.get_by_test_id("timer").locator("..").bounding_box()
        assert bar
        assert bar["height"] < 0.25 * size["height"]
    expect(page.get_by_role("button", name="pause")).to_be_in_viewport(ratio=1)


def test_a_run_left_for_today_is_taken_up_again(page: Page, server: Server) -> None:
    sign_in(page, server)
    row(page, "Casimir Adeyemi-Roth").get_by_role("button", name="Start").click()
    expect(page.get_by_test_id("step-title")).to_have_text("Review the medical history")
    page.keyboard.press("p")
    expect(page.get_by_test_id("step-title")).to_have_text("Anesthetize the tooth")
    page.get_by_role("link", name="Today").click()
    row(page, "Casimir Adeyemi-Roth").get_by_role("button", name="Go on").click()
    expect(page.get_by_test_id("step-title")).to_have_text("Anesthetize the tooth")


def test_records_are_listed_with_what_went_otherwise(page: Page, server: Server) -> None:
    sign_in(page, server)
    page.get_by_role("link", name="Records").click()
    entry = page.get_by_role("row").filter(has_text="Sunniva Hallbjorn")
    expect(entry.get_by_role("cell").nth(3)).to_have_text("2")
    expect(entry.get_by_role("cell").nth(4)).to_have_text("signed")
    # Looked for by words of the patient's name in any order; signed ones wait for nobody.
    looked_for = page.get_by_role("searchbox", name="Patient")
    looked_for.fill("nobody of that name")
    expect(page.get_by_text("none was found")).to_be_visible()
    looked_for.fill("hallbjorn sun")
    expect(entry).to_be_visible()
    page.get_by_role("button", name="not signed").click()
    expect(entry).to_be_hidden()
    page.get_by_role("button", name="all", exact=True).click()
    entry.get_by_role("link").click()
    expect(page.get_by_role("heading", name="46 DO, composite")).to_be_visible()
    expect(page.get_by_role("list", name="Deviations").get_by_role("listitem")).to_have_count(2)


def test_the_page_needs_nothing_from_elsewhere(page: Page, server: Server) -> None:
    """Fonts, styles and scripts ship with the application; every request stays here."""
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    open_bench(page, server)
    page.goto(f"{server.url}/records/1")
    page.wait_for_load_state("networkidle")
    elsewhere = [u for u in asked if not u.startswith((server.url, "data:"))]
    assert elsewhere == []
    assert any(".woff2" in u for u in asked)


def test_saved_plans_are_shown_as_they_were_and_gone_back_to(page: Page, server: Server) -> None:
    open_bench(page, server)
    first = {name: figure(page, name) for name in ("light_seconds", "filling")}
    field(page, HEIGHT).fill("5.5")
    expect_drawn(page, "5.5")
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 2 saved")).to_be_visible()
    page.get_by_role("button", name="Versions").click()
    saved = page.get_by_role("region", name="Saved plans")
    newest = saved.get_by_role("listitem").filter(has_text="Plan 2").first
    expect(newest).to_contain_text("Ines Okafor-Lind")
    expect(newest).to_contain_text("mesial box, height: 4.5 \u2192 5.5")
    saved.get_by_role("button", name="Show plan 1").click()
    shown = saved.locator("[data-as-it-was='1']")
    for value in first.values():
        expect(shown).to_contain_text(f"{value:g}")
    shown.get_by_role("button", name="Go back to plan 1").click()
    expect_drawn(page, "4.5")
    assert figure(page, "filling") == first["filling"]
    expect(page.get_by_text("changed since plan 2")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect_drawn(page, "5.5")
