"""Where a preview's time goes for the demo case, and ratios within one run.

Times depend on the machine; the shares and ratios are what to compare.
"""

from __future__ import annotations

import json
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


def best_ms(call: Callable[[], object]) -> float:
    """Return the best of some runs after a warm-up, in ms: what is left is the machine's noise."""
    call()
    times = []
    for _ in range(RUNS):
        began = time.perf_counter()
        call()
        times.append((time.perf_counter() - began) * 1000)
    return min(times)


def preview(case: Case) -> str:
    """Do what the server does for a preview."""
    worked = work(case)
    return worked.plan.model_dump_json(by_alias=True) + draw(worked).model_dump_json()


def shares(case: Case) -> dict[str, float]:
    """Return ms by part: geometry, light and the rest of a preview."""
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

    whole = best_ms(lambda: preview(case))
    without_light = _without_light(lambda: best_ms(lambda: preview(case)))
    shapes = best_ms(geometry)
    light = whole - without_light
    return {"geometry": shapes, "light": light, "rest": whole - shapes - light, "whole": whole}


def _without_light(measure: Callable[[], float]) -> float:
    """Return a measure with the field of rays left out."""
    real = composite.dimmest

    def dark(points: np.ndarray, aims: list[cure.Aim], *_: object) -> cure.Lit:
        few = points[: cure.REFINED_POINTS]
        return cure.Lit(few, tuple(aims), np.full((len(few), len(aims)), 100.0))

    composite.dimmest = dark
    try:
        return measure()
    finally:
        composite.dimmest = real


def main() -> None:
    """Print the table."""
    case = json.loads((EXAMPLES / "lower_first_molar_mo.json").read_text())
    print(f"preview of the demo case, best of {RUNS} runs")
    for school in ("wall_first", "horizontal", "oblique"):
        case["school"]["layering"] = school
        parts = shares(read_case(case))
        whole = parts.pop("whole")
        split = ", ".join(f"{name} {ms:.0f} ms ({100 * ms / whole:.0f} %)" for name, ms in parts.items())
        print(f"  {school:11} {whole:4.0f} ms: {split}")


if __name__ == "__main__":
    main()
