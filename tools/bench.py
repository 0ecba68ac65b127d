"""Where a preview's time goes for the demo case, and ratios within one run.

Times depend on the machine; the shares and ratios are what to compare.
"""

from __future__ import annotations

import json
import statistics
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from mallet.cavity.neighbours import place_neighbours
from mallet.cavity.preparation import prepare_cavity
from mallet.drawing import draw
from mallet.light import cure
from mallet.plan import work
from mallet.rulebook import load_rulebook
from mallet.stages.build import composite
from mallet.stages.build.layering import layer
from mallet.stages.matrix import fit_matrix
from mallet.terms.case import Case, read_case

EXAMPLES = Path(__file__).resolve().parent.parent / "examples"
RUNS = 15


def timed_ms(call: Callable[[], object]) -> tuple[float, float]:
    """Return median and best of some runs after a warm-up, in ms."""
    call()
    times = []
    for _ in range(RUNS):
        began = time.perf_counter()
        call()
        times.append((time.perf_counter() - began) * 1000)
    return statistics.median(times), min(times)


def median_ms(call: Callable[[], object]) -> float:
    return timed_ms(call)[0]


def preview(case: Case) -> str:
    """Do what the server does for a preview."""
    worked = work(case)
    return worked.plan.model_dump_json(by_alias=True) + draw(worked).model_dump_json()


def shares(case: Case) -> dict[str, float]:
    """Return median ms by part, of the whole, and the best of the whole."""
    rules = load_rulebook()
    cavity = prepare_cavity(case, rules)
    neighbours, _ = place_neighbours(case, cavity, rules)
    bands, _ = fit_matrix(cavity, neighbours, rules)
    limit = min(m.max_increment_mm for m in case.masses)

    def geometry() -> None:
        made = prepare_cavity(case, rules)
        beside, _ = place_neighbours(case, made, rules)
        fit_matrix(made, beside, rules)
        for portion in layer(case.school.layering, made, limit, rules).portions:
            portion.solid.num_tri()
        composite.surroundings(made, bands, [n.solid for n in beside])

    whole, best = timed_ms(lambda: preview(case))
    without_light = _without_light(lambda: median_ms(lambda: preview(case)))
    shapes = median_ms(geometry)
    light = whole - without_light
    return {"geometry": shapes, "light": light, "rest": whole - shapes - light, "whole": whole, "best": best}


def _without_light(measure: Callable[[], float]) -> float:
    """Return a measure with the field of rays left out."""
    real = composite.dimmest

    def dark(points: np.ndarray, aims: list[cure.Aim], *_: object) -> cure.Lit:
        few = points[: cure.FINE_POINTS]
        return cure.Lit(few, tuple(aims), np.full((len(few), len(aims)), 100.0))

    composite.dimmest = dark
    try:
        return measure()
    finally:
        composite.dimmest = real


def main() -> None:
    """Print the table."""
    case = json.loads((EXAMPLES / "lower_first_molar_mo.json").read_text())
    print(f"preview of the demo case, median of {RUNS} runs")
    for school in ("wall_first", "horizontal", "oblique"):
        case["school"]["layering"] = school
        parts = shares(read_case(case))
        whole, best = parts.pop("whole"), parts.pop("best")
        split = ", ".join(f"{name} {ms:.0f} ms ({100 * ms / whole:.0f} %)" for name, ms in parts.items())
        print(f"  {school:11} {whole:4.0f} ms (best {best:.0f}): {split}")


if __name__ == "__main__":
    main()
