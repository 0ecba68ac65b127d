"""Which nib packs a zone, how hard, and with how many thrusts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mallet.condensing.zones import Zone
from mallet.rulebook import Rulebook

HAIR = 1e-9


@dataclass(frozen=True)
class Packing:
    """How a zone is packed: nib (mm), force (N), layers, thrusts a layer; `is_through` tells whether the nib gets to its
    bottom."""

    nib_mm: float
    force_n: float
    layers: int
    thrusts_a_layer: int
    is_through: bool

    @property
    def thrusts(self) -> int:
        return self.layers * self.thrusts_a_layer


def force_n(pressure_mpa: float, nib_mm: float) -> float:
    """Return the force on a round nib for a pressure under it, F = p pi d^2 / 4; Anusavice gives 44.5 N on 2 mm as
    14.2 MPa."""
    return pressure_mpa * math.pi * nib_mm**2 / 4


def packed(zone: Zone, nibs_mm: Sequence[float], *, is_spherical: bool, rules: Rulebook) -> Packing:
    """Return how a zone is packed with the nibs that there are: with the largest that passes and that a hand can press,
    where none passes with the smallest."""
    pressure = rules.value("amalgam.pressure_spherical_mpa" if is_spherical else "amalgam.pressure_mpa")
    limit = rules.value("amalgam.hand_limit_n")
    fitting = [nib for nib in nibs_mm if nib + play_mm(zone, rules) <= zone.width_mm + HAIR]
    # A spherical alloy flows away from a small nib: the largest that fits, with what the hand has.
    usable = fitting if is_spherical else [nib for nib in fitting if force_n(pressure, nib) <= limit]
    nib = max(usable or fitting, default=min(nibs_mm))
    if fitting and not usable:
        nib = min(fitting)
    return Packing(
        nib_mm=nib,
        force_n=min(force_n(pressure, nib), limit),
        layers=max(math.ceil(zone.height_mm / rules.value("amalgam.layer_mm") - HAIR), 1),
        thrusts_a_layer=thrusts(zone.area_mm2, nib, rules),
        is_through=bool(fitting),
    )


def play_mm(zone: Zone, rules: Rulebook) -> float:
    """Return how much wider than a nib a zone has to be. Slots and holes are packed straight down: there a nib may be as wide
    as the bur that cut them."""
    return 0.0 if zone.id == "hollows" else rules.value("amalgam.nib_play_mm")


def thrusts(area_mm2: float, nib_mm: float, rules: Rulebook) -> int:
    """Return how many thrusts of a nib cover a ground once, each overlapping the last."""
    fresh = math.pi * nib_mm**2 / 4 * (1 - rules.value("amalgam.overlap_share"))
    return math.ceil(area_mm2 / fresh - HAIR)
