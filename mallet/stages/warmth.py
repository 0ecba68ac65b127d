"""Warmth at the pulp from all exposures in their order: a range, held against the caution."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from mallet.cavity.preparation import Cavity, Tool, axial_wall_mm
from mallet.light.field import Filling, Grain
from mallet.light.heat import Pulse, Tissue, warmth
from mallet.light.working_curve import curve_of
from mallet.rulebook import Rulebook
from mallet.stages.build.composite import Build, Cured, Surroundings
from mallet.terms.case import Case
from mallet.terms.plan import Check, StageResult, Step

GRAIN = Grain(8, 16)
OFF_FLOOR_MM = 0.02
LEAST_DENTIN_MM = 0.05
M2_PER_MM2 = 1e-6


def judge_warmth(
    case: Case, cavity: Cavity, build: Build, around: Surroundings, steps: Sequence[Step], rules: Rulebook
) -> StageResult:
    """Return the check of the pulp's warmth under the exposures of scheduled steps, if it is alive.

    Counted is the light that reaches the floor through what is placed, not what the filling keeps.
    """
    if case.tooth.vitality != "vital":
        return StageResult()
    dentin_mm = max(cavity.remaining_dentin_mm, LEAST_DENTIN_MM)
    tissue = Tissue(
        rules.value("light.dentin_conductivity_w_mk"),
        rules.value("light.dentin_diffusivity_mm2_s") * M2_PER_MM2,
    )
    reaching = _at_floor(cavity, build, around)
    floor_mm2 = max(_floor_mm2(tool) for tool in cavity.tools)
    radius_mm = math.sqrt(floor_mm2 / math.pi)
    kept = rules.value("light.dentin_absorbed_share")
    # What is lit from the side once the band is off does not reach the floor.
    lit = [s for s in steps if s.light and (s.increment or s.stage == "bond")]
    pulses = [Pulse(s.start_s, s.seconds, kept * reaching[s.increment or 0]) for s in lit]
    low, high = warmth(pulses, radius_mm, dentin_mm, tissue)
    limit = rules.value("light.pulp_rise_k")
    if low > limit:
        remedy = "Pause and blow air between exposures, split them, or take a lower output."
    else:
        remedy = "It may get warmer than is wise: blow air on the tooth between exposures."
    check = Check(
        topic="pulp.warmth",
        title="Warmth at the pulp",
        measured=round(high, 1),
        needed=limit,
        relation="at_most",
        unit="K",
        verdict="pass" if high <= limit else "caution",
        remedy=remedy,
        where=(
            f"Under {dentin_mm:.2g} mm of dentin, {low:.1f} K if heat runs off in it on all sides"
            f" and {high:.1f} K if none leaves; neither counts blood flow"
        ),
        rules=rules.uses(
            "light.pulp_rise_k",
            "light.dentin_absorbed_share",
            "light.dentin_conductivity_w_mk",
            "light.dentin_diffusivity_mm2_s",
        ),
    )
    return StageResult(checks=[check])


def _floor_mm2(tool: Tool) -> float:
    x0, x1, y0, y1 = tool.floor
    return (x1 - x0) * (y1 - y0)


def _at_floor(cavity: Cavity, build: Build, around: Surroundings) -> list[float]:
    """Return the irradiance (mW/cm2) at the brightest floor of the empty cavity, then under each
    increment's exposures."""
    points = np.array([_floor_middle(cavity, tool) for tool in cavity.tools])

    def brightest(cured: Cured, placed: Sequence[Filling]) -> float:
        return float(np.max([around.field(points, aim, placed, GRAIN) for aim in cured.lit.aims]))

    placed: list[Filling] = []
    first, last = build.cured[0], build.cured[-1]
    reaching = [max(brightest(first, ()), brightest(last, ()))]
    for cured in build.cured:
        placed.append(Filling(cured.inside, curve_of(cured.mass).attenuation_per_mm))
        reaching.append(brightest(cured, placed))
    return reaching


def _floor_middle(cavity: Cavity, tool: Tool) -> list[float]:
    """Return a point just over the middle of a floor, between its axial wall and the outer surface."""
    x0, x1, y0, y1 = tool.floor
    if tool.side:
        axial, outer = axial_wall_mm(tool, tool.floor_mm), cavity.crown.outer_x_mm(tool.side, tool.floor_mm)
        x0, x1 = axial, outer
    return [(x0 + x1) / 2, (y0 + y1) / 2, tool.floor_mm + OFF_FLOOR_MM]
