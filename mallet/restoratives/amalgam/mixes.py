"""How many capsules of which size fill a cavity, and which layers each mix is for."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from mallet.condensing.nibs import Packing
from mallet.condensing.zones import Zone
from mallet.restoratives.amalgam.stock import Kit
from mallet.rulebook import Rulebook
from mallet.terms.stock import Capsule

HAIR = 1e-9
# More sizes than this are never opened for one cavity.
MOST_MIXES = 24
MOST_HALVES = 5


@dataclass(frozen=True)
class Mix:
    """One capsule's mix: its place in the order from 1 on, its capsule with its place in stock, and its volume."""

    order: int
    at: int | None
    capsule: Capsule
    volume_mm3: float


@dataclass(frozen=True)
class Portion:
    """What of a zone comes from one mix: from which of the zone's pieces on and how many, of how many; a piece is a layer, or a
    part of one where mixes are that small. With its thrusts and loads."""

    zone: int
    mix: int
    first: int
    pieces: int
    of: int
    thrusts: int
    loads: int
    volume_mm3: float

    def seconds(self, rules: Rulebook) -> float:
        """Return how long it takes to carry and condense."""
        carried = self.loads * rules.value("amalgam.carry_s")
        return float(carried + self.thrusts * rules.value("amalgam.thrust_s"))


@dataclass(frozen=True)
class Mixing:
    """All mixes of a cavity with their portions in order; `need_mm3` with the surplus, `late` those that cannot be placed in
    time, with how long each takes."""

    mixes: Sequence[Mix]
    portions: Sequence[Portion]
    need_mm3: float
    placing_s: Sequence[float]
    limits_s: Sequence[float]

    @property
    def late(self) -> list[int]:
        """Return the orders of the mixes that cannot be placed in time."""
        timed = zip(self.mixes, self.placing_s, self.limits_s, strict=True)
        return [mix.order for mix, placing, limit in timed if placing > limit + HAIR]

    @property
    def late_s(self) -> float:
        """Return by how long the slowest mix is placed too late."""
        return max(placing - limit for placing, limit in zip(self.placing_s, self.limits_s, strict=True))

    @property
    def volume_mm3(self) -> float:
        return sum(mix.volume_mm3 for mix in self.mixes)


def mix_mm3(capsule: Capsule, rules: Rulebook) -> float:
    """Return the volume of a capsule's mix: alloy with its mercury over the density. 400, 600 and 800 mg with a mercury
    share of 0.45 give 63.2, 94.9 and 126.5 mm3."""
    return float(capsule.alloy_mg / (1 - capsule.mercury_share) / rules.value("amalgam.density_mg_mm3"))


def mixed(
    zones: Sequence[Zone], packings: Sequence[Packing], kit: Kit, overfill_s: float, rules: Rulebook
) -> Mixing:
    """Return the mixes of a cavity: as few as fill it, then the least left over, of those that can be placed in time, the
    last with the overfill; where none can, those that are the least late."""
    need = sum(zone.volume_mm3 for zone in zones) * (1 + rules.value("amalgam.surplus_share"))
    tried = []
    for capsules in _sets(kit, need, rules):
        made = _of(capsules, zones, packings, kit, need, overfill_s, rules)
        if not made.late:
            return made
        tried.append(made)
    return min(tried, key=lambda one: one.late_s)


def _sets(kit: Kit, need_mm3: float, rules: Rulebook) -> Iterator[list[tuple[int | None, Capsule]]]:
    """Yield sets of capsules that fill a need, the fewest first, then by what is left over; the larger are mixed first."""
    sizes = [(at, one, mix_mm3(one, rules)) for at, one in kit.capsules]
    largest, smallest = max(size for *_, size in sizes), min(size for *_, size in sizes)
    fewest, most = (math.ceil(need_mm3 / size - HAIR) for size in (largest, smallest))
    for count in range(max(fewest, 1), min(max(most, 1), MOST_MIXES) + 1):
        sets = itertools.combinations_with_replacement(sizes, count)
        filling = [
            (sum(size for *_, size in one), one) for one in sets if sum(s for *_, s in one) >= need_mm3 - HAIR
        ]
        for _, one in sorted(filling, key=lambda told: told[0]):
            yield [(at, capsule) for at, capsule, _ in sorted(one, key=lambda told: -told[2])]


def _of(
    capsules: Sequence[tuple[int | None, Capsule]],
    zones: Sequence[Zone],
    packings: Sequence[Packing],
    kit: Kit,
    need_mm3: float,
    overfill_s: float,
    rules: Rulebook,
) -> Mixing:
    mixes = [Mix(i, at, one, mix_mm3(one, rules)) for i, (at, one) in enumerate(capsules, 1)]
    # Each mix is for something: where layers are too large for that, for parts of them.
    for halves in range(MOST_HALVES):
        portions = _portions(mixes, zones, packings, kit, need_mm3, 2**halves)
        if len({portion.mix for portion in portions}) == len(mixes):
            break
    placing = [
        rules.value("amalgam.handover_s")
        + sum(one.seconds(rules) for one in portions if one.mix == mix.order)
        for mix in mixes
    ]
    placing[-1] += overfill_s
    limits = [min(mix.capsule.working_s, rules.value("amalgam.working_s")) for mix in mixes]
    return Mixing(mixes, portions, need_mm3, placing, limits)


def _portions(
    mixes: Sequence[Mix],
    zones: Sequence[Zone],
    packings: Sequence[Packing],
    kit: Kit,
    need_mm3: float,
    parts: int,
) -> list[Portion]:
    """Return which layers, or parts of layers, come from which mix: each from the one in hand when its middle is placed, a
    surplus spread over all."""
    surplus = need_mm3 / sum(zone.volume_mm3 for zone in zones)
    spare = sum(mix.volume_mm3 for mix in mixes) / need_mm3
    ends = list(itertools.accumulate(mix.volume_mm3 / spare for mix in mixes))
    load = math.pi / 4 * kit.carrier.bore_mm**2 * kit.carrier.length_mm
    portions: list[Portion] = []
    placed, used = 0.0, [0.0] * (len(mixes) + 1)
    for at, (zone, packing) in enumerate(zip(zones, packings, strict=True)):
        pieces = packing.layers * parts
        piece = zone.volume_mm3 * surplus / pieces
        orders = []
        for _ in range(pieces):
            orders.append(
                next((i for i, end in enumerate(ends, 1) if placed + piece / 2 <= end + HAIR), len(mixes))
            )
            placed += piece
        first = 1
        for order, same in itertools.groupby(orders):
            count = len(list(same))
            before, used[order] = used[order], used[order] + count * piece
            loads = math.ceil(used[order] / load - HAIR) - math.ceil(before / load - HAIR)
            thrusts = math.ceil(count * packing.thrusts_a_layer / parts - HAIR)
            portions.append(Portion(at, order, first, count, pieces, thrusts, loads, count * piece))
            first += count
    return portions
