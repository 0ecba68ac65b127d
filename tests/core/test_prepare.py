"""The preparation: what is cut off for a cover, and what it is held against."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import CrossSection, Manifold

from mallet.cavity.measures import topmost_mm
from mallet.cavity.neighbours import place_neighbours
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.cavity.solids import skin
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import Check, Plan
from mallet.tooth import loft_crown, read_tooth
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan, work

LOWER_MOLAR = ["mesiofacial", "distofacial", "distal", "mesiolingual", "distolingual"]


def planned(**values: Any) -> Plan:
    made = plan(read_case(with_values(first_case(), **values)))
    assert isinstance(made, Plan)
    return made


def covered(cusps: list[str], tip_mm: float = 2.0, groove_mm: float | None = None, code: str = "36") -> Any:
    """Return a case with an occlusal box and cusps taken down."""
    case = first_case()
    case["tooth"]["code"] = code
    case["neighbours"], case["provenance"] = {}, {}
    case["restoration"]["surfaces"] = "O"
    box = {
        "kind": "occlusal_box",
        "depth_mm": 2.0,
        "width_mm": 1.6,
        "length_mm": 3.0,
        "wall_divergence_deg": 3,
    }
    cover = {"kind": "cusp_reduction", "cusps": cusps, "tip_mm": tip_mm, "groove_mm": groove_mm}
    case["preparation"] = {"parts": [box, cover]}
    return case


def cavity_of(case: Any) -> Cavity:
    return prepare_cavity(read_case(case), load_rulebook())


def check_of(made: Plan, topic: str) -> Check:
    return next(check for check in made.checks if check.topic == topic)


class TestPrepare:
    @pytest.mark.parametrize(
        ("height", "code", "level"),
        [(4.0, None, None), (4.8, "margin.thin_enamel", "note"), (6.0, "margin.in_dentin", "caution")],
    )
    def test_the_margin_is_told_by_its_distance_to_the_cervical_line(
        self, height: float, code: str | None, level: str | None
    ) -> None:
        """The cervical line of a lower first molar rises 1.0 mm mesially (handbook, from memory)."""
        made = planned(preparation__parts__1__height_mm=height)
        found = [(c.code, c.level) for c in made.cautions if c.code.startswith("margin.")]
        assert found == ([(code, level)] if code else [])

    @pytest.mark.parametrize(
        ("left", "verdict", "code"),
        [
            (2.0, "pass", None),
            (0.8, "pass", "pulp.close"),
            (0.5, "pass", "pulp.close"),
            (0.2, "fail", "pulp.very_close"),
        ],
    )
    def test_remaining_dentin_decides(self, left: float, verdict: str, code: str | None) -> None:
        """At least 0.5 mm has little effect on the pulp (Murray et al. 2003, from memory)."""
        made = planned(preparation__remaining_dentin_mm=left)
        check = next(c for c in made.checks if c.topic == "remaining_dentin")
        assert (check.verdict, check.needed, check.measured) == (verdict, 0.5, left)
        assert [c.code for c in made.cautions if c.code.startswith("pulp.") and c.level != "note"] == (
            [code] if code else []
        )

    def test_two_boxes_settle_the_length_of_the_occlusal_box(self) -> None:
        case = first_case()
        case["restoration"]["surfaces"] = "MOD"
        case["preparation"]["parts"].append({**case["preparation"]["parts"][1], "side": "distal"})
        worked = work(read_case(case))
        decision = next(d for d in worked.plan.decisions if d.topic == "prepare.occlusal_box")
        assert "instead of 5 mm" in decision.reasons[0].text
        mesial, distal = worked.cavity.box("mesial"), worked.cavity.box("distal")
        occlusal = worked.cavity.occlusal
        assert mesial
        assert distal
        assert occlusal
        assert occlusal.floor[1] < mesial.floor[0]
        assert occlusal.floor[0] > distal.floor[1]


class TestCover:
    @pytest.mark.parametrize(("tip", "groove"), [(2.0, 2.0), (2.0, 1.2), (1.5, 2.0)])
    def test_so_much_is_off_as_was_asked_at_the_tips_and_in_the_groove(
        self, tip: float, groove: float
    ) -> None:
        cavity = cavity_of(covered(LOWER_MOLAR, tip, groove))
        tips = np.array([cavity.crown.cusps[cusp][:2] for cusp in LOWER_MOLAR])
        # Beside the box, along the central groove.
        along = np.column_stack([np.linspace(-3.5, -2.2, 8), np.zeros(8)])
        for places, off in ((tips, tip), (along, groove)):
            gone = (
                topmost_mm(cavity.outer.solid, places)[:, 1]
                - topmost_mm(cavity.remaining_tooth, places)[:, 1]
            )
            assert gone == pytest.approx(off, abs=0.01)

    def test_an_even_cover_of_all_cusps_is_the_crown_moved_down(self) -> None:
        """By Cavalieri: over the occlusal table goes its area times the depth."""
        cavity = cavity_of(covered(LOWER_MOLAR, 1.5, 1.5))
        rim = CrossSection([cavity.crown.axial[-1][:, :2]])
        over = rim.extrude(40).translate((0, 0, -20)) ^ cavity.outer.solid ^ cavity.reductions[0].cut.solid
        assert over.volume() == pytest.approx(1.5 * rim.area(), rel=1e-6)
        # Outside the rim, down to the shelf, the crown bulges a little.
        assert over.volume() < cavity.reductions[0].nominal_volume_mm3 < 1.15 * over.volume()

    @given(
        code=st.sampled_from(["14", "16", "24", "27", "34", "35", "36", "44", "47"]),
        draw=st.randoms(use_true_random=False),
        tip=st.floats(0.5, 2.2),
        groove=st.floats(0.5, 1.8),
    )
    @settings(max_examples=40, deadline=None)
    def test_nothing_is_lost_or_made_whatever_is_taken_down(
        self, code: str, draw: Any, tip: float, groove: float
    ) -> None:
        names = list(loft_crown(read_tooth(code), load_rulebook()).cusps)
        cusps = draw.sample(names, draw.randint(1, len(names)))
        cavity = cavity_of(covered(cusps, round(tip, 1), round(groove, 1), code))
        whole = cavity.outer.solid.volume()
        assert cavity.filling.volume() + cavity.remaining_tooth.volume() == pytest.approx(whole, rel=1e-6)
        assert (cavity.filling - cavity.outer.solid).volume() < 1e-6
        faces = skin(cavity.filling)
        assert set(faces.tags.tolist()) <= cavity.cut_tags | {cavity.outer.tag}
        assert cavity.reductions[0].cut.tag in faces.tags

    def test_a_cusp_that_stays_keeps_its_tip_and_the_groove_before_it(self) -> None:
        """No margin ends in a groove: common practice, no source."""
        cavity = cavity_of(covered(["mesiolingual"]))
        kept = np.array([cavity.crown.cusps[cusp][:2] for cusp in LOWER_MOLAR if cusp != "mesiolingual"])
        top = topmost_mm(cavity.remaining_tooth, kept)[:, 1]
        assert top == pytest.approx(topmost_mm(cavity.outer.solid, kept)[:, 1], abs=1e-6)
        between = (cavity.crown.cusps["mesiolingual"][0] + cavity.crown.cusps["distolingual"][0]) / 2
        groove = np.array([[between, -2.0]])
        assert topmost_mm(cavity.filling, groove)[0, 1] == topmost_mm(cavity.outer.solid, groove)[0, 1]

    @pytest.mark.parametrize(
        ("cusps", "path", "allowed"),
        [
            (["facial"], "preparation.parts[1].cusps[0]", "mesiofacial"),
            (["distal", "distal"], "preparation.parts[1].cusps[1]", "each once"),
        ],
    )
    def test_a_cusp_that_the_tooth_has_not_is_named(self, cusps: list[str], path: str, allowed: str) -> None:
        with pytest.raises(InputError) as refused:
            cavity_of(covered(cusps))
        problem = refused.value.problems[0]
        assert (problem.path, problem.got) == (path, repr(cusps[-1]))
        assert allowed in problem.allowed

    def test_a_cover_down_to_the_handbook_s_pulp_is_told_not_refused(self) -> None:
        case = covered(LOWER_MOLAR, 4.0, 4.0)
        case["preparation"].pop("remaining_dentin_mm", None)
        assert cavity_of(case).remaining_dentin_mm == 0

    def test_cusps_alone_are_no_cavity_and_surfaces_may_name_the_sides(self) -> None:
        case = covered(["mesiolingual"])
        case["restoration"]["surfaces"] = "OL"
        assert cavity_of(case).covered == {"mesiolingual"}
        case["restoration"]["surfaces"] = "OF"
        with pytest.raises(InputError, match="surfaces"):
            cavity_of(case)
        del case["preparation"]["parts"][0]
        with pytest.raises(InputError, match="a box beside"):
            cavity_of(case)

    def test_the_groove_is_assumed_as_deep_as_the_tips_until_it_is_measured(self) -> None:
        case = covered(LOWER_MOLAR, 2.0)
        del case["preparation"]["parts"][1]["groove_mm"]
        made = plan(read_case(case))
        assert isinstance(made, Plan)
        assert ("preparation.parts[1].groove_mm", 2.0) in {(a.path, a.value) for a in made.assumptions}
        assert check_of(made, "prepare.cover.least").verdict == "pass"


class TestChecks:
    def test_a_cover_too_thin_in_the_groove_is_placed_there(self) -> None:
        """1.5 to 2 mm everywhere, measured in the groove too (operative textbooks, from memory)."""
        made = plan(read_case(covered(LOWER_MOLAR, 2.0, 1.2)))
        assert isinstance(made, Plan)
        check = check_of(made, "prepare.cover.least")
        assert (check.verdict, check.measured, check.needed) == ("fail", 1.2, 1.5)
        assert "groove" in check.where
        assert check.place
        assert abs(check.place.y) < 0.5
        assert check_of(made, "prepare.cover.tip").verdict == "pass"

    @pytest.mark.parametrize(("width", "verdict"), [(0.7, "caution"), (0.8, "pass"), (1.6, "pass")])
    def test_the_smallest_placing_instrument_must_pass(self, width: float, verdict: str) -> None:
        """0.8 mm: common practice, no source."""
        check = check_of(planned(preparation__parts__0__width_mm=width), "prepare.condenser")
        assert check.verdict == verdict
        assert check.measured == min(width, 1.5)

    @pytest.mark.parametrize(
        ("width", "isthmus", "cusps"),
        [(1.0, "pass", "pass"), (2.5, "caution", "caution"), (3.6, "caution", "fail")],
    )
    def test_strength_goes_with_width(self, width: float, isthmus: str, cusps: str) -> None:
        """A quarter of the intercuspal distance keeps it, a third loses it (Vale 1956); to half the way to a
        tip keep the cusp, over two thirds cover it (operative textbooks): from memory."""
        made = planned(preparation__parts__0__width_mm=width)
        assert [check_of(made, f"prepare.{topic}").verdict for topic in ("isthmus", "cusps")] == [
            isthmus,
            cusps,
        ]

    @pytest.mark.parametrize(("length", "verdict"), [(5.0, "pass"), (7.2, "caution")])
    def test_a_ridge_that_stays_is_thick_enough(self, length: float, verdict: str) -> None:
        """1.6 mm on a premolar, 2.0 on a molar (operative textbooks, from memory)."""
        made = planned(preparation__parts__0__length_mm=length)
        check = check_of(made, "prepare.ridge.distal")
        assert (check.verdict, check.needed) == (verdict, 2.0)
        assert "prepare.ridge.mesial" not in {c.topic for c in made.checks}

    @pytest.mark.parametrize(
        ("rule", "value", "topic"),
        [
            ("prepare.condenser_mm", 1.8, "prepare.condenser"),
            ("prepare.cusp_consider_share", 0.66, "prepare.cusps"),
            ("prepare.isthmus_loses_share", 0.66, "prepare.isthmus"),
            ("prepare.ridge_molar_mm", 3.5, "prepare.ridge.distal"),
        ],
    )
    def test_a_house_rule_turns_the_verdict(self, rule: str, value: float, topic: str) -> None:
        ordinary = planned(preparation__parts__0__width_mm=2.2, preparation__parts__0__length_mm=5.4)
        case = with_values(
            first_case(), preparation__parts__0__width_mm=2.2, preparation__parts__0__length_mm=5.4
        )
        case["house"] = {rule: value}
        ours = plan(read_case(case))
        assert isinstance(ours, Plan)
        assert check_of(ours, topic).verdict != check_of(ordinary, topic).verdict
        assert rule in {use.rule for use in check_of(ours, topic).rules}

    def test_depths_are_told_by_the_cutting_head(self) -> None:
        """A 3 mm head is the gauge: common practice, no source."""
        decision = next(d for d in planned().decisions if d.topic == "prepare.gauge")
        assert decision.chosen == "depth in 3 mm bur-head lengths: pulpal floor 0.7, mesial box 1.7"


class TestContact:
    @pytest.mark.parametrize("code", ["36", "15", "26", "45", "75"])
    def test_clearance_is_the_gap_in_the_middle_and_wider_beside_it(self, code: str) -> None:
        box = {
            "kind": "proximal_box",
            "side": "mesial",
            "height_mm": 3.0,
            "width_mm": 2.4,
            "axial_depth_mm": 1.0,
        }
        changes = {"tooth__code": code, "neighbours": {}, "provenance": {}, "restoration__surfaces": "M"}
        case = read_case(with_values(first_case(), **changes, preparation={"parts": [box]}))
        rules = load_rulebook()
        cavity = prepare_cavity(case, rules)
        (beside,), _ = place_neighbours(case, cavity, rules)
        own = cavity.crown
        z = own.contact_mm["mesial"]
        assert beside.clearance_mm(own, 0.0, z) == pytest.approx(beside.gap_mm(own, z), abs=1e-6)
        clear = [beside.clearance_mm(own, y, z) for y in (0.0, 1.0, 2.0, 3.0)]
        assert clear == sorted(clear)
        # Held against the solids: a probe of that width fits between the two teeth, a wider one does not.
        ours = cavity.outer.solid
        for y in (1.0, 2.0):
            free = beside.clearance_mm(own, y, z)
            x = own.side_x_mm("mesial", y, z)
            for wide, is_free in ((0.9 * free, True), (1.1 * free + 0.1, False)):
                probe = Manifold.cube([wide, 0.01, 0.01]).translate((x + 0.02 * free, y - 0.005, z - 0.005))
                touched = (probe ^ (ours + beside.solid)).volume()
                assert (touched < 0.02 * probe.volume()) == is_free

    def test_a_box_that_hardly_clears_the_neighbour_is_cautioned_with_its_place(self) -> None:
        for wide, verdict in ((1.0, "caution"), (4.0, "pass")):
            made = plan(read_case(with_values(first_case(), preparation__parts__1__width_mm=wide)))
            assert isinstance(made, Plan)
            check = next(c for c in made.checks if c.topic == "prepare.contact.mesial")
            assert check.verdict == verdict
            assert check.where.endswith("wall")
            assert check.place
            assert abs(check.place.y) == pytest.approx(wide / 2, abs=0.25)
