"""The teeth beside a box, set in contact, and the embrasure between."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold

from mallet.cavity.boxes import SIGN
from mallet.cavity.crowns import shell_solid
from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.terms.case import AdjacentTooth, Case
from mallet.terms.errors import InputError
from mallet.terms.parts import Side
from mallet.terms.plan import Assumption
from mallet.tooth import Crown, ToothName, loft_crown, read_tooth

OPPOSITE: dict[Side, Side] = {"mesial": "distal", "distal": "mesial"}


@dataclass(frozen=True)
class Beside:
    """An adjacent tooth in contact: moved by dx, dz in our frame, in which one across the midline is mirrored and
    faces us with the same side as we it."""

    side: Side
    tooth: ToothName
    given: AdjacentTooth
    crown: Crown
    solid: Manifold
    dx_mm: float
    dz_mm: float
    ridge_mm: float
    is_across: bool = False

    def gap_mm(self, own: Crown, z_mm: float) -> float:
        """Return the width of the embrasure at y = 0 at a height."""
        other = self.dx_mm + _facing_x_mm(self.crown, self.side, self.is_across, z_mm - self.dz_mm)
        return SIGN[self.side] * (other - own.outer_x_mm(self.side, z_mm))

    def clearance_mm(self, own: Crown, y_mm: float, z_mm: float) -> float:
        """Return the width of the embrasure off the middle by y at a height."""
        side = self.side if self.is_across else OPPOSITE[self.side]
        facing = self.crown.side_x_mm(side, y_mm, z_mm - self.dz_mm) * (-1 if self.is_across else 1)
        return SIGN[self.side] * (self.dx_mm + facing - own.side_x_mm(self.side, y_mm, z_mm))


def place_neighbours(case: Case, cavity: Cavity, rules: Rulebook) -> tuple[list[Beside], list[Assumption]]:
    """Return the adjacent teeth of the boxes; what the case does not tell is taken from the handbook.

    Raises InputError where an adjacent tooth named is not the one that stands there.
    """
    placed, assumptions = [], []
    for side in cavity.opened:
        expected = cavity.tooth.neighbour(side)
        if getattr(case.adjacent, side) is None and expected is not None:
            why = "a sound adjacent tooth in contact, marginal ridges level"
            path = f"adjacent.{side}"
            assumptions.append(
                Assumption(path=path, value=expected.iso, unit="", provenance="handbook", why=why)
            )
        if beside := neighbour_at(case, cavity, side, rules):
            placed.append(beside)
    return placed, assumptions


def neighbour_at(case: Case, cavity: Cavity, side: Side, rules: Rulebook) -> Beside | None:
    """Return the adjacent tooth on a side, None where there is none; a handbook crown in contact where nobody told.

    Raises InputError where the one named is not the one that stands there.
    """
    expected = cavity.tooth.neighbour(side)
    given = getattr(case.adjacent, side) or AdjacentTooth()
    if given.missing or expected is None:
        return None
    named = read_tooth(given.tooth, f"adjacent.{side}.tooth") if given.tooth else expected
    if not named.stands_for(expected):
        raise InputError.at(f"adjacent.{side}.tooth", given.tooth, f"{expected.iso} or none")
    return _beside(side, given, named, cavity.crown, rules)


def _facing_x_mm(crown: Crown, side: Side, is_across: bool, z_mm: float) -> float:
    """Return where an adjacent tooth on a side turns its surface to us, before it is moved."""
    return -crown.outer_x_mm(side, z_mm) if is_across else crown.outer_x_mm(OPPOSITE[side], z_mm)


def _beside(side: Side, given: AdjacentTooth, tooth: ToothName, own: Crown, rules: Rulebook) -> Beside:
    crown = loft_crown(tooth, rules)
    is_across = tooth.quadrant % 4 != own.tooth.quadrant % 4
    ridge = crown.ridge_mm(side if is_across else OPPOSITE[side])
    dz = own.ridge_mm(side) + given.ridge_offset_mm - ridge
    sign = SIGN[side]
    heights = np.linspace(-2.0, own.rim_mm, 60)
    ours = np.array([own.outer_x_mm(side, z) for z in heights])
    theirs = np.array([_facing_x_mm(crown, side, is_across, z - dz) for z in heights])
    dx = sign * float((sign * (ours - theirs)).max())
    solid = shell_solid(tooth, rules).solid
    placed = (solid.mirror((1.0, 0.0, 0.0)) if is_across else solid).translate((dx, 0.0, dz))
    return Beside(side, tooth, given, crown, placed, dx, dz, ridge + dz, is_across)
