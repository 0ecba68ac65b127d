"""Where a preview's time goes for the demo case, and ratios within one run.

Times depend on the machine; the shares and ratios are what to compare. A shared processor may run at
half its speed for seconds: a fixed loop beside each run tells which runs had all of it.
"""

from __future__ import annotations

import gc
import json
import math
import statistics
import time
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.neighbours import place_neighbours
from mallet.cavity.preparation import prepare_cavity
from mallet.curing.around import surroundings
from mallet.drawing import draw
from mallet.light.aims import Aim
from mallet.light.beam import fit_beam
from mallet.light.cure import FINE_POINTS, Body, Lit
from mallet.plan import work
from mallet.remembered import forget
from mallet.restoratives.composite.build import limits_of
from mallet.restoratives.composite.layering import layer
from mallet.rulebook import load_rulebook
from mallet.stages.matrix import fit_matrix
from mallet.terms.case import Case, read_case
from mallet.terms.errors import NotFeasible
from mallet.worked import read_worked

Floats = NDArray[np.float64]
EXAMPLES = Path(__file__).resolve().parent.parent / "examples"
RUNS = 15
WHOLE_RUNS = 60
FULL_SPEED = 1.2
HEAVY, TRIES = 6, 5
AMALGAM = ("amalgam_cusp_with_slot", "amalgam_core")


def median_ms(call: Callable[[], object]) -> float:
    """Return the median of some runs after a warm-up, in ms."""
    call()
    return statistics.median(ms_of(call) for _ in range(RUNS))


def best_ms(call: Callable[[], object]) -> float:
    """Return the quickest of some runs after a warm-up, in ms: what to subtract from each other."""
    call()
    return min(ms_of(call) for _ in range(RUNS))


def paced_ms(call: Callable[[], object]) -> list[tuple[float, float]]:
    """Return for each run the time in ms of a fixed loop beside it, and its own."""
    call()
    # As the server does once it is warm.
    gc.collect()
    gc.freeze()
    runs = []
    for _ in range(WHOLE_RUNS):
        before = ms_of(_fixed_loop)
        took = ms_of(call)
        runs.append((max(before, ms_of(_fixed_loop)), took))
    return runs


def ms_of(call: Callable[[], object]) -> float:
    """Return how long one call takes, in ms, with nothing known beforehand."""
    forget()
    began = time.perf_counter()
    call()
    return (time.perf_counter() - began) * 1000


def _fixed_loop() -> int:
    return sum(i * i for i in range(100_000))


def preview(case: Case) -> str:
    """Do what the server does for a preview."""
    worked = work(case)
    return worked.plan.model_dump_json(by_alias=True) + draw(worked).model_dump_json()


def shares(case: Case) -> dict[str, float]:
    """Return the least ms by part."""
    rules = load_rulebook()
    cavity = prepare_cavity(case, rules)
    neighbours, _ = place_neighbours(case, cavity, rules)
    bands, _ = fit_matrix(case, cavity, neighbours, [], rules)
    beam = fit_beam(case.light.readings, case.light.tip_diameter_mm)
    limits = limits_of(case, cavity)

    def geometry() -> None:
        made = prepare_cavity(case, rules)
        beside, _ = place_neighbours(case, made, rules)
        fit_matrix(case, made, beside, [], rules)
        for portion in layer(case.composite, made, limits, rules).portions:
            portion.solid.num_tri()
        surroundings(made, bands, [n.solid for n in beside], beam, rules)

    whole = best_ms(lambda: preview(case))
    without_light = _without_light(lambda: best_ms(lambda: preview(case)))
    shapes = best_ms(geometry)
    light = whole - without_light
    return {"geometry": shapes, "light": light, "rest": whole - shapes - light}


def _without_light(measure: Callable[[], float]) -> float:
    """Return a measure with the field of rays left out."""

    def dark(body: Body, ways: Sequence[Sequence[Aim]], *_: object) -> list[Lit]:
        few, aims = body.points[:FINE_POINTS], tuple(ways[0])
        return [Lit(few, aims, np.full((len(few), len(aims)), 100.0), few)]

    with (
        patch("mallet.curing.portions.ways_worth_taking", dark),
        patch("mallet.curing.film.ways_worth_taking", dark),
    ):
        return measure()


def main() -> None:
    """Print the table."""
    raw = json.loads((EXAMPLES / "lower_first_molar_mo.json").read_text())
    cases = {name: _by_school(raw, name) for name in ("wall_first", "horizontal", "oblique")}
    runs = {name: paced_ms(partial(preview, case)) for name, case in cases.items()}
    fastest = min(pace for of in runs.values() for pace, _ in of)
    print(
        f"preview of the demo case, median of {WHOLE_RUNS} runs, and of those at the processor's full speed"
    )
    for name, case in cases.items():
        median = statistics.median(took for _, took in runs[name])
        at_full = [took for pace, took in runs[name] if pace < FULL_SPEED * fastest]
        full = f"{statistics.median(at_full):4.0f} ms ({len(at_full)})" if at_full else "never"
        parts = shares(case)
        split = ", ".join(f"{part} {100 * ms / sum(parts.values()):.0f} %" for part, ms in parts.items())
        print(f"  {name:11} {median:4.0f} ms, {full}: {split}")
    amalgam = {name: read_worked(EXAMPLES / "worked" / f"{name}.json")[1] for name in AMALGAM}
    least = least_ms({**amalgam, "demo": cases["wall_first"]})
    print(f"amalgam, as the demo has it, over the demo case, least of {RUNS} runs")
    for name in AMALGAM:
        print(f"  {least[name] / least['demo']:.2f}  {name}")
    print(f"heaviest of the worked cases, least of {RUNS} runs")
    for ms, name in heaviest(cases["wall_first"]):
        print(f"  {ms:4.0f} ms  {name}")


def _by_school(raw: dict[str, Any], layering: str) -> Case:
    return read_case({**raw, "school": {**raw["school"], "layering": layering}})


def heaviest(demo: Case) -> list[tuple[float, str]]:
    """Return the worked cases whose previews take longest, with the least ms of each, turn by turn with the demo
    case, which comes last."""
    cases = {path.stem: read_worked(path)[1] for path in sorted((EXAMPLES / "worked").glob("*.json"))}
    times = {
        name: min(ms_of(partial(preview, case)) for _ in range(TRIES))
        for name, case in cases.items()
        if _has_plan(case)
    }
    most = sorted(times, key=lambda name: -times[name])[:HEAVY]
    least = least_ms({**{name: cases[name] for name in most}, "the demo case": demo})
    return [(ms, name) for name, ms in least.items()]


def least_ms(cases: Mapping[str, Case]) -> dict[str, float]:
    """Return the least ms of each case's preview, measured turn by turn."""
    least = dict.fromkeys(cases, math.inf)
    for _ in range(RUNS):
        for name, case in cases.items():
            least[name] = min(least[name], ms_of(partial(preview, case)))
    return least


def _has_plan(case: Case) -> bool:
    try:
        preview(case)
    except NotFeasible:
        return False
    return True


if __name__ == "__main__":
    main()
