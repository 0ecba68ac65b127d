"""How much gold, in which pellets, and which of them go where."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from mallet.restoratives.gold.stock import Piece
from mallet.rulebook import Rulebook
from mallet.terms.errors import InputError

HAIR = 1e-9


@dataclass(frozen=True)
class Pellets:
    """The pellets of one gold in their order, and the mass that they are to reach (mg), surplus and all."""

    order: Sequence[Piece]
    need_mg: float

    @property
    def by_size(self) -> Counter[str]:
        return Counter(piece.name for piece in self.order)


def need_mg(volume_mm3: float, density_g_cm3: float, surplus: float) -> float:
    """Return the mass that a volume wants (mg): a g/cm3 is a mg/mm3."""
    return volume_mm3 * density_g_cm3 * (1 + surplus)


def pellets_of(volume_mm3: float, pieces: Sequence[Piece], floor_mm2: float, rules: Rulebook) -> Pellets:
    """Return the pellets for a volume: the smallest first, so many, then the largest that covers no more than its share of
    the floor. Raises InputError where even the smallest is heavier than what is needed."""
    need = need_mg(volume_mm3, pieces[0].density_g_cm3, rules.value("gold.surplus_share"))
    smallest = pieces[0]
    if smallest.mg > need + HAIR:
        raise InputError.at(
            "restoration.gold", smallest.name, f"pieces of up to {need:.1f} mg, all that is needed"
        )
    most = rules.value("gold.spread_share") * floor_mm2
    larger = max(
        (p for p in pieces if p.spread_mm2 <= most and p.mg <= need), key=lambda p: p.mg, default=smallest
    )
    first = min(round(rules.value("gold.first_pellets")), math.ceil(need / smallest.mg - HAIR))
    rest = max(math.ceil((need - first * smallest.mg) / larger.mg - HAIR), 0)
    return Pellets([smallest] * first + [larger] * rest, need)


def shared_out(pellets: Pellets, volumes_mm3: Sequence[float]) -> list[list[Piece]]:
    """Return which pellets go into each of several zones, in order; a pellet goes where it begins."""
    whole, found = sum(volumes_mm3), []
    so_far, at, filled = 0.0, 0, 0.0
    for volume in volumes_mm3:
        so_far += volume / whole * pellets.need_mg
        own = []
        while at < len(pellets.order) and filled < so_far - HAIR:
            own.append(pellets.order[at])
            filled += pellets.order[at].mg
            at += 1
        found.append(own)
    found[-1] += pellets.order[at:]
    return found
