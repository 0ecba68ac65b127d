"""What would hold: sets that are enough, each site re-measured on exported solids by other libraries."""

import io
import itertools
import math
from typing import Any

import pytest
import trimesh
from scipy.spatial import cKDTree

from mallet.plan import Worked
from mallet.rulebook import load_rulebook
from mallet.studies.designs import what_would_hold
from mallet.studies.shapes import shape_file
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.tooth import loft_crown, read_tooth
from mallet.worked import read_worked
from tests.core.planned import work
from tests.core.test_amalgam import EXAMPLE, box, occlusal, told

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
    sets = [design.parts for design in what_would_hold(read_case(case))]
    first = next(parts for parts in sets if parts[0]["kind"] != "pulp_chamber")
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


@pytest.mark.parametrize("code", ["16", "24"])
def test_a_root_canal_treated_tooth_is_held_by_its_pulp_chamber_before_sound_tooth_is_cut(code: str) -> None:
    """2 to 4 mm into its canals (Nayyar, Walton, Leonard 1980, from memory); its volume by formula and by another library."""
    cusps = list(loft_crown(read_tooth(code), load_rulebook()).cusps)
    size = (2.0, 3.0, 3.0, 1.3) if code == "24" else (3.0, 6.0, 3.5, 1.5)
    parts = [
        occlusal(2.5, size[0], size[1]),
        box("mesial", 4.5, size[2], size[3]),
        box("distal", 4.5, size[2], size[3]),
        {"kind": "cusp_reduction", "cusps": cusps, "tip_mm": 2.2, "groove_mm": 2.0},
    ]
    case = told(**{**ROOT_TREATED, "tooth__code": code, "adjacent": {}, "preparation__parts": parts})
    design = what_would_hold(read_case(case))[0]
    (chamber,) = design.parts
    assert chamber["kind"] == "pulp_chamber"
    case["preparation"]["parts"] = [*parts, chamber]
    done = work(read_case(case))
    (held,) = (c for c in done.plan.checks if c.topic == "prepare.retention")
    (wall,) = (c for c in done.plan.checks if c.topic == "prepare.pulp_chamber.wall")
    assert (held.verdict, wall.verdict) == ("pass", "pass")
    exported = io.BytesIO(shape_file(done, "hold.4", "stl"))
    taken = trimesh.load_mesh(exported, file_type="stl")
    length, width, corner = chamber["length_mm"], chamber["width_mm"], (4 - math.pi) * 0.5**2
    by_hand = (length * width - corner) * chamber["depth_mm"]
    by_hand += len(chamber["canals"]) * math.pi / 4 * chamber["canal_depth_mm"]
    assert taken.volume == pytest.approx(by_hand, rel=0.01)
    zones = {one.id: one.volume_mm3 for one in done.plan.increments}
    assert zones["chamber"] + zones["hollows"] == pytest.approx(by_hand, rel=0.01)
    assert wall.measured <= 2.0 or apart_mm(cloud(done, "hold.4"), cloud(done, "before")) >= 1.0


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        (
            {"tooth__vitality": "vital"},
            r"parts\[2\]\.kind: got 'pulp_chamber', allowed a pulp chamber only of a root",
        ),
        (
            {"chamber": {"canals": ["facial"]}},
            r"parts\[2\]\.canals\[0\]: got 'facial', allowed each once: mesiofacial",
        ),
        (
            {"chamber": {"length_mm": 8.0, "depth_mm": 5.0}},
            r"parts\[2\]\.depth_mm: got 5\.?0?, allowed up to \d\.\d: it comes out of the root",
        ),
        (
            {"box": False},
            r"parts\[1\]\.kind: got 'pulp_chamber', allowed a pulp chamber under an occlusal box",
        ),
    ],
)
def test_a_pulp_chamber_that_cannot_be_says_what_can(changes: dict[str, Any], message: str) -> None:
    sizes = {"depth_mm": 2.5, "length_mm": 3.0, "width_mm": 2.5, "canals": ["mesiofacial"]}
    chamber = {"kind": "pulp_chamber", **sizes, **changes.pop("chamber", {})}
    has_box = changes.pop("box", True)
    parts = [*([occlusal(2.5, 3, 6)] if has_box else []), box("mesial", 4.5, 3.5, 1.5), chamber]
    told_so = {**ROOT_TREATED, "restoration__surfaces": "MO" if has_box else "M", **changes}
    with pytest.raises(InputError, match=message):
        work(read_case(told(**told_so, preparation__parts=parts)))


def test_a_pin_that_is_refused_says_the_nearest_site_that_would_do() -> None:
    """Where it says, all distances that a site decides are kept; where there is none, it says so."""
    worked = read_worked(EXAMPLE.parent / "worked" / "amalgam_pins.json")[1]
    made = work(worked)
    (first, second) = (c for c in made.plan.cautions if c.code == "amalgam.pin_site")
    assert first.text.startswith("pin MF: set it 1.8 mm lingual along the outline and 0.6 mm farther in")
    assert second.text.startswith("pin DF: set it 1.8 mm distal")
    parts = [part.model_dump() for part in worked.preparation.parts]
    assert parts[4]["kind"] == "pin_hole"
    parts[4] |= {"along_mm": -1.8, "inset_mm": parts[4]["inset_mm"] + 0.6}
    told_so = {**worked.model_dump(mode="json"), "preparation": {"parts": parts}}
    moved = work(read_case(told_so)).plan
    kept = {c.topic: c.verdict for c in moved.checks if c.topic.startswith("prepare.pin_hole.4.")}
    assert {kept[f"prepare.pin_hole.4.{name}"] for name in ("pulp", "junction", "surface", "apart")} == {
        "pass"
    }
    nowhere = work(read_worked(EXAMPLE.parent / "worked" / "amalgam_pins_refused.json")[1]).plan
    assert [c.code for c in nowhere.cautions if "pin_" in c.code] == ["amalgam.pin_nowhere"]


LINGUAL = {
    "kind": "face_box",
    "face": "lingual",
    "width_mm": 1.8,
    "axial_depth_mm": 1.5,
    "above_cej_mm": 2.0,
    "at_mm": -1.5,
}
EXTENDED: dict[str, Any] = {"tooth__code": "16", "restoration__surfaces": "OL", "adjacent": {}}


@pytest.mark.parametrize(
    ("code", "face"), [("16", "lingual"), ("27", "lingual"), ("36", "facial"), ("46", "facial")]
)
def test_a_box_in_a_face_is_cut_as_it_was_measured(code: str, face: str) -> None:
    """On the exported solid: floor, width and depth by sections of another library; over the pulpal floor it goes on inward."""
    asked = {**EXTENDED, "tooth__code": code, "restoration__surfaces": f"O{face[0].upper()}"}
    parts = [occlusal(2.0, 1.8, 5.0), {**LINGUAL, "face": face}]
    done = work(read_case(told(**asked, preparation__parts=parts)))
    taken = trimesh.load_mesh(io.BytesIO(shape_file(done, "hold.1", "stl")), file_type="stl")
    assert taken.bounds[0][2] == pytest.approx(2.0, abs=1e-3)
    low = taken.section(plane_origin=[0, 0, 2.02], plane_normal=[0, 0, 1])
    assert low.extents[0] == pytest.approx(1.8, abs=1e-3)
    assert low.extents[1] == pytest.approx(1.5, abs=0.15)
    assert done.cavity.occlusal is not None
    over = taken.section(plane_origin=[0, 0, done.cavity.occlusal.floor_mm + 0.3], plane_normal=[0, 0, 1])
    assert over.extents[1] > low.extents[1]
    zones = {one.id for one in done.plan.increments}
    assert f"{face}.floor" in zones
    sealed = next(step for step in done.plan.steps if step.id == f"matrix.{face}.backed")
    packed = next(step for step in done.plan.steps if step.id == f"build.{face}.floor.condense")
    assert packed.start_s >= sealed.end_s


@pytest.mark.parametrize(
    ("asked", "box_in", "message"),
    [
        (
            {},
            {"above_cej_mm": 6.0},
            r"parts\[1\]\.above_cej_mm: got 6\.?0?, allowed -\d\.\d to \d\.\d: its floor lies below",
        ),
        (
            {},
            {"axial_depth_mm": 6.0},
            r"parts\[1\]\.axial_depth_mm: got 6\.?0?, allowed up to \d\.\d, the middle",
        ),
        (
            {},
            {"at_mm": 4.0, "width_mm": 4.0},
            r"parts\[1\]\.width_mm: got 4\.?0?, allowed less: the face ends",
        ),
        ({"restoration__surfaces": "O"}, {}, r"restoration\.surfaces: got 'O', allowed OL"),
    ],
)
def test_a_box_in_a_face_that_cannot_be_says_what_can(
    asked: dict[str, Any], box_in: dict[str, Any], message: str
) -> None:
    parts = [occlusal(2.0, 1.8, 5.0), {**LINGUAL, **box_in}]
    with pytest.raises(InputError, match=message):
        work(read_case(told(**{**EXTENDED, **asked}, preparation__parts=parts)))


def test_where_no_cusp_is_lost_nothing_is_wanted() -> None:
    assert what_would_hold(read_case(told())) == []
