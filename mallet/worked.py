"""Worked cases: what each is expected to decide, and by whose word, held against what is planned."""

from __future__ import annotations

import copy
import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from pydantic import ValidationError

from mallet.plan import plan
from mallet.terms.case import Case, read_case, set_path
from mallet.terms.errors import InputError
from mallet.terms.mouth import Strict
from mallet.terms.plan import Check, Decision, NoPlan, Plan, Step
from mallet.terms.problems import problems_of

WORKED_FORMAT = "mallet-worked/1"


class Expected(Strict):
    """One thing that is expected of a plan: of a decision which option comes first, which are stopped and
    what the chosen one is called; that there is a step, how long it takes and what it says, or that there is
    none; that a caution is given, or none of that code; what a check finds; that no check fails; or that there is no
    plan."""

    decision: str | None = None
    first: str | None = None
    stopped: list[str] = []
    not_stopped: list[str] = []
    chosen: str | None = None
    caution: str | None = None
    no_caution: str | None = None
    check: str | None = None
    verdict: str | None = None
    where: str | None = None
    step: str | None = None
    seconds: float | None = None
    says: str | None = None
    no_step: str | None = None
    no_failure: bool = False
    refused: str | None = None


class WorkedCase(Strict):
    """A case as changes, by path, of a base case beside it; what is expected was written before the run."""

    format: Literal["mallet-worked/1"]
    title: str
    authority: str
    base: str
    changes: dict[str, Any]
    expects: list[Expected]


# Alarms about what is left of a tooth.
STRENGTH = ("prepare.isthmus", "prepare.cusp", "prepare.ridge", "prepare.cover", "prepare.enamel_edge")


@dataclass(frozen=True)
class Verdict:
    """A worked case with what came otherwise than expected, nothing where all came so; and the alarms that its plan
    raises: checks that do not pass and cautions, by topic."""

    name: str
    title: str
    authority: str
    otherwise: tuple[str, ...]
    alarms: tuple[str, ...] = ()

    @property
    def is_ordinary(self) -> bool:
        """Tell whether it is one of the cavities that nobody would fault."""
        return self.name.startswith("ordinary_")


def judge_folder(folder: Path) -> list[Verdict]:
    """Return the verdict of every worked case of a folder, by name; raise InputError for a bad file."""
    return [judge(path) for path in sorted(folder.glob("*.json"))]


def judge(path: Path) -> Verdict:
    """Return how a worked case came out."""
    worked, case = read_worked(path)
    made = plan(case)
    otherwise = [said for expected in worked.expects for said in _otherwise(expected, made)]
    return Verdict(path.stem, worked.title, worked.authority, tuple(otherwise), alarms_of(made))


def alarms_of(made: Plan | NoPlan) -> tuple[str, ...]:
    """Return the checks of a plan that do not pass, and its cautions, by topic, verdict and value."""
    if isinstance(made, NoPlan):
        return ()
    checks = [c for c in made.checks if c.verdict != "pass"]
    cautions = [c for c in made.cautions if c.level != "note" and not c.always]
    return (
        *(f"{c.topic} {c.verdict}: {c.measured:g} for {c.needed:g} {c.unit}" for c in checks),
        *(f"{c.code} {c.level}" for c in cautions),
    )


def read_worked(path: Path) -> tuple[WorkedCase, Case]:
    """Return a worked case and the case that it is about."""
    data = json.loads(path.read_text())
    try:
        worked = WorkedCase.model_validate(data)
    except ValidationError as error:
        raise InputError(*problems_of(error, data, WorkedCase)) from None
    base = json.loads((path.parent / worked.base).read_text())
    return worked, read_case(with_changes(base, worked.changes))


def with_changes(base: dict[str, Any], changes: dict[str, Any]) -> dict[str, Any]:
    """Return a copy of a case with values at paths such as `preparation.parts[1].height_mm`; behind `house.`
    stands a rule's id as it is."""
    case = copy.deepcopy(base)
    for path, value in changes.items():
        if path.startswith("house."):
            case.setdefault("house", {})[path.removeprefix("house.")] = value
        else:
            set_path(case, path, value)
    return case


def _otherwise(expected: Expected, made: Plan | NoPlan) -> list[str]:
    """Return what came otherwise than expected, in words."""
    if isinstance(made, NoPlan):
        if made.requirement.code == expected.refused:
            return []
        return [f"expected {expected.refused or 'a plan'}, got no plan: {made.requirement.code}"]
    if expected.refused:
        return [f"expected no plan for {expected.refused}, got one"]
    said = []
    if expected.caution and expected.caution not in {c.code for c in made.cautions}:
        said.append(f"expected the caution {expected.caution}")
    if expected.no_caution and expected.no_caution in {c.code for c in made.cautions}:
        said.append(f"expected no caution {expected.no_caution}")
    if expected.no_failure:
        said += [
            f"expected {c.topic} not to fail, got {c.measured:g}" for c in made.checks if c.verdict == "fail"
        ]
    if expected.step:
        said += _of_step(expected, next((step for step in made.steps if step.id == expected.step), None))
    if expected.no_step and any(step.id == expected.no_step for step in made.steps):
        said.append(f"expected no step {expected.no_step}")
    if expected.check:
        said += _of_check(expected, [check for check in made.checks if check.topic == expected.check])
    if expected.decision:
        found = [d for d in made.decisions if d.topic == expected.decision]
        said += _of_decision(expected, found)
    return said


def _of_step(expected: Expected, step: Step | None) -> list[str]:
    if step is None:
        return [f"expected the step {expected.step}"]
    said = []
    if expected.seconds is not None and step.seconds != expected.seconds:
        said.append(f"expected {step.id} to take {expected.seconds:g} s, got {step.seconds:g}")
    if expected.says and expected.says not in step.detail:
        said.append(f"expected {step.id} to say {expected.says!r}, got {step.detail!r}")
    return said


def _of_check(expected: Expected, found: Sequence[Check]) -> list[str]:
    if not found:
        return [f"expected a check of {expected.check}"]
    check, said = found[0], []
    if expected.verdict and check.verdict != expected.verdict:
        said.append(
            f"expected {check.topic} to be {expected.verdict}, got {check.verdict}, {check.measured:g}"
        )
    if expected.where and expected.where not in check.where:
        said.append(f"expected {check.topic} at {expected.where!r}, got {check.where!r}")
    return said


def _of_decision(expected: Expected, found: Sequence[Decision]) -> list[str]:
    if not found:
        return [f"expected a decision on {expected.decision}"]
    decision = found[0]
    stopped = [option.id for option in decision.options if option.is_stopped]
    said = []
    if expected.chosen and expected.chosen not in decision.chosen:
        said.append(f"expected {expected.chosen}, got {decision.chosen}")
    if expected.first and decision.options[0].id != expected.first:
        said.append(f"expected {expected.first} first, got {decision.options[0].id}")
    said += [f"expected {one} to be stopped" for one in expected.stopped if one not in stopped]
    said += [f"expected {one} not to be stopped" for one in expected.not_stopped if one in stopped]
    return said
