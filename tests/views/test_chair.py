"""At the chair: what goes otherwise than planned, and two devices on one run."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.views.conftest import sign_in
from tests.views.test_journey import elapsed, go_on, open_bench, skip_to, step
from tools.server import Server

DEBOUNCE_MS = 420


def start(page: Page, server: Server) -> None:
    open_bench(page, server)
    page.get_by_role("button", name="Start chairside").click()
    for title in ("Review the medical history", "Anesthetize the tooth"):
        expect(page.get_by_test_id("step-title")).to_have_text(title)
        go_on(page)
    expect(page.get_by_test_id("step-title")).to_have_text("Rubber dam on")


def press(page: Page, key: str) -> None:
    page.keyboard.press(key)
    page.wait_for_timeout(DEBOUNCE_MS)


def test_a_simulated_pedal_goes_on_and_back_and_sound_waits_to_be_started(page: Page, server: Server) -> None:
    start(page, server)
    sound = page.get_by_role("button", name="sound off")
    expect(sound).to_have_attribute("aria-pressed", "false")
    page.get_by_role("button", name="pedal off").click()
    plates = page.get_by_role("group", name="Simulated pedal")
    # A pedal never passes a check.
    plates.get_by_role("button", name="on").click()
    assert step(page) == "Rubber dam on"
    while page.get_by_role("button", name=re.compile("passed")).is_visible():
        go_on(page)
    here = step(page)
    page.wait_for_timeout(DEBOUNCE_MS)
    plates.get_by_role("button", name="on").click()
    expect(page.get_by_test_id("step-title")).not_to_have_text(here)
    page.wait_for_timeout(DEBOUNCE_MS)
    plates.get_by_role("button", name="back").click()
    expect(page.get_by_test_id("step-title")).to_have_text(here)
    sound.click()
    expect(page.get_by_role("button", name="sound on")).to_be_visible()
    page.get_by_role("button", name="pedal on").click()
    expect(plates).to_have_count(0)


def test_deeper_wet_and_pause_are_taken_and_told(page: Page, server: Server) -> None:
    start(page, server)
    skip_to(page, "Verify the preparation")
    steps = int(re.findall(r"of (\d+)", page.get_by_text(re.compile(r"^step \d+ of")).inner_text())[0])

    # The new depth in two taps; what is done stays done, and there is more to fill.
    page.get_by_role("button", name="deeper").click()
    page.get_by_role("button", name="6.0 mm").click()
    told = page.get_by_role("status").filter(has_text="Mesial box, height: 6 mm instead of 4.5 mm")
    expect(told).to_be_visible()
    assert step(page) == "Verify the preparation"
    expect(page.get_by_text(re.compile(rf"^step 9 of (?!{steps}$)\d+$"))).to_be_visible()

    # A pause with its reason: time stands, nothing else can be pressed.
    page.get_by_role("button", name="pause").click()
    page.get_by_role("button", name="patient needs a break").click()
    paused = page.get_by_role("dialog")
    expect(paused).to_contain_text("patient needs a break")
    stood = elapsed(page)
    press(page, "p")
    page.wait_for_timeout(1200)
    assert abs(elapsed(page) - stood) < 0.3
    paused.get_by_role("button", name="go on").click()
    expect(paused).to_be_hidden()

    # Wet while a portion is placed: bond again, then place it; deeper is over by now.
    skip_to(page, "Place the mesial gingival")
    expect(page.get_by_role("button", name="deeper")).to_be_disabled()
    press(page, "w")
    assert step(page) == "Etch the enamel"
    expect(page.get_by_text(re.compile("doing again 1 of 8"))).to_be_visible()
    for _ in range(8):
        press(page, "p" if page.get_by_role("button", name="passed").is_visible() else " ")
    assert step(page).startswith("Place the mesial gingival")

    while page.get_by_role("button", name="finish").count() == 0:
        go_on(page)
    page.keyboard.press("Space")
    found = page.get_by_role("article").get_by_role("list", name="Deviations")
    for words in ("6 mm instead of 4.5 mm", "patient needs a break", "The field was contaminated at: Place"):
        expect(found).to_contain_text(words)
    expect(page.locator('[data-step="bond.etch_enamel"]')).to_contain_text("(2 times)")


@pytest.fixture
def tablet(browser: Browser) -> Iterator[BrowserContext]:
    context = browser.new_context(viewport={"width": 1024, "height": 768})
    yield context
    context.close()


def test_two_devices_on_one_run(page: Page, server: Server, tablet: BrowserContext) -> None:
    start(page, server)
    other = tablet.new_page()
    sign_in(other, server, "Tomas Verhallen")
    other.goto(page.url)
    expect(other.get_by_test_id("step-title")).to_have_text("Rubber dam on")

    # What one does the other shows by itself.
    skip_to(page, "Verify the preparation")
    expect(other.get_by_test_id("step-title")).to_have_text("Verify the preparation")

    # Both press at once: one step.
    other.evaluate("window.dispatchEvent(new KeyboardEvent('keydown', {key: 'p'}))")
    page.keyboard.press("p")
    for device in (page, other):
        expect(device.get_by_test_id("step-title")).to_have_text("Place the mesial band")
        expect(device.get_by_text(re.compile("^step 10 of"))).to_be_visible()

    # The tablet loses the net and works on; the other does one of those steps meanwhile.
    page.wait_for_timeout(DEBOUNCE_MS)
    tablet.set_offline(True)
    press(other, " ")
    expect(other.get_by_test_id("step-title")).to_have_text("Wedge the mesial embrasure")
    expect(other.get_by_text("unsent: 1")).to_be_visible()
    press(other, "p")
    expect(other.get_by_test_id("step-title")).to_have_text("Test the mesial seal")
    expect(other.get_by_text("unsent: 2")).to_be_visible()
    press(page, " ")
    expect(page.get_by_test_id("step-title")).to_have_text("Wedge the mesial embrasure")
    tablet.set_offline(False)
    for device in (page, other):
        expect(device.get_by_test_id("step-title")).to_have_text("Test the mesial seal")
        expect(device.get_by_text(re.compile("^step 12 of"))).to_be_visible()
        expect(device.get_by_text("unsent")).to_be_hidden()
