"""Crown and cavity: handbook sizes, exact volumes, what is refused, and the picture's truth."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from mallet.cavity.crowns import shell_solid
from mallet.cavity.measures import contacts_of, longest_vertical_mm
from mallet.cavity.neighbours import place_neighbours
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.cavity.rays import Scene
from mallet.cavity.sections import area_mm2, crosswise_section, lengthwise_section, level_section
from mallet.cavity.solids import frustum
from mallet.rulebook import Rulebook, load_rulebook
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.tooth.crown import loft_crown
from mallet.tooth.notation import ToothName
from tests.core.conftest import first_case, with_values
from tests.core.planned import work

TEETH = [ToothName(q, p) for q in (1, 2, 3, 4) for p in range(1, 9)]
DECIDUOUS = [ToothName(q, p) for q in (5, 6, 7, 8) for p in range(1, 6)]


def cavity_of(case: dict[str, Any], book: Rulebook) -> Cavity:
    return prepare_cavity(read_case(case), book)


@pytest.mark.parametrize("tooth", [*TEETH, *DECIDUOUS], ids=lambda t: t.iso)
def test_crowns_meet_the_handbook(tooth: ToothName, book: Rulebook) -> None:
    """Nelson & Ash, teaching averages, and deciduous ones (from memory): height, mesiodistal, buccolingual,
    necks."""
    jaw = book.crowns[("deciduous_" if tooth.is_deciduous else "") + ("upper" if tooth.is_upper else "lower")]
    height, md, md_neck, bl, bl_neck, _, _ = jaw["dims"][tooth.position - 1]
    crown = loft_crown(tooth, book)
    v = crown.vertices()
    assert v[:, 2].max() == pytest.approx(height, abs=0.05)
    assert np.ptp(v[:, 0]) == pytest.approx(md, abs=0.02)
    assert np.ptp(v[:, 1]) == pytest.approx(bl, abs=0.05)
    neck = crown.outline(0.0)
    assert np.ptp(neck[:, 0]) == pytest.approx(md_neck, abs=0.02)
    assert np.ptp(neck[:, 1]) == pytest.approx(bl_neck, abs=0.02)
    assert v[:, 2].min() <= -4.0
    if tooth.is_posterior:
        assert crown.groove_mm(-1, 1) < crown.ridge_mm("mesial") < height
    for shell, around in (("dentin", "outer"), ("pulp", "dentin")):
        inner = shell_solid(tooth, book, shell).solid
        outside = (inner - shell_solid(tooth, book, around).solid).volume()
        assert outside < 0.002 * inner.volume(), shell


@given(
    a=st.floats(1, 6), b=st.floats(1, 6), h=st.floats(0.5, 6), degrees=st.floats(-3, 12)
)  # fmt: skip
@settings(max_examples=60, deadline=None)
def test_frustum_volume_is_exact(a: float, b: float, h: float, degrees: float) -> None:
    """abh + k(a+b)h2 + 4k2h3/3 for four walls diverging by k = tan(angle) (derived)."""
    k = math.tan(math.radians(degrees))
    solid = frustum((-a / 2, a / 2, -b / 2, b / 2), 0.0, h, (k, k, k, k)).solid
    assert solid.volume() == pytest.approx(a * b * h + k * (a + b) * h**2 + 4 * k**2 * h**3 / 3, rel=1e-6)


def test_first_case_has_its_stated_volume_and_places(case: dict[str, Any], book: Rulebook) -> None:
    cavity = cavity_of(case, book)
    occlusal, box = cavity.tools
    assert occlusal.nominal_volume_mm3 == pytest.approx(26.601530, abs=5e-7)
    assert box.floor_mm == pytest.approx(cavity.crown.ridge_mm("mesial") - 5.0)
    assert box.floor[0] == pytest.approx(cavity.crown.outer_x_mm("mesial", box.floor_mm) - 1.5)
    k = math.tan(math.radians(3))
    assert occlusal.floor[1] == pytest.approx(box.floor[0] - k * (occlusal.floor_mm - box.floor_mm))
    groove = cavity.crown.groove_mm(occlusal.floor[0], occlusal.floor[1])
    assert occlusal.floor_mm == pytest.approx(groove - 2.0, abs=0.02)
    whole = cavity.outer.solid.volume()
    assert cavity.filling.volume() + cavity.remaining_tooth.volume() == pytest.approx(whole, rel=1e-9)


@pytest.mark.parametrize(("reach_x", "reach_y", "expected"), [(2, 2, 5.0), (3, 2, 2.0), (3, 3, 1.0)])
def test_c_factor_of_a_cube(reach_x: float, reach_y: float, expected: float) -> None:
    """n / (6 - n) for a cube bonded on 5, 4, 3 faces (Feilzer 1987, from memory)."""
    block = frustum((0, 2, 0, 2), 0.0, 2.0, (0, 0, 0, 0))
    tool = frustum((1, reach_x, 1, reach_y), 1.0, 3.0, (0, 0, 0, 0))
    if reach_x == reach_y == 2:
        block = frustum((0, 3, 0, 3), 0.0, 2.0, (0, 0, 0, 0))
    elif reach_y == 2:
        block = frustum((0, 2, 0, 3), 0.0, 2.0, (0, 0, 0, 0))
    contacts = contacts_of(block.solid ^ tool.solid, {tool.tag}, block.tag, Scene(), [])
    assert sum(contacts.areas_mm2().values()) == pytest.approx(6.0, rel=1e-9)
    assert contacts.c_factor() == pytest.approx(expected, rel=1e-9)


REFUSED = {
    "preparation__parts__1__height_mm": (-1, r"parts\[1\].height_mm: got -1, allowed more than 0"),
    "preparation__parts__1__width_mm": (9.5, r"parts\[1\].width_mm: got 9.5, allowed .* width of the tooth"),
    "preparation__parts__0__depth_mm": (5.0, r"parts\[0\].depth_mm: got 5, .* above the gingival floor"),
    "preparation__parts__0__length_mm": (
        9.0,
        r"parts\[0\].length_mm: got 9, allowed up to .* within the tooth",
    ),
    "preparation__parts__0__colour": (
        "red",
        r"parts\[0\].colour: got an unknown key, allowed one of depth_mm",
    ),
    "tooth__code": ("99", "tooth.code: got '99'"),
    "restoration__surfaces": ("MOD", "restoration.surfaces: got 'MOD', allowed MO"),
    "neighbours__mesial__tooth": ("34", "adjacent.mesial.tooth: got '34', allowed 35"),
    "light__readings": ([{"distance_mm": 0, "irradiance_mw_cm2": 900}], "light.readings: got 1 distance"),
    "provenance": ({"preparation.parts[7].height_mm": "estimated"}, "provenance.preparation.parts"),
    "house": ({"light.conversion_factor": 0.1}, "practice_settings.*allowed 1 to 20"),
}


@pytest.mark.parametrize("path", REFUSED)
def test_an_impossible_case_names_field_given_and_allowed(path: str, case: dict[str, Any]) -> None:
    value, message = REFUSED[path]
    with pytest.raises(InputError, match=message):
        work(read_case(with_values(case, **{path: value})))


@pytest.mark.parametrize("left_mm", [None, 0.3, 1.2])
def test_no_credible_depth_is_refused_for_the_handbook_s_pulp(
    left_mm: float | None, case: dict[str, Any]
) -> None:
    """Measured dentin sets the estimate back to fit; unmeasured it is a caution and a failed check."""
    deep = with_values(
        case, preparation__parts__1__axial_depth_mm=3.4, preparation__remaining_dentin_mm=left_mm
    )
    worked = work(read_case(deep))
    (check,) = (c for c in worked.plan.checks if c.topic == "remaining_dentin")
    codes = {c.code for c in worked.plan.cautions}
    if left_mm is None:
        assert worked.cavity.handbook_dentin_mm < 0.5
        assert check.verdict == "fail"
        assert "pulp.by_handbook" in codes
        return
    assert check.measured == left_mm
    assert check.verdict == ("pass" if left_mm >= 0.5 else "fail")
    # The pulp as it is drawn stays as far off as was measured.
    assert worked.cavity.pulp
    gaps = [tool.cut.solid.min_gap(worked.cavity.pulp, 3.0) for tool in worked.cavity.tools]
    assert min(gaps) >= left_mm - 1e-6


def test_a_root_canal_treated_tooth_has_no_pulp_to_be_spared(case: dict[str, Any]) -> None:
    deep = with_values(case, preparation__parts__1__axial_depth_mm=3.4, tooth__vitality="root_filled")
    made = work(read_case(deep)).plan
    assert made.geometry.remaining_dentin_mm is None
    assert not {"remaining_dentin", "pulp.warmth"} & {c.topic for c in made.checks}
    assert not [c.code for c in made.cautions if c.code.startswith(("pulp.", "protect."))]
    assert next(d for d in made.decisions if d.topic == "protect").chosen.startswith("nothing")


def test_a_measurement_that_contradicts_the_handbook_pulp_is_questioned(case: dict[str, Any]) -> None:
    codes = [c.code for c in work(read_case(case)).plan.cautions]
    assert "pulp.disagrees" not in codes
    near = with_values(case, preparation__parts__1__axial_depth_mm=3.1)
    caution = next(c for c in work(read_case(near)).plan.cautions if c.code == "pulp.disagrees")
    assert "1.5 mm" in caution.text
    close = with_values(case, preparation__remaining_dentin_mm=0.3)
    made = work(read_case(close)).plan
    assert {"pulp.very_close"} <= {c.code for c in made.cautions if c.level == "stop"}
    assert next(c for c in made.checks if c.topic == "remaining_dentin").verdict == "fail"


def test_what_is_absent_is_taken_from_the_handbook_and_listed(case: dict[str, Any]) -> None:
    del case["preparation"]["remaining_dentin_mm"]
    case["neighbours"] = {}
    del case["preparation"]["parts"][1]["wall_divergence_deg"]
    assumed = {a.path for a in work(read_case(case)).plan.assumptions}
    assert {path for path in assumed if not path.startswith("findings.")} == {
        "preparation.remaining_dentin_mm",
        "adjacent.mesial",
        "restoration.adhesive",
        "preparation.parts[1].wall_divergence_deg",
    }


def test_neighbours_touch_and_their_ridges_follow_the_offset(case: dict[str, Any], book: Rulebook) -> None:
    read = read_case(with_values(case, neighbours__mesial__ridge_offset_mm=-0.7))
    cavity = prepare_cavity(read, book)
    (beside,), _ = place_neighbours(read, cavity, book)
    assert beside.ridge_mm == pytest.approx(cavity.crown.ridge_mm("mesial") - 0.7)
    assert (beside.solid ^ cavity.outer.solid).volume() < 0.02
    assert 0 <= beside.solid.min_gap(cavity.outer.solid, 1.0) < 0.05
    assert beside.gap_mm(cavity.crown, 0.5) > 0.5


@pytest.mark.parametrize("school", ["horizontal", "oblique", "wall_first"])
def test_sections_summed_meet_the_increments(school: str) -> None:
    """The picture is the computation: section areas times spacing are the solids' volumes."""
    worked = work(read_case(with_values(first_case(), school__layering=school)))
    for cured in worked.lit.cured:
        solid = cured.portion.solid
        x0, y0, z0, x1, y1, z1 = solid.bounding_box()
        for cut, low, high in (
            (lengthwise_section, y0, y1),
            (crosswise_section, x0, x1),
            (level_section, z0, z1),
        ):
            count = 120
            step = (high - low) / count
            summed = sum(area_mm2(cut(solid, low + (i + 0.5) * step)) for i in range(count)) * step
            assert summed == pytest.approx(solid.volume(), rel=0.02)


def test_longest_vertical_way_in_a_step_is_the_taller_part() -> None:
    step = Manifold.cube([2, 2, 1]) + Manifold.cube([1, 2, 3])
    assert longest_vertical_mm(step) == pytest.approx(3.0, abs=1e-3)
    arch = Manifold.cube([4, 2, 4]) - Manifold.cube([2, 3, 3]).translate([1, -0.5, 0])
    assert longest_vertical_mm(arch) == pytest.approx(4.0, abs=1e-3)


def test_a_box_too_shallow_for_any_occlusal_floor_is_named_itself() -> None:
    case = with_values(first_case(), preparation__parts__1__height_mm=1.0)
    with pytest.raises(
        InputError, match=r"parts\[1\].height_mm: got 1, allowed more than 2.8: the pulpal floor"
    ):
        prepare_cavity(read_case(case), load_rulebook())
    prepare_cavity(read_case(with_values(case, preparation__parts__1__height_mm=2.9)), load_rulebook())
