"""Where a tip stands for an exposure, how it is held, and the ways to light what lies under it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.access import OCCLUSAL, Access
from mallet.light.beam import Beam
from mallet.light.field import UP, Grain, Tip, Way, axes_of
from mallet.terms.errors import InputError
from mallet.terms.restoration import Light

Floats = NDArray[np.float64]
WIDE_SHARE = 0.85
# Where one exposure over the middle is too long, half the width makes two worth a try.
LESS_WIDE_SHARE = 0.5
# How far a tip stands off what it lights, at most.
MOST_REACH_MM = 40.0


def stand_tip(aim: Floats, skyline: Floats, beam: Beam, distance_mm: float, towards: Way = UP) -> Tip:
    """Return the tip that looks at an aim (x, y, z) against a direction: it rests on whatever stands
    out farthest before it, or keeps a distance from that. It never enters what it rests on."""
    frame = axes_of(towards)
    east, north, out = frame @ (skyline - aim).T
    under = out[east * east + north * north <= beam.radius_mm**2]
    height = float(under.max()) if len(under) else float(out.max())
    x, y, z = aim + frame[2] * (height + distance_mm)
    return Tip((float(x), float(y), float(z)), beam, towards)


SIDEWAYS: dict[str, Way] = {
    "mesial": (1.0, 0.0, 0.0),
    "distal": (-1.0, 0.0, 0.0),
    "facial": (0.0, 1.0, 0.0),
    "lingual": (0.0, -1.0, 0.0),
}


@dataclass(frozen=True)
class Hold:
    """How the tip is held from the side that the cavity opens to: the distance that it keeps from what it
    could rest on, the tilt of its axis, and how far it stands off the increment's middle, both toward a
    side."""

    distance_mm: float = 0.0
    tilt_deg: float = 0.0
    offset_mm: float = 0.0
    lean: str = "facial"
    access: Access = OCCLUSAL

    @property
    def aside(self) -> Floats:
        """Return the unit vector toward the side that the tip leans to, in the frame of the access."""
        return np.array(self.access.toward(SIDEWAYS[self.lean]))

    @property
    def towards(self) -> Way:
        """Return the unit vector along which the tip looks at its aim, from there to the tip."""
        if not self.tilt_deg:
            return UP
        tilt = math.radians(self.tilt_deg)
        x, y, _ = self.aside
        return float(x * math.sin(tilt)), float(y * math.sin(tilt)), math.cos(tilt)

    @property
    def leans(self) -> list[str]:
        """Return the sides that a tip may lean to."""
        return [side for side, way in SIDEWAYS.items() if not self.access.toward(way)[2]]

    @property
    def aside_mm(self) -> float:
        """Return how far the tip's middle may stand aside of what it lights, at most."""
        return self.offset_mm + MOST_REACH_MM * math.sin(math.radians(self.tilt_deg))


STRAIGHT = Hold()


def hold_of(light: Light, access: Access) -> Hold:
    """Return how a case has the tip held; raise InputError where it would lean out of the cavity."""
    hold = Hold(light.tip_distance_mm or 0.0, light.tip_tilt_deg, light.tip_offset_mm, light.tip_lean, access)
    if (hold.tilt_deg or hold.offset_mm) and hold.lean not in hold.leans:
        raise InputError.at("restoration.light.tip_lean", hold.lean, " or ".join(hold.leans))
    return hold


@dataclass(frozen=True)
class Aim:
    """An exposure's name and where the tip stands for it; from the side it shines through tooth."""

    name: str
    tip: Tip
    is_side: bool = False


# Gives irradiance (N,) at points (N, 3) from an aim.
Field = Callable[[Floats, Aim, Grain], Floats]


def aims_over(
    points: Floats, skyline: Floats, beam: Beam, hold: Hold, wide_share: float = WIDE_SHARE
) -> list[list[Aim]]:
    """Return the ways to light points (N, 3) from the side that the cavity opens to: one aim over the middle and,
    along each way that they reach further than a share of the tip's width, two, over one half and the other."""
    opens = hold.access.side

    def aim(name: str, part: Floats) -> Aim:
        aim = _middle(part) + hold.offset_mm * hold.aside
        return Aim(name, stand_tip(aim, skyline, beam, hold.distance_mm, hold.towards))

    ways = [[aim(opens, points)]]
    for along, (over, under) in zip(points.T, (("mesial", "distal"), hold.access.along_y), strict=False):
        low, high = along.min(), along.max()
        if high - low > wide_share * 2 * beam.radius_mm:
            is_over = along >= (low + high) / 2
            ways.append([aim(f"{opens}_{over}", points[is_over]), aim(f"{opens}_{under}", points[~is_over])])
    return ways


def side_aims(points: Floats, skyline: Floats, beam: Beam, hold: Hold) -> list[Aim]:
    """Return the aims at points (N, 3) from facial and from lingual, straight and at the distance held."""
    middle = _middle(points)
    return [
        Aim(side, stand_tip(middle, skyline, beam, hold.distance_mm, SIDEWAYS[side]), is_side=True)
        for side in ("facial", "lingual")
    ]


BEHIND = {"facial": "lingual", "lingual": "facial"}
DOWN: Way = (0.0, 0.0, -1.0)


def aim_from_behind(points: Floats, behind: Floats | None, beam: Beam, hold: Hold) -> Aim:
    """Return the aim at points (N, 3) from the face opposite to the one that a cavity opens to."""
    assert behind is not None
    tip = stand_tip(_middle(points), behind, beam, hold.distance_mm, DOWN)
    return Aim(BEHIND[hold.access.side], tip, is_side=True)


def _middle(points: Floats) -> Floats:
    return np.asarray((points.min(axis=0) + points.max(axis=0)) / 2)
