"""Shade, first look: read wet before isolation, tried in a mock-up, and which shades the depth wants."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mallet.cavity.measures import longest_along_mm
from mallet.cavity.preparation import Cavity
from mallet.light.field import axes_of
from mallet.restoratives.composite.color import named
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.choose import shows
from mallet.terms.case import Case
from mallet.terms.color_plan import ColorChoice
from mallet.terms.parts import IncisalFracture
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Decision, StageResult, Step, Within
from mallet.terms.reasons import say, warn
from mallet.terms.restoration import ShadeRole
from mallet.terms.shade import MockUpAnswer


def first_look(
    case: Case, cavity: Cavity, placed: Sequence[ShadeRole], choices: Sequence[ColorChoice], rules: Rulebook
) -> StageResult:
    """Return the steps before the dam, and the shades that are layered, from those that the technique places; where it
    places but one there is nothing to decide. `choices` are what comes nearest to the color that was read, best first."""
    roles, reason = _roles(case, cavity, rules)
    has = {mass.role for mass in case.composites}
    lacking = [role for role in roles if role not in has and role in placed]
    cautions: list[Caution] = []
    if lacking and shows(case):
        where = " and ".join(lacking)
        cautions.append(warn("caution", "shade.no_mass", "Common practice, no source", role=where))
    reasons = [say("shade.by_color") if choices else reason]
    if case.shade.value:
        reasons.append(say("shade.read", value=case.shade.value))
    layered = [role for role in ROLES if role in placed]
    decision = Decision(
        topic="shade.roles",
        chosen=" over ".join(reversed(layered)),
        alternatives=[],
        reasons=reasons,
        rules=[] if choices else rules.uses("shade.dentin_from_mm"),
    )
    decisions = [decision] if shows(case) and len(layered) > 1 else []
    is_layered = len(layered) > 1
    if case.shade.mock_up and case.shade.mock_up_answer:
        asked = _answered(case.shade.mock_up_answer, case, choices, is_layered, rules)
        answer = Decision(
            topic="shade.mock_up",
            chosen=asked.chosen,
            alternatives=list(asked.alternatives),
            reasons=[asked.reason],
            rules=rules.uses(*asked.rules),
        )
        decisions.append(answer)
    steps = _steps(case, choices, is_layered, rules)
    return StageResult(decisions=decisions, cautions=cautions, steps=steps)


@dataclass(frozen=True)
class _Answered:
    """What an answer to a mock-up asks for, besides what, why, and by which rules."""

    chosen: str
    reason: Reason
    alternatives: tuple[str, ...] = ()
    rules: tuple[str, ...] = ()


def _answered(
    answer: MockUpAnswer,
    case: Case,
    choices: Sequence[ColorChoice],
    is_layered: bool,
    rules: Rulebook,
) -> _Answered:
    """Return what changes a mock-up as its answer asks; without tooth behind it is thickness that keeps the dark out."""
    if answer == "fits":
        return _Answered("as it was tried", say("shade.fits"))
    if answer in ("too_yellow", "too_clear"):
        chosen = named(choices[1]) if len(choices) > 1 else "another composite of the same role"
        return _Answered(chosen, say("shade.next_in_ranking"))
    is_dark = answer in ("too_gray", "too_dark")
    other = "the next lighter shade" if is_dark else "the next darker shade"
    if not (is_layered and isinstance(case.face_part, IncisalFracture)):
        return _Answered(other, say("shade.tooth_behind"))
    step_mm = rules.value("shade.mock_up_step_mm")
    planned_mm = case.composite.enamel_mm or rules.value("shade.enamel_front_mm")
    enamel_mm = round(
        (choices[0].enamel_mm if choices else planned_mm) + (-step_mm if is_dark else step_mm), 2
    )
    if enamel_mm < LEAST_ENAMEL_MM:
        return _Answered("a thin opaque layer first", say("shade.no_enamel_left"), (other,))
    if is_dark:
        layer, reason = "dentin", say("shade.dark_behind", enamel_mm=enamel_mm)
    else:
        layer, reason = "enamel", say("shade.more_enamel", enamel_mm=enamel_mm)
    chosen = f"{step_mm:g} mm more {layer} composite"
    return _Answered(chosen, reason, (other,), ("shade.mock_up_step_mm",))


# As thin as a case takes it.
LEAST_ENAMEL_MM = 0.2


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


def _steps(case: Case, choices: Sequence[ColorChoice], is_layered: bool, rules: Rulebook) -> list[Step]:
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
        ways: dict[str, MockUpAnswer] = {"gray": "too_gray", "light": "too_light", "next": "too_yellow"}
        told = {
            "layers": "known" if choices else "unknown",
            "named": named(choices[0]) if choices else "",
            **{name: _answered(way, case, choices, is_layered, rules).chosen for name, way in ways.items()},
        }
        steps.append(catalog_step("shade.mock_up", rules, told, after=["shade.look"], within=within))
    return steps
