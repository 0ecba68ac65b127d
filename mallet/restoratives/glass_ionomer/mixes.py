"""How much glass ionomer a cavity takes: capsules, one mix at a time, and where mixes meet."""

from __future__ import annotations

import math
from dataclasses import dataclass

from manifold3d import Manifold

from mallet.cavity.preparation import Cavity
from mallet.cavity.solids import below
from mallet.rulebook import Rulebook
from mallet.stages.ionomer import Chosen, held_mm3

NEAR_MM = 1e-4


@dataclass(frozen=True)
class Mix:
    """What one mixed capsule fills. `from_mm` is where it begins over the deepest point, toward the opening."""

    id: str
    name: str
    solid: Manifold
    from_mm: float


def mixes_of(cavity: Cavity, chosen: Chosen, rules: Rulebook) -> list[Mix]:
    """Return the mixes that fill a cavity, from its deepest point out: one, or as many of equal volume as it takes
    capsules, since one is mixed at a time."""
    filling = cavity.filling
    volume, held = filling.volume(), held_mm3(chosen, rules)
    count = math.ceil(volume / held - 1e-9)
    low, high = filling.bounding_box()[2], filling.bounding_box()[5]
    if count == 1:
        return [Mix("ionomer", "glass ionomer", filling, 0.0)]
    mixes, rest, start = [], filling, low
    for i in range(1, count):
        level = _level(filling, volume * i / count, low, high)
        placed, rest = rest.split(below(level).solid)
        mixes.append(Mix(f"ionomer.{i}", f"glass ionomer, mix {i}", placed, start - low))
        start = level
    return [*mixes, Mix(f"ionomer.{count}", f"glass ionomer, mix {count}", rest, start - low)]


def _level(filling: Manifold, volume_mm3: float, low: float, high: float) -> float:
    """Return the height below which so much of a restoration lies."""
    while high - low > NEAR_MM:
        middle = (low + high) / 2
        if (filling ^ below(middle).solid).volume() < volume_mm3:
            low = middle
        else:
            high = middle
    return (low + high) / 2
