"""Ways to a lamp's disc: what is sorted into squares is what walking finds, one way at a time."""

import math
from functools import cache
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from mallet.cavity.facets import corners_of, halved
from mallet.cavity.rays import Scene, grouped
from mallet.cavity.solids import skin
from mallet.light.beam import Beam
from mallet.light.cure import body_of
from mallet.light.disc import chord_at, ray_to, view_of, way_on
from mallet.light.field import Tip, disc_of
from mallet.light.sight import is_hidden, room_for, sight_of, weighed_height
from mallet.terms.case import read_case
from mallet.tracer import blank_notes, is_blocked, weighed_length
from tests.core.conftest import first_case
from tests.core.planned import work


@cache
def at_hand() -> SimpleNamespace:
    """Return the first case's solids as light meets them."""
    worked = work(read_case(first_case()))
    blocking = (
        worked.cavity.remaining_tooth,
        *(band.solid.solid for band in worked.bands if band.is_metal),
        *(neighbour.solid for neighbour in worked.neighbours),
    )
    box = worked.cavity.filling.bounding_box()
    fillings = [cured.filling for cured in worked.lit.cured]
    return SimpleNamespace(
        skin=skin(worked.cavity.filling),
        whole=Scene(*blocking).trees,
        fronts=Scene(*blocking, seen_from=(box[:3], box[3:])).trees,
        media=grouped(tuple(filling.scene for filling in fillings)),
        weights=np.array([filling.attenuation_per_mm for filling in fillings]),
        points=np.concatenate([body_of(c.portion.solid, c.inside).points for c in worked.lit.cured]),
    )


# What runs along an edge may be told to pass on either side of it: no ray lies in a plane that the crown is built about.
OFF_PLANES = np.array([0.0013, 0.0017, 0.0])


@given(
    share=st.floats(0, 1, exclude_max=True),
    off=st.tuples(st.floats(-4, 4), st.floats(-4, 4)),
    tilt=st.floats(0, 1.3),
    turn=st.floats(0, 2 * math.pi),
    away=st.floats(0.5, 12),
    radius=st.floats(2, 6),
    squares=st.integers(1, 20),
    places=st.lists(st.tuples(st.floats(0.01, 0.99), st.floats(0.01, 0.99)), min_size=4, max_size=12),
)
@settings(max_examples=150, deadline=None)
def test_sorted_and_walked_ways_find_the_same(
    share: float,
    off: tuple[float, float],
    tilt: float,
    turn: float,
    away: float,
    radius: float,
    squares: int,
    places: list[tuple[float, float]],
) -> None:
    hand = at_hand()
    target = hand.points[int(share * len(hand.points))]
    towards = (math.sin(tilt) * math.cos(turn), math.sin(tilt) * math.sin(turn), math.cos(tilt))
    centre = target + away * np.array(towards) + np.array([*off, 0.0]) + OFF_PLANES
    disc = disc_of(Tip(tuple(map(float, centre)), Beam(radius, 1000.0, 2.0), towards))
    view = view_of(target, disc)
    if not view.is_before:
        return
    room, nothing = room_for(hand.fronts), np.empty(0)
    hiding = sight_of(hand.fronts, nothing, target, disc.axes, view, squares, room)
    room = room_for(hand.media)
    inside = sight_of(hand.media, hand.weights, target, disc.axes, view, squares, room)
    for around, ring in places:
        x, y, cosine = way_on(chord_at(view, around), ring)
        ray = ray_to(target, disc.axes, x, y, cosine)
        length = view.height / cosine
        # Whatever turns its back to the target is left out of one and in the other.
        assert is_hidden(hiding, view.height, x, y) == is_blocked(hand.whole, ray, length, blank_notes())
        walked = weighed_length(hand.media, hand.weights, ray, length, blank_notes())
        weighed = weighed_height(inside, view.height, x, y) / cosine
        assert weighed == pytest.approx(walked, abs=1e-6)


class TestFacets:
    def test_halves_keep_the_area_and_no_edge_is_long(self) -> None:
        faces = at_hand().skin
        out, of = halved(faces.corners, 0.4)
        edges = np.linalg.norm(out - out[:, [1, 2, 0]], axis=2)
        assert edges.max() <= 0.4 + 1e-9
        areas = np.linalg.norm(np.cross(out[:, 1] - out[:, 0], out[:, 2] - out[:, 0]), axis=1) / 2
        assert np.bincount(of, areas, minlength=len(faces.areas)) == pytest.approx(faces.areas)
        normals = np.cross(out[:, 1] - out[:, 0], out[:, 2] - out[:, 0])
        assert ((normals * faces.normals[of]).sum(axis=1) > 0).all()

    def test_a_corner_steps_off_every_face_that_meets_there(self) -> None:
        """In a cube's corner three faces meet: the step is one off each, damped a little."""
        block = skin(Manifold.cube([2.0, 2.0, 2.0]))
        at, steps, spread = corners_of(block.corners, block.normals, len(block.areas), 1e-9)
        assert len(at) == 8
        # Outward: a unit along each axis.
        assert np.abs(steps) == pytest.approx(np.ones((8, 3)), abs=1e-6)
        assert (np.sign(steps) == np.sign(at - at.mean(axis=0))).all()
        assert (spread > 0.02).all()
        top = block.where(block.normals[:, 2] > 0.5)
        _, flat, none = corners_of(top.corners, top.normals, len(top.areas), 0.02)
        assert none == pytest.approx(0.0)
        assert flat[:, 2] == pytest.approx(1 / 1.02)
