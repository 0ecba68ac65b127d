"""Developmental grooves of the crown, what covers them, and walls that each open by an angle of their own."""

import itertools
import math
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from mallet.cavity.boxes import box_tool, occlusal_tool
from mallet.cavity.crowns import shell_solid
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.parts import OcclusalBox, ProximalBox
from mallet.terms.plan import Check
from mallet.tooth import loft_crown, read_tooth
from tests.core.planned import work
from tests.core.test_amalgam import box, occlusal, told

BOOK = load_rulebook()
POSTERIOR = ["14", "16", "26", "34", "35", "36", "37", "54", "55", "74", "75"]


def of(solid: Manifold) -> trimesh.Trimesh:
    mesh = solid.to_mesh64()
    return trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts)


def top_mm(mesh: trimesh.Trimesh, places: np.ndarray) -> np.ndarray:
    """Return the highest point of a mesh over each place, by rays of another library."""
    starts = np.column_stack([places, np.full(len(places), 30.0)])
    hits, rays, _ = mesh.ray.intersects_location(starts, np.tile([0.0, 0.0, -1.0], (len(places), 1)))
    top = np.full(len(places), -np.inf)
    np.maximum.at(top, rays, hits[:, 2])
    return top


def column_mm(mesh: trimesh.Trimesh, place: np.ndarray) -> np.ndarray:
    """Return the heights at which a ray of another library passes in and out of a mesh over a place."""
    start = [[place[0] + 1e-4, place[1] + 2e-4, 30.0]]
    return np.asarray(mesh.ray.intersects_location(start, [[0.0, 0.0, -1.0]])[0][:, 2])


@pytest.mark.parametrize("code", POSTERIOR)
def test_a_groove_parts_every_two_cusps_of_a_face_and_lies_below_them(code: str) -> None:
    """Developmental grooves run between cusps (Nelson and Ash, from memory); where is our own estimate."""
    tooth = read_tooth(code)
    crown, surface = loft_crown(tooth, BOOK), of(shell_solid(tooth, BOOK).solid)
    for way in (1, -1):
        row = sorted((x, y, z) for x, y, z in crown.cusps.values() if y * way > 0)
        lines = {name: line for name, line in crown.grooves.items() if line[-1, 1] * way > 0}
        assert len(lines) == len(row) - 1
        for near, far in itertools.pairwise(row):
            (line,) = (line for line in lines.values() if near[0] < line[0, 0] < far[0])
            line = line[np.abs(line[:, 1]) <= min(abs(near[1]), abs(far[1]))]
            heights = top_mm(surface, line + np.array([1e-4, 2e-4]))
            assert heights.max() < min(near[2], far[2])
            for cusp in (near, far):
                beside = top_mm(
                    surface, np.column_stack([np.full(len(line), cusp[0] + 1e-4), line[:, 1] + 2e-4])
                )
                assert heights.mean() < beside.mean() - 0.15


def test_cover_is_held_in_every_groove_that_a_reduction_crosses() -> None:
    """Another library finds the same thinnest cover along the facial groove of a molar covered all over."""
    cusps = ["mesiofacial", "distofacial", "mesiolingual", "distolingual"]
    parts = [
        occlusal(2.0, 0.8, 1.0),
        {"kind": "cusp_reduction", "cusps": cusps, "tip_mm": 2.0, "groove_mm": 1.2},
    ]
    done = work(read_case(molar(parts, "FOL")))
    (reduction,) = done.cavity.reductions
    assert set(reduction.grooves) == {"central", "facial", "lingual"}
    filling = of(done.cavity.filling)
    over = [np.ptp(column_mm(filling, place)) for line in reduction.grooves.values() for place in line]
    least = check_of(done.plan.checks, "prepare.cover.least")
    assert least.measured == pytest.approx(min(over), abs=0.02)
    assert least.verdict == "fail"
    assert "groove" in least.where


def test_a_typed_groove_does_not_count_over_a_box() -> None:
    cusps = ["mesiofacial", "mesiolingual"]
    covered = {"kind": "cusp_reduction", "cusps": cusps, "tip_mm": 2.0, "groove_mm": 2.0}
    small = [box("mesial", 4.0, 3.0, 1.6), covered]
    alone = check_of(work(read_case(molar(small, "MFOL"))).plan.checks, "prepare.cover.least")
    boxed = [box("mesial", 4.0, 3.0, 1.6), occlusal(2.0, 2.0, 4.0), covered]
    over = check_of(work(read_case(molar(boxed, "MFOL"))).plan.checks, "prepare.cover.least")
    assert "does not count" not in alone.where
    assert "central groove) the figure typed does not count" in over.where


def test_a_reduction_s_margin_keeps_off_the_groove_as_far_as_the_rule_says() -> None:
    covered = {"kind": "cusp_reduction", "cusps": ["mesiofacial"], "tip_mm": 2.0}
    done = work(read_case(molar([occlusal(2.0, 0.8, 1.0), covered], "FO")))
    told_by = check_of(done.plan.checks, "prepare.groove")
    (reduction,) = done.cavity.reductions
    ends = of(done.cavity.filling).vertices[:, 0].min()
    x = done.cavity.crown.grooves["facial"][0, 0]
    assert told_by.measured == pytest.approx(BOOK.value("prepare.past_groove_mm"), abs=0.03)
    assert ends == pytest.approx(x - 0.5, abs=0.02)
    assert reduction.cusps == ("mesiofacial",)


ANGLES = st.floats(-4, 12)


@settings(max_examples=25, deadline=None)
@given(ANGLES, ANGLES, ANGLES, ANGLES)
def test_each_wall_opens_by_its_own_angle(
    facial: float, lingual: float, mesial: float, distal: float
) -> None:
    """The cutter up to the given height has the volume of the formula; another library finds the walls' angles."""
    crown = loft_crown(read_tooth("36"), BOOK)
    walls = {"facial_wall_deg": facial, "lingual_wall_deg": lingual}
    ends = {"mesial_wall_deg": mesial, "distal_wall_deg": distal}
    part = OcclusalBox(kind="occlusal_box", depth_mm=2, width_mm=1.6, length_mm=4, **walls, **ends)
    tool, _ = occlusal_tool(0, part, crown, [])
    found = of(tool.cut.solid.trim_by_plane((0.0, 0.0, -1.0), -(tool.floor_mm + 2)))
    assert found.volume == pytest.approx(tool.nominal_volume_mm3, rel=1e-9)
    for axis, deg in (([0, 1], facial), ([0, -1], lingual), ([1, 0], mesial), ([-1, 0], distal)):
        out = found.face_normals[np.argmax(found.face_normals[:, :2] @ axis)]
        assert -math.degrees(math.asin(out[2])) == pytest.approx(deg, abs=1e-6)


def test_a_proximal_box_s_walls_too() -> None:
    crown = loft_crown(read_tooth("36"), BOOK)
    sizes = {"height_mm": 4, "width_mm": 3, "axial_depth_mm": 1.5}
    part = ProximalBox(
        kind="proximal_box", side="distal", **sizes, facial_wall_deg=-4, lingual_wall_deg=6, axial_wall_deg=9
    )
    solid = of(box_tool(0, part, crown).cut.solid)
    for axis, deg in (([0, 1], -4), ([0, -1], 6), ([1, 0], 9)):
        out = solid.face_normals[np.argmax(solid.face_normals[:, :2] @ axis)]
        assert -math.degrees(math.asin(out[2])) == pytest.approx(deg, abs=1e-6)


def test_walls_that_meet_are_refused_by_the_one_that_leans_in() -> None:
    parts = [{**occlusal(4.0, 0.5, 4.0, 3), "lingual_wall_deg": -9}]
    with pytest.raises(InputError) as refused:
        work(read_case(molar(parts, "O")))
    (problem,) = refused.value.problems
    assert problem.path == "preparation.parts[0].lingual_wall_deg"


@pytest.mark.parametrize(
    ("length", "own", "verdict"),
    [(5.0, {}, None), (7.0, {}, "caution"), (7.0, {"mesial_wall_deg": 5, "distal_wall_deg": 5}, "pass")],
)
def test_a_wall_under_a_thin_ridge_is_to_open(
    length: float, own: dict[str, float], verdict: str | None
) -> None:
    """Under 2.0 mm of ridge on a molar mesial and distal walls diverge (textbooks of operative dentistry, from memory);
    an ordinary box leaves more, and is not asked."""
    checks = work(read_case(molar([{**occlusal(1.8, 1.2, length), **own}], "O"))).plan.checks
    found = [check.verdict for check in checks if check.topic.startswith("prepare.amalgam_ridge.")]
    assert found == ([verdict] * 2 if verdict else [])


def molar(parts: list[dict[str, Any]], surfaces: str) -> dict[str, Any]:
    beside = {"mesial": {"tooth": "36", "contact": "tight"}, "distal": {"missing": True}}
    return told(
        tooth__code="37", preparation__parts=parts, restoration__surfaces=surfaces, adjacent=beside,
        reference_heights={}, provenance={},
    )  # fmt: skip


def check_of(checks: list[Check], topic: str) -> Check:
    return next(check for check in checks if check.topic == topic)
