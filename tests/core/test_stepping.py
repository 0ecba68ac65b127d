"""The stepping path over any outline: it covers its ground, keeps within its walls, overlaps by half a nib both ways."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import CrossSection

from mallet.cavity.access import ACCESS
from mallet.cavity.gold_pit import outline_of, tightest_mm
from mallet.condensing.stepping import stepping_path
from mallet.terms.parts import GoldPit

# A nib reaches beyond a wall by a tenth of it.
CLEAR_SHARE = 0.1


def polygon_of(area: CrossSection) -> shapely.Polygon:
    rings = [shapely.Polygon(ring) for ring in area.to_polygons()]
    whole = shapely.Polygon()
    for ring in rings:
        whole = whole.symmetric_difference(ring.buffer(0))
    return whole


@st.composite
def grounds(draw: st.DrawFn) -> tuple[CrossSection, CrossSection, float, float]:
    """Return a ground, the outline that it lies in, a nib that fits the tightest curve, and which way is up."""
    kind = draw(st.sampled_from(["oval", "teardrop", "trapezoid"]))
    width, height = draw(st.floats(1.0, 3.0)), draw(st.floats(1.0, 3.0))
    face = draw(st.sampled_from(["facial", "lingual"]))
    part = GoldPit(kind="gold_pit", face=face, outline=kind, width_mm=width, height_mm=height)
    outline = outline_of(part, ACCESS[face])
    nib = min(draw(st.sampled_from([0.5, 0.6, 0.75, 1.0])), 1.8 * tightest_mm(part))
    section = outline.section
    x0, y0, x1, y1 = section.bounds()
    part_of = draw(st.sampled_from(["all", "lower", "upper", "ring", "middle"]))
    share = draw(st.floats(0.25, 0.7))
    cut = CrossSection.square((x1 - x0, share * (y1 - y0))).translate((x0, y0))
    inner = section.offset(-1.2 * nib)
    ground = {
        "all": section, "lower": section ^ cut, "upper": section - cut,
        "ring": section - inner, "middle": section if inner.is_empty() else inner,
    }[part_of]  # fmt: skip
    return ground, section, nib, outline.up


@settings(max_examples=80, deadline=None)
@given(grounds())
def test_it_covers_its_ground_within_the_walls(told: tuple[CrossSection, CrossSection, float, float]) -> None:
    """Another library's areas: every point lies within half a nib of a step's middle; no step beyond a wall by more than its
    clearance."""
    ground, outline, nib, up = told
    steps = stepping_path(ground, outline, nib, CLEAR_SHARE * nib, up)
    assert len(steps)
    covered = shapely.union_all(shapely.buffer(shapely.points(steps), nib / 2, quad_segs=32))
    left = polygon_of(ground).difference(covered)
    # At the tip of a narrow curve two prints may part before they meet the wall: no bare spot 0.02 mm wide.
    assert left.buffer(-0.01).is_empty
    assert covered.difference(polygon_of(outline).buffer(CLEAR_SHARE * nib + 0.004)).area < 1e-6


@settings(max_examples=40, deadline=None)
@given(grounds())
def test_each_step_overlaps_its_neighbors_by_half_a_nib(
    told: tuple[CrossSection, CrossSection, float, float],
) -> None:
    """Each step overlaps at least half a nib (textbooks of direct gold, from memory): no step without another within half a
    nib, and in a row, and from row to row, no more than that."""
    ground, outline, nib, up = told
    steps = stepping_path(ground, outline, nib, CLEAR_SHARE * nib, up)
    if len(steps) < 2:
        return
    apart = np.linalg.norm(steps[:, None] - steps[None], axis=2)
    np.fill_diagonal(apart, np.inf)
    assert apart.min(axis=1).max() <= nib / 2 + 1e-6


def test_a_nib_wider_than_the_outline_finds_no_place() -> None:
    assert len(stepping_path(CrossSection.circle(0.3), CrossSection.circle(0.3), 1.0, 0.1, 1.0)) == 0


@pytest.mark.parametrize("nib", [0.5, 0.75, 1.0])
def test_their_number_is_that_of_circles_half_a_nib_apart(nib: float) -> None:
    """A wide ground takes about 4 A / d^2 steps: each has d^2/4 to itself."""
    area = CrossSection.square((12.0, 12.0))
    count = len(stepping_path(area, area, nib, CLEAR_SHARE * nib, 1.0))
    assert count == pytest.approx(4 * 144 / nib**2, rel=0.12)
    assert count > math.pi
