"""What lies over cusps that were taken down: at their tips, on their slopes, in every groove."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from mallet.cavity.cover import Reduction
from mallet.cavity.measures import topmost_mm
from mallet.cavity.preparation import Cavity
from mallet.cavity.tool import Tool
from mallet.rulebook import Rulebook
from mallet.stages.least import at_least
from mallet.terms.case import Case
from mallet.terms.parts import CuspReduction
from mallet.terms.pieces import Point
from mallet.terms.plan import Check

NO_PROBE_TELLS_MM = 0.02
MOST = 0.5
# Nearer to a groove than this, a place lies in it.
IN_GROOVE_MM = 0.5


@dataclass(frozen=True)
class Thinnest:
    """Where a restoration over cusps taken down is thinnest, straight down: how thick (mm), where, and what that is called."""

    over_mm: float
    at: Point
    where: str


def is_functional(cavity: Cavity, cusp: str) -> bool:
    """Tell whether a cusp bears the bite: the lingual ones above, the facial ones below."""
    return (cavity.crown.cusps[cusp][1] < 0) == cavity.tooth.is_upper


def thinnest_cover(case: Case, cavity: Cavity, reduction: Reduction) -> Thinnest:
    """Return where the cover over a reduction is thinnest: over the table, along every groove that crosses it, and in the
    groove as it was typed, which wins where it is thinner than all that is drawn."""
    places = np.concatenate([reduction.table, *reduction.grooves.values()])
    span = topmost_mm(cavity.filling, places)
    over = span[:, 1] - span[:, 0]
    # Of places as thin as each other the lowest: grooves lie below ridges.
    least = int(np.lexsort((span[:, 1], np.round(over, 2)))[0])
    x, y = (float(c) for c in places[least])
    at = Point(x=x, y=y, z=float(span[least, 0]))
    part = case.preparation.parts[reduction.index]
    assert isinstance(part, CuspReduction)
    if part.groove_mm is not None and part.groove_mm < over[least]:
        return Thinnest(part.groove_mm, at, "in the groove, as entered")
    return Thinnest(float(over[least]), at, _where(cavity, reduction, places[least]))


def _where(cavity: Cavity, reduction: Reduction, at: np.ndarray) -> str:
    """Say where a cover is thinnest: in a groove, or on the slope of the nearest cusp."""
    tips = {cusp: cavity.crown.cusps[cusp] for cusp in reduction.cusps}
    nearest = min(tips, key=lambda cusp: math.hypot(tips[cusp][0] - at[0], tips[cusp][1] - at[1]))
    away = {name: float(np.hypot(*(line - at).T).min()) for name, line in reduction.grooves.items()}
    groove = min(away, key=lambda name: away[name], default=None)
    if groove and away[groove] < IN_GROOVE_MM:
        return f"in the {groove} groove beside the {nearest} cusp"
    return f"on the slope of the {nearest} cusp"


def cover_checks(case: Case, cavity: Cavity, reduction: Reduction, rules: Rulebook) -> list[Check]:
    """Return how thick the restoration is over each cusp taken down, where that is least enough, and over all that
    lies under it, every groove too; straight down."""
    bears, other = rules.value("prepare.cover_functional_mm"), rules.value("prepare.cover_other_mm")
    tips = np.array([cavity.crown.cusps[cusp][:2] for cusp in reduction.cusps])
    span = topmost_mm(cavity.filling, tips)
    over = zip(reduction.cusps, span[:, 1] - span[:, 0], strict=True)
    wanted = {cusp: bears if is_functional(cavity, cusp) else other for cusp in reduction.cusps}
    cusp, at_tip = min(over, key=lambda tip: tip[1] - wanted[tip[0]])
    rule = "prepare.cover_functional_mm" if is_functional(cavity, cusp) else "prepare.cover_other_mm"
    x, y, z = cavity.crown.cusps[cusp]
    least = thinnest_cover(case, cavity, reduction)
    return [
        _thick_enough(
            "prepare.cover.tip", f"Clearance over the {cusp} cusp", at_tip, rule, rules, "at the cusp tip",
            Point(x=x, y=y, z=z - float(at_tip)),
        ),
        _thick_enough(
            "prepare.cover.least", "Clearance, where least", least.over_mm, "prepare.cover_other_mm", rules,
            f"{least.where}{_uncounted(case, cavity, reduction)}", least.at,
        ),
    ]  # fmt: skip


def _uncounted(case: Case, cavity: Cavity, reduction: Reduction) -> str:
    """Say where a figure typed for the groove does not count, since a box was cut below it."""
    part = case.preparation.parts[reduction.index]
    if not isinstance(part, CuspReduction) or part.groove_mm is None:
        return ""
    boxes = [tool for tool in cavity.tools if tool.kind in ("occlusal_box", "proximal_box")]
    crossed = [
        name for name, line in reduction.grooves.items() if any(_is_over(tool, line) for tool in boxes)
    ]
    return (
        f"; over the box ({' and '.join(crossed)} groove) the figure typed does not count" if crossed else ""
    )


def _is_over(tool: Tool, line: np.ndarray) -> bool:
    """Tell whether a groove, for the most part of what is reduced of it, lies over a box."""
    x0, x1, y0, y1 = tool.floor
    x, y = line.T
    return bool(((x >= x0) & (x <= x1) & (y >= y0) & (y <= y1)).mean() > MOST)


def _thick_enough(
    topic: str, title: str, measured: float, rule: str, rules: Rulebook, where: str, place: Point
) -> Check:
    needed = rules.value(rule)
    remedy = f"Deepen it to {needed:g} mm with a cylinder along the slope; measure again by probe."
    return at_least(
        topic,
        title,
        float(measured),
        rule,
        rules,
        remedy=remedy,
        where=where,
        place=place,
        hair=NO_PROBE_TELLS_MM,
        otherwise="fail",
    )
