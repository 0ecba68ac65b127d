"""What would hold: sets that are enough, each site re-measured on exported solids by other libraries."""

import io
import itertools
from typing import Any

import pytest
import trimesh
from scipy.spatial import cKDTree

from mallet.plan import Worked
from mallet.studies.designs import what_would_hold
from mallet.studies.shapes import shape_file
from mallet.terms.case import read_case
from tests.core.planned import work
from tests.core.test_amalgam import box, occlusal, told

POINTS = 30_000
# Between points on two surfaces a distance comes out longer than it is by as much as they lie apart.
COARSE_MM = 0.04
FIVE = ["mesiofacial", "distofacial", "distal", "mesiolingual", "distolingual"]
ROOT_TREATED: dict[str, Any] = {
    "tooth__code": "36",
    "tooth__vitality": "root_canal_treated",
    "restoration__surfaces": "MODFL",
    "adjacent": {"mesial": {"tooth": "35"}, "distal": {"tooth": "37"}},
}
CASES: dict[str, dict[str, Any]] = {
    "one cusp of a premolar": {
        "tooth__code": "14",
        "restoration__surfaces": "MOF",
        "adjacent": {"mesial": {"tooth": "13"}},
        "preparation__parts": [
            occlusal(2, 2, 3),
            box("mesial", 4.2, 3.2, 1.5),
            {"kind": "cusp_reduction", "cusps": ["facial"], "tip_mm": 2.2, "groove_mm": 2.0},
        ],
    },
    "all cusps of a molar": {
        **ROOT_TREATED,
        "preparation__parts": [
            occlusal(2.5, 3, 6),
            box("mesial", 4.5, 3.5, 1.5),
            box("distal", 4.5, 3.5, 1.5),
            {"kind": "cusp_reduction", "cusps": FIVE, "tip_mm": 2.2, "groove_mm": 2.0},
        ],
    },
}


def cloud(worked: Worked, name: str) -> cKDTree:
    """Return points on an exported solid's surface, by a seed."""
    mesh = trimesh.load_mesh(io.BytesIO(shape_file(worked, name, "stl")), file_type="stl")
    points, _ = trimesh.sample.sample_surface(mesh, POINTS, seed=7)
    return cKDTree(points)


def apart_mm(one: cKDTree, other: cKDTree) -> float:
    return float(one.query(other.data)[0].min())


@pytest.mark.parametrize("name", CASES)
def test_the_least_invasive_comes_first_and_every_site_keeps_its_distances(name: str) -> None:
    """On the exported solids; what is cut already stays, and with it nothing more is wanted."""
    case = told(**CASES[name])
    first = what_would_hold(read_case(case))[0].parts
    boxes = [part["side"] for part in case["preparation"]["parts"] if part["kind"] == "proximal_box"]
    assert [part["side"] for part in first if part["kind"] == "retention_groove"] == boxes
    assert "pin_hole" not in {part["kind"] for part in first}
    parts = [*case["preparation"]["parts"], *first]
    done = work(read_case({**case, "preparation": {**case["preparation"], "parts": parts}}))
    assert what_would_hold(done.case) == []
    (check,) = (c for c in done.plan.checks if c.topic == "prepare.retention")
    assert check.verdict == "pass"
    outside = cloud(done, "before")
    holds = {one.index: one for one in done.cavity.features}
    clouds = {index: cloud(done, f"hold.{index}") for index in holds}
    for index, one in holds.items():
        kept = {
            c.topic.rpartition(".")[2]: c
            for c in done.plan.checks
            if c.topic.startswith(f"prepare.{one.kind}.{index}.")
        }
        assert all(c.verdict == "pass" for c in kept.values()), (one.where, kept)
        if "surface" in kept:
            measured = apart_mm(clouds[index], outside)
            assert measured >= kept["surface"].needed - 0.01
            # Farther off than it looks the heart says only that it is as far as that.
            assert measured == pytest.approx(kept["surface"].measured, abs=COARSE_MM) or measured > 2
        if done.cavity.pulp:
            assert apart_mm(clouds[index], cloud(done, "pulp")) >= kept["pulp"].needed - 0.01
    for one, other in itertools.combinations(clouds.values(), 2):
        assert apart_mm(one, other) >= 1.0 - COARSE_MM


def test_where_no_cusp_is_lost_nothing_is_wanted() -> None:
    assert what_would_hold(read_case(told())) == []
