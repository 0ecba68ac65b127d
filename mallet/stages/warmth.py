"""Warmth at the pulp from all exposures in their order: a range, held against the caution."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from mallet.cavity.preparation import Cavity, Tool, axial_wall_mm
from mallet.light.field import Filling, Grain
from mallet.light.heat import Pulse, Tissue, dentin_of, warmth
from mallet.light.presses import Button, button_of
from mallet.rulebook import Rulebook
from mallet.stages.build.around import Surroundings
from mallet.stages.build.cured import Build, Cured
from mallet.stages.lighting import by_source, pressed
from mallet.terms.case import Case
from mallet.terms.plan import Check, Press, StageResult, Step

GRAIN = Grain(6, 10)
OFF_FLOOR_MM = 0.02
LEAST_DENTIN_MM = 0.05
# Cooling is tried in this order: parts of an exposure, pauses in seconds.
PARTS = (1, 2, 3, 4)
AIR_S = (10.0, 20.0, 40.0, 60.0)


@dataclass(frozen=True)
class PulpHeat:
    """How the pulp of one cavity is warmed: dentin over it, what light reaches the floor of the empty
    cavity and under each increment's exposures at full output (mW/cm2), the share that stays there, and
    what the lamp's presses give of its full output."""

    dentin_mm: float
    radius_mm: float
    tissue: Tissue
    kept: float
    reaching_mw_cm2: Sequence[float]
    button: Button

    def rise_k(self, steps: Sequence[Step]) -> tuple[float, float]:
        """Return the least and the most that scheduled steps warm the pulp.

        Counted is the light that reaches the floor through what is placed, not what the filling keeps.
        """
        # What is lit from the side once the band is off does not reach the floor.
        lit = [s for s in steps if s.light and (s.increment or s.stage == "bond")]
        pulses = [Pulse(s.start_s, s.seconds, self.kept * self._reaching_mw_cm2(s)) for s in lit]
        return warmth(pulses, self.radius_mm, self.dentin_mm, self.tissue)

    def _reaching_mw_cm2(self, step: Step) -> float:
        """Return the mean over a step's presses."""
        full_s = sum(self.button.full_s(p.seconds) for p in step.presses)
        return self.reaching_mw_cm2[step.increment or 0] * (full_s / step.seconds)

    def alone_k(self, step: Step) -> float:
        """Return the least that one exposure warms the pulp by itself."""
        return self.rise_k([step])[0]


def pulp_heat(
    case: Case, cavity: Cavity, build: Build, around: Surroundings, rules: Rulebook
) -> PulpHeat | None:
    """Return how the pulp is warmed, if it is alive."""
    if case.tooth.vitality != "vital":
        return None
    floor_mm2 = max(_floor_mm2(tool) for tool in cavity.tools)
    return PulpHeat(
        dentin_mm=max(cavity.remaining_dentin_mm, LEAST_DENTIN_MM),
        radius_mm=math.sqrt(floor_mm2 / math.pi),
        tissue=dentin_of(rules),
        kept=rules.value("light.dentin_absorbed_share"),
        reaching_mw_cm2=_at_floor(cavity, build, around),
        button=button_of(case.light),
    )


@dataclass(frozen=True)
class Cooling:
    """Pauses with air: exposures that alone are too warm come in parts with a pause between; with
    `after_each` a pause follows every portion's exposure as well."""

    air_s: float = 0.0
    parts: int = 1
    after_each: bool = False


NO_COOLING = Cooling()


@dataclass(frozen=True)
class Cooled:
    """Scheduled steps with their cooling, and the least and the most that they warm the pulp."""

    steps: list[Step]
    cooling: Cooling
    rise_k: tuple[float, float]


def least_cooling(heat: PulpHeat, ordered: Callable[[Cooling], list[Step]], rules: Rulebook) -> Cooled:
    """Return the steps `ordered` with the least cooling that keeps the pulp cool enough; with none where even
    the most does not help.

    Held against the limit is the cool bound: a plan does not wait for what is sure to come off.
    """
    limit, longest = rules.value("light.pulp_rise_k"), rules.value("light.longest_air_s")

    def cooled(cooling: Cooling) -> Cooled:
        steps = ordered(cooling)
        return Cooled(steps, cooling, heat.rise_k(steps))

    without = cooled(NO_COOLING)
    if without.rise_k[0] <= limit:
        return without
    pauses = [s for s in AIR_S if s <= longest]
    for after_each, parts, air_s in itertools.product((False, True), PARTS, pauses):
        tried = cooled(Cooling(air_s, parts, after_each))
        if tried.rise_k[0] <= limit:
            return tried
    return without


def in_parts(steps: Sequence[Step], heat: PulpHeat, cooling: Cooling, rules: Rulebook) -> list[Step]:
    """Return steps to be scheduled, with each exposure that alone warms the pulp too much in parts that
    together give no less light; left whole where the lamp's presses are too long for that."""
    if cooling.parts == 1:
        return list(steps)
    limit = rules.value("light.pulp_rise_k")
    made: list[Step] = []
    last_of: dict[str, str] = {}
    for step in steps:
        after = [last_of.get(name, name) for name in step.after]
        step = step.model_copy(update={"after": after})
        presses = _shared(step.presses, cooling.parts, heat.button) if step.light else step.presses
        is_shorter = sum(p.seconds for p in presses) < step.seconds
        if not (is_shorter and heat.alone_k(step) > limit):
            made.append(step)
            continue
        made += _parts(step, cooling, presses, rules)
        last_of[step.id] = made[-1].id
    return made


def _shared(presses: Sequence[Press], parts: int, button: Button) -> list[Press]:
    """Return what to press in each of several parts."""
    return [
        Press(source=source, seconds=seconds)
        for source, some in by_source(presses)
        for seconds in button.least(sum(button.full_s(p.seconds) for p in some) / parts).presses
    ]


def _parts(step: Step, cooling: Cooling, presses: Sequence[Press], rules: Rulebook) -> list[Step]:
    """Return an exposure in parts with air between; the first keeps its id, the last its check."""
    made: list[Step] = []
    for i in range(1, cooling.parts + 1):
        name = step.id if i == 1 else f"{step.id}.{i}"
        if i > 1:
            made.append(air_step(f"{name}.air", step.stage, made[-1].id, cooling.air_s, rules))
        part = {
            "id": name,
            "title": f"{step.title}, {i} of {cooling.parts}",
            "detail": step.detail.replace(pressed(step.presses), pressed(presses)),
            "presses": list(presses),
            "seconds": sum(p.seconds for p in presses),
            "after": step.after if i == 1 else [made[-1].id],
            "check": step.check if i == cooling.parts else None,
        }
        made.append(step.model_copy(update=part))
    return made


def air_step(name: str, stage: str, after: str, seconds: float, rules: Rulebook) -> Step:
    """Return a pause in which the tooth is cooled."""
    return Step(
        id=name,
        stage=stage,
        title="Cool the tooth with air",
        detail="Blow air on the tooth, not into the sulcus: the pulp is near, and warmth adds up.",
        actor="dentist",
        seconds=seconds,
        seconds_rule=rules.use("light.pulp_rise_k"),
        timed=True,
        tray=["air syringe"],
        after=[after],
    )


def after_each_portion(steps: Sequence[Step], cooling: Cooling, rules: Rulebook) -> list[Step]:
    """Return steps of building with a pause after every portion's exposure but the last."""
    if not cooling.after_each:
        return list(steps)
    lights = [step.id for step in steps if step.light][:-1]
    made: list[Step] = []
    for step in steps:
        after = [f"{name}.air" if name in lights and step.actor == "dentist" else name for name in step.after]
        made.append(step.model_copy(update={"after": after}))
        if step.id in lights:
            made.append(air_step(f"{step.id}.air", step.stage, step.id, cooling.air_s, rules))
    return made


def judge_warmth(heat: PulpHeat, cooled: Cooled, rules: Rulebook) -> StageResult:
    """Return the check of the pulp's warmth under scheduled steps."""
    (low, high), cooling = cooled.rise_k, cooled.cooling
    limit = rules.value("light.pulp_rise_k")
    paused = f", with pauses of {cooling.air_s:g} s with air" if cooling.air_s else ""
    if low > limit:
        remedy = "Pauses alone do not help: protect the pulp, split the exposures, or take a lower output."
    elif cooling.air_s:
        remedy = "Keep to the pauses with air that the plan takes."
    else:
        remedy = "It may get warmer than is wise: blow air on the tooth between exposures."
    acting = [
        "light.pulp_rise_k",
        "light.dentin_absorbed_share",
        "light.dentin_conductivity_w_mk",
        "light.dentin_diffusivity_mm2_s",
    ]
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
            f"Under {heat.dentin_mm:.2g} mm of dentin{paused}, {low:.1f} K if heat runs off in it on all"
            f" sides and {high:.1f} K if none leaves; neither counts blood flow"
        ),
        rules=rules.uses(*acting, *(["light.longest_air_s"] if cooling.air_s else [])),
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
        placed.append(cured.filling)
        reaching.append(brightest(cured, placed))
    return reaching


def _floor_middle(cavity: Cavity, tool: Tool) -> list[float]:
    """Return a point just over the middle of a floor, between its axial wall and the outer surface."""
    x0, x1, y0, y1 = tool.floor
    if tool.side:
        axial, outer = axial_wall_mm(tool, tool.floor_mm), cavity.crown.outer_x_mm(tool.side, tool.floor_mm)
        x0, x1 = axial, outer
    return [(x0 + x1) / 2, (y0 + y1) / 2, tool.floor_mm + OFF_FLOOR_MM]
