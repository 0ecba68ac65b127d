"""For every hand and eye: the keyboard alone, few actions, no barrier."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.views.conftest import sign_in
from tests.views.test_journey import HEIGHT, PASSWORD, open_bench, skip_to, step
from tools.server import ROOT, Server

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
MOST_INPUTS = 12
BY_KEY = 9
MOST_ACTIONS = 3


def tab_to(page: Page, target: Locator, most: int = 90) -> None:
    """Press Tab until the target has the focus."""
    expect(target).to_be_visible()
    for _ in range(most):
        page.keyboard.press("Tab")
        if target.evaluate("e => e === document.activeElement"):
            return
    raise AssertionError(f"Tab never comes to {target}")


def test_the_whole_way_with_the_keyboard_alone(page: Page, server: Server) -> None:
    page.goto(server.url)
    tab_to(page, page.get_by_role("button", name="Ines Okafor-Lind"))
    page.keyboard.press("Enter")
    expect(page.get_by_text("12 restorations")).to_be_visible()
    tab_to(page, page.locator("a[href='/bench/2']").first)
    page.keyboard.press("Enter")
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()

    # The grip by arrows, Enter to type, Esc to take it back.
    grip = page.locator(f'[data-grip="{HEIGHT}"]')
    tab_to(page, grip)
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Shift+ArrowUp")
    expect(grip).to_have_attribute("aria-valuenow", "4.9")
    page.keyboard.press("Enter")
    expect(page.locator(f'[data-path="{HEIGHT}"]')).to_be_focused()
    page.keyboard.press("Control+A")
    page.keyboard.type("60")
    expect(page.get_by_role("alert").first).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator(f'[data-path="{HEIGHT}"]')).to_have_value("4.9")

    page.keyboard.press("]")
    expect(page.get_by_text("1 mesial gingival increment")).to_be_visible()
    page.keyboard.press("8")
    stages = page.get_by_role("navigation", name="Order of work")
    expect(stages.get_by_role("button", name="Adhesion")).to_have_attribute("aria-pressed", "true")
    # The focus is in what the stage asks first, where letters find an option.
    page.keyboard.press("Escape")
    page.keyboard.press("w")
    expect(page.get_by_role("dialog", name=re.compile("^Why"))).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("c")
    expect(page.get_by_role("region", name="Compare")).to_be_visible()
    page.keyboard.press("c")

    tab_to(page, page.get_by_role("button", name="Start chairside"))
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("step-title")).to_have_text("Review the medical history")
    for _ in range(BY_KEY):
        before = step(page)
        page.keyboard.press("p" if page.get_by_role("button", name="passed").count() else "PageDown")
        expect(page.get_by_test_id("step-title")).not_to_have_text(before)
        page.wait_for_timeout(420)
    # The others go by the same keys: another device ends them.
    skip_to(page)
    page.keyboard.press(" ")

    tab_to(page, page.get_by_label("Your password, to sign"))
    page.keyboard.type(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()


def test_few_inputs_no_typing_at_the_chair_and_few_actions_to_sign(
    page: Page, server: Server, capsys: pytest.CaptureFixture[str]
) -> None:
    open_bench(page, server)
    inputs = 0
    for part in page.get_by_role("tablist", name="Part").get_by_role("tab").all():
        part.click()
        inputs += page.locator("[data-path]").count()
    choices = page.get_by_role("radiogroup", name=re.compile("technique|Lamp")).count()
    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("step-title")).to_be_visible()
    fields = 0
    while page.get_by_role("button", name="finish").count() == 0:
        fields += page.locator("input, textarea, select").count()
        before = step(page)
        passed = page.get_by_role("button", name="passed")
        (passed if passed.count() else page.get_by_role("button", name="next")).click()
        expect(page.get_by_test_id("step-title")).not_to_have_text(before)
    actions = 0
    page.get_by_role("button", name="finish").click()
    actions += 1
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    actions += 1
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()
    with capsys.disabled():
        print(
            f"\ninputs to plan: {inputs + choices}; fields to type in at the chair: {fields};"
            f" actions from last step to signed: {actions} and the password"
        )
    assert inputs + choices <= MOST_INPUTS
    assert fields == 0
    assert actions <= MOST_ACTIONS


def barriers(page: Page) -> list[str]:
    page.add_script_tag(path=AXE)
    found = page.evaluate("async () => (await axe.run({resultTypes: ['violations']})).violations")
    return [f"{v['id']}: {n['target']}" for v in found for n in v["nodes"]]


def test_no_barrier_on_any_view(page: Page, server: Server) -> None:
    page.goto(server.url)
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    found = {"sign in": barriers(page)}
    sign_in(page, server)
    found["today"] = barriers(page)
    for path, name in (
        ("patients", "Patients"),
        ("people", "People"),
        ("audit", "Audit trail"),
        ("own", "Ines Okafor-Lind"),
    ):
        page.goto(f"{server.url}/{path}")
        expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()
        found[path] = barriers(page)
    page.goto(f"{server.url}/patients/3")
    page.get_by_role("button", name=re.compile("^26, ")).click()
    expect(page.get_by_role("group", name="Surfaces of 26")).to_be_visible()
    found["patient"] = barriers(page)
    page.get_by_role("button", name="Change").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    found["patient, changed"] = barriers(page)
    page.goto(f"{server.url}/bench/2")
    expect(page.get_by_role("region", name="Measure first")).to_be_visible()
    found["bench"] = barriers(page)
    page.keyboard.press("c")
    expect(page.locator('[data-variant="oblique"]')).to_contain_text("Chair time")
    found["compare"] = barriers(page)
    page.goto(f"{server.url}/lights")
    expect(page.get_by_role("region", name="Seconds by composite and distance")).to_be_visible()
    found["lights"] = barriers(page)
    page.goto(f"{server.url}/rules")
    page.get_by_role("heading", name="Rulebook").wait_for()
    found["rulebook"] = barriers(page)
    page.goto(f"{server.url}/stock")
    page.get_by_role("heading", name="Stock", exact=True).wait_for()
    found["stock"] = barriers(page)
    page.goto(f"{server.url}/stock/1")
    page.get_by_role("article").wait_for()
    found["thing"] = barriers(page)
    page.goto(f"{server.url}/shades")
    page.get_by_role("figure", name="What shows of the mouth").wait_for()
    found["shades"] = barriers(page)
    page.goto(f"{server.url}/rules/bond.etch_enamel_s")
    page.get_by_role("region", name="Set for the practice").wait_for()
    found["rule"] = barriers(page)
    page.goto(f"{server.url}/records")
    expect(page.get_by_role("heading").first).to_be_visible()
    found["records"] = barriers(page)
    page.goto(f"{server.url}/records/1")
    expect(page.get_by_role("article")).to_be_visible()
    found["record"] = barriers(page)
    page.goto(f"{server.url}/bench/2")
    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_test_id("timer")).to_be_visible()
    found["chairside"] = barriers(page)
    told = [f"{view}: {barrier}" for view, some in found.items() for barrier in some]
    assert not told, "\n".join(told)
