"""A scanned pair: a tooth before and after cutting, as files of STL or PLY. What lies between is the cavity.

Files are in millimeters, in the tooth's frame as it is exported: mirrored for quadrants 2 and 4.
"""

from __future__ import annotations

import base64
import binascii
import io
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.solids import Tagged, tagged_solid, triangles_of
from mallet.terms.case import Scan
from mallet.terms.errors import InputError, Problem

Floats = NDArray[np.float64]
PATH = "preparation.scan"
# Millimetres across: a tooth, root and all, is neither smaller nor larger.
LEAST_MM, MOST_MM = 4.0, 40.0
MOST_TRIANGLES = 8000
# Two scans of one surface differ by as much; it counts as uncut.
SAME_MM, OUT_MM = 0.03, 0.02
CRUMB_MM3 = 0.1
# What of the tooth after cutting may lie outside the tooth before, and how much both share with the handbook's.
MOST_OUTSIDE, LEAST_SHARED = 0.02, 0.5
MERGED_DIGITS = 5


@dataclass(frozen=True)
class Pair:
    """A tooth before and after cutting, and what was cut; its faces bear the tags of the two."""

    before: Tagged
    after: Tagged
    cut: Manifold


def pair_of(scan: Scan, handbook: Manifold, mirrored: bool) -> Pair:
    """Return a scanned pair; raise InputError where a file is open, inside out, of another unit or frame."""
    pair = _read_pair(scan.before, scan.after, mirrored)
    shared = (pair.before.solid ^ handbook).volume() / min(pair.before.solid.volume(), handbook.volume())
    if shared < LEAST_SHARED:
        got = f"{100 * shared:.0f} % in common with the handbook's tooth"
        allowed = (
            "the tooth's frame: x to mesial, y to facial, z to occlusal, 0 at the cementoenamel junction"
        )
        raise _refused(f"{PATH}.before", got, allowed)
    return pair


@lru_cache(maxsize=8)
def _read_pair(before_file: str, after_file: str, mirrored: bool) -> Pair:
    before = _read(before_file, f"{PATH}.before", mirrored)
    after = _read(after_file, f"{PATH}.after", mirrored)
    outside = (after.solid - before.solid).volume() / after.solid.volume()
    if outside > MOST_OUTSIDE:
        got, allowed = f"{100 * outside:.0f} % outside the tooth before cutting", "both in one frame"
        raise _refused(f"{PATH}.after", got, allowed)
    left = Tagged(_clear_of(before.solid, after.solid, after.tag), after.tag)
    pieces = [piece for piece in (before.solid - left.solid).decompose() if piece.volume() > CRUMB_MM3]
    if not pieces:
        raise _refused(f"{PATH}.after", "the same as before", "a tooth that was cut")
    return Pair(before, left, Manifold.compose(pieces))


def _read(text: str, path: str, mirrored: bool) -> Tagged:
    """Return the solid in a file, told as base64."""
    # Half a second to load, which only files are worth.
    import trimesh

    try:
        data = base64.b64decode(text, validate=True)
        kind = "ply" if data[:3] == b"ply" else "stl"
        mesh = trimesh.load_mesh(io.BytesIO(data), file_type=kind, process=False)
    except (ValueError, KeyError, IndexError, TypeError, binascii.Error) as error:
        raise _refused(path, "what cannot be read", "a file of STL or PLY") from error
    if not len(mesh.faces):
        raise _refused(path, "no triangles", "a file of STL or PLY")
    mesh.merge_vertices(merge_tex=True, merge_norm=True, digits_vertex=MERGED_DIGITS)
    mesh.update_faces(mesh.nondegenerate_faces())
    across = float(mesh.extents.max())
    if not LEAST_MM <= across <= MOST_MM:
        allowed = f"a tooth in millimeters, {LEAST_MM:g} to {MOST_MM:g} across"
        raise _refused(path, f"{across:.3g} across", allowed)
    if not mesh.is_watertight:
        raise _refused(path, "an open surface", "a closed one")
    if mesh.volume < 0:
        raise _refused(path, "a surface turned inside out", "faces that look outward")
    vertices, faces = np.asarray(mesh.vertices), np.asarray(mesh.faces)
    if mirrored:
        vertices, faces = vertices * [-1, 1, 1], faces[:, ::-1]
    try:
        made = tagged_solid(vertices, faces)
    except ValueError as error:
        raise _refused(path, "a surface that crosses itself", "a closed, simple one") from error
    return Tagged(_coarser(made.solid), made.tag)


def _refused(path: str, got: str, allowed: str) -> InputError:
    return InputError(Problem(path, got, allowed))


def _coarser(solid: Manifold) -> Manifold:
    """Return a solid with no more triangles than planning bears."""
    by_mm = SAME_MM / 8
    while solid.num_tri() > MOST_TRIANGLES and by_mm < SAME_MM:
        by_mm *= 2
        solid = solid.simplify(by_mm)
    return solid


def _clear_of(before: Manifold, after: Manifold, tag: int) -> Manifold:
    """Return the tooth after cutting with what was not cut a hair's breadth further out, so that no film is left
    between two scans of one surface."""
    mesh = after.to_mesh64()
    vertices = np.array(mesh.vert_properties)[:, :3]
    away, normals = _nearest(triangles_of(before), vertices)
    uncut = away < SAME_MM
    vertices[uncut] += OUT_MM * normals[uncut]
    return tagged_solid(vertices, np.asarray(mesh.tri_verts).astype(np.int64), tag).solid


def _nearest(triangles: Floats, points: Floats) -> tuple[Floats, Floats]:
    """Return the distance (N,) of points from the nearest of some triangles (T, 3, 3), and the normal (N, 3) of
    that."""
    away, of = np.full(len(points), np.inf), np.zeros(len(points), dtype=np.int64)
    low, high = triangles.min(axis=1) - SAME_MM, triangles.max(axis=1) + SAME_MM
    for i, point in enumerate(points):
        # Only what could be as near as counts.
        near = np.flatnonzero(((low <= point) & (point <= high)).all(axis=1))
        if len(near):
            distances = _distances(triangles[near], point)
            at = int(distances.argmin())
            away[i], of[i] = distances[at], near[at]
    cross = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    normals = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-30)
    return away, normals[of]


def _distances(triangles: Floats, point: Floats) -> Floats:
    """Return the distance (T,) of a point from triangles (T, 3, 3): from the plane where it stands over the
    inside, else from the nearest edge."""
    a, b, c = triangles[:, 0], triangles[:, 1], triangles[:, 2]
    normal = np.cross(b - a, c - a)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    edges = []
    inside = np.ones(len(triangles), dtype=np.bool_)
    for p, q in ((a, b), (b, c), (c, a)):
        along, to = q - p, point - p
        share = np.clip((to * along).sum(1) / np.maximum((along * along).sum(1), 1e-30), 0, 1)
        edges.append(np.linalg.norm(to - share[:, None] * along, axis=1))
        inside &= (np.cross(along, to) * normal).sum(1) >= 0
    plane = np.abs(((point - a) * normal).sum(1))
    return np.asarray(np.where(inside, plane, np.min(edges, axis=0)))
