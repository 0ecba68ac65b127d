"""How smoothly a drag runs on a slow machine: frame times of a traced drag, and its previews.

A frame over 20 ms is felt. Times depend on the machine: the same moves of the pointer without a grip
in hand tell what it can do at best.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from itertools import pairwise
from pathlib import Path

from playwright.sync_api import CDPSession, Page, Request, sync_playwright

from tools.server import CHROMIUM, CHROMIUM_ARGS, Server

SLOWER = 4
MOVES = 150
DRAGS = 3
FELT_MS = 20.0
GRIP = '[data-grip="preparation.parts[1].height_mm"]'
RECORD = """() => {
    window.frames_ms = [];
    let last = performance.now();
    const next = (now) => { window.frames_ms.push(now - last); last = now; window.frame = requestAnimationFrame(next); };
    window.frame = requestAnimationFrame(next);
}"""


def open_bench(page: Page, server: Server) -> None:
    page.goto(server.url)
    page.get_by_role("button", name="Ines Okafor-Lind").click()
    row = page.get_by_role("listitem").filter(has_text="Casimir Adeyemi-Roth").first
    row.get_by_role("link", name="Bench").click()
    # Anew, so that what the test tool has put into the page to click with does not listen to every move.
    page.reload()
    page.locator(GRIP).wait_for()
    page.wait_for_timeout(2500)


def moved_frames_ms(page: Page, devtools: CDPSession, *, is_dragging: bool) -> list[float]:
    """Move the pointer to and fro, the box height in hand or not; return the time of each frame."""
    box = page.locator(GRIP).bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    if is_dragging:
        page.mouse.down()
    page.evaluate(RECORD)
    buttons = 1 if is_dragging else 0
    for i in range(MOVES):
        at = {"x": x + 2, "y": y + 30 * (1 - abs(1 - (i % 60) / 30))}
        devtools.send(
            "Input.dispatchMouseEvent",
            {"type": "mouseMoved", "button": "left" if buttons else "none", "buttons": buttons, **at},
        )
        time.sleep(0.012)
    frames: list[float] = page.evaluate(
        "() => { cancelAnimationFrame(window.frame); return window.frames_ms; }"
    )
    page.mouse.up()
    return sorted(frames[1:])


def main() -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as var, sync_playwright() as play:
        server = Server(Path(var))
        server.fill()
        server.start()
        try:
            browser = play.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            open_bench(page, server)
            flights: list[int] = [0]

            def flown(request: Request, more: int) -> None:
                if request.url.endswith("/preview"):
                    flights.append(flights[-1] + more)

            page.on("request", lambda request: flown(request, 1))
            page.on("requestfinished", lambda request: flown(request, -1))
            devtools = page.context.new_cdp_session(page)
            devtools.send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
            print(f"frames at {SLOWER} times slowed processor")
            tell("pointer alone", moved_frames_ms(page, devtools, is_dragging=False))
            for turn in range(1, DRAGS + 1):
                tell(f"drag {turn}", moved_frames_ms(page, devtools, is_dragging=True))
                page.wait_for_timeout(1500)
            asked = sum(b > a for a, b in pairwise(flights))
            print(f"  previews asked for {asked}, at most {max(flights)} in flight")
        finally:
            server.kill()


def tell(name: str, frames: list[float]) -> None:
    """Print a line of the table for sorted frame times."""
    under = sum(f < FELT_MS for f in frames) / len(frames)
    print(
        f"  {name:13} median {statistics.median(frames):.1f} ms, 95th of 100"
        f" {frames[int(0.95 * len(frames))]:.1f}, longest {frames[-1]:.1f};"
        f" {100 * under:.0f} % of {len(frames)} under {FELT_MS:.0f} ms"
    )


if __name__ == "__main__":
    main()
