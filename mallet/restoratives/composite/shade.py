"""Shade, first look: read wet before isolation, tried in a mock-up, and which shades the depth wants."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.measures import longest_along_mm
from mallet.cavity.preparation import Cavity
from mallet.light.field import axes_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.choose import shows
from mallet.terms.case import Case
from mallet.terms.parts import IncisalFracture
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Decision, StageResult, Step, Within
from mallet.terms.reasons import say, warn
from mallet.terms.restoration import ShadeRole


def first_look(
    case: Case, cavity: Cavity, placed: Sequence[ShadeRole], ranking: Sequence[str], rules: Rulebook
) -> StageResult:
    """Return the steps before the dam, and the shades that are layered, from those that the technique places; where it
    places but one there is nothing to decide. `ranking` says what comes nearest to the color that was read, best first."""
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
    if case.shade.mock_up_answer:
        decisions.append(_after_mock_up(case, layered, ranking, rules))
    return StageResult(decisions=decisions, cautions=cautions, steps=_steps(case, ranking, rules))


def _after_mock_up(
    case: Case, layered: Sequence[ShadeRole], ranking: Sequence[str], rules: Rulebook
) -> Decision:
    """Return what the answer to a mock-up asks for; without tooth behind it is thickness that keeps the dark out."""
    answer = case.shade.mock_up_answer
    use = rules.use("shade.mock_up_step_mm")
    if answer in ("too_gray", "too_dark"):
        is_open = isinstance(case.face_part, IncisalFracture) and len(layered) > 1
        chosen = f"{use.value:g} mm more {layered[0]} composite" if is_open else LIGHTER
        alternatives = [LIGHTER] if is_open else []
        reason = say("shade.dark_behind" if is_open else "shade.tooth_behind")
    elif answer in ("too_light", "too_opaque"):
        chosen, alternatives = f"{use.value:g} mm more enamel composite", ["the next darker shade behind it"]
        reason = say("shade.more_enamel")
    elif answer == "fits":
        chosen, alternatives, reason = "as it was tried", [], say("shade.fits")
    else:
        chosen, alternatives, reason = _next(ranking), [], say("shade.next_in_ranking")
    return Decision(
        topic="shade.mock_up", chosen=chosen, alternatives=alternatives, reasons=[reason], rules=[use]
    )


LIGHTER = "the next lighter shade"


def _next(ranking: Sequence[str]) -> str:
    return ranking[1] if len(ranking) > 1 else "another composite of the same role"


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


def _steps(case: Case, ranking: Sequence[str], rules: Rulebook) -> list[Step]:
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
        clock = {"text": "Wet enough to judge for", "late": "Judge no shade now: dried out, it looks lighter"}
        within = [Within(step="shade.pumice", seconds=use.value, rule=use, **clock)]
        step_mm = rules.value("shade.mock_up_step_mm")
        is_open = isinstance(case.face_part, IncisalFracture)
        told = {
            "layers": "known" if ranking else "unknown",
            "named": ranking[0] if ranking else "",
            "gray": f"Too gray or dark: {step_mm:g} mm more dentin" if is_open else f"Too dark: {LIGHTER}",
            "next": _next(ranking),
        }
        steps.append(catalog_step("shade.mock_up", rules, told, after=["shade.look"], within=within))
    return steps
