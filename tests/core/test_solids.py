"""Solids, rays, measures and sections against shapes whose answer is known."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from mallet.cavity.band import band_solid
from mallet.cavity.crowns import shell_solid
from mallet.cavity.facets import upright_spans
from mallet.cavity.measures import finely, least_width_mm, longest_vertical_mm
from mallet.cavity.rays import Scene
from mallet.cavity.sections import area_mm2, crosswise_section, from_above, lengthwise_section, level_section
from mallet.cavity.solids import below, frustum, half_space, skin, triangles_of
from mallet.rulebook import Rulebook
from mallet.tooth.crown import loft_crown
from mallet.tooth.notation import ToothName

UP = np.array([[0.0, 0.0, 1.0]])


@given(
    x=st.floats(-2, 2), y=st.floats(-2, 2), z=st.floats(-2, 2),
    nx=st.floats(-1, 1), ny=st.floats(-1, 1), nz=st.floats(0.1, 1),
)  # fmt: skip
@settings(max_examples=50, deadline=None)
def test_a_half_space_splits_without_loss(
    x: float, y: float, z: float, nx: float, ny: float, nz: float
) -> None:
    cube = Manifold.cube([3, 4, 5], True)
    inside, outside = cube.split(half_space(np.array([x, y, z]), np.array([nx, ny, nz])).solid)
    assert inside.volume() + outside.volume() == pytest.approx(60, rel=1e-9)
    normal = np.array([nx, ny, nz]) / math.sqrt(nx**2 + ny**2 + nz**2)
    for part, sign in ((inside, 1), (outside, -1)):
        if not part.is_empty():
            corners = np.asarray(part.to_mesh64().vert_properties)[:, :3]
            assert (sign * (corners - [x, y, z]) @ normal <= 1e-6).all()


def test_tags_survive_many_cuts() -> None:
    """Each face keeps the tag of the solid that it came from, through a chain of splits."""
    box = frustum((0, 4, 0, 3), 0.0, 6.0, (0.05, 0.05, 0.05, 0.05))
    rest, known = box.solid, {box.tag}
    volume = 0.0
    for i in range(1, 12):
        cutter = below(0.5 * i + 0.013)
        known.add(cutter.tag)
        piece, rest = rest.split(cutter.solid)
        volume += piece.volume()
        assert set(skin(piece).tags.tolist()) <= known
        assert box.tag in skin(piece).tags
    assert volume + rest.volume() == pytest.approx(box.solid.volume(), rel=1e-10)


def test_a_frustum_that_closes_upward_is_refused_as_no_solid() -> None:
    with pytest.raises(ValueError, match="not a closed solid"):
        frustum((0, 0, 0, 0), 0.0, 1.0, (0, 0, 0, 0))


def test_skin_has_outward_normals_and_the_whole_surface() -> None:
    sphere = Manifold.sphere(2.0, 64)
    faces = skin(sphere)
    assert faces.areas.sum() == pytest.approx(sphere.surface_area(), rel=1e-9)
    assert ((faces.centres * faces.normals).sum(axis=1) > 0).all()
    assert np.linalg.norm(faces.normals, axis=1) == pytest.approx(1.0)


@pytest.mark.parametrize("edge", [0.9, 0.5, 0.2])
def test_finer_faces_cover_the_same_surface(edge: float) -> None:
    faces = skin(Manifold.cube([1, 2, 3]))
    fine = finely(faces, edge)
    sides = np.linalg.norm(fine.corners - np.roll(fine.corners, -1, axis=1), axis=2)
    assert sides.max() <= edge
    assert fine.areas.sum() == pytest.approx(22.0, rel=1e-9)
    assert set(fine.tags.tolist()) == set(faces.tags.tolist())
    cross = np.cross(fine.corners[:, 1] - fine.corners[:, 0], fine.corners[:, 2] - fine.corners[:, 0])
    assert ((cross * fine.normals).sum(axis=1) > 0).all()


class TestScene:
    def test_inside_and_outside_of_a_hollow_block(self) -> None:
        hollow = Manifold.cube([4, 4, 4], True) - Manifold.cube([2, 2, 2], True)
        points = np.array([[1.5, 0, 0], [0, 0, 0], [3, 0, 0], [0, 0, -1.5], [0, 0, -3.0]])
        assert Scene(hollow).contains(points).tolist() == [True, False, False, True, False]

    def test_an_empty_scene_holds_nothing(self) -> None:
        nothing, starts = Scene(), np.zeros((2, 3))
        assert not nothing.contains(starts).any()
        assert np.isinf(nothing.first_hit(starts, np.repeat(UP, 2, axis=0))).all()


class TestUprightSpans:
    def test_every_span_of_a_hollow_block_is_told(self) -> None:
        hollow = triangles_of(Manifold.cube([4, 4, 4], True) - Manifold.cube([2, 2, 2], True))
        begins, ends, of = upright_spans(hollow, np.array([[0.1, 0.2], [1.5, 0.2], [0, 3]]))
        assert begins == pytest.approx([-2, 1, -2])
        assert ends == pytest.approx([-1, 2, 2])
        assert of.tolist() == [0, 0, 1]

    def test_a_line_along_edges_and_corners_enters_as_often_as_it_leaves(self) -> None:
        """Both faces at an edge, or all at a corner, share one crossing: straight up through the
        diagonals, edges and corners of a cube's faces the way inside is all or nothing."""
        cube = triangles_of(Manifold.cube([4, 4, 4], True))
        for x, y in np.stack(np.meshgrid(*[np.linspace(-2, 2, 9)] * 2), axis=-1).reshape(-1, 2):
            begins, ends, _ = upright_spans(cube, np.array([[x, y]]))
            assert (ends - begins).tolist() in ([], [4.0])
            assert len(begins) == 1 or 2 in (abs(x), abs(y))

    def test_lines_meet_what_rays_meet(self) -> None:
        """Against rays through the tree of triangles, an independent walk."""
        draw = np.random.default_rng(5)
        solid = Manifold.sphere(3.0, 32) - Manifold.cube([2, 6, 2], True).rotate((10, 20, 30))
        columns = draw.uniform(-3, 3, (200, 2))
        begins, ends, _ = upright_spans(triangles_of(solid), columns)
        heights = np.concatenate([begins, ends])
        from_below = np.column_stack([columns, np.full(200, -5.0)])
        first = Scene(solid).first_hit(from_below, np.repeat(UP, 200, axis=0))
        assert len(begins) > np.isfinite(first).sum() > 100
        assert np.isclose(heights[:, None], first[np.isfinite(first)] - 5.0).any(axis=0).all()

    def test_of_nothing_there_is_none(self) -> None:
        assert len(upright_spans(np.empty((0, 3, 3)), np.zeros((2, 2)))[0]) == 0


@given(a=st.floats(0.5, 5), b=st.floats(0.5, 5), c=st.floats(0.5, 5), turn=st.floats(0, 90))
@settings(max_examples=40, deadline=None)
def test_least_width_of_a_turned_block_is_its_shortest_side(
    a: float, b: float, c: float, turn: float
) -> None:
    block = Manifold.cube([a, b, c]).rotate((0, turn, turn / 2))
    assert least_width_mm(block) == pytest.approx(min(a, b, c), rel=1e-3)


@given(h=st.floats(0.5, 4), lean=st.floats(0, 0.8))
@settings(max_examples=40, deadline=None)
def test_longest_vertical_way_of_a_leaning_wall_is_set_by_its_thickness(h: float, lean: float) -> None:
    """A sheet 1 mm thick along x that leans by a slope s stands over a point for at most 1/s mm."""
    sheet = Manifold.cube([1, 3, h]).transform([[1, 0, lean, 0], [0, 1, 0, 0], [0, 0, 1, 0]])
    expected = min(h, 1 / lean) if lean > 1e-6 else h
    assert longest_vertical_mm(sheet) == pytest.approx(expected, abs=0.03 + 0.12 * (lean * h > 0.9))


class TestSections:
    def test_a_ring_has_a_hole(self) -> None:
        ring = Manifold.cylinder(2, 3, 3, 128) - Manifold.cylinder(4, 1, 1, 128).translate([0, 0, -1])
        rings = level_section(ring, 1.0)
        assert len(rings) == 2
        assert area_mm2(rings) == pytest.approx(math.pi * 8, rel=2e-3)

    def test_three_directions_of_one_block(self) -> None:
        block = Manifold.cube([2, 3, 4]).translate([10, 20, 30])
        for cut, at, area, low, high in (
            (lengthwise_section, 21, 8, [10, 30], [12, 34]),
            (crosswise_section, 11, 12, [20, 30], [23, 34]),
            (level_section, 31, 6, [10, 20], [12, 23]),
        ):
            (ring,) = cut(block, at)
            assert area_mm2([ring]) == pytest.approx(area)
            assert np.min(ring, axis=0) == pytest.approx(low)
            assert np.max(ring, axis=0) == pytest.approx(high)
            assert cut(block, at + 50) == []
        assert area_mm2(from_above(block)) == pytest.approx(6)

    def test_from_above_sees_the_widest_outline(self) -> None:
        cone = Manifold.cylinder(3, 1, 2, 256)
        assert area_mm2(from_above(cone)) == pytest.approx(math.pi * 4, rel=1e-3)


@pytest.mark.parametrize("tooth", [ToothName(3, 6), ToothName(1, 5), ToothName(2, 7)], ids=lambda t: t.iso)
@pytest.mark.parametrize("side", ["mesial", "distal"])
def test_a_band_hugs_the_tooth_and_is_as_thick_as_said(tooth: ToothName, side: str, book: Rulebook) -> None:
    barrel = loft_crown(tooth, book, "barrel")
    thin, thick = (band_solid(barrel, side, 0.5, 6.5, t).solid for t in (0.04, 0.08))
    outer = shell_solid(tooth, book).solid
    assert (thin ^ outer).volume() < 0.02 * thin.volume()
    assert thick.volume() == pytest.approx(2 * thin.volume(), rel=0.03)
    assert thin.volume() == pytest.approx(0.04 * thin.surface_area() / 2, rel=0.06)
    x0, _, z0, x1, _, z1 = thin.bounding_box()
    assert (z0, z1) == pytest.approx((0.5, 6.5))
    assert (x0 > 0) if side == "mesial" else (x1 < 0)
