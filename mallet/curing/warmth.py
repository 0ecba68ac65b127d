"""Pulp temperature rise from all exposures in their order: a range, held against the caution."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.boxes import SIGN, axial_wall_mm
from mallet.cavity.preparation import Cavity
from mallet.cavity.tool import Tool
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured
from mallet.curing.exposures import AIR, air_step, by_source, in_turns, is_air
from mallet.light.field import Filling, Grain
from mallet.light.heat import Pulse, Tissue, dentin_of, warmth
from mallet.light.presses import Button, button_of
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.plan import Check, CuringCycle, StageResult, Step
from mallet.terms.reasons import warn_by
from mallet.terms.restoration import FULL

GRAIN = Grain(6, 10)
OFF_FLOOR_MM = 0.02
LEAST_DENTIN_MM = 0.05
# An exposure that alone warms by more than this share of the limit may come in parts.
ALONE_SHARE = 0.7
# Cooling is tried in this order: parts of an exposure, pauses in seconds.
PARTS = (1, 2, 3, 4)
AIR_S = (10.0, 20.0, 40.0, 60.0)


@dataclass(frozen=True)
class Spot:
    """A place where the pulp is warmed: dentin, and base, over it, and what light reaches it in the empty
    cavity and under each increment's exposures at full output (mW/cm2)."""

    dentin_mm: float
    has_base: bool
    reaching_mw_cm2: Sequence[float]


@dataclass(frozen=True)
class PulpHeat:
    """How the pulp of one cavity is warmed: where, the share of light that stays there, and what the light's
    presses give of its full output."""

    spots: Sequence[Spot]
    radius_mm: float
    tissue: Tissue
    kept: float
    button: Button

    def rise_k(self, steps: Sequence[Step]) -> tuple[float, float]:
        """Return the least and the most that scheduled steps warm the pulp at its warmest spot.

        Counted is the light that reaches the floor through what is placed, not what the restoration keeps.
        """
        return self.warmest(steps)[0]

    def warmest(self, steps: Sequence[Step]) -> tuple[tuple[float, float], Spot]:
        """Return the least and the most that scheduled steps warm the warmest spot, and that spot."""
        return max(((self._rise_k(spot, steps), spot) for spot in self.spots), key=lambda one: one[0])

    def _rise_k(self, spot: Spot, steps: Sequence[Step]) -> tuple[float, float]:
        # What is lit from the side once the band is off does not reach the floor.
        lit = [s for s in steps if s.light and (s.increment or s.stage == "bond")]
        pulses = [Pulse(s.start_s, s.seconds, self.kept * self._mean_mw_cm2(spot, s)) for s in lit]
        return warmth(pulses, self.radius_mm, spot.dentin_mm, self.tissue)

    def _mean_mw_cm2(self, spot: Spot, step: Step) -> float:
        """Return the mean over a step's presses."""
        full_s = sum(self.button_at(step).full_s(p.seconds) for p in step.presses)
        return spot.reaching_mw_cm2[step.increment or 0] * (full_s / step.seconds)

    def button_at(self, step: Step) -> Button:
        """Return the button that a step is pressed with: the adhesive is lit at full output."""
        return replace(self.button, mode=FULL) if step.stage == "bond" else self.button

    def alone_k(self, step: Step) -> float:
        """Return the least that one exposure warms the pulp by itself."""
        return self.rise_k([step])[0]


def pulp_heat(
    case: Case, cavity: Cavity, cured: Sequence[Cured], around: Surroundings, rules: Rulebook
) -> PulpHeat | None:
    """Return how the pulp is warmed, if it is alive."""
    if case.tooth.vitality != "vital":
        return None
    floor_mm2 = max(tool.floor_mm2 for tool in cavity.tools)
    return PulpHeat(
        spots=_spots(cavity, _at_floors(cavity, cured, around)),
        radius_mm=math.sqrt(floor_mm2 / math.pi),
        tissue=dentin_of(rules),
        kept=rules.value("light.dentin_absorbed_share"),
        button=button_of(case.light),
    )


def _spots(cavity: Cavity, reaching: NDArray[np.float64]) -> list[Spot]:
    """Return where the pulp is warmed, from the light at each part's floor (exposures, parts).

    Without a base one spot stands for all: the thinnest dentin under the brightest floor. A base conducts
    about as dentin does, so that each part is a spot of its own then.
    """
    left = cavity.remaining_dentin_mm
    if not cavity.bases:
        return [Spot(max(left, LEAST_DENTIN_MM), False, reaching.max(axis=1).tolist())]
    spots = []
    for i, tool in enumerate(cavity.tools):
        base = cavity.base_on(tool)
        dentin = max(left + cavity.gaps_mm[i] - min(cavity.gaps_mm), LEAST_DENTIN_MM)
        over = base.thickness_mm if base else 0.0
        spots.append(Spot(dentin + over, base is not None, reaching[:, i].tolist()))
    return spots


@dataclass(frozen=True)
class Cooling:
    """Pauses with air: exposures that alone are too warm come in parts with a pause between; with
    `after_each` a pause follows every increment's exposure as well."""

    air_s: float = 0.0
    parts: int = 1
    after_each: bool = False


NO_COOLING = Cooling()


@dataclass(frozen=True)
class Cooled:
    """Scheduled steps with their cooling, the least and the most that they warm the pulp, and where."""

    steps: list[Step]
    cooling: Cooling
    rise_k: tuple[float, float]
    spot: Spot


def least_cooling(heat: PulpHeat, ordered: Callable[[Cooling], list[Step]], rules: Rulebook) -> Cooled:
    """Return the steps `ordered` with the least cooling that keeps the pulp cool enough; with none where even
    the most does not help.

    Held against the limit is the cool bound: a plan does not wait for what is sure to come off.
    """
    limit, longest = rules.value("light.pulp_rise_k"), rules.value("light.longest_air_s")

    def cooled(cooling: Cooling) -> Cooled:
        steps = ordered(cooling)
        return Cooled(steps, cooling, *heat.warmest(steps))

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
    together give no less light; left whole where the light's presses are too long for that."""
    if cooling.parts == 1:
        return list(steps)
    # What earlier exposures left behind comes on top.
    limit = ALONE_SHARE * rules.value("light.pulp_rise_k")
    made: list[Step] = []
    last_of: dict[str, str] = {}
    for step in steps:
        after = [last_of.get(name, name) for name in step.after]
        step = step.model_copy(update={"after": after})
        shared = _shared(step.presses, cooling.parts, heat.button_at(step)) if step.light else [step.presses]
        is_shorter = all(sum(p.seconds for p in presses) < step.seconds for presses in shared)
        if not (is_shorter and heat.alone_k(step) > limit):
            made.append(step)
            continue
        made += in_turns(step, shared, partial(_air, step, cooling, rules))
        last_of[step.id] = made[-1].id
    return made


def _shared(presses: Sequence[CuringCycle], parts: int, button: Button) -> list[list[CuringCycle]]:
    """Return what to press in each of several parts, or fewer where the presses are long: of what is left by
    then an even share."""
    shared: list[list[CuringCycle]] = [[] for _ in range(parts)]
    for source, some in by_source(presses):
        left_s = sum(button.full_s(p.seconds) for p in some)
        for i in range(parts):
            rung = button.least(left_s / (parts - i))
            left_s = max(left_s - rung.full_s, 0.0)
            shared[i] += [CuringCycle(source=source, seconds=seconds) for seconds in rung.presses]
    return [part for part in shared if part]


def after_each_portion(steps: Sequence[Step], cooling: Cooling, rules: Rulebook) -> list[Step]:
    """Return steps of building with a pause after every increment's exposure but the last."""
    if not cooling.after_each:
        return list(steps)
    cooled = {name for step in steps if is_air(step) for name in step.after}
    lights = [step.id for step in steps if step.light and step.id not in cooled][:-1]
    made: list[Step] = []
    for step in steps:
        after = [
            f"{name}{AIR}" if name in lights and step.actor == "dentist" else name for name in step.after
        ]
        made.append(step.model_copy(update={"after": after}))
        if step.id in lights:
            made.append(_air(step, cooling, rules, f"{step.id}{AIR}", step.id))
    return made


def _air(step: Step, cooling: Cooling, rules: Rulebook, name: str, after: str) -> Step:
    return air_step(name, step.stage, after, cooling.air_s, rules.use("light.pulp_rise_k"), rules)


def judge_warmth(cooled: Cooled, rules: Rulebook) -> StageResult:
    """Return the check of how much warmer the pulp may get under scheduled steps: it warns by the low estimate, and
    notes where only the high one passes the limit."""
    (low, high), cooling, spot = cooled.rise_k, cooled.cooling, cooled.spot
    limit = rules.use("light.pulp_rise_k")
    paused = f", with pauses of {cooling.air_s:g} s with air" if cooling.air_s else ""
    if low > limit.value:
        remedy = "Protect the pulp, split the exposures, or take a lower output: pauses alone do not help."
    elif cooling.air_s:
        remedy = "Keep to the pauses with air that the plan takes."
    else:
        remedy = "Blow air on the tooth between exposures."
    acting = [
        "light.pulp_rise_k",
        "light.dentin_absorbed_share",
        "light.dentin_conductivity_w_mk",
        "light.dentin_diffusivity_mm2_s",
    ]
    check = Check(
        topic="pulp.warmth",
        title=f"Pulp temperature rise, {low:.1f} to {high:.1f} \u00b0C",
        measured=round(low, 1),
        needed=limit.value,
        relation="at_most",
        unit="\u00b0C",
        verdict="pass" if low <= limit.value else "caution",
        remedy=remedy,
        where=(
            f"Under {spot.dentin_mm:.2g} mm of dentin{' and base' if spot.has_base else ''}{paused}. Low: heat runs off"
            " on all sides. High: straight toward the pulp. Without blood flow, which cools, and the heat of curing"
        ),
        rules=rules.uses(*acting, *(["light.longest_air_s"] if cooling.air_s else [])),
    )
    only_high = low <= limit.value < high
    told = {"low_c": low, "high_c": high, "limit_c": limit.value}
    notes = [warn_by("note", "pulp.may_be_warm", limit, **told)] if only_high else []
    return StageResult(checks=[check], cautions=notes)


def _at_floors(cavity: Cavity, cured: Sequence[Cured], around: Surroundings) -> NDArray[np.float64]:
    """Return the irradiance (mW/cm2) at each part's floor (exposures, parts): of the empty cavity first, then
    under each increment's exposures."""
    points = np.array([_floor_middle(cavity, tool) for tool in cavity.tools])

    def brightest(one: Cured, placed: Sequence[Filling]) -> NDArray[np.float64]:
        there = around.at(one.portion.is_banded)
        under = np.array([there.field(points, aim, placed, GRAIN) for aim in one.lit.aims])
        return np.asarray(under.max(axis=0))

    placed: list[Filling] = []
    reaching = [np.maximum(brightest(cured[0], ()), brightest(cured[-1], ()))]
    for one in cured:
        placed.append(one.filling)
        reaching.append(brightest(one, placed))
    return np.array(reaching)


def _floor_middle(cavity: Cavity, tool: Tool) -> list[float]:
    """Return a point just over the middle of a floor or of the base on it; of a box's floor between what
    bounds it toward the pulp and the outer surface."""
    x0, x1, y0, y1 = tool.floor
    base = cavity.base_on(tool)
    thickness = base.thickness_mm if base else 0.0
    if tool.spot:
        x, y, z = tool.spot
        return [x, y, z + thickness + OFF_FLOOR_MM]
    if tool.side is None:
        return [(x0 + x1) / 2, (y0 + y1) / 2, tool.floor_mm + thickness + OFF_FLOOR_MM]
    axial = axial_wall_mm(tool, tool.floor_mm) + SIGN[tool.side] * thickness
    outer = cavity.crown.outer_x_mm(tool.side, tool.floor_mm)
    return [(axial + outer) / 2, (y0 + y1) / 2, tool.floor_mm + OFF_FLOOR_MM]
