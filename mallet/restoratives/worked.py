"""A plan with the solids behind it."""

from __future__ import annotations

from dataclasses import dataclass

from mallet.cavity.band import Band
from mallet.cavity.neighbours import Beside
from mallet.cavity.preparation import Cavity
from mallet.curing.cured import Curing
from mallet.restoratives.restorative import Built
from mallet.rulebook import Rulebook
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.plan import Plan


@dataclass(frozen=True)
class Worked:
    """A plan with the solids behind it, for whoever draws or measures them."""

    plan: Plan
    site: Site
    built: Built

    @property
    def case(self) -> Case:
        return self.site.case

    @property
    def rules(self) -> Rulebook:
        return self.site.rules

    @property
    def cavity(self) -> Cavity:
        return self.site.cavity

    @property
    def bands(self) -> list[Band]:
        return list(self.site.bands)

    @property
    def neighbours(self) -> list[Beside]:
        return list(self.site.neighbours)

    @property
    def lit(self) -> Curing:
        """Return what is lit; raise ValueError for what needs no light."""
        if self.built.curing is None:
            raise ValueError("nothing of this plan is lit")
        return self.built.curing
