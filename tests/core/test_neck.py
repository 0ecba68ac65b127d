"""A lesion at the neck: exact solids, what is refused, and a plan that is entered and lit from its face."""

import math
from typing import Any, Literal

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from mallet.cavity.access import ACCESS, OCCLUSAL
from mallet.cavity.measures import contacts_of
from mallet.cavity.neck import neck_tool
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.cavity.rays import Scene
from mallet.cavity.sections import area_mm2
from mallet.cavity.solids import frustum, skin
from mallet.drawing import draw
from mallet.plan import Worked
from mallet.rulebook import load_rulebook
from mallet.studies.light_lines import light_lines
from mallet.studies.shapes import solids_of
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.parts import Pit, SaucerLesion, WedgeLesion
from mallet.terms.plan import Plan
from mallet.tooth.crown import loft_crown
from mallet.tooth.notation import read_tooth
from tests.core.conftest import first_case
from tests.core.planned import plan, work
from tests.core.sampler import brute_force

PART = {
    "kind": "notch", "face": "facial", "width_mm": 3.6, "height_mm": 2.2, "depth_mm": 1.2, "above_cervical_mm": -0.5,
}  # fmt: skip
Face = Literal["facial", "lingual"]


def neck_case(code: str = "34", **sizes: Any) -> dict[str, Any]:
    part = {**PART, **sizes}
    return {
        **first_case(),
        "tooth": {"code": code},
        "restoration": {"material": "composite", "surfaces": part["face"][0].upper()},
        "preparation": {"remaining_dentin_mm": 1.5, "parts": [part]},
        "neighbours": {},
        "provenance": {},
    }


def cavity_of(case: dict[str, Any]) -> Cavity:
    return prepare_cavity(read_case(case), load_rulebook())


def planned(case: dict[str, Any]) -> Plan:
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    return made


@pytest.fixture(scope="module")
def worked() -> Worked:
    return work(read_case(neck_case()))


@pytest.mark.parametrize("side", ACCESS)
def test_a_frame_turns_there_and_back(side: str) -> None:
    access = ACCESS[side]
    out = {"occlusal": (0.0, 0.0, 1.0), "facial": (0.0, 1.0, 0.0), "lingual": (0.0, -1.0, 0.0)}[side]
    assert access.toward(out) == (0.0, 0.0, 1.0)
    assert np.linalg.det(np.array(access.axes)) == pytest.approx(1)
    block = Manifold.cube([1.0, 2.0, 3.0])
    assert access.turned(block).bounding_box()[3] == pytest.approx(1)
    again = access.in_tooth(access.turned(block))
    assert again.bounding_box() == pytest.approx(block.bounding_box())
    points = np.array([[0.3, -1.2, 2.0]])
    assert access.points_in_tooth(np.array([access.toward((0.3, -1.2, 2.0))])) == pytest.approx(points)


@pytest.mark.parametrize("part", [SaucerLesion, WedgeLesion])
def test_solids_in_a_block_meet_exact_formulas(part: type[SaucerLesion] | type[WedgeLesion]) -> None:
    """Half an ellipsoid is 2/3 pi a b c, a wedge half its box; bonded over free area by plane geometry."""
    sizes = {"width_mm": 3.0, "height_mm": 2.0, "depth_mm": 1.2, "above_cej_mm": -1.0}
    made = part.model_validate(
        {"kind": "saucer_lesion" if part is SaucerLesion else "wedge_lesion", "face": "facial", **sizes}
    )
    outer = frustum((-5, 5, -5, 5), -5, 5, (0, 0, 0, 0))
    tool = neck_tool(0, made, outer.solid, ACCESS["facial"])
    filling, rest = outer.solid.split(tool.cut.solid)
    is_saucer = part is SaucerLesion
    exact = 2 / 3 * math.pi * 1.5 * 1.0 * 1.2 if is_saucer else 3.0 * 2.0 * 1.2 / 2
    assert tool.nominal_volume_mm3 == pytest.approx(exact, rel=1e-12)
    assert filling.volume() == pytest.approx(exact, rel=0.01 if is_saucer else 0.001)
    assert filling.volume() + rest.volume() == pytest.approx(1000)
    contacts = contacts_of(filling, {tool.cut.tag}, outer.tag, Scene(), [])
    areas = contacts.areas_mm2()
    free = math.pi * 1.5 if is_saucer else 6.0
    assert areas["air"] == pytest.approx(free, rel=0.005)
    if not is_saucer:
        bonded = 2 * 3.0 * math.hypot(1.0, 1.2) + 2 * 1.2
        assert contacts.c_factor() == pytest.approx(bonded / free, rel=0.01)


@pytest.mark.parametrize(("diameter", "depth"), [(1.0, 2.0), (2.0, 1.0), (3.0, 0.6)])
def test_a_pit_in_a_block_is_a_cylinder(diameter: float, depth: float) -> None:
    """pi r^2 d, and bonded over free area 1 + 4 d / diameter: floor and wall over the opening."""
    sizes = {"diameter_mm": diameter, "depth_mm": depth, "above_cej_mm": -diameter / 2}
    pit = Pit.model_validate({"kind": "pit", "face": "facial", **sizes})
    outer = frustum((-5, 5, -5, 5), -5, 5, (0, 0, 0, 0))
    tool = neck_tool(0, pit, outer.solid, ACCESS["facial"])
    filling = outer.solid ^ tool.cut.solid
    exact = math.pi * (diameter / 2) ** 2 * depth
    assert tool.nominal_volume_mm3 == pytest.approx(exact, rel=1e-12)
    assert filling.volume() == pytest.approx(exact, rel=0.001)
    contacts = contacts_of(filling, {tool.cut.tag}, outer.tag, Scene(), [])
    assert contacts.c_factor() == pytest.approx(1 + 4 * depth / diameter, rel=0.005)


def test_a_pit_on_a_molar_is_planned_like_a_small_filling_of_its_face() -> None:
    part = {"kind": "pit", "face": "facial", "diameter_mm": 1.6, "depth_mm": 1.4, "above_cervical_mm": 2.6}
    case = {**neck_case("46"), "preparation": {"remaining_dentin_mm": 2.0, "parts": [part]}}
    made = planned(case)
    assert made.geometry.volume_mm3 == pytest.approx(math.pi * 0.8**2 * 1.4, rel=0.01)
    ids = {step.id for step in made.steps}
    assert not {"prepare.roughen", "matrix.neck.strip", "finish.bite", "finish.contact"} & ids
    sizes = {
        d.case_path.rpartition(".")[2]
        for sheet in draw(work(read_case(case))).sheets
        for d in sheet.dimensions
    }
    assert sizes == {"diameter_mm", "depth_mm"}
    with pytest.raises(InputError, match=r"diameter_mm: .* up to"):
        cavity_of(
            {**case, "preparation": {"parts": [{**part, "diameter_mm": 5.0, "above_cervical_mm": 5.0}]}}
        )


WIDE_SHARE = 0.85


@settings(max_examples=40, deadline=None)
@given(
    code=st.sampled_from(["11", "13", "24", "26", "31", "33", "45", "47"]),
    kind=st.sampled_from(["saucer", "notch"]),
    face=st.sampled_from(["facial", "lingual"]),
    width=st.floats(1.0, 4.0),
    height=st.floats(1.0, 3.0),
    depth=st.floats(0.5, 1.2),
    above=st.floats(-2.0, 1.0),
)
def test_a_lesion_on_a_tooth_is_as_large_as_measured(
    code: str, kind: str, face: Face, width: float, height: float, depth: float, above: float
) -> None:
    case = neck_case(
        code, kind=kind, face=face, width_mm=width, height_mm=height, depth_mm=depth, above_cervical_mm=above
    )
    try:
        cavity = cavity_of(case)
    except InputError:
        assume(False)
    filling, outer = cavity.filling, cavity.outer.solid
    # One nearly as wide as the tooth there goes round its corners, where the formula of its volume leaves off.
    x0, _, x1, _ = cavity.access.in_tooth(outer).slice(above + height / 2).bounds()
    assume(width <= WIDE_SHARE * (x1 - x0))
    assert filling.volume() == pytest.approx(cavity.tools[0].nominal_volume_mm3, rel=0.02)
    assert filling.volume() + cavity.remaining_tooth.volume() == pytest.approx(outer.volume())
    assert (filling - outer).volume() < 1e-4
    assert set(skin(filling).tags) == {cavity.outer.tag, cavity.tools[0].cut.tag}
    box = cavity.access.in_tooth(filling).bounding_box()
    assert box[2] == pytest.approx(above, abs=0.02)
    assert box[5] == pytest.approx(above + height, abs=0.02)
    assert box[3] - box[0] == pytest.approx(width, abs=0.02)
    assert (box[1] + box[4] > 0) == (face == "facial")
    assert cavity.gingival_margin_mm(cavity.tools[0]) == pytest.approx(above)


@pytest.mark.parametrize(
    ("changes", "path", "allowed"),
    [
        ({"width_mm": 9.5}, "preparation.parts[0].width_mm", "up to"),
        (
            {"height_mm": 8.0, "above_cervical_mm": 3.0, "width_mm": 0.5},
            "preparation.parts[0].height_mm",
            "up to",
        ),
    ],
)
def test_what_is_refused_tells_what_would_do(changes: dict[str, Any], path: str, allowed: str) -> None:
    with pytest.raises(InputError) as refused:
        cavity_of(neck_case(**changes))
    problem = refused.value.problems[0]
    assert problem.path == path
    assert problem.allowed.startswith(allowed)
    most = float(problem.allowed.removeprefix(allowed).split()[0].rstrip(":"))
    name = path.rpartition(".")[2]
    cavity_of(neck_case(**{**changes, name: most}))


def test_it_stands_alone_on_its_own_surface() -> None:
    case = neck_case()
    wrong = {**case, "restoration": {"material": "composite", "surfaces": "MO"}}
    with pytest.raises(InputError, match=r"restoration\.surfaces: got 'MO', allowed F"):
        cavity_of(wrong)
    box = first_case()["preparation"]["parts"][0]
    with pytest.raises(InputError, match=r"preparation\.parts: .* alone"):
        cavity_of({**case, "preparation": {"parts": [*case["preparation"]["parts"], box]}})
    aslant = {**case, "light": {**case["light"], "tip_tilt_deg": 20, "tip_lean": "facial"}}
    with pytest.raises(InputError, match=r"light\.tip_lean: got 'facial', allowed mesial or distal"):
        plan(read_case(aslant))


def test_light_comes_from_its_face_and_meets_an_independent_sampler(worked: Worked) -> None:
    cured = worked.lit.cured[0]
    assert [aim.name for aim in cured.lit.aims] == ["facial"]
    assert cured.lit.weakest_mw_cm2 == pytest.approx(brute_force(worked, 0, 0, "facial"), rel=0.015)
    steps = {step.id: step for step in worked.plan.steps}
    assert "from facial" in steps["bond.cure"].detail
    crown = loft_crown(read_tooth("34"), load_rulebook())
    worst = worked.plan.increments[0].cured.worst_point
    assert 0 < worst.y < crown.buccolingual_mm / 2
    assert PART["above_cervical_mm"] < worst.z < PART["above_cervical_mm"] + PART["height_mm"]


def test_a_lesion_on_either_face_of_a_block_is_the_same_work() -> None:
    """A lower incisor's two faces differ, but what is cut and lit is told by the same rules."""
    facial, lingual = (planned(neck_case("46", face=face, width_mm=3.0)) for face in ("facial", "lingual"))
    assert facial.increments[0].volume_mm3 == pytest.approx(lingual.increments[0].volume_mm3, rel=0.01)
    assert facial.increments[0].cured.worst_point.y > 0 > lingual.increments[0].cured.worst_point.y
    assert {e.source for one in lingual.increments for e in one.cured.exposures} == {"lingual"}


@pytest.mark.parametrize("face", ["facial", "lingual"])
def test_the_oblique_school_begins_at_the_gum(face: str) -> None:
    case = {**neck_case(face=face, depth_mm=1.0), "school": {"layering": "oblique"}}
    worked = work(read_case(case))
    first, second = worked.lit.cured
    heights = [worked.cavity.access.in_tooth(one.portion.solid).bounding_box() for one in (first, second)]
    assert first.portion.name.endswith("gingival slope")
    assert heights[0][2] == pytest.approx(-0.5, abs=0.02)
    assert heights[1][5] == pytest.approx(1.7, abs=0.02)
    assert heights[0][2] < heights[1][2]


def test_a_deep_one_is_layered_from_its_depth(worked: Worked) -> None:
    case = neck_case("16", width_mm=4.0, height_mm=3.0, depth_mm=2.4)
    case["masses"] = [{**mass, "max_increment_mm": 1.0} for mass in case["masses"]]
    made = planned({**case, "school": {"layering": "horizontal"}})
    assert [one.id for one in made.increments] == ["face.1", "face.2", "face.3"]
    assert all(one.cured.thickness_mm <= 1.005 for one in made.increments)
    assert sum(one.volume_mm3 for one in made.increments) == pytest.approx(made.geometry.volume_mm3)
    assert [one.cured.role for one in made.increments] == ["body", "body", "enamel"]
    fallen = planned({**neck_case(), "school": {"layering": "wall_first"}})
    layering = next(d for d in fallen.decisions if d.topic == "build.layering")
    assert layering.chosen == "horizontal"
    assert {reason.code for reason in layering.reasons} >= {"layering.no_box"}


def test_its_steps_are_those_of_a_neck() -> None:
    made = planned(neck_case())
    ids = [step.id for step in made.steps]
    assert ids.index("prepare.roughen") < ids.index("prepare.verify")
    never = {
        "assess.bite",
        "assess.heights",
        "finish.bite",
        "finish.contact",
        "prepare.bevel",
        "matrix.neck.strip",
    }
    assert not never & set(ids)
    below = {**neck_case(), "school": {"neck_margin": "roughen_and_bevel"}, "findings": {"below_gum": True}}
    ids = [step.id for step in planned(below).steps]
    assert ids.index("prepare.roughen") < ids.index("prepare.bevel") < ids.index("prepare.verify")
    acid = min(ids.index(i) for i in ids if i.startswith("bond."))
    assert ids.index("matrix.neck.strip") < ids.index("matrix.neck.seal") < acid


def test_where_resin_fixed_a_strip_it_is_lit_again_by_what_the_resin_took() -> None:
    """Beer and Lambert: through 1 mm at 0.2 per mm come exp(-0.2) of the light; what lacks of the need is given after."""
    below = {**neck_case(), "findings": {"below_gum": True}}
    made = work(read_case(below))
    (light,) = (step for step in made.plan.steps if step.id == "build.strip.final")
    ids = [step.id for step in made.plan.steps]
    assert ids.index("matrix.neck.strip_off") < ids.index(light.id) < ids.index("finish.trim")
    for one in made.lit.cured:
        given, full_s = one.worst_dose_j_cm2, sum(one.exposed.full_s)
        through = given * math.exp(-0.2)
        assert through + given / full_s * light.seconds >= one.need.dose_j_cm2 - 1e-9
    dark = work(read_case({**below, "house": {"light.fixing_resin_per_mm": 0.9}}))
    (longer,) = (step for step in dark.plan.steps if step.id == "build.strip.final")
    assert longer.seconds > light.seconds
    clear = plan(read_case({**below, "house": {"light.fixing_resin_per_mm": 0.0}}))
    assert isinstance(clear, Plan)
    assert "build.strip.final" not in {step.id for step in clear.steps}
    assert "build.strip.final" not in {step.id for step in plan(read_case(neck_case())).steps}


def test_a_base_lies_at_its_depth_under_dentin_only() -> None:
    case = {**neck_case("16", depth_mm=2.2, kind="saucer"), "protection": {"what": "base", "base_mm": 0.6}}
    worked = work(read_case(case))
    (base,) = worked.cavity.bases
    assert base.thickness_mm == 0.6
    total = worked.plan.geometry.volume_mm3 + base.solid.volume()
    assert total == pytest.approx(worked.cavity.tools[0].nominal_volume_mm3, rel=0.01)
    check = next(c for c in worked.plan.checks if c.topic.startswith("protect.clearance"))
    assert check.measured == pytest.approx(1.6)


def test_the_drawing_shows_its_section_and_its_face(worked: Worked) -> None:
    neck, face = draw(worked).sheets
    assert (neck.view, neck.axes, face.view, face.axes) == ("through", ["y", "z"], "facial", ["x", "z"])
    increments = [shape for shape in neck.shapes if shape.role == "increment"]
    wedge = PART["height_mm"] * PART["depth_mm"] / 2
    assert sum(area_mm2(shape.rings) for shape in increments) == pytest.approx(wedge, rel=0.02)
    cavity = next(shape for shape in face.shapes if shape.role == "cavity")
    assert area_mm2(cavity.rings) == pytest.approx(PART["width_mm"] * PART["height_mm"], rel=0.005)
    (depth,), sizes = neck.dimensions, {d.case_path.rpartition(".")[2]: d for d in face.dimensions}
    assert depth.p1[0] == pytest.approx(depth.p0[0] - PART["depth_mm"], abs=2e-3)
    low, high = sizes["height_mm"].p0[1], sizes["height_mm"].p1[1]
    assert (low, high) == pytest.approx((-0.5, 1.7), abs=2e-3)
    tip = {mark.id: mark.at for mark in neck.marks}
    assert tip["tip.left"][0] == pytest.approx(tip["tip.right"][0])
    assert abs(tip["tip.left"][1] - tip["tip.right"][1]) == pytest.approx(9, abs=0.01)
    lines = light_lines(worked)
    assert {line.view for line in lines} == {"through"}
    ys = [y for line in lines for y, _ in line.points]
    zs = [z for line in lines for _, z in line.points]
    assert min(ys) > 0
    assert -0.6 < min(zs) < max(zs) < 1.8


def test_shapes_stand_in_the_tooths_frame(worked: Worked) -> None:
    solids = solids_of(worked)
    assert solids["before"].bounding_box()[5] == pytest.approx(worked.cavity.crown.height_mm, abs=0.05)
    assert (solids["restoration"] - solids["before"]).volume() < 1e-9
    assert (solids["pulp"] - solids["dentin"]).volume() == pytest.approx(0, abs=0.05)
    assert work(read_case(first_case())).cavity.access is OCCLUSAL
