"""How smoothly a drag runs on a slow machine: frame times of a traced drag, and its previews.

Times depend on the machine; a frame over 20 ms is felt.
"""

from __future__ import annotations

import statistics
import tempfile
from itertools import pairwise
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tools.server import CHROMIUM, CHROMIUM_ARGS, Server

SLOWER = 4
MOVES = 150
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
    page.locator(GRIP).wait_for()
    page.wait_for_timeout(2500)


def dragged_frames_ms(page: Page) -> list[float]:
    """Drag the box height to and fro on a slowed processor; return the time of each frame."""
    page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    box = page.locator(GRIP).bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(RECORD)
    for i in range(MOVES):
        page.mouse.move(x + 2, y + 30 * (1 - abs(1 - (i % 60) / 30)))
        page.wait_for_timeout(12)
    frames: list[float] = page.evaluate(
        "() => { cancelAnimationFrame(window.frame); return window.frames_ms; }"
    )
    page.mouse.up()
    return frames[1:]


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
            page.on("request", lambda r: r.url.endswith("/preview") and flights.append(flights[-1] + 1))
            page.on(
                "requestfinished", lambda r: r.url.endswith("/preview") and flights.append(flights[-1] - 1)
            )
            frames = sorted(dragged_frames_ms(page))
            asked = sum(b > a for a, b in pairwise(flights))
        finally:
            server.kill()
    under = sum(f < FELT_MS for f in frames) / len(frames)
    print(f"drag at {SLOWER} times slowed processor, {len(frames)} frames")
    print(
        f"  median {statistics.median(frames):.1f} ms, 95th of 100 {frames[int(0.95 * len(frames))]:.1f} ms,"
        f" longest {frames[-1]:.1f} ms, {100 * under:.0f} % under {FELT_MS:.0f} ms"
    )
    print(f"  previews asked for {asked}, at most {max(flights)} in flight")


if __name__ == "__main__":
    main()
