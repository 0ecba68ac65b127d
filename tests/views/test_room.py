"""The Bench keeps its drawing: high enough, and no length over another, over a grip or over a number. `make check-bench`
looks at every worked case."""

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.views.conftest import sign_in
from tests.views.test_journey import HEIGHT, at_hand, field, open_bench
from tools.check_bench import WORKED, faults_of, look_at, trials
from tools.server import Server

# Two boxes with much besides, a core, most fields of one part, most techniques, what was lost of an edge.
DEMANDING = [
    "amalgam_full_cover",
    "amalgam_core",
    "amalgam_pins_refused",
    "ordinary_36_mod",
    "front_notch_deep_bite",
]


def test_the_drawing_keeps_its_room_whatever_is_measured(page: Page, server: Server, tmp_path: Path) -> None:
    sign_in(page, server)
    faults = {
        name: look_at(page, f"{server.url}/bench/{trial}")
        for name, trial in zip(
            DEMANDING, trials(server, tmp_path, [WORKED / f"{one}.json" for one in DEMANDING]), strict=True
        )
    }
    assert not any(faults.values()), faults


def test_what_is_typed_outlives_a_reload_and_can_be_discarded(page: Page, server: Server) -> None:
    open_bench(page, server)
    field(page, HEIGHT).fill("6")
    expect(page.get_by_text("changed since plan 1")).to_be_visible()
    page.reload()
    expect(field(page, HEIGHT)).to_have_value("6")
    expect(page.get_by_text("changed since plan 1")).to_be_visible()
    page.get_by_role("button", name="Discard").click()
    expect(field(page, HEIGHT)).to_have_value("4.5")
    expect(page.get_by_text("plan 1 saved")).to_be_visible()
    page.reload()
    expect(field(page, HEIGHT)).to_have_value("4.5")


def test_a_part_comes_to_hand_by_a_tap_and_its_lengths_with_it(page: Page, server: Server) -> None:
    open_bench(page, server)
    grips = page.locator("[data-grip]")
    of_mesial = {
        "preparation.parts[1].height_mm",
        "preparation.parts[1].axial_depth_mm",
        "preparation.parts[1].width_mm",
    }
    assert {one.get_attribute("data-grip") for one in grips.all()} == of_mesial
    above = page.get_by_role("img", name="Drawing: from occlusal")
    at_hand(page, "occlusal box")
    middle = page.locator('[data-grip="preparation.parts[0].width_mm"]').bounding_box()
    at_hand(page, "pulp")
    expect(grips).to_have_count(0)
    assert middle
    page.mouse.click(middle["x"] + middle["width"] / 2, middle["y"] - 20)
    expect(page.get_by_role("tab", name="occlusal box")).to_have_attribute("aria-selected", "true")
    expect(grips).to_have_count(3)
    expect(above).to_be_visible()
    assert not faults_of(page)
    # The key figures stay in sight while a stage is open.
    page.get_by_role("navigation", name="Order of work").get_by_role("button", name="Placement").click()
    page.get_by_role("complementary", name="Summary").evaluate("e => e.scrollTo(0, e.scrollHeight)")
    for figure in page.locator("[data-figure]").all():
        expect(figure).to_be_in_viewport()
