"""A sheet of all handbook crowns, from occlusal and in section, drawn to one scale as they stand in the mouth."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Sequence
from functools import partial
from pathlib import Path

from playwright.sync_api import sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from mallet.cavity.crowns import shell_solid
from mallet.cavity.sections import Ring, crosswise_section, from_above, lengthwise_section, level_section
from mallet.rulebook import load_rulebook
from mallet.tooth import Shell, ToothName, loft_crown
from tools.server import CHROMIUM, CHROMIUM_ARGS, ROOT

OUT = ROOT / "docs" / "screenshots" / "crowns.png"
PER_MM = 6.4
CELL = 92
FILLS: tuple[tuple[Shell, str], ...] = (("outer", "#fdfaf2"), ("dentin", "#efe3c0"), ("pulp", "#eccfc8"))
CONTOURS_MM = (0.3, 0.7, 1.1, 1.5, 1.9)


def path(rings: Iterable[Ring], x: float, y: float, *, flip: bool, fill: str, width: float = 1.2) -> str:
    """Return rings as one SVG path about a place; `flip` mirrors left and right."""
    sign = -1 if flip else 1
    loops = [
        "M" + " ".join(f"{x + sign * PER_MM * a:.1f},{y - PER_MM * b:.1f}" for a, b in ring) + "Z"
        for ring in rings
    ]
    return f'<path d="{"".join(loops)}" fill="{fill}" stroke="#1f2a30" stroke-width="{width}"/>'


def cell(tooth: ToothName, x: float, y: float) -> str:
    """Return a tooth from occlusal, in mesiodistal and in faciolingual section, crown upwards."""
    rules = load_rulebook()
    crown = loft_crown(tooth, rules)
    # The patient's right stands at the left: there mesial points right.
    flip = tooth.quadrant in (2, 3, 6, 7)
    outer = shell_solid(tooth, rules).solid
    # Facial points outwards in both jaws: up in the upper one, down in the lower.
    turned = [ring * [1, 1 if tooth.is_upper else -1] for ring in from_above(outer)]
    parts = [path(turned, x, y, flip=flip, fill=FILLS[0][1])]
    for drop in CONTOURS_MM:
        height = crown.height_mm - drop
        if height > crown.rim_mm:
            lines = [ring * [1, 1 if tooth.is_upper else -1] for ring in level_section(outer, height)]
            parts.append(path(lines, x, y, flip=flip, fill="none", width=0.5))
    for at, cut in (
        (y + 1.6 * CELL, lengthwise_section),
        (y + 2.9 * CELL, partial(crosswise_section, x_mm=0.0)),
    ):
        for shell, fill in FILLS:
            rings = cut(shell_solid(tooth, rules, shell).solid)
            parts.append(path(rings, x, at, flip=flip, fill=fill))
    parts.append(f'<text x="{x}" y="{y + 3.5 * CELL}" text-anchor="middle" font-size="15">{tooth.iso}</text>')
    return "".join(parts)


def rows() -> list[list[ToothName]]:
    """Return the teeth row by row, the patient's right at the left."""
    return [
        [ToothName(right, n) for n in range(most, 0, -1)] + [ToothName(left, n) for n in range(1, most + 1)]
        for right, left, most in ((1, 2, 8), (4, 3, 8), (5, 6, 5), (8, 7, 5))
    ]


def main() -> None:
    """Write the picture."""
    body, high = [], 4 * CELL
    for i, row in enumerate(rows()):
        start = 8 * CELL - len(row) * CELL / 2
        body += [cell(tooth, start + (j + 0.5) * CELL, 46 + i * high) for j, tooth in enumerate(row)]
    photograph(body, 16 * CELL, len(rows()) * high + 10, OUT)


def photograph(body: Sequence[str], width: int, height: int, out: Path) -> None:
    """Write pieces of SVG as one picture."""
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}">{"".join(body)}</svg>'
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGS)
        page = browser.new_page(viewport={"width": width, "height": height})
        page.set_content(f'<body style="margin:0;background:#f3efe3;font-family:sans-serif">{svg}')
        page.screenshot(path=out)


if __name__ == "__main__":
    main()
