"""What can be measured on a solid: faces by what they touch, straight lengths, least width."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.rays import Scene, contains_any
from mallet.cavity.solids import Skin, joined, skin, triangles_of

Floats = NDArray[np.float64]
EDGE_MM = 1.0
PROBE_MM = 0.02
COLUMN_MM = 0.4
# How far to mesial or distal a face looks that a band stands against.
SIDEWARD = 0.35
# A band that stands farther off a face does not touch it.
OFF_BAND_MM = 0.1


@dataclass(frozen=True)
class Contacts:
    """The faces of an increment by what they touch: each a skin of small triangles."""

    tooth: Skin
    band: Skin
    increment: Skin
    air: Skin

    def areas_mm2(self) -> dict[str, float]:
        return {
            "tooth": self.tooth.area_mm2,
            "band": self.band.area_mm2,
            "increment": self.increment.area_mm2,
            "air": self.air.area_mm2,
        }

    def c_factor(self) -> float:
        """Return bonded over free area (Feilzer, de Gee, Davidson 1987); a band is not bonded."""
        areas = self.areas_mm2()
        return (areas["tooth"] + areas["increment"]) / max(areas["air"] + areas["band"], 1e-9)


def contacts_of(
    solid: Manifold,
    tooth_tags: set[int],
    outer_tag: int,
    banded: Scene,
    placed: Sequence[Scene],
    is_held_behind: bool = False,
    is_in_form: bool = False,
) -> Contacts:
    """Return what each face of an increment touches.

    `banded` are the bands, which a face touches that has one right before it; `placed` are scenes of earlier increments.
    Held behind, what
    turns away from the light on the outside lies against an index or a strip, and counts as banded; in a form all
    of the outside does.
    """
    whole = skin(solid)
    # What lies open over the cusps bears on nothing: no need to cut it.
    is_open = (whole.tags == outer_tag) & (np.abs(whole.normals[:, 0]) <= SIDEWARD)
    if is_held_behind:
        is_open &= whole.normals[:, 2] >= -SIDEWARD
    is_open &= not is_in_form
    faces = joined([finely(whole.where(~is_open), EDGE_MM), whole.where(is_open)])
    on_tooth = np.isin(faces.tags, list(tooth_tags))
    on_outside = faces.tags == outer_tag
    on_band = np.zeros(len(faces.areas), dtype=np.bool_)
    aside = on_outside & (np.abs(faces.normals[:, 0]) > SIDEWARD)
    on_band[aside] = banded.first_hit(faces.centres[aside], faces.normals[aside]) <= OFF_BAND_MM
    if is_held_behind:
        on_band |= on_outside & (faces.normals[:, 2] < -SIDEWARD)
    if is_in_form:
        on_band |= on_outside
    cut = ~on_tooth & ~on_outside
    on_earlier = np.zeros_like(cut)
    beyond = faces.centres[cut] + PROBE_MM * faces.normals[cut]
    on_earlier[cut] = contains_any(tuple(placed), beyond)
    air = ~on_tooth & ~on_band & ~on_earlier
    return Contacts(*(faces.where(k) for k in (on_tooth, on_band, on_earlier, air)))


def finely(faces: Skin, edge_mm: float) -> Skin:
    """Return the same faces cut until no edge is longer than a length."""
    from mallet.cavity.facets import halved, normals_and_areas

    out, of = halved(faces.corners, edge_mm)
    return Skin(out, faces.normals[of], normals_and_areas(out)[1], faces.tags[of])


@lru_cache(maxsize=64)
def longest_vertical_mm(solid: Manifold) -> float:
    """Return the longest straight vertical way inside a solid, in mm."""
    low, high = vertical_spans_mm(solid)
    return float((high - low).max(initial=0.0))


def longest_along_mm(solid: Manifold, frame: Floats) -> float:
    """Return the longest straight way inside a solid along the last row of a right-handed frame (3, 3)."""
    return longest_vertical_mm(solid.transform(np.column_stack([frame, np.zeros(3)])))


def vertical_spans_mm(solid: Manifold) -> tuple[Floats, Floats]:
    """Return where straight vertical ways inside a solid begin and end, in mm: over a grid and its
    corners."""
    from mallet.cavity.facets import upright_spans

    mesh = solid.to_mesh64()
    vertices = np.asarray(mesh.vert_properties)[:, :3]
    x0, y0, _, x1, y1, _ = solid.bounding_box()
    xs = np.arange(x0 + COLUMN_MM / 2, x1, COLUMN_MM)
    ys = np.arange(y0 + COLUMN_MM / 2, y1, COLUMN_MM)
    grid = np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=-1).reshape(-1, 2)
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    near_corners = vertices[:, :2] + 1e-3 * (middle - vertices[:, :2])
    triangles = vertices[np.asarray(mesh.tri_verts).astype(np.int64)]
    begins, ends, _ = upright_spans(triangles, np.concatenate([grid, near_corners]))
    return begins, ends


def topmost_mm(solid: Manifold, places: Floats) -> Floats:
    """Return the lowest and the highest height (N, 2) of what a solid has topmost over places (N, 2), in mm;
    NaN where it has nothing."""
    from mallet.cavity.facets import upright_spans

    begins, ends, of = upright_spans(triangles_of(solid), places)
    top = np.full((len(places), 2), np.nan)
    # From below, so that the last one stays.
    top[of] = np.column_stack([begins, ends])
    return top


def vertical_at_mm(solid: Manifold, x_mm: float, y_mm: float) -> tuple[float, float]:
    """Return the lowest and the highest height of what a solid has topmost over a place, in mm; NaN where it has
    nothing."""
    low, high = topmost_mm(solid, np.array([[x_mm, y_mm]]))[0]
    return float(low), float(high)


@lru_cache(maxsize=64)
def gap_mm(one: Manifold, other: Manifold, searches_mm: tuple[float, ...]) -> float:
    """Return the distance between two solids, at most as far as the last search goes: near by first, since what is
    farther takes longer."""
    for within in searches_mm:
        gap = one.min_gap(other, within)
        if gap < within:
            break
    return float(gap)


def least_width_mm(solid: Manifold) -> float:
    """Return the least distance of two parallel planes between which a solid fits.

    Over the face normals of its convex hull; the exact least may be slightly smaller where two
    edges, not a face, bear the planes.
    """
    from mallet.cavity.facets import least_extent

    hull = solid.hull()
    return least_extent(np.asarray(hull.to_mesh64().vert_properties)[:, :3], skin(hull).normals)
