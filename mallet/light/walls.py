"""Light that the walls of a cavity send back: an option, since without it irradiance is a lower bound.

Walls are small flat faces that scatter evenly (Lambert). What the tip brings to each is sent to all others
and back until nothing is left (radiosity: B = a (E + F B)), then to the points that are asked for, on a
plane parallel to the tip.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.rays import Scene, grouped
from mallet.cavity.solids import Skin
from mallet.light.field import Filling, Grain, Tip, cells_of, disc_of

Floats = NDArray[np.float64]
OFF_WALL_MM = 0.01
GRAIN = Grain(8, 16)


@dataclass(frozen=True)
class Walls:
    """Bare walls: points just off M faces (M, 3), unit normals into the cavity (M, 3), areas (M,) in mm2,
    and the share of light that they send back."""

    points: Floats
    normals: Floats
    areas_mm2: Floats
    albedo: float

    def sent_back_mw_cm2(
        self, targets: Floats, tip: Tip, blockers: Scene, fillings: Sequence[Filling]
    ) -> Floats:
        """Return irradiance (N,) that comes from the walls to targets (N, 3), through fillings."""
        from mallet.light.arriving import exchange, onto_faces

        if not len(self.points):
            return np.zeros(len(targets))
        nothing, none = grouped(()), np.zeros(1)
        direct = onto_faces(self.points, self.normals, disc_of(tip), blockers.trees, cells_of(GRAIN))
        faces = (self.points, self.normals, self.areas_mm2)
        among = exchange(self.points, self.normals, *faces, blockers.trees, nothing, none)
        radiosity = np.linalg.solve(np.eye(len(among)) - self.albedo * among, self.albedo * direct)
        facing = np.tile(np.asarray(tip.towards, dtype=np.float64), (len(targets), 1))
        media = grouped(tuple(filling.scene for filling in fillings))
        weights = np.array([filling.attenuation_per_mm for filling in fillings] or [0.0])
        arriving = exchange(np.asarray(targets), facing, *faces, blockers.trees, media, weights)
        return np.asarray(arriving @ radiosity)


def bare_walls(skins: Sequence[Skin], albedo: float) -> Walls:
    """Return walls from the faces of a filling that will stand against them."""
    points = np.concatenate([np.empty((0, 3)), *(s.centres - OFF_WALL_MM * s.normals for s in skins)])
    normals = np.concatenate([np.empty((0, 3)), *(-s.normals for s in skins)])
    areas = np.concatenate([np.empty(0), *(s.areas for s in skins)])
    return Walls(points, normals, areas, albedo)
