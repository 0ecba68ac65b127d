"""What a restorative is: a record of stages over a shared site. Whoever plans, draws or records asks it, never its
name."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

from manifold3d import Manifold

from mallet.curing.cured import Curing
from mallet.rulebook import Rulebook
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.color_plan import ColorFace, ColorPlan, MatchCost
from mallet.terms.increments import Increment
from mallet.terms.plan import (
    Assumption,
    Bracket,
    Design,
    Figure,
    InputUse,
    LaterVisit,
    StageResult,
    Step,
    Supply,
)

Points = Literal["none", "dimmest", "all"]
# What puts steps in order for two people.
Schedule = Callable[[Sequence[Step]], list[Step]]


@dataclass(frozen=True)
class Placed:
    """One increment as it lies in the cavity's frame: what the plan calls it, and the part that it plays."""

    id: str
    role: str
    solid: Manifold


@dataclass(frozen=True)
class Timed:
    """What became of a build once all steps were put in order: they, what all stages say now, and the build."""

    steps: Sequence[Step]
    stages: Sequence[StageResult]
    built: Built


class Built(ABC):
    """What a restorative makes of a site: its stages with their steps, and what lies in the cavity in the end."""

    site: Site
    stages: Sequence[StageResult]
    curing: Curing | None = None

    @property
    @abstractmethod
    def technique(self) -> str:
        """Return by which technique the cavity is filled."""

    @property
    @abstractmethod
    def placed(self) -> Sequence[Placed]:
        """Return the increments in order of placing."""

    @property
    @abstractmethod
    def bonded_area_mm2(self) -> float:
        """Return how much of the tooth the restoration is bonded to."""

    @property
    @abstractmethod
    def density_inputs(self) -> list[InputUse]:
        """Return what the mass of the restoration rests on."""

    @abstractmethod
    def finish(self) -> StageResult:
        """Return what is done once the last increment is in place."""

    @abstractmethod
    def in_time(self, stages: Sequence[StageResult], schedule: Schedule) -> Timed:
        """Return all stages' steps in order for two people, with pauses where it needs any, each with what wet would
        undo."""

    @abstractmethod
    def increments(self, points: Points) -> list[Increment]:
        """Return what the plan says of each increment, with so many places of it."""

    @abstractmethod
    def figures(self, steps: Sequence[Step]) -> list[Figure]:
        """Return the big numbers that only this restorative has, in the order in which they are shown."""

    @property
    def color(self) -> ColorPlan | None:
        """Return what it looks like, where that is known."""
        return None

    def color_face(self) -> ColorFace | None:
        """Return what it looks like at each place of its face, where that is known."""
        return None

    def match_costs(self) -> list[MatchCost]:
        """Return what each of the composites that come near in color asks for, in the plan's order."""
        return []

    def later(self) -> list[LaterVisit]:
        """Return what is done for it at visits of their own; the scheduler puts their steps in order."""
        return []

    def brackets(self, steps: Sequence[Step]) -> list[Bracket]:
        """Return what holds from step to step, as keeping dry."""
        return []

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        """Return what is mixed or opened for the work, with its times."""
        return []


class Restorative(Protocol):
    """A material that a cavity is filled with. `id` is what a case calls it."""

    @property
    def id(self) -> str: ...

    def complete(self, case: Case, rules: Rulebook) -> tuple[Case, list[Assumption]]:
        """Return a case with what is taken where it leaves something of this restorative untold."""

    def build(self, site: Site) -> Built:
        """Return what is made of a site; raise NotFeasible where this restorative cannot fill it."""

    def designs(self, case: Case, rules: Rulebook) -> list[Design]:
        """Return what could be cut besides to hold it, the least invasive first; nothing where nothing is wanted."""


@dataclass(frozen=True)
class AsTold:
    """Base of restoratives that are planned as a case tells them, and held without anything being cut besides."""

    def complete(self, case: Case, rules: Rulebook) -> tuple[Case, list[Assumption]]:
        """Return the case as it is: what no package says is listed once it is chosen."""
        return case, []

    def designs(self, case: Case, rules: Rulebook) -> list[Design]:
        """Return nothing that would hold it besides."""
        return []
