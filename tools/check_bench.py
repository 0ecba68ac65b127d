"""Look at the Bench of every worked case in a real browser: how high its drawing is, and what its lengths cover."""

from __future__ import annotations

import json
import sys
import tempfile
from itertools import combinations
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

from mallet.worked import read_worked
from tools.screenshots import DESK, sign_in
from tools.server import CHROMIUM, CHROMIUM_ARGS, ROOT, Server

LEAST_HIGH_PX = 360
WORKED = ROOT / "examples" / "worked"
# Trials of the demo's dentist, with its curing light and its composites.
ADD = """
import json, sys
from practice.accounts.models import User
from practice.restorations.models import Restoration
one = Restoration.objects.filter(materials__isnull=False).first()
for told in json.load(open({path!r})):
    trial = Restoration.objects.create(practice=one.practice, author=User.objects.get(username="ines"), reason="",
        light=one.light, draft=told)
    trial.materials.set(one.materials.all())
    print(trial.pk)
"""

# Every box that the drawing puts over the painted tooth, in pixels of its own view.
BOXES = """() => [...document.querySelectorAll('svg[aria-label^="Light and dimensions"]')].map(svg => {
  const corner = svg.getBoundingClientRect();
  const box = (kind, e) => { const b = e.getBoundingClientRect();
    return {kind, x0: b.x - corner.x, y0: b.y - corner.y, x1: b.right - corner.x, y1: b.bottom - corner.y} };
  const canvas = svg.parentElement.querySelector('canvas');
  const numbers = JSON.parse(canvas.dataset.numbers).map(({order, at: [x, y], r}) =>
    ({kind: `number ${order}`, x0: x - r, y0: y - r, x1: x + r, y1: y + r}));
  return {view: canvas.ariaLabel, high: canvas.clientHeight, wide: canvas.clientWidth,
    tags: [...svg.querySelectorAll('g[role=button]')].map(e => box(e.ariaLabel, e.querySelector('rect'))),
    others: [...[...svg.querySelectorAll('[data-grip]')].map(e => box(e.dataset.grip, e)), ...numbers]};
})"""
ROUNDING_PX = 1.6


def covers(a: dict[str, Any], b: dict[str, Any]) -> bool:
    """Return whether two boxes lie over each other by more than the half of a line."""
    return all(
        min(a[f"{axis}1"], b[f"{axis}1"]) - max(a[f"{axis}0"], b[f"{axis}0"]) > ROUNDING_PX for axis in "xy"
    )


def faults_of(page: Page) -> list[str]:
    """Return what is wrong with the drawing at the Bench as it stands: too low, or a length that covers what it must not."""
    faults = []
    for view in page.evaluate(BOXES):
        if view["high"] < LEAST_HIGH_PX:
            faults.append(f"{view['view']} is {view['high']} px high")
        pairs = [*combinations(view["tags"], 2)]
        pairs += [(tag, other) for tag in view["tags"] for other in view["others"]]
        faults += [f"{view['view']}: {a['kind']} covers {b['kind']}" for a, b in pairs if covers(a, b)]
    return faults


def look_at(page: Page, url: str) -> list[str]:
    """Open a Bench and return what is wrong with it, whichever part is at hand."""
    page.goto(url)
    page.locator("[data-figure], main [role=alert]").first.wait_for()
    tabs = page.get_by_role("tablist", name="Part").get_by_role("tab")
    faults = []
    for i in range(tabs.count()):
        tabs.nth(i).click()
        faults += [f"{tabs.nth(i).inner_text().splitlines()[0]}: {fault}" for fault in faults_of(page)]
    return faults


def trials(server: Server, var: Path, paths: list[Path]) -> list[int]:
    """Make trials of worked cases and return their ids."""
    told = []
    for path in paths:
        data = json.loads(read_worked(path)[1].model_dump_json(exclude_unset=True))
        data.pop("place", None)
        data.pop("stock", None)
        told.append(data)
    cases = var / "cases.json"
    cases.write_text(json.dumps(told))
    made = server.manage("shell", "--verbosity", "0", "-c", ADD.format(path=str(cases)))
    if made.returncode:
        raise RuntimeError(made.stderr)
    return [int(line) for line in made.stdout.split()]


def main() -> None:
    """Look at every worked case, or those whose names begin as told; end with 1 where anything is wrong."""
    begins = tuple(sys.argv[1:]) or ("",)
    paths = [path for path in sorted(WORKED.glob("*.json")) if path.stem.startswith(begins)]
    wrong = 0
    with tempfile.TemporaryDirectory() as var, sync_playwright() as play:
        server = Server(Path(var))
        server.fill()
        server.start()
        try:
            ids = trials(server, Path(var), paths)
            browser = play.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGS)
            page = browser.new_page(viewport=DESK, locale="en-GB")
            sign_in(page, server)
            for path, trial in zip(paths, ids, strict=True):
                faults = look_at(page, f"{server.url}/bench/{trial}")
                wrong += bool(faults)
                for fault in faults:
                    print(f"{path.stem}: {fault}", flush=True)
        finally:
            server.kill()
    print(f"{len(paths)} worked cases, {wrong} of them with a fault")
    raise SystemExit(1 if wrong else 0)


if __name__ == "__main__":
    main()
