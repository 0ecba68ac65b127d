"""Refresh docs/screenshots: each main view of the demo practice, in a real browser."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, ViewportSize, sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from tools.server import CHROMIUM, CHROMIUM_ARGS, ROOT, Server

OUT = ROOT / "docs" / "screenshots"
DESK: ViewportSize = {"width": 1280, "height": 800}
PHONE: ViewportSize = {"width": 390, "height": 844}
STEPS_TO_FIRST_LIGHT = 21


def shoot(page: Page, name: str, *, whole: bool = False) -> None:
    page.wait_for_timeout(400)
    page.screenshot(path=OUT / f"{name}.png", full_page=whole)


def sign_in(page: Page, server: Server) -> None:
    page.goto(server.url)
    page.get_by_role("button", name="Ines Okafor-Lind").click()
    page.get_by_text("12 restorations").wait_for()


def bench(page: Page, patient: str) -> None:
    page.get_by_role("listitem").filter(has_text=patient).first.get_by_role("link", name="Bench").click()
    page.locator("[data-figure=chair_minutes]").wait_for()


def stage(page: Page, name: str) -> None:
    """Open a stage by its place in the order of work, or close it."""
    page.get_by_role("navigation", name="Order of work").get_by_role("button", name=name).click()


def desk(page: Page, server: Server) -> None:
    """Take the pictures of a dentist's day at a desk's size."""
    page.goto(server.url)
    page.get_by_role("heading", name="Sign in").wait_for()
    shoot(page, "sign-in")
    sign_in(page, server)
    shoot(page, "today")
    bench(page, "Casimir")
    shoot(page, "bench")
    page.get_by_role("button", name="Increment after").click()
    page.get_by_role("button", name="Why: Total curing time").click()
    shoot(page, "bench-why")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Compare").click()
    page.get_by_role("button", name="Use this plan").nth(2).wait_for()
    page.locator("canvas[data-painted]").nth(2).wait_for()
    shoot(page, "bench-compare")
    page.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Start chairside").click()
    page.get_by_test_id("timer").wait_for()
    for _ in range(STEPS_TO_FIRST_LIGHT):
        page.keyboard.press("p" if page.get_by_role("button", name="passed").is_visible() else "Space")
        page.wait_for_timeout(600)
    shoot(page, "chairside")
    page.goto(f"{server.url}/lights")
    page.get_by_role("link", name="Curing light B").click()
    page.get_by_role("heading", name="Curing light B").wait_for()
    shoot(page, "lights")
    page.goto(f"{server.url}/stock")
    page.get_by_role("navigation", name="Found").get_by_role("link", name="Skarv body").click()
    page.get_by_role("article").wait_for()
    shoot(page, "stock")
    page.goto(f"{server.url}/rules")
    page.get_by_role("heading", name="Rulebook").wait_for()
    shoot(page, "rulebook")
    page.goto(server.url)
    page.get_by_role("listitem").filter(has_text="Sunniva").first.get_by_role("link", name="Record").click()
    page.get_by_text("What was placed").wait_for()
    shoot(page, "record", whole=True)
    page.goto(server.url)
    bench(page, "Birta")
    stage(page, "Shade")
    page.get_by_test_id("color-face").wait_for()
    shoot(page, "bench-shade")
    page.goto(f"{server.url}/shades")
    page.get_by_role("figure", name="What shows of the mouth").wait_for()
    shoot(page, "shades")
    patient(page, server)
    amalgam(page, server)


def patient(page: Page, server: Server) -> None:
    """Take a patient's page with a restoration about to be begun."""
    page.goto(server.url)
    page.get_by_role("link", name="Sunniva Hallbjorn").click()
    page.get_by_role("button", name="36, ").click()
    for surface in ("mesial", "occlusal"):
        page.get_by_role("checkbox", name=surface).click()
    page.get_by_role("heading", name="Sunniva Hallbjorn").click()
    shoot(page, "patient")


def amalgam(page: Page, server: Server) -> None:
    """Take a zone of an amalgam restoration at the Bench and at the chair, and one of gold foil."""
    page.goto(server.url)
    bench(page, "Torvald")
    stage(page, "Condensation")
    page.get_by_role("table", name="In order of placement").get_by_text("gingival floor").click()
    page.get_by_test_id("nib").first.wait_for()
    shoot(page, "bench-amalgam")
    page.get_by_role("button", name="Start chairside").click()
    title = page.get_by_test_id("step-title")
    while not title.inner_text().startswith("Condense the reduced cusps"):
        page.keyboard.press("p" if page.get_by_role("button", name="passed").is_visible() else "Space")
        page.wait_for_timeout(600)
    # In the middle of its beat.
    page.locator("[data-testid=beat][data-beats='20']").wait_for()
    shoot(page, "chairside-condensing")
    page.goto(server.url)
    bench(page, "Aslaug")
    stage(page, "Stepping")
    page.get_by_role("table", name="In order of placement").get_by_text("cervical floor").click()
    page.get_by_test_id("stepping-path").wait_for()
    shoot(page, "bench-gold")


def phone(page: Page, server: Server) -> None:
    sign_in(page, server)
    bench(page, "Orla")
    shoot(page, "bench-phone")


def main() -> None:
    """Serve the demo practice on a folder of its own and take every picture."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as var, sync_playwright() as play:
        server = Server(Path(var))
        server.fill()
        server.start()
        try:
            browser = play.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGS)
            desk(browser.new_page(viewport=DESK, locale="en-GB"), server)
            phone(browser.new_context(viewport=PHONE, locale="en-GB").new_page(), server)
        finally:
            server.kill()


if __name__ == "__main__":
    main()
