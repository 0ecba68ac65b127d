"""The heart's door for tests that only look at a plan: a case that was planned in this run is not planned again."""

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from mallet import plan as heart
from mallet.plan import Points, Worked
from mallet.rulebook import Rulebook
from mallet.terms.case import Case, read_case
from mallet.terms.errors import NotFeasible
from mallet.terms.plan import Decision, NoPlan, Plan, Step
from tests.core.conftest import first_case, with_values

KEPT = 80


def work(case: Case, book: Rulebook | None = None, points: Points = "none") -> Worked:
    """Return what `mallet.plan.work` does."""
    worked = heart.work(case, book, points) if book else _worked(_Same(case), points)
    if isinstance(worked, NotFeasible):
        raise worked
    return worked


def plan(case: Case, book: Rulebook | None = None, points: Points = "none") -> Plan | NoPlan:
    """Return what `mallet.plan.plan` does."""
    try:
        return work(case, book, points).plan
    except NotFeasible as refusal:
        return heart.no_plan(case, refusal, book)


@dataclass(frozen=True)
class _Same:
    """A case, the same as another that tells the same."""

    case: Case = field(compare=False)
    sha256: str = field(default="", init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "sha256", heart.told_sha256(self.case))


@lru_cache(maxsize=KEPT)
def _worked(same: _Same, points: Points) -> Worked | NotFeasible:
    try:
        return heart.work(same.case, None, points)
    except NotFeasible as refusal:
        return refusal


def planned(**values: Any) -> Plan:
    """Return the plan of the first case with other values."""
    made = plan(read_case(with_values(first_case(), **values)))
    assert isinstance(made, Plan)
    return made


def decided(made: Plan, topic: str) -> Decision:
    """Return what a plan decided on a topic."""
    return next(d for d in made.decisions if d.topic == topic)


def steps_of(made: Plan, stage: str) -> list[Step]:
    """Return the steps of a stage."""
    return [s for s in made.steps if s.stage == stage]
