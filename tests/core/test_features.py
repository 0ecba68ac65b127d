"""What is cut besides boxes: sizes by formula, distances, what fits and what does not."""

import copy
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.cavity.boxes import axial_wall_mm
from mallet.cavity.crowns import shell_solid
from mallet.cavity.margins import margin_of
from mallet.cavity.measures import vertical_at_mm
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.cavity.rods import rod
from mallet.cavity.solids import frustum, skin
from mallet.drawing import draw
from mallet.rulebook import load_rulebook
from mallet.studies.starting import start_of
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.restoration import AmalgamRestoration, CompositeRestoration, GlassIonomerRestoration
from tests.core.conftest import first_case, with_values
from tests.core.planned import work

BOX = {"kind": "occlusal_box", "depth_mm": 2.0, "width_mm": 2.5, "length_mm": 5.0}
MESIAL = {"kind": "proximal_box", "side": "mesial", "height_mm": 5.0, "width_mm": 4.0, "axial_depth_mm": 2.2,
          "wall_divergence_deg": 0.0}  # fmt: skip
LOW = {"kind": "cusp_reduction", "cusps": ["mesiolingual", "distolingual"], "tip_mm": 3.5, "groove_mm": 2.0}
EVERY = ["mesiofacial", "distofacial", "distal", "mesiolingual", "distolingual"]
COVER = {"kind": "cusp_reduction", "cusps": EVERY, "tip_mm": 3.0, "groove_mm": 2.0}
GROOVES = {
    "kind": "retention_groove",
    "side": "mesial",
    "depth_mm": 0.4,
    "width_mm": 0.7,
    "height_mm": 1.5,
}
SLOT = {"kind": "slot", "at": "mesial", "length_mm": 2.0, "width_mm": 0.6, "depth_mm": 0.6, "inside_mm": 0.5}
PIN = {"kind": "pin_hole", "at": "distolingual", "diameter_mm": 0.6, "depth_mm": 2.0, "stands_mm": 1.5}
TUNNEL = {"kind": "tunnel", "side": "mesial", "under_ridge_mm": 2.5, "inside_mm": 2.5, "diameter_mm": 1.6}
SEALED = {"kind": "sealant_groove", "length_mm": 6.0, "width_mm": 0.8, "depth_mm": 0.8}
SHOULDER = {"kind": "shoulder", "width_mm": 1.5, "above_cervical_mm": 1.5}
STUMP = {"kind": "crown_stump", "edge_mm": 1.5, "around_mm": 0.5, "above_cervical_mm": 0.6}
EDGE = {"kind": "incisal_fracture", "mesial_mm": 4.0, "distal_mm": 2.0}
NOTCH = {"kind": "dovetail_notch", "width_mm": 2.5, "height_mm": 2.0, "depth_mm": 0.8}
DEEP = {**PIN, "at": "mesial", "inside_mm": 0.0}
# A tooth, its surfaces and its parts, for each part that there is.
CASES: dict[str, tuple[str, str, list[dict[str, Any]]]] = {
    "grooves": ("36", "MO", [BOX, MESIAL, GROOVES]),
    "slot in a box": ("36", "MO", [BOX, MESIAL, SLOT]),
    "slot at a cusp": ("46", "MOL", [BOX, MESIAL, LOW, {**SLOT, "at": "distolingual"}]),
    "pins": ("36", "MOL", [BOX, MESIAL, LOW, PIN, {**PIN, "at": "mesiolingual"}]),
    "tunnel": ("26", "MO", [TUNNEL]),
    "sealed groove": ("36", "O", [SEALED]),
    "shoulder": ("36", "MODFL", [BOX, COVER, SHOULDER]),
    "stump": ("51", "MIDFL", [STUMP]),
    "dovetail": ("11", "MID", [EDGE, NOTCH]),
    "star": ("21", "MID", [{**EDGE, "bevel_mm": 2.5, "bevel_points": 3}]),
}


def case_of(tooth: str, surfaces: str, parts: list[dict[str, Any]]) -> dict[str, Any]:
    case = first_case()
    return case | {
        "tooth": {"code": tooth},
        "restoration": {"material": "composite", "surfaces": surfaces},
        "preparation": {"remaining_dentin_mm": 1.5, "parts": parts},
        "neighbours": {},
        "school": {"layering": "horizontal"},
        "provenance": {},
    }


def cavity_of(tooth: str, surfaces: str, parts: list[dict[str, Any]]) -> Cavity:
    return prepare_cavity(read_case(case_of(tooth, surfaces, parts)), load_rulebook())


def taken_mm3(name: str) -> float:
    """Return what the last part of a case takes out of the tooth."""
    return float(cavity_of(*CASES[name]).features[-1].taken.volume())


class TestSizes:
    """Against the exact formulas of the plain solids."""

    @pytest.mark.parametrize("end", [(0, 0, 3), (2, 1, -4), (5, 0, 0)])
    def test_a_rod_is_a_cylinder(self, end: tuple[float, float, float]) -> None:
        made = rod(np.zeros(3), np.array(end, dtype=np.float64), 0.7).solid
        assert made.volume() == pytest.approx(math.pi * 0.49 * math.hypot(*end), rel=1e-9)

    def test_a_slot_in_a_level_floor(self) -> None:
        assert taken_mm3("slot in a box") == pytest.approx(2.0 * 0.6 * 0.6, rel=1e-3)

    def test_grooves_are_segments_of_a_circle(self) -> None:
        """Area of a circular segment: r2 acos((r-h)/r) - (r-h) sqrt(2rh-h2)."""
        r, h = 0.35, 0.4
        area = r**2 * math.acos((r - h) / r) - (r - h) * math.sqrt(2 * r * h - h**2)
        assert taken_mm3("grooves") == pytest.approx(2 * area * 1.5, rel=0.01)

    def test_a_pin_hole(self) -> None:
        """Its floor slopes, and it is as deep at its middle as was asked: a cylinder all the same (Cavalieri)."""
        assert taken_mm3("pins") == pytest.approx(math.pi * 0.09 * 2.0, rel=0.03)

    def test_a_groove_opened_is_a_v_as_deep_everywhere(self) -> None:
        cavity = cavity_of(*CASES["sealed groove"])
        assert cavity.filling.volume() == pytest.approx(6.0 * 0.8 * 0.8 / 2, rel=0.01)

    def test_a_notch_behind_is_a_trapezoid_sunk_into_the_face(self) -> None:
        assert taken_mm3("dovetail") == pytest.approx(0.8 * 2.0 * (0.65 + 1) / 2 * 2.5, rel=0.01)

    def test_a_shoulder_is_as_wide_all_round(self) -> None:
        cavity = cavity_of(*CASES["shoulder"])
        level = SHOULDER["above_cervical_mm"]
        outline = cavity.crown.outline(level)
        core = np.concatenate(cavity.remaining_tooth.slice(level + 0.05).to_polygons())
        # From each corner of the core to the nearest side of the outline.
        a, b = outline, np.roll(outline, -1, axis=0)
        way = b - a
        share = np.clip(((core[:, None] - a) * way).sum(-1) / (way**2).sum(-1), 0, 1)
        off = np.linalg.norm(core[:, None] - (a + share[..., None] * way), axis=-1).min(axis=1)
        assert off.min() == pytest.approx(1.5, abs=0.03)
        assert off.max() == pytest.approx(1.5, abs=0.03)

    def test_a_stump_is_cut_by_what_was_asked_and_runs_out(self) -> None:
        cavity = cavity_of(*CASES["stump"])
        crown = cavity.crown
        left = cavity.remaining_tooth
        assert left.bounding_box()[5] == pytest.approx(crown.height_mm - 1.5, abs=1e-6)
        for z, by in ((crown.height_mm - 1.55, 0.5), (0.6, 0.0)):
            x0, _, x1, _ = left.slice(z).bounds()
            full = crown.outline(z)
            assert full[:, 0].max() - x1 == pytest.approx(by, abs=0.02)
            assert x0 - full[:, 0].min() == pytest.approx(by, abs=0.02)

    def test_a_tunnel_leaves_the_ridge(self) -> None:
        cavity = cavity_of(*CASES["tunnel"])
        crown = cavity.crown
        x = crown.outer_x_mm("mesial", crown.contact_mm["mesial"]) - 0.4
        low, high = vertical_at_mm(cavity.remaining_tooth, x, 0.0)
        assert high == pytest.approx(vertical_at_mm(cavity.outer.solid, x, 0.0)[1])
        assert 1.0 < high - low < 2.5
        assert len(cavity.filling.decompose()) == 1

    def test_a_star_reaches_as_far_as_asked_at_its_points_and_half_as_far_between(self) -> None:
        drawn = CASES["star"][2][0]
        plain = cavity_of("21", "MID", [{**drawn, "bevel_mm": 1.25, "bevel_points": 0}])
        star = cavity_of(*CASES["star"])
        assert (plain.filling - star.filling).volume() == pytest.approx(0, abs=1e-6)
        # In the frame of the face y runs down the tooth. Each flute is a piece by itself.
        flutes = [one for one in (star.filling - plain.filling).decompose() if one.volume() > 0.05]
        assert len(flutes) == 3
        margin = plain.filling.bounding_box()[4]
        longest = max(one.bounding_box()[4] for one in flutes)
        assert 0.8 < longest - margin < 1.6


class TestPlaces:
    def test_a_slot_lies_inside_the_junction_and_off_the_axial_wall(self) -> None:
        cavity = cavity_of(*CASES["slot in a box"])
        box, slot = cavity.boxes[0], cavity.features[0]
        x0, _, z0, x1, _, z1 = slot.taken.bounding_box()
        junction = np.concatenate(
            shell_solid(cavity.tooth, load_rulebook(), "dentin").solid.slice(box.floor_mm).to_polygons()
        )
        # Its ends are so far inside, and its middle a little more, as the outline curves.
        assert 0.5 <= junction[:, 0].max() - x1 < 0.55
        assert x1 - x0 == pytest.approx(0.6)
        assert z1 - z0 == pytest.approx(0.6)
        assert x0 > axial_wall_mm(box, box.floor_mm)

    def test_a_pin_fills_its_hole_and_stands_out_of_it(self) -> None:
        cavity = cavity_of(*CASES["pins"])
        for one in cavity.features:
            assert one.pin is not None
            _, _, z0, _, _, z1 = one.pin.solid.bounding_box()
            assert z1 - z0 == pytest.approx(2.0 + 1.5, abs=0.01)
            assert (one.pin.solid ^ cavity.filling).volume() == pytest.approx(0, abs=1e-6)
            assert (one.pin.solid ^ cavity.remaining_tooth).volume() == pytest.approx(0, abs=1e-6)

    def test_a_pin_too_near_the_next_is_told(self) -> None:
        near = [{**PIN, "at": "distal", "diameter_mm": 0.7}, {**PIN, "at": "distofacial", "diameter_mm": 0.7}]
        made = work(read_case(case_of("36", "O", [BOX, COVER, *near]))).plan
        check = next(c for c in made.checks if c.topic.endswith("apart"))
        assert check.verdict == "caution"
        assert check.needed == 5.0
        assert check.place is not None

    @pytest.mark.parametrize("name", CASES)
    def test_nothing_is_lost_or_lies_outside_and_every_wall_is_known(self, name: str) -> None:
        cavity = cavity_of(*CASES[name])
        pins = sum((one.pin.solid ^ cavity.outer.solid).volume() for one in cavity.features if one.pin)
        parts = cavity.filling.volume() + cavity.remaining_tooth.volume() + pins
        assert parts == pytest.approx(cavity.outer.solid.volume(), rel=1e-6)
        assert (cavity.filling - cavity.outer.solid).volume() == pytest.approx(0, abs=1e-6)
        tags = set(skin(cavity.filling).tags.tolist())
        assert tags <= cavity.cut_tags | {cavity.outer.tag}

    @pytest.mark.parametrize("name", CASES)
    def test_each_is_planned_and_drawn_and_can_be_dragged(self, name: str) -> None:
        worked = work(read_case(case_of(*CASES[name])))
        filled = sum(one.volume_mm3 for one in worked.plan.increments)
        assert filled == pytest.approx(worked.cavity.filling.volume(), rel=1e-6)
        drawing = draw(worked)
        new = min(2, len(CASES[name][2]) - 1)
        paths = [d.case_path for sheet in drawing.sheets for d in sheet.dimensions]
        assert any(int(path.split("[")[1][0]) >= new for path in paths)
        for one in worked.plan.increments:
            assert one.cured.dose_at_worst_point_j_cm2 >= one.cured.dose_needed_j_cm2 - 1e-9

    @settings(max_examples=12, deadline=None)
    @given(
        depth=st.floats(0.2, 1.2),
        width=st.floats(0.4, 1.2),
        inside=st.floats(0.2, 1.0),
        at=st.sampled_from(["mesiolingual", "distolingual", "mesial"]),
    )
    def test_slots_of_any_size_add_up(self, depth: float, width: float, inside: float, at: str) -> None:
        slot = {**SLOT, "at": at, "depth_mm": depth, "width_mm": width, "inside_mm": inside}
        cavity = cavity_of("36", "MOL", [BOX, MESIAL, LOW, slot])
        both = cavity.filling.volume() + cavity.remaining_tooth.volume()
        assert both == pytest.approx(cavity.outer.solid.volume(), rel=1e-6)
        assert (cavity.filling - cavity.outer.solid).volume() == pytest.approx(0, abs=1e-6)


class TestRefusals:
    @pytest.mark.parametrize(
        ("tooth", "surfaces", "parts", "told"),
        [
            ("36", "O", [BOX, GROOVES], "parts[1].side: got 'mesial', allowed the side of a proximal box"),
            ("36", "MO", [BOX, MESIAL, {**GROOVES, "depth_mm": 1.0}], "allowed up to its width, 0.7"),
            ("36", "MO", [BOX, MESIAL, {**SLOT, "at": "distofacial"}], "allowed a floor in dentin"),
            ("36", "MO", [BOX, MESIAL, {**SLOT, "at": "facial"}], "parts[2].at: got 'facial'"),
            ("36", "MO", [BOX, {**MESIAL, "height_mm": 8.0}, {**DEEP, "depth_mm": 4.0}], "it comes out of the tooth below"),
            ("36", "MO", [{**TUNNEL, "under_ridge_mm": 6.0}], "it opens above the cementoenamel junction"),
            ("36", "O", [{**SEALED, "length_mm": 12.0}], "the ridges stay"),
            ("36", "MODFL", [BOX, COVER, {**SHOULDER, "above_cervical_mm": 5.0}], "above_cej_mm: got 5,"),
            ("36", "MODFL", [SHOULDER], "got a shoulder alone"),
            ("51", "MIDFL", [{**STUMP, "around_mm": 1.2}], "prepared tooth has to be left"),
            ("36", "MODFL", [STUMP], "allowed an anterior tooth"),
            ("36", "MO", [BOX, {**MESIAL, "width_mm": 6.4}, {**GROOVES, "depth_mm": 1.5, "width_mm": 1.5}], "a wall of the box stays"),
            ("31", "MID", [EDGE, {**NOTCH, "width_mm": 5.0}], "the face ends there"),
            ("11", "F", [{"kind": "saucer", "width_mm": 3, "height_mm": 2, "depth_mm": 1, "above_cervical_mm": 1},
                         NOTCH], "allowed it alone"),
        ],
    )  # fmt: skip
    def test_what_does_not_fit_is_told(
        self, tooth: str, surfaces: str, parts: list[dict[str, Any]], told: str
    ) -> None:
        with pytest.raises(InputError) as caught:
            cavity_of(tooth, surfaces, parts)
        assert told in str(caught.value)


class TestMargins:
    @pytest.mark.parametrize("deg", [-8.0, 0.0, 8.0])
    def test_a_wall_that_opens_leaves_a_blunt_edge(self, deg: float) -> None:
        """Between a level top and a wall that opens by an angle the tooth has 90 degrees and that angle."""
        whole = frustum((-5.0, 5.0, -5.0, 5.0), -2.5, 2.5, (0.0,) * 4)
        slope = math.tan(math.radians(deg))
        box = frustum((-2.0, 2.0, -1.0, 1.0), 0.0, 4.0, (slope,) * 4)
        margin = margin_of(whole.solid ^ box.solid, whole.tag, {box.tag})
        assert margin.tooth_deg == pytest.approx(90.0 + deg, abs=1e-6)
        assert margin.lengths_mm.sum() == pytest.approx(12.0 + 8 * 2.5 * slope, rel=1e-6)

    def test_amalgam_is_told_what_it_would_lack(self) -> None:
        made = work(read_case(case_of("36", "MO", [BOX, MESIAL]))).plan
        (told,) = [d for d in made.decisions if d.topic == "prepare.otherwise"]
        codes = {reason.code for reason in told.reasons}
        assert "prepare.amalgam_opens" in codes
        assert "prepare.for_gold" in codes
        held = work(read_case(case_of("36", "MO", [BOX, MESIAL, GROOVES]))).plan
        (told,) = [d for d in held.decisions if d.topic == "prepare.otherwise"]
        assert "prepare.amalgam_opens" not in {reason.code for reason in told.reasons}
        shallow = {**BOX, "depth_mm": 1.2}
        made = work(read_case(case_of("36", "MO", [shallow, MESIAL]))).plan
        (told,) = [d for d in made.decisions if d.topic == "prepare.otherwise"]
        assert "1.2 mm deep; amalgam requires 1.5 mm" in " ".join(reason.text for reason in told.reasons)


class TestRound:
    def test_a_copper_band_goes_all_round_and_comes_off_once(self) -> None:
        worked = work(read_case(case_of(*CASES["shoulder"])))
        ids = [step.id for step in worked.plan.steps]
        assert ids.count("matrix.copper.band") == ids.count("matrix.copper.off") == 1
        assert ids.index("matrix.copper.bite") < ids.index("matrix.copper.band") < ids.index("bond.scrub")
        mesial, distal = worked.bands
        assert mesial.kind == distal.kind == "copper"
        assert mesial.bottom_mm < SHOULDER["above_cervical_mm"]
        # Together they close the ring: nothing of the section is left open.
        ring = (mesial.solid.solid + distal.solid.solid).slice(3.0)
        assert abs(ring.bounds()[3] - ring.bounds()[1]) > 9.0
        assert len(ring.to_polygons()) == 2

    def test_a_form_is_filled_at_once_and_lit_from_its_faces(self) -> None:
        worked = work(read_case(case_of(*CASES["stump"])))
        (one,) = worked.plan.increments
        assert {exposure.source for exposure in one.cured.exposures} <= {"occlusal", "facial", "lingual"}
        assert len(one.cured.exposures) > 1
        # No point is farther than this from the light that reaches it.
        assert 0 < one.cured.thickness_mm <= 2.0
        assert worked.lit.cured[0].contacts.areas_mm2()["air"] == pytest.approx(0, abs=1e-9)
        ids = [step.id for step in worked.plan.steps]
        assert ids.index("matrix.form.seal") < ids.index("bond.etch_enamel")
        assert ids.index("build.form.light") < ids.index("matrix.form.off") < ids.index("finish.trim")

    def test_a_notch_behind_is_lit_from_behind(self) -> None:
        worked = work(read_case(case_of(*CASES["dovetail"])))
        notch = worked.plan.increments[0]
        assert notch.id == "edge.notch"
        assert [e.source for e in notch.cured.exposures] == ["lingual"]


@pytest.mark.parametrize("technique", ["wall_first", "oblique", "horizontal", "wall_then_oblique"])
@pytest.mark.parametrize(("code", "face"), [("16", "lingual"), ("46", "facial")])
def test_under_composite_a_box_in_a_face_is_filled_first_and_lit_from_there(
    technique: str, code: str, face: str
) -> None:
    parts = [
        {"kind": "occlusal_box", "depth_mm": 1.8, "width_mm": 1.4, "length_mm": 4.5},
        {"kind": "face_box", "face": face, "above_cej_mm": 2.5, "axial_depth_mm": 1.2, "width_mm": 1.6},
    ]
    case = with_values(
        first_case(),
        tooth={"code": code},
        restoration__surfaces=f"O{face[0].upper()}",
        preparation__parts=parts,
        neighbours={},
        provenance={},
        school={"layering": technique},
    )
    worked = work(read_case(case))
    plan, cavity = worked.plan, worked.cavity
    assert sum(one.volume_mm3 for one in plan.increments) == pytest.approx(plan.geometry.volume_mm3, rel=1e-3)
    first, *others = worked.built.placed
    assert first.id == f"{face}.box.1"
    assert cavity.occlusal
    assert first.solid.bounding_box()[5] == pytest.approx(cavity.occlusal.floor_mm, abs=0.02)
    assert all(one.solid.bounding_box()[2] > cavity.occlusal.floor_mm - 0.05 for one in others)
    light = next(step for step in plan.steps if step.id == f"build.{face}.box.1.light")
    assert face in {press.source for press in light.presses}
    assert {c.verdict for c in plan.checks if c.topic in ("increment.dose", "increment.thickness")} == {
        "pass"
    }
    assert not [step.id for step in plan.steps if "backed" in step.id]
    grooved = copy.deepcopy(case)
    grooved["preparation"]["parts"][1]["grooves"] = "both"
    with pytest.raises(InputError, match=r"grooves: got 'both', allowed none"):
        work(read_case(grooved))


@pytest.mark.parametrize(
    ("code", "surfaces"), [("16", "OL"), ("26", "OL"), ("36", "OF"), ("47", "OF"), ("75", "OF")]
)
def test_a_groove_down_a_face_starts_as_a_box_there_unless_a_cusp_broke(code: str, surfaces: str) -> None:
    kinds = {
        cause: [part["kind"] for part in start_of(code, surfaces, cause).parts]
        for cause in ("caries", "fracture")
    }
    assert kinds == {"caries": ["occlusal_box", "face_box"], "fracture": ["occlusal_box", "cusp_reduction"]}


@pytest.mark.parametrize(
    ("code", "side"), [("36", "mesial"), ("36", "distal"), ("15", "mesial"), ("27", "distal")]
)
def test_a_tunnel_s_angle_is_that_of_its_entry_and_its_exit_and_is_told_and_drawn(
    code: str, side: str
) -> None:
    part = {"kind": "tunnel", "side": side, "below_ridge_mm": 2.5, "inset_mm": 2.4, "diameter_mm": 1.4}
    case = with_values(
        first_case(),
        tooth={"code": code},
        restoration__surfaces=f"{side[0].upper()}O" if side == "mesial" else "OD",
        preparation__parts=[part],
        neighbours={},
        provenance={},
    )
    worked = work(read_case(case))
    cavity, crown = worked.cavity, worked.cavity.crown
    (tunnel,) = cavity.tunnels
    # By the tooth's own surface: straight down at the entry, and straight in at the height of the exit.
    sign = 1 if side == "mesial" else -1
    enters = sign * crown.outer_x_mm(side, crown.contact_mm[side]) - 2.4
    exits_z = crown.ridge_mm(side) - 2.5 - 0.7
    exits = sign * crown.outer_x_mm(side, exits_z)
    down = vertical_at_mm(cavity.outer.solid, sign * enters, 0.0)[1] - exits_z
    assert tunnel.leans_deg == pytest.approx(math.degrees(math.atan2(exits - enters, down)), abs=0.2)
    told = f"{tunnel.leans_deg:.0f}\u00b0"
    steps = {step.id: step for step in worked.plan.steps}
    assert told in steps[f"prepare.tunnel.{side}"].detail
    section = next(sheet for sheet in draw(worked).sheets if sheet.view == "section")
    assert [mark.text for mark in section.marks if mark.id.startswith("lean")] == [f"{told} to axis"]
    asked = [steps[f"prepare.tunnel.{side}.{what}"] for what in ("caries", "margin", "ridge")]
    assert all(step.check and step.check.back_to == f"prepare.tunnel.{side}" for step in asked)
    assert [step.start_s for step in asked] == sorted(step.start_s for step in asked)


def test_what_holds_amalgam_in_a_face_is_left_out_for_what_is_bonded_and_kept_for_amalgam() -> None:
    box = {
        "kind": "face_box",
        "face": "lingual",
        "width_mm": 1.6,
        "axial_depth_mm": 1.2,
        "above_cej_mm": 2.5,
        "grooves": "both",
    }
    assert AmalgamRestoration.shaped(box) == box
    for bonded in (CompositeRestoration, GlassIonomerRestoration):
        assert "grooves" not in bonded.shaped(box)
