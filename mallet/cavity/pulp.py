"""How far all that is cut stays off the handbook pulp; what would meet it is refused with what may be cut instead."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial

from mallet.cavity.cover import Reduction, reduced
from mallet.cavity.crowns import shell_solid
from mallet.cavity.cutters import Blank, depth_name, tool_of
from mallet.cavity.features import Feature
from mallet.cavity.measures import gap_mm
from mallet.cavity.tool import Tool
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.parts import CuspReduction
from mallet.tooth import Crown

SEARCHES_MM = (0.7, 1.5, 2.0, 2.25, 2.5, 3.0, 4.0, 6.0)
STEP_MM, LEAST_MM, HALVINGS = 0.1, 0.3, 7


def gaps_of_tools(case: Case, tools: Sequence[Tool], blank: Blank, rules: Rulebook) -> list[float]:
    """Return the distance in mm of each part from the handbook pulp; raise InputError where they meet."""
    pulp = blank.access.turned(shell_solid(blank.crown.tooth, rules, "pulp").solid)

    def is_clear(index: int, depth_mm: float) -> bool:
        """Tell whether a part, alone on the tooth and cut to another depth, stays off."""
        part = case.preparation.parts[index]
        tool = tool_of(0, part.model_copy(update={depth_name(part): depth_mm}), blank)
        return tool is not None and tool.cut.solid.min_gap(pulp, SEARCHES_MM[0]) > 0

    gaps = [gap_mm(tool.cut.solid, pulp, SEARCHES_MM) for tool in tools]
    for tool, gap in zip(tools, gaps, strict=True):
        if gap <= 0:
            part = case.preparation.parts[tool.index]
            name = depth_name(part)
            given = getattr(part, name)
            deepest = _deepest_mm(partial(is_clear, tool.index), given)
            allowed = f"up to {deepest:.1f}: the handbook pulp begins there"
            raise InputError.at(f"preparation.parts[{tool.index}].{name}", given, allowed)
    return gaps


def gaps_of_reductions(
    case: Case, crown: Crown, reductions: Sequence[Reduction], rules: Rulebook
) -> list[float]:
    """Return the distance in mm of each reduction from the handbook pulp; raise InputError where they meet."""
    pulp = shell_solid(crown.tooth, rules, "pulp").solid
    gaps = [gap_mm(reduction.cut.solid, pulp, SEARCHES_MM) for reduction in reductions]
    for reduction, gap in zip(reductions, gaps, strict=True):
        if gap <= 0:
            part = case.preparation.parts[reduction.index]
            assert isinstance(part, CuspReduction)
            allowed = f"up to {_most_off_mm(part, crown, rules):.1f}: the handbook pulp begins there"
            raise InputError.at(f"preparation.parts[{reduction.index}].tip_mm", part.tip_mm, allowed)
    return gaps


def gaps_of_features(case: Case, features: Sequence[Feature], blank: Blank, rules: Rulebook) -> list[float]:
    """Return the distance in mm of each feature from the handbook pulp; raise InputError where they meet."""
    if not features:
        return []
    pulp = blank.access.turned(shell_solid(blank.crown.tooth, rules, "pulp").solid)
    gaps = [gap_mm(one.cut.solid, pulp, SEARCHES_MM) for one in features]
    for one, gap in zip(features, gaps, strict=True):
        if gap <= 0:
            part = case.preparation.parts[one.index]
            name = "width_mm" if one.kind == "shoulder" else "depth_mm"
            given, path = getattr(part, name), f"preparation.parts[{one.index}].{name}"
            raise InputError.at(path, given, "less: the handbook pulp begins there")
    return gaps


def _deepest_mm(is_clear: Callable[[float], bool], given_mm: float) -> float:
    """Return the greatest depth of a part that stays clear of the pulp."""
    low, high = LEAST_MM, given_mm
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        if is_clear(middle):
            low = middle
        else:
            high = middle
    return math.floor(low * 10) / 10


def _most_off_mm(part: CuspReduction, crown: Crown, rules: Rulebook) -> float:
    """Return how much may come off the tips of cusps, and no more in the groove, short of the pulp."""
    pulp, outer = (shell_solid(crown.tooth, rules, shell).solid for shell in ("pulp", "outer"))
    past = rules.value("prepare.past_groove_mm")
    tip = part.tip_mm
    while tip > STEP_MM:
        tip = round(tip - STEP_MM, 1)
        tried = part.model_copy(update={"tip_mm": tip, "groove_mm": min(part.in_groove_mm, tip)})
        if reduced(0, tried, crown, outer, past).cut.solid.min_gap(pulp, SEARCHES_MM[0]) > 0:
            break
    return tip
