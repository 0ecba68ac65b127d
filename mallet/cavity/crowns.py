"""Crowns of the handbook as solids, each made once."""

from __future__ import annotations

from functools import lru_cache

from mallet.cavity.solids import Tagged, crown_solid
from mallet.rulebook import Rulebook
from mallet.tooth import Crown, ToothName, loft_crown
from mallet.tooth.crown import Shell


@lru_cache(maxsize=128)
def solid_of(crown: Crown) -> Tagged:
    """Return the cached solid of a crown."""
    return crown_solid(crown)


def shell_solid(tooth: ToothName, rules: Rulebook, shell: Shell = "outer") -> Tagged:
    """Return the cached solid of a crown's shell."""
    return solid_of(loft_crown(tooth, rules, shell))
