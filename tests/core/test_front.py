"""Front teeth: a cavity beside the contact, a broken edge, and the neighbour across the midline."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from mallet.cavity.crowns import shell_solid
from mallet.cavity.neighbours import place_neighbours
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.cavity.sections import area_mm2, level_section
from mallet.cavity.solids import skin
from mallet.drawing import draw
from mallet.plan import Worked
from mallet.rulebook import load_rulebook
from mallet.studies.light_lines import light_lines
from mallet.studies.shapes import solids_of
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.upgrade import path_in_1
from mallet.tooth.notation import read_tooth
from tests.core.conftest import first_case
from tests.core.planned import work
from tests.core.sampler import brute_force
from tests.core.test_neck import cavity_of, planned

EXAMPLES = Path(__file__).parents[2] / "examples"
BESIDE = {
    "kind": "proximal_cavity",
    "side": "mesial",
    "face": "lingual",
    "height_mm": 1.6,
    "depth_mm": 1.6,
    "reach_mm": 1.2,
}
IN_2 = {**{name: size for name, size in BESIDE.items() if name != "reach_mm"}, "faciolingual_mm": 1.2}
CORNER = {"kind": "incisal_fracture", "mesial_mm": 4.0, "distal_mm": -2.0}


def front_case(part: dict[str, Any], surfaces: str, code: str = "11", **school: str) -> dict[str, Any]:
    return {
        **first_case(),
        "tooth": {"code": code},
        "restoration": {"material": "composite", "surfaces": surfaces},
        "preparation": {"remaining_dentin_mm": 1.5, "parts": [part]},
        "neighbours": {},
        "school": school,
        "provenance": {},
    }


@pytest.fixture(scope="module")
def beside() -> Worked:
    return work(read_case(front_case(BESIDE, "ML")))


@pytest.fixture(scope="module")
def corner() -> Worked:
    return work(read_case(front_case(CORNER, "MI", layering="wall_first")))


def test_a_cavity_beside_the_contact_is_where_it_was_measured(beside: Worked) -> None:
    cavity = beside.cavity
    z = cavity.crown.contact_mm["mesial"]
    box = cavity.access.in_tooth(cavity.filling).bounding_box()
    assert (box[2] + box[5]) / 2 == pytest.approx(z, abs=0.05)
    surface = cavity.crown.outer_x_mm("mesial", z)
    assert box[0] == pytest.approx(surface - BESIDE["depth_mm"], abs=0.1)
    assert box[3] == pytest.approx(surface, abs=0.02)
    # A straight box of these measures, opened by 3 degrees towards the tongue: by the textbook formula of a frustum.
    k, d, w, h = np.tan(np.radians(3)), 1.6, 1.6, 1.2
    top, bottom = (d + k * h) * (w + 2 * k * h), d * w
    assert cavity.tools[0].nominal_volume_mm3 == pytest.approx(
        h / 6 * (top + bottom + 4 * (d + k * h / 2) * (w + k * h))
    )
    check = next(c for c in beside.plan.checks if c.topic == "prepare.front_wall")
    assert check.title == "Facial wall left"
    assert check.place
    upright = cavity.access.in_tooth(cavity.outer.solid)
    (ring,) = level_section(upright, check.place.z)
    facial = ring[ring[:, 1] > check.place.y]
    order = np.argsort(facial[:, 0])
    surface = np.interp(check.place.x, facial[order, 0], facial[order, 1])
    assert check.measured == pytest.approx(surface - check.place.y, abs=0.02)


@settings(max_examples=30, deadline=None)
@given(
    code=st.sampled_from(["11", "12", "13", "31", "33", "42"]),
    side=st.sampled_from(["mesial", "distal"]),
    face=st.sampled_from(["lingual", "facial"]),
    height=st.floats(0.8, 2.5),
    depth=st.floats(0.5, 1.6),
    reach=st.floats(0.5, 2.0),
)
def test_nothing_of_it_lies_outside_the_tooth(
    code: str, side: str, face: str, height: float, depth: float, reach: float
) -> None:
    part = {**BESIDE, "side": side, "face": face, "height_mm": height, "depth_mm": depth, "reach_mm": reach}
    try:
        cavity = cavity_of(front_case(part, side[0].upper(), code))
    except InputError:
        assume(False)
    holds_together(cavity)


@settings(max_examples=30, deadline=None)
@given(
    code=st.sampled_from(["11", "12", "13", "31", "33", "42"]),
    mesial=st.integers(-30, 40).map(lambda tenths: tenths / 10),
    distal=st.integers(-30, 40).map(lambda tenths: tenths / 10),
    fall=st.floats(-30.0, 30.0),
)
def test_nothing_of_a_broken_edge_is_lost(code: str, mesial: float, distal: float, fall: float) -> None:
    part = {"kind": "incisal_fracture", "mesial_mm": mesial, "distal_mm": distal, "facial_fall_deg": fall}
    surfaces = "".join(s for s, lost in (("M", mesial), ("I", 1), ("D", distal)) if lost > 0)
    try:
        cavity = cavity_of(front_case(part, surfaces, code))
    except InputError:
        assume(False)
    holds_together(cavity)


def holds_together(cavity: Cavity) -> None:
    filling, outer = cavity.filling, cavity.outer.solid
    assert filling.volume() > 0
    assert filling.volume() + cavity.remaining_tooth.volume() == pytest.approx(outer.volume())
    assert (filling - outer).volume() < 1e-4
    assert set(skin(filling).tags) == {cavity.outer.tag, cavity.tools[0].cut.tag}


def test_a_level_fracture_takes_the_sum_of_its_level_sections() -> None:
    cavity = cavity_of(front_case({**CORNER, "mesial_mm": 3.0, "distal_mm": 3.0}, "MID"))
    upright = shell_solid(cavity.tooth, load_rulebook(), "outer").solid
    low, high = cavity.crown.height_mm - 3.0, upright.bounding_box()[5]
    heights = np.linspace(low, high, 401)
    areas = [area_mm2(level_section(upright, float(z))) for z in (heights[:-1] + heights[1:]) / 2]
    assert cavity.filling.volume() == pytest.approx(sum(areas) * (high - low) / 400, rel=0.002)
    leans = cavity_of(front_case(CORNER, "MI"))
    turned = leans.access.in_tooth(leans.filling)
    # The plane falls by 6 mm over the tooth's width, from 4 mm under the edge at its mesial end.
    slope, half = 6.0 / leans.crown.mesiodistal_mm, leans.crown.mesiodistal_mm / 2
    vertices = np.asarray(turned.to_mesh64().vert_properties)[:, :3]
    plane = leans.crown.height_mm - 4.0 + slope * (half - vertices[:, 0])
    assert (vertices[:, 2] > plane - 1e-6).all()


@pytest.mark.parametrize(
    ("part", "surfaces", "path"),
    [
        ({**BESIDE, "reach_mm": 3.0}, "ML", "preparation.parts[0].faciolingual_mm"),
        ({**BESIDE, "height_mm": 7.0}, "ML", "preparation.parts[0].height_mm"),
    ],
)
def test_what_is_refused_tells_what_would_do(part: dict[str, Any], surfaces: str, path: str) -> None:
    with pytest.raises(InputError) as refused:
        cavity_of(front_case(part, surfaces))
    problem = refused.value.problems[0]
    assert problem.path == path
    most = float(problem.allowed.removeprefix("up to ").split(":")[0].split(",")[0])
    cavity_of(front_case({**part, path.rpartition(".")[2]: most - 0.05}, surfaces))


@pytest.mark.parametrize(
    ("case", "said"),
    [
        (front_case(BESIDE, "ML", "16"), r"tooth\.code: .*anterior tooth"),
        (
            front_case({**first_case()["preparation"]["parts"][0]}, "O", "11"),
            r"tooth\.code: .*posterior tooth",
        ),
        (
            front_case({**BESIDE, "reach_mm": 0.8, "depth_mm": 4.0}, "ML", "31"),
            r"depth_mm: .* the middle of the tooth",
        ),
        (front_case(BESIDE, "DL"), r"restoration\.surfaces: got 'DL', allowed M"),
        (front_case(CORNER, "DI"), r"restoration\.surfaces: got 'DI', allowed MI"),
        (front_case({**CORNER, "mesial_mm": -1.0}, "I"), r"mesial_mm: .* so much that"),
    ],
)
def test_what_contradicts_the_tooth_is_refused(case: dict[str, Any], said: str) -> None:
    with pytest.raises(InputError, match=said):
        cavity_of(case)


def test_a_central_stands_against_its_mirror_image(beside: Worked) -> None:
    (other,) = beside.neighbours
    assert (other.tooth.iso, other.is_across) == ("21", True)
    own = shell_solid(read_tooth("11"), load_rulebook(), "outer").solid
    contact = beside.cavity.crown.outer_x_mm("mesial", beside.cavity.crown.contact_mm["mesial"])
    image = own.mirror((1.0, 0.0, 0.0)).translate((2 * contact, 0.0, 0.0))
    assert other.solid.bounding_box() == pytest.approx(image.bounding_box(), abs=0.02)
    assert (other.solid ^ own).volume() < 0.01
    heights = np.linspace(0.0, beside.cavity.crown.rim_mm, 30)
    assert min(other.gap_mm(beside.cavity.crown, z) for z in heights) == pytest.approx(0, abs=0.01)
    lateral = read_case(front_case({**BESIDE, "reach_mm": 1.0}, "ML", "12"))
    placed, _ = place_neighbours(lateral, prepare_cavity(lateral, load_rulebook()), load_rulebook())
    assert [(one.tooth.iso, one.is_across) for one in placed] == [("11", False)]


def test_light_comes_from_the_face_past_the_neighbour(beside: Worked) -> None:
    cured = beside.lit.cured[0]
    assert [aim.name for aim in cured.lit.aims] == ["lingual"]
    assert cured.lit.weakest_mw_cm2 == pytest.approx(brute_force(beside, 0, 0, "lingual"), rel=0.02)
    worst = beside.plan.increments[0].cured.worst_point
    assert abs(worst.z - beside.cavity.crown.contact_mm["mesial"]) < 1.5
    ids = [step.id for step in beside.plan.steps]
    assert ids.index("matrix.front.seal") < ids.index("bond.etch_enamel")
    assert {"finish.contact", "finish.bite"} < set(ids)
    assert "assess.heights" not in ids


def test_a_broken_edge_is_built_from_its_lingual_wall(corner: Worked) -> None:
    ids = [one.portion.id for one in corner.lit.cured]
    assert ids[0].startswith("edge.wall")
    assert ids[-1].startswith("edge.face")
    assert [one.portion.role for one in corner.lit.cured] == ["enamel", "dentin", "enamel"]
    whole = sum(one.portion.solid.volume() for one in corner.lit.cured)
    assert whole == pytest.approx(corner.cavity.filling.volume())
    wall = corner.lit.cured[0]
    # What turns to the tongue lies against the index, and is not lit for free.
    assert wall.contacts.areas_mm2()["band"] > 1.0
    assert wall.portion.solid.bounding_box()[2] == pytest.approx(corner.cavity.filling.bounding_box()[2])
    steps = [step.id for step in corner.plan.steps]
    assert steps.index("matrix.front.index") < steps.index("matrix.front.strip")
    assert "prepare.notch" not in steps
    notched = planned(front_case(CORNER, "MI", layering="horizontal", incisal="bevel_and_notch"))
    steps = [step.id for step in notched.steps]
    assert steps.index("prepare.notch") < steps.index("prepare.bevel") < steps.index("prepare.verify")
    assert "matrix.front.index" not in steps


def test_an_edge_that_leaves_the_contacts_has_no_neighbour() -> None:
    level = work(read_case(front_case({**CORNER, "mesial_mm": 1.0, "distal_mm": 1.0}, "MID", "13")))
    assert level.neighbours == []
    assert not {"finish.contact", "matrix.front.strip"} & {step.id for step in level.plan.steps}


def test_the_drawings_show_what_was_planned(beside: Worked, corner: Worked) -> None:
    level, lingual = draw(beside).sheets
    assert (level.view, level.axes, lingual.view) == ("level", ["x", "y"], "lingual")
    sizes = {d.case_path.rpartition(".")[2]: d for d in (*level.dimensions, *lingual.dimensions)}
    for name in ("depth_mm", "faciolingual_mm", "height_mm"):
        one = sizes[name]
        assert np.hypot(*np.subtract(one.p1, one.p0)) == pytest.approx(
            BESIDE[path_in_1(one.case_path).rpartition(".")[2]], abs=0.01
        )
    assert "neighbour.mesial" in {shape.id for shape in level.shapes}
    assert {line.view for line in light_lines(beside)} == {"level"}
    through, facial = draw(corner).sheets
    assert (through.view, facial.view) == ("through", "facial")
    (lost,) = facial.dimensions
    assert lost.p0[1] - lost.p1[1] == pytest.approx(4.0)
    edge = solids_of(corner)["restoration"]
    seen = next(shape for shape in facial.shapes if shape.role == "cavity")
    back_upright: Manifold = edge.rotate((90.0, 0.0, 0.0))
    assert area_mm2(seen.rings) == pytest.approx(back_upright.project().area(), rel=1e-3)


@pytest.mark.parametrize("bevel", [1.0, 2.5])
def test_a_bevel_reaches_so_far_down_the_face_and_leaves_the_tongue_s_side(bevel: float) -> None:
    level = {**CORNER, "mesial_mm": 3.0, "distal_mm": 3.0}
    plain, bevelled = (cavity_of(front_case({**level, "bevel_mm": by}, "MID")) for by in (0.0, bevel))
    holds_together(bevelled)
    lowest = plain.crown.height_mm - 3.0
    solid = bevelled.access.in_tooth(bevelled.filling)
    assert solid.bounding_box()[2] == pytest.approx(lowest - bevel, abs=0.02)
    corners = np.asarray(solid.to_mesh64().vert_properties)[:, :3]
    assert corners[corners[:, 1] < 0][:, 2].min() == pytest.approx(lowest, abs=0.02)
    added = bevelled.filling.volume() - plain.filling.volume()
    # No more than a wedge over the tooth's whole width, as deep as the bevel is steep.
    assert 0 < added < plain.crown.mesiodistal_mm * bevel**2 * np.tan(np.radians(25)) / 2
    assert bevelled.handbook_dentin_mm < plain.handbook_dentin_mm


@pytest.mark.parametrize(
    ("code", "face"), [("11", "lingual"), ("22", "facial"), ("13", "lingual"), ("42", "facial")]
)
def test_a_cavity_through_and_through_opens_on_both_faces_and_is_lit_from_both(code: str, face: str) -> None:
    part = {**BESIDE, "face": face, "height_mm": 2.0, "depth_mm": 1.4, "reach_mm": 0.8}
    case = front_case({**part, "through": True}, "MFL", code)
    (body,) = first_case()["masses"]
    case["masses"] = [body, {**body, "name": "demo enamel", "role": "enamel"}]
    worked = work(read_case(case))
    cavity, plan = worked.cavity, worked.plan
    # The filling reaches the tooth's surface in front and behind, over about the height that was told.
    whole = skin(cavity.access.in_tooth(cavity.filling))
    outside = whole.tags == cavity.outer.tag
    for way in (1.0, -1.0):
        shown = outside & (whole.normals[:, 1] * way > 0.3)
        assert whole.areas[shown].sum() > 0.5 * part["height_mm"] * 1.0
        z = whole.corners[shown][..., 2]
        assert np.ptp(z) == pytest.approx(part["height_mm"], abs=0.8)
    walled = cavity_of(front_case(part, "ML" if face == "lingual" else "MF", code))
    assert (walled.filling - cavity.filling).volume() < 0.02
    assert walled.filling.volume() < 0.7 * cavity.filling.volume()
    assert cavity.filling.volume() + cavity.remaining_tooth.volume() == pytest.approx(
        cavity.outer.solid.volume()
    )
    topics = {check.topic: check for check in plan.checks}
    assert "prepare.front_wall" not in topics
    assert topics["increment.dose"].verdict == "pass"
    lit = [step for step in plan.steps if step.id.startswith("build") and step.light]
    assert lit
    assert all({press.source for press in step.presses} == {"facial", "lingual"} for step in lit)
    front = max(plan.increments, key=lambda one: _facial_mm(worked, one.id))
    assert [one.product for one in plan.increments if one.id == front.id] == ["demo enamel"]
    assert {one.product for one in plan.increments if one.id != front.id} == {body["name"]}
    assert "faciolingual_mm" not in {
        d.case_path.rpartition(".")[2] for s in draw(worked).sheets for d in s.dimensions
    }


def _facial_mm(worked: Worked, id: str) -> float:
    """Return how far facial an increment lies on average."""
    return float(np.asarray(solids_of(worked)[id].to_mesh64().vert_properties)[:, 1].mean())


def test_where_no_wall_is_left_it_is_told_and_what_is_condensed_wants_one() -> None:
    thin = front_case({**BESIDE, "reach_mm": 1.5, "height_mm": 1.4}, "ML")
    (check,) = (c for c in work(read_case(thin)).plan.checks if c.topic == "prepare.front_wall")
    assert "through and through" in check.remedy
    amalgam = json.loads((EXAMPLES / "upper_premolar_mo_amalgam.json").read_text())
    for one in (amalgam, json.loads((EXAMPLES / "lower_molar_facial_pit_gold.json").read_text())):
        one |= {"tooth": {"code": "11"}, "preparation": {"parts": [{**IN_2, "through": True}]}}
        one["restoration"]["surfaces"] = "ML"
        one.pop("provenance", None)
        with pytest.raises(InputError, match=r"parts\[0\]\.through: .* condensed needs a wall"):
            work(read_case(one))
