"""Shade, first look: read wet before isolation, and which shades the depth wants.

Matching itself comes with the color science; what is read here is kept as it was said.
"""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.measures import longest_along_mm
from mallet.cavity.preparation import Cavity
from mallet.light.field import axes_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.choose import shows
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Decision, StageResult, Step, Within
from mallet.terms.reasons import say, warn
from mallet.terms.restoration import ShadeRole


def first_look(case: Case, cavity: Cavity, placed: Sequence[ShadeRole], rules: Rulebook) -> StageResult:
    """Return the steps before the dam, and the shades that are layered, from those that the technique places; where it
    places but one there is nothing to decide."""
    roles, reason = _roles(case, cavity, rules)
    has = {mass.role for mass in case.composites}
    lacking = [role for role in roles if role not in has and role in placed]
    cautions: list[Caution] = []
    if lacking and shows(case):
        where = " and ".join(lacking)
        cautions.append(warn("caution", "shade.no_mass", "Common practice, no source", role=where))
    reasons = [reason]
    if case.shade.value:
        reasons.append(say("shade.read", value=case.shade.value))
    layered = [role for role in ROLES if role in placed]
    decision = Decision(
        topic="shade.roles",
        chosen=" over ".join(reversed(layered)),
        alternatives=[],
        reasons=reasons,
        rules=rules.uses("shade.dentin_from_mm"),
    )
    decisions = [decision] if shows(case) and len(layered) > 1 else []
    return StageResult(decisions=decisions, cautions=cautions, steps=_steps(case, rules))


# From the floor up.
ROLES: tuple[ShadeRole, ...] = ("dentin", "body", "enamel")


def seen_depth_mm(cavity: Cavity) -> float:
    """Return how deep a restoration is from the face that is seen: from facial."""
    facial = cavity.access.toward((0.0, 1.0, 0.0))
    return round(longest_along_mm(cavity.filling, axes_of(facial)), 1)


def _roles(case: Case, cavity: Cavity, rules: Rulebook) -> tuple[list[ShadeRole], Reason]:
    """Return the roles from the floor up, and why."""
    if not shows(case):
        return ["body"], say("shade.unseen")
    depth_mm = seen_depth_mm(cavity)
    if depth_mm >= rules.value("shade.dentin_from_mm"):
        return ["dentin", "enamel"], say("shade.deep", depth_mm=depth_mm)
    return ["body", "enamel"], say("shade.shallow", depth_mm=depth_mm)


def _steps(case: Case, rules: Rulebook) -> list[Step]:
    """Return the steps of reading a shade that shows; a tooth that nobody sees wants none."""
    if not (shows(case) or case.shade.mock_up):
        return []

    read = {"read": bool(case.shade.value), "value": case.shade.value}
    steps = [
        catalog_step("shade.pumice", rules),
        catalog_step("shade.look", rules, read, after=["shade.pumice"]),
    ]
    if case.shade.mock_up:
        use = rules.use("shade.dries_within_s")
        within = [Within(step="shade.pumice", seconds=use.value, rule=use)]
        steps.append(catalog_step("shade.mock_up", rules, after=["shade.look"], within=within))
    return steps
