"""How fast the field is: 300 points in a cavity with composite in place, against rays of a general-purpose library."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

import numpy as np

from mallet.curing.around import surroundings
from mallet.light.field import Grain, irradiance_mw_cm2
from mallet.light.presses import Button
from mallet.light.program import least_rungs
from mallet.plan import Worked, work
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from tools.bench import EXAMPLES, RUNS, best_ms, median_ms, ms_of, preview
from tools.dense_light import irradiance_mw_cm2 as dense_mw_cm2
from tools.dense_light import standing_at

POINTS = 300
EXACT = Grain(40, 80, 4)
GRAINS = (Grain(4, 10), Grain(6, 12), Grain(8, 16), Grain(8, 16, 2), Grain(10, 20, 2), Grain(14, 28, 3))
RAYS = (256, 1024, 4096, 16384)
WITHIN = 0.01
# Points that see less than this share of the contact light do not count: nobody cures there.
LEAST_SHARE = 0.01


def heaviest() -> dict[str, Any]:
    """Return the case that costs most of those we know: three boxes in bulk-deep walls, bands clear."""
    case: dict[str, Any] = json.loads((EXAMPLES / "lower_first_molar_mo.json").read_text())
    box = case["preparation"]["parts"][1]
    case["restoration"]["surfaces"] = "MOD"
    case["preparation"]["parts"] = [
        case["preparation"]["parts"][0],
        {**box, "height_mm": 6.0},
        {**box, "side": "distal", "height_mm": 6.0},
    ]
    case["neighbours"] = {
        "mesial": {"tooth": "35", "ridge_offset_mm": 0.0, "rotated": True},
        "distal": {"tooth": "37", "ridge_offset_mm": 0.0, "rotated": True},
    }
    case["provenance"] = {}
    return case


def points_in(worked: Worked) -> np.ndarray:
    """Return points inside the filling, spread evenly by chance."""
    draw = np.random.default_rng(3)
    x0, y0, z0, x1, y1, z1 = worked.cavity.filling.bounding_box()
    found: list[np.ndarray] = []
    scenes = [cured.inside for cured in worked.lit.cured]
    while sum(map(len, found)) < POINTS:
        some = draw.uniform((x0, y0, z0), (x1, y1, z1), (POINTS, 3))
        found.append(some[np.any([scene.contains(some) for scene in scenes], axis=0)])
    return np.concatenate(found)[:POINTS]


def coarsest(light: Callable[[int], np.ndarray], count: int, exact: np.ndarray) -> tuple[int, float]:
    """Return the first of ever finer choices whose root mean square error is small enough, and that error."""
    counts = exact > LEAST_SHARE * exact.max()
    for i in range(count):
        error = float(np.sqrt(np.mean((light(i)[counts] / exact[counts] - 1) ** 2)))
        if error <= WITHIN:
            break
    return i, error


def field() -> None:
    worked = work(read_case(json.loads((EXAMPLES / "lower_first_molar_mo.json").read_text())))
    rules, beside = load_rulebook(), [n.solid for n in worked.neighbours]
    around = surroundings(worked.cavity, worked.bands, beside, worked.lit.beam, rules)
    placed = [c.filling for c in worked.lit.cured]
    tip, points = worked.lit.cured[-1].lit.aims[0].tip, points_in(worked)
    exact = irradiance_mw_cm2(points, tip, around.blockers, placed, EXACT)

    def ours(i: int) -> np.ndarray:
        return irradiance_mw_cm2(points, tip, around.blockers, placed, GRAINS[i])

    grain, our_error = coarsest(ours, len(GRAINS), exact)
    our_ms = median_ms(lambda: ours(grain))

    aim, standing = worked.lit.cured[-1].lit.aims[0], standing_at(worked, len(placed) - 1)

    def rays(i: int) -> np.ndarray:
        return dense_mw_cm2(points, aim, standing, RAYS[i], np.random.default_rng(1))

    many, its_error = coarsest(rays, len(RAYS), around.field(points, aim, placed, EXACT))
    its_ms = ms_of(lambda: rays(many))
    print(f"field of {POINTS} points, {len(worked.lit.cured)} increments in place, within 1 % (rms)")
    print(f"  ours              {our_ms:8.1f} ms, {100 * our_error:.2f} % off")
    print(
        f"  rays of a library {its_ms:8.0f} ms, {100 * its_error:.2f} % off, {RAYS[many]} rays a point:"
        f" {its_ms / our_ms:.0f} times as long"
    )


def program() -> None:
    draw = np.random.default_rng(5)
    light = draw.uniform(5, 400, (POINTS, 3))
    took = median_ms(lambda: least_rungs(light, 0.8, Button((5.0, 10.0, 20.0)), 5.0, 40.0))
    print(f"program of {POINTS} points, three sides\n  {took:.1f} ms")


def main() -> None:
    """Print the table."""
    field()
    program()
    case = read_case(heaviest())
    took = best_ms(lambda: preview(case))
    portions = work(case).plan.totals.increments
    print(
        "heaviest case beside those, both boxes of a molar 6 mm deep behind clear bands, least of"
        f" {RUNS} runs\n  {took:.0f} ms, {portions} increments"
    )


if __name__ == "__main__":
    main()
