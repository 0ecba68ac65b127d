"""Irradiance by plain numpy, for the heart's to be held against: jittered points of the tip, every triangle
tried."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from manifold3d import Manifold

from mallet.cavity.crowns import shell_solid
from mallet.cavity.solids import skin
from mallet.light.field import Tip
from mallet.rulebook import load_rulebook

CHUNK = 180


def crossings(triangles: np.ndarray, origin: np.ndarray, ends: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return, per segment and triangle, the share (0-1) of the way to their crossing, its sign telling in from out and NaN
    none, and whether there is one (Moeller-Trumbore)."""
    edge1, edge2 = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    d = (ends - origin)[:, None, :]
    p = np.cross(d, edge2[None])
    det = (p * edge1[None]).sum(-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        s = origin - triangles[:, 0]
        u = (p * s[None]).sum(-1) / det
        q = np.cross(s, edge1)
        v = (d * q[None]).sum(-1) / det
        t = (edge2 * q).sum(-1)[None] / det
    hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0) & (t < 1) & (np.abs(det) > 1e-14)
    return np.where(hit, t, np.nan) * np.sign(det), hit


def sampled_mw_cm2(
    point: np.ndarray,
    tip: Tip,
    walls: np.ndarray,
    media: Sequence[tuple[np.ndarray, float]],
    rings: int,
    around: int,
) -> float:
    """Return irradiance at a point past walls (N, 3, 3) and through closed media of triangles, each with its
    attenuation; the tip is cut into rings of equal area."""
    r, centre, axis = tip.beam.radius_mm, np.array(tip.centre), np.array(tip.towards)
    low, high = np.minimum(point, centre - r), np.maximum(point, centre + r)
    walls = walls[((walls.max(axis=1) > low) & (walls.min(axis=1) < high)).all(axis=1)]
    draw = np.random.default_rng(7)
    r2 = (np.arange(rings)[:, None] + draw.random((rings, around))) / rings
    angle = 2 * np.pi * (np.arange(around)[None] + draw.random((rings, around))) / around
    u = np.linalg.svd(axis[None])[2][1]
    flat = (np.cos(angle)[..., None] * u + np.sin(angle)[..., None] * np.cross(axis, u)).reshape(-1, 3)
    ends = centre + r * np.sqrt(r2).reshape(-1, 1) * flat
    total = 0.0
    for some in np.array_split(ends, max(1, len(ends) // CHUNK)):
        _, hit = crossings(walls, point, some)
        open_way = ~hit.any(axis=1)
        span = np.linalg.norm(some - point, axis=1)
        through = np.zeros(len(some))
        for corners, attenuation in media:
            signed, _ = crossings(corners, point, some)
            # Leaving adds its distance, entering takes it away: what is left is the way inside.
            through += attenuation * np.abs(np.nansum(signed, axis=1)) * span
        cosine = (some - point) @ axis / span
        n, m = tip.beam.exponent, tip.beam.contact_mw_cm2
        radiance = m * (n + 1) / (2 * np.pi) * cosine ** (n - 1)
        weight = radiance * cosine**2 / span**2 * np.exp(-through)
        total += float(weight[open_way].sum())
    return total * np.pi * tip.beam.radius_mm**2 / (rings * around)


def brute_force(worked: Any, order: int, index: int, name: str = "occlusal") -> float:
    """Return irradiance at a point by plain numpy: all that stands in the way, all that is placed."""
    cured = worked.build.cured[order]
    point = cured.lit.points[index]
    aim = next(aim for aim in cured.lit.aims if aim.name == name)
    tip, beside = aim.tip, [worked.cavity.access.turned(n.solid) for n in worked.neighbours]
    metal = [b.solid.solid for b in worked.bands if b.is_metal]
    tooth = worked.cavity.remaining_tooth
    placed = Manifold()
    for earlier in worked.build.cured[: order + 1]:
        placed = placed + earlier.portion.solid
    media = [(skin(placed).corners, 1 / cured.mass.penetration_depth_mm)]
    if aim.is_side:
        rules = load_rulebook()
        enamel = rules.value("light.enamel_attenuation_per_mm")
        dentin = rules.value("light.dentin_attenuation_per_mm")
        inner = shell_solid(worked.cavity.tooth, rules, "dentin").solid
        media += [(skin(tooth - inner).corners, enamel), (skin(tooth ^ inner).corners, dentin)]
    blockers = [*metal, *beside] if aim.is_side else [tooth, *metal, *beside]
    walls = np.concatenate([skin(s).corners for s in blockers])
    return sampled_mw_cm2(point, tip, walls, media, 120, 180)
