"""Light at places of an increment, told without the planner's own tracer: rays to the tip by a general-purpose library.

Places are drawn by seeds that the planner never saw, over the skin of an increment and in its depth. Solids and lamp
are the plan's; ways, shadows and sums are reckoned anew.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.crowns import shell_solid
from mallet.cavity.solids import triangles_of
from mallet.light.aims import Aim
from mallet.light.field import Tip
from mallet.plan import Worked
from mallet.rulebook import Rulebook, load_rulebook

Floats = NDArray[np.float64]
OFF_FACE_MM = 0.005
ON_SKIN, IN_DEPTH = 500, 100
BATCHES, MOST_BATCHES, MOST_ERROR = 16, 640, 0.003
# All places are looked at by few rays; of what is left, so many of the darkest by more each time.
FEW_RAYS, MANY_RAYS, ROUNDS = 64, 1024, ((150, 256), (12, 4096))
MOST_HITS, HAIR_MM = 40, 1e-4
SURE = 1.96


class Solids:
    """Solids that rays are shot at."""

    def __init__(self, solids: Sequence[Manifold]) -> None:
        corners = np.concatenate([np.empty((0, 3, 3)), *(triangles_of(solid) for solid in solids)])
        self.is_empty = not len(corners)
        self._scene = EmbreeScene()
        if not self.is_empty:
            self._normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            TriangleMesh(self._scene, corners.astype(np.float32))

    def hides(self, origins: Floats, ways: Floats, reach_mm: Floats) -> NDArray[np.bool_]:
        """Tell which rays meet a face before they have gone so far."""
        if self.is_empty:
            return np.zeros(len(origins), dtype=np.bool_)
        met = self._scene.run(
            origins.astype(np.float32),
            ways.astype(np.float32),
            dists=reach_mm.astype(np.float32),
            query="OCCLUDED",
        )
        return np.asarray(np.asarray(met) == 0)

    def way_inside_mm(self, origins: Floats, ways: Floats, reach_mm: Floats) -> Floats:
        """Return how far rays run inside the solids on their way."""
        inside, gone = np.zeros(len(origins)), np.zeros(len(origins))
        going = np.arange(len(origins))
        for _ in range(0 if self.is_empty else MOST_HITS):
            start = origins[going] + gone[going, None] * ways[going]
            hit = self._scene.run(start.astype(np.float32), ways[going].astype(np.float32), output=True)
            is_met = hit["primID"] >= 0
            going, face = going[is_met], hit["primID"][is_met]
            if not len(going):
                break
            at = gone[going] + hit["tfar"][is_met].astype(np.float64)
            # Leaving adds its distance, entering takes it away: what is left was inside.
            turn = np.sign((self._normals[face] * ways[going]).sum(axis=1))
            inside[going] += turn * np.minimum(at, reach_mm[going])
            gone[going] = at + HAIR_MM
        return inside

    def contains(self, points: Floats) -> NDArray[np.bool_]:
        """Tell which points lie inside: what a ray meets first it leaves."""
        way = np.tile(
            np.array([0.123, 0.456, 0.881]) / np.linalg.norm([0.123, 0.456, 0.881]), (len(points), 1)
        )
        hit = self._scene.run(points.astype(np.float32), way.astype(np.float32), output=True)
        face = np.maximum(hit["primID"], 0)
        return np.asarray((hit["primID"] >= 0) & ((self._normals[face] * way).sum(axis=1) > 0))


@dataclass(frozen=True)
class Standing:
    """What stands around an increment when it is lit: what hides light from above and from the side, and what weakens it
    by its attenuation per mm; from the side the tooth does too."""

    above: Solids
    beside: Solids
    placed: Sequence[tuple[Solids, float]]
    tooth: Sequence[tuple[Solids, float]]
    index: float
    returned: float
    most: float


def standing_at(worked: Worked, order: int, rules: Rulebook | None = None) -> Standing:
    """Return what stands around the increment at an index of the plan."""
    book = (rules or load_rulebook()).with_house(worked.case.practice_settings)
    cavity = worked.cavity
    beside = [cavity.access.turned(neighbour.solid) for neighbour in worked.neighbours]
    metal = [band.solid.solid for band in worked.bands if band.is_metal]
    inner = cavity.access.turned(shell_solid(cavity.tooth, book, "dentin").solid)
    bases = [base.solid for base in cavity.bases]
    dentin = [cavity.remaining_tooth ^ inner, *bases]
    return Standing(
        above=Solids([cavity.remaining_tooth, *cavity.laid, *metal, *beside]),
        beside=Solids([*metal, *cavity.pins, *beside]),
        # Each by itself: where two touch, a ray leaves one and enters the other at the same place.
        placed=[
            (Solids([one.portion.solid]), 1 / (one.mass.penetration_depth_mm or 1.0))
            for one in worked.lit.cured[: order + 1]
        ],
        tooth=[
            (Solids([cavity.remaining_tooth - inner]), book.value("light.enamel_attenuation_per_mm")),
            (Solids(dentin), book.value("light.dentin_attenuation_per_mm")),
        ],
        index=book.value("light.refractive_index"),
        returned=book.value("light.wall_return_share"),
        most=book.value("light.wall_return_most"),
    )


def irradiance_mw_cm2(
    points: Floats, aim: Aim, around: Standing, rays: int, draw: np.random.Generator
) -> Floats:
    """Return planar irradiance (N,) at points (N, 3) by so many rays each to jittered places of the tip."""
    tip, count = aim.tip, len(points)
    ends, shares = _places_of_tip(points, tip, rays, draw)
    origins, axis = np.repeat(points, len(ends) // count, axis=0), np.array(tip.towards)
    reach = np.linalg.norm(ends - origins, axis=1)
    ways = (ends - origins) / reach[:, None]
    cosine = np.maximum(ways @ axis, 1e-9)
    n = tip.beam.exponent
    sent = tip.beam.exitance_mw_cm2 * (n + 1) / (2 * np.pi) * cosine ** (n - 1) * shares
    sent *= np.repeat(tip.beam.measured_over_fit((np.array(tip.centre) - points) @ axis), len(ends) // count)
    blockers, media = around.above, list(around.placed)
    if aim.is_side:
        blockers, media = around.beside, [*media, *around.tooth]
    is_free = ~blockers.hides(origins, ways, reach)
    through = np.zeros(len(origins))
    for solids, attenuation in media:
        way = np.zeros(len(origins))
        way[is_free] = solids.way_inside_mm(origins[is_free], ways[is_free], reach[is_free])
        through += attenuation * way
    bent = np.sqrt(1 - (1 - cosine**2) / around.index**2)
    arriving, past_walls, in_the_open = (
        light.reshape(count, -1).sum(axis=1)
        for light in (sent * is_free * np.exp(-through * cosine / bent), sent * is_free, sent)
    )
    if aim.is_side:
        return np.asarray(arriving)
    with np.errstate(divide="ignore", invalid="ignore"):
        times = 1 + around.returned * (in_the_open - past_walls) / past_walls
    return np.asarray(arriving * np.where(past_walls > 0, np.clip(times, 1.0, around.most), 1.0))


def _places_of_tip(points: Floats, tip: Tip, rays: int, draw: np.random.Generator) -> tuple[Floats, Floats]:
    """Return jittered places (N * K, 3) of the tip, K for each of N points, and the projected solid angle that each
    stands for. Seen from below the tip they lie evenly by that angle, from beside it by area."""
    axis, radius = np.array(tip.towards), tip.beam.radius_mm
    u = np.linalg.svd(axis[None])[2][1]
    v = np.cross(axis, u)
    rings = max(1, round(np.sqrt(rays / 2)))
    turns = rays // rings
    shape = (len(points), rings, turns)
    ring = (np.arange(rings)[None, :, None] + draw.random(shape)) / rings
    turn = 2 * np.pi * (np.arange(turns)[None, None, :] + draw.random(shape)) / turns
    way = np.cos(turn)[..., None] * u + np.sin(turn)[..., None] * v
    off = points - np.array(tip.centre)
    height = -(off @ axis)[:, None, None]
    flat = off + height[..., 0] * axis
    beside = np.linalg.norm(flat, axis=1)[:, None, None]
    along = np.einsum("nrtk,nk->nrt", way, flat)
    # From the foot of a point out to the rim: how far, and the squared sine that ends there.
    far = -along + np.sqrt(np.maximum(radius**2 - beside**2 + along**2, 0.0))
    most = far**2 / (far**2 + height**2)
    sine2 = ring * most
    reach = height * np.sqrt(sine2 / np.maximum(1 - sine2, 1e-12))
    below = flat[:, None, None] + reach[..., None] * way
    even = radius * np.sqrt(ring)[..., None] * way
    is_below = beside < radius
    ends = np.array(tip.centre) + np.where(is_below[..., None], below, even)
    span2 = ((ends - points[:, None, None]) ** 2).sum(axis=-1)
    by_area = np.pi * radius**2 * height**2 / span2**2
    shares = np.where(is_below, np.pi * most, by_area) / (rings * turns) * (height > 0)
    return ends.reshape(-1, 3), shares.reshape(-1)


def drawn_places(solid: Manifold, draw: np.random.Generator) -> Floats:
    """Return places (N, 3) just inside the skin of a solid, by its area, and in its depth."""
    corners, inside = triangles_of(solid), Solids([solid])
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(normals, axis=1) / 2
    face = draw.choice(len(areas), 2 * ON_SKIN, p=areas / areas.sum())
    a, b = np.sqrt(draw.random(len(face)))[:, None], draw.random(len(face))[:, None]
    on = (1 - a) * corners[face, 0] + a * (1 - b) * corners[face, 1] + a * b * corners[face, 2]
    skin = on - OFF_FACE_MM * normals[face] / (2 * areas[face, None])
    low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    depth = low + (high - low) * draw.random((40 * IN_DEPTH, 3))
    return np.concatenate([skin[inside.contains(skin)][:ON_SKIN], depth[inside.contains(depth)][:IN_DEPTH]])


@dataclass(frozen=True)
class Dimmest:
    """The least dose over need that was found in an increment, its standard error, and where."""

    ratio: float
    error: float
    place: tuple[float, float, float]

    @property
    def upper(self) -> float:
        return self.ratio + SURE * self.error


def dimmest_of(worked: Worked, order: int, seed: int, rules: Rulebook | None = None) -> Dimmest:
    """Return the dimmest of places drawn in the increment at an index of the plan."""
    cured, draw = worked.lit.cured[order], np.random.default_rng(seed)
    around = standing_at(worked, order, rules)
    cap = (
        (rules or load_rulebook())
        .with_house(worked.case.practice_settings)
        .value("light.irradiance_cap_mw_cm2")
    )

    def over_need(points: Floats, rays: int) -> Floats:
        doses = [
            np.minimum(irradiance_mw_cm2(points, aim, around, rays, draw), cap) * rung.full_s / 1000
            for aim, rung in zip(cured.lit.aims, cured.exposed.rungs, strict=True)
        ]
        return np.asarray(np.sum(doses, axis=0) / cured.need.dose_j_cm2)

    places, rays = drawn_places(cured.portion.solid, draw), FEW_RAYS
    for left, more in (*ROUNDS, (1, MANY_RAYS)):
        places, rays = places[np.argsort(over_need(places, rays))[:left]], more
    (place,) = places
    batches: list[float] = []
    while len(batches) < BATCHES or (error(batches) > MOST_ERROR and len(batches) < MOST_BATCHES):
        batches += over_need(np.tile(place, (BATCHES, 1)), rays).tolist()
    x, y, z = (float(c) for c in place)
    return Dimmest(float(np.mean(batches)), error(batches), (x, y, z))


def error(batches: Sequence[float]) -> float:
    """Return the standard error of a mean."""
    return float(np.std(batches, ddof=1) / np.sqrt(len(batches)))


def at_point(worked: Worked, order: int, point: Floats, name: str) -> float:
    """Return the irradiance at a point of an increment from one of its aims, by many rays."""
    aim = next(aim for aim in worked.lit.cured[order].lit.aims if aim.name == name)
    around, draw = standing_at(worked, order), np.random.default_rng(7)
    batches = [irradiance_mw_cm2(point[None], aim, around, MANY_RAYS, draw)[0] for _ in range(BATCHES)]
    return float(np.mean(list(itertools.chain(batches))))
