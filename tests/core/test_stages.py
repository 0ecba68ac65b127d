"""The stages common to all restoratives: what each decides, checks and lets the hands do."""

import json
from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.curing.lamp import judge_lamp
from mallet.light.beam import Beam
from mallet.rulebook import Rulebook
from mallet.stages.isolate import dam_teeth, hole, nerves
from mallet.terms.case import read_case
from mallet.terms.errors import InputError, NotFeasible
from mallet.terms.plan import NoPlan, Plan
from mallet.tooth import read_tooth
from mallet.worked import with_changes
from tests.core.conftest import EXAMPLE, first_case, with_values
from tests.core.planned import decided, plan, planned, steps_of, work


class TestAssess:
    @pytest.mark.parametrize(
        ("findings", "code"),
        [
            ({"pain": "spontaneous"}, "assess.signs"),
            ({"pain": "lingering"}, "assess.signs"),
            ({"percussion": "tender"}, "assess.signs"),
            ({"cold": "no_answer"}, "assess.signs"),
            ({"pain": "brief_on_cold", "cold": "brief", "percussion": "normal"}, None),
            ({"pain": "spontaneous", "pulp": "sound"}, "assess.contradiction"),
            ({"cold": "no_answer", "pulp": "reversible"}, "assess.contradiction"),
            ({"cold": "lingering", "pulp": "reversible"}, "assess.contradiction"),
            ({"percussion": "tender", "pulp": "sound"}, "assess.contradiction"),
            ({"percussion": "tender", "pulp": "reversible"}, None),
            ({"swelling": "sinus_tract"}, "assess.signs"),
            ({"swelling": "swelling", "pulp": "reversible"}, "assess.contradiction"),
            ({"pulp": "in_doubt"}, "assess.pulp_in_doubt"),
            ({"pulp": "irreversible"}, "assess.pulp_irreversible"),
            ({"surely_this_tooth": False}, "assess.which_tooth"),
        ],
    )
    def test_doubt_about_the_pulp_and_signs_that_contradict_stop(
        self, findings: dict[str, Any], code: str | None
    ) -> None:
        made = plan(read_case({**first_case(), "findings": findings}))
        if code is None:
            assert isinstance(made, Plan)
            warned = "assess.signs_told" in {c.code for c in made.cautions}
            assert warned == (findings.get("percussion") == "tender")
            return
        assert isinstance(made, NoPlan)
        assert made.requirement.code == code
        # No clinical finding is ever suggested as what would do.
        assert made.nearest == {}

    def test_a_necrotic_tooth_is_a_stop_and_a_root_canal_treated_one_is_not(self) -> None:
        dead = {**first_case(), "tooth": {"code": "36", "vitality": "non_vital"}}
        made = plan(read_case(dead))
        assert isinstance(made, NoPlan)
        assert made.requirement.code == "assess.necrotic"
        treated = {
            **first_case(),
            "tooth": {"code": "36", "vitality": "root_filled"},
            "findings": {"cold": "no_answer"},
        }
        assert isinstance(plan(read_case(treated)), Plan)

    def test_nothing_is_taken_for_identity_and_pulp(self) -> None:
        bare = planned()
        assert not bare.may_start
        assert [r.code for r in bare.wanted_before] == ["assess.wants_tooth", "assess.wants_pulp"]
        told = planned(findings={"pulp": "reversible", "surely_this_tooth": True})
        assert told.may_start
        assert told.wanted_before == []

    def test_the_history_comes_before_the_injection(self) -> None:
        steps = {s.id: s for s in planned(patient={"anticoagulants": True, "allergies": ["latex"]}).steps}
        assert steps["isolate.numb"].after == ["assess.history"]
        assert steps["assess.history"].end_s <= steps["isolate.numb"].start_s
        assert steps["assess.history"].check
        for known in ("anticoagulants", "latex"):
            assert known in steps["assess.history"].detail
        codes = {c.code for c in planned(patient={"endocarditis_risk": True}).cautions}
        assert "alert.endocarditis" in codes

    def test_heights_are_taken_before_cutting_and_shown_again_at_carving(self) -> None:
        bare = planned()
        assert [s.id for s in steps_of(bare, "assess")] == ["assess.history", "assess.bite", "assess.heights"]
        told = planned(heights={"groove_mm": -1.5, "mesial_ridge_mm": 0.3}, findings={"bite_marked": True})
        assert [s.id for s in steps_of(told, "assess")] == ["assess.history"]
        (carving,) = (s for s in told.steps if s.id == "finish.trim")
        assert carving.detail.endswith("Before cutting: groove \u22121.5 mm, mesial ridge +0.3 mm.")


class TestIsolate:
    @pytest.mark.parametrize(
        ("code", "span", "teeth"),
        [
            ("36", "to_opposite_lateral", "37 36 35 34 33 32 31 41 42"),
            ("36", "two_in_front", "37 36 35 34"),
            ("25", "to_opposite_lateral", "26 25 24 23 22 21 11 12"),
            ("48", "two_in_front", "48 47 46"),
            ("11", "to_opposite_lateral", "14 13 12 11 21 22 23 24"),
        ],
    )
    def test_the_dam_reaches_from_behind_the_tooth_to_the_front(
        self, code: str, span: str, teeth: str
    ) -> None:
        """One behind to the opposite lateral; front teeth from premolar to premolar (operative textbook,
        from memory); one behind to two in front (common practice, no source)."""
        assert [tooth.iso for tooth in dam_teeth(read_tooth(code), span)] == teeth.split()

    @pytest.mark.parametrize(
        ("told", "teeth", "held", "off"),
        [
            ({}, "14 to 24", "the floss stays", "floss, septa"),
            ({"isolation": {"last_contacts": "open"}}, "14 to 24", "elastic cord", "elastic cords"),
            ({"techniques": {"anterior_dam": "canines"}}, "13 to 23", "the floss stays", "floss, septa"),
        ],
    )
    def test_an_anterior_dam_has_no_clamp_and_what_held_it_comes_off(
        self, told: dict[str, Any], teeth: str, held: str, off: str
    ) -> None:
        """Canine to canine or premolar to premolar; floss or elastic cord at the ends (common practice, no source)."""
        edge = json.loads((EXAMPLE.parent / "worked" / "front_edge_alone.json").read_text())
        base = {**first_case(), "neighbours": {}, "provenance": {}, **told}
        made = plan(read_case(with_changes(base, edge["changes"])))
        assert isinstance(made, Plan)
        on, away = (next(s for s in made.steps if s.id == f"isolate.{name}") for name in ("dam", "dam_off"))
        assert f"{held}" in on.detail
        assert teeth in on.detail
        assert off in away.detail
        assert not any(
            "clamp" in words
            for step in (on, away)
            for words in (*step.tray, step.detail.replace("No clamp", ""))
        )
        asked = {ask.path for stage in made.stages for ask in stage.asks}
        assert {"techniques.anterior_dam", "isolation.last_contacts", "findings.overbite"} <= asked
        assert "techniques.dam_span" not in asked

    def test_holes_grow_from_the_lower_incisor_to_the_anchor(self) -> None:
        sizes = [hole(read_tooth(code), is_anchor=False) for code in ("41", "11", "33", "35", "36")]
        assert sizes == sorted(sizes)
        assert hole(read_tooth("37"), is_anchor=True) > max(sizes)

    @pytest.mark.parametrize(
        ("code", "pulp", "gum"),
        [
            ("36", "inferior alveolar", "long buccal"),
            ("34", "inferior alveolar", "mental"),
            ("41", "incisive branch", "mental"),
            ("26", "mesiobuccal root often the middle", "greater palatine"),
            ("15", "middle superior alveolar, often missing", "greater palatine"),
            ("11", "anterior superior", "nasopalatine"),
            ("23", "anterior superior", "nasopalatine"),
        ],
    )
    def test_each_tooth_has_its_nerves(self, code: str, pulp: str, gum: str) -> None:
        """Handbooks of local anesthesia, from memory."""
        of_pulp, of_gum = nerves(read_tooth(code))
        assert pulp in of_pulp
        assert gum in of_gum

    def test_the_clamp_sits_behind_or_on_the_last_tooth(self) -> None:
        """At least one behind the treated tooth (operative textbook, from memory)."""
        (dam,) = (s for s in planned().steps if s.id == "isolate.dam")
        assert "Clamp on 37" in dam.detail
        (dam,) = (s for s in planned(neighbours={"distal": {"missing": True}}).steps if s.id == "isolate.dam")
        assert "Clamp on 36" in dam.detail

    def test_the_dam_can_wait_until_the_tooth_is_prepared_but_not_with_old_amalgam(self) -> None:
        late = [s.id for s in planned(isolation={"dam_on": "after_preparation"}).steps]
        assert late.index("prepare.verify") < late.index("isolate.dam") < late.index("matrix.mesial.band")
        both = {"dam_on": "after_preparation", "old_amalgam": True}
        with pytest.raises(
            InputError, match=r"isolation.dam_on: got 'after_preparation', allowed before_cutting"
        ):
            planned(isolation=both)

    def test_a_margin_below_the_gum_is_told(self) -> None:
        assert "isolate.below_gum" in {c.code for c in planned(findings={"below_gum": True}).cautions}
        assert "isolate.below_gum" not in {c.code for c in planned().cautions}

    def test_what_was_given_is_told_at_the_chair_and_a_dead_pulp_needs_only_the_gum(self) -> None:
        (numb,) = (s for s in planned(isolation={"given": "1.8 ml, 2 %"}).steps if s.id == "isolate.numb")
        assert "1.8 ml, 2 %" in numb.detail
        (numb,) = (s for s in planned(tooth__vitality="root_filled").steps if s.id == "isolate.numb")
        assert numb.title == "Anesthetize the gingiva"


def planned_beside(told: Mapping[str, object]) -> Plan:
    """Return a plan beside a concave contact of which something is told."""
    return planned(neighbours={"mesial": {"contact": "concave", **told}})


class TestMatrix:
    @pytest.mark.parametrize(
        ("contact", "code", "smooths"),
        [
            ("sound", None, False),
            ("open", "neighbour.open", False),
            ("tight", "neighbour.tight", False),
            ("concave", "neighbour.smoothed", True),
            ("too_high", "neighbour.smoothed", True),
        ],
    )
    def test_the_contact_that_was_there_asks_for_its_own(
        self, contact: str, code: str | None, smooths: bool
    ) -> None:
        """A concave or too high contact is smoothed, with consent (common practice, no source)."""
        made = planned(neighbours={"mesial": {"contact": contact}})
        found = [c.code for c in made.cautions if c.code.startswith("neighbour.")]
        assert found == ([code] if code else [])
        ids = [s.id for s in made.steps]
        assert ("matrix.mesial.smooth" in ids) == smooths
        if smooths:
            assert ids.index("matrix.mesial.smooth") < ids.index("matrix.mesial.band")
        assert ("adjacent.mesial.smooth_mm" in {a.path for s in made.stages for a in s.asks}) == smooths

    @pytest.mark.parametrize(
        ("told", "left_mm", "verdict", "remedy"),
        [
            ({}, 1.0, "pass", ""),
            ({"smooth_mm": 0.5}, 0.7, "pass", ""),
            ({"smooth_mm": 0.6}, 0.6, "fail", "no more than 0.5 mm"),
            ({"enamel_mm": 0.8}, 0.6, "fail", "no more than 0.1 mm"),
            ({"enamel_mm": 0.5, "smooth_mm": 0.1}, 0.4, "fail", "no more than 0.0 mm"),
        ],
    )
    def test_enamel_stays_on_an_adjacent_tooth_that_is_smoothed(
        self, told: dict[str, float], left_mm: float, verdict: str, remedy: str
    ) -> None:
        made = planned_beside(told)
        (check,) = (c for c in made.checks if c.topic == "adjacent.mesial")
        assert (check.measured, check.verdict) == (left_mm, verdict)
        assert remedy in check.remedy
        # What was told is not by a rule.
        by = {use.rule for use in check.rules}
        assert ("matrix.smooth_mm" in by) == ("smooth_mm" not in told)
        assert ("tooth.enamel_contact_mm" in by) == ("enamel_mm" not in told)

    def test_consent_to_smoothing_is_asked_until_it_is_recorded(self) -> None:
        for agreed in (False, True):
            made = planned_beside({"agreed": agreed})
            (step,) = (s for s in made.steps if s.id == "matrix.mesial.smooth")
            assert step.check
            assert ("Only with consent" in step.detail) != agreed
            assert step.check.question.startswith(
                "Consent is recorded." if agreed else "Has the patient agreed"
            )
            assert ("neighbour.smoothed" in {c.code for c in made.cautions}) != agreed


class TestProtect:
    @pytest.mark.parametrize(
        ("left", "vitality", "chosen"),
        [
            (2.0, "vital", "nothing"),
            (0.6, "vital", "nothing"),
            (0.4, "vital", "calcium silicate base"),
            (0.4, "root_filled", "nothing"),
        ],
    )
    def test_the_dentin_that_is_left_decides(self, left: float, vitality: str, chosen: str) -> None:
        """Below 0.5 mm the pulp is at risk (Murray et al. 2003, from memory)."""
        made = planned(preparation__remaining_dentin_mm=left, tooth__vitality=vitality)
        assert decided(made, "protect").chosen.startswith(chosen)

    @pytest.mark.parametrize("low", [False, True])
    def test_a_deep_tooth_differs_from_the_plain_one_and_says_why(self, low: bool) -> None:
        """With the margin in dentin fresh calcium silicate is not bonded over (operative textbooks, from memory)."""
        height = {"preparation__parts__1__height_mm": 6.8} if low else {}
        plain = planned(**height)
        deep = planned(preparation__remaining_dentin_mm=0.4, **height)
        assert steps_of(plain, "protect") == []
        kind = "resin-modified ionomer base" if low else "calcium silicate base"
        assert decided(deep, "protect").chosen.startswith(kind)
        codes = {c.code for c in deep.cautions}
        assert "pulp.very_close" in codes
        assert ("bond.margin_without_enamel" in codes) == low
        assert "0.4 mm are left over a vital pulp" in decided(deep, "protect").reasons[0].text
        acid = next(s for s in deep.steps if s.id == "bond.etch_enamel").detail
        assert acid.endswith("Keep it off the base.")
        assert ("there is none to etch" in acid) == low
        order = [s.id for s in deep.steps]
        assert (
            order.index("prepare.verify") < order.index("protect.place") < order.index("matrix.mesial.band")
        )

    def test_increments_and_light_follow_the_shape_of_a_base(self) -> None:
        """What the base takes is no longer filled, a shallower floor gets more light, and every face of the
        rest still touches what it touched: tooth, base, band or air."""
        case = with_values(
            first_case(), restoration__surfaces="O", provenance={}, preparation__remaining_dentin_mm=0.4
        )
        case["preparation"]["parts"] = [{**case["preparation"]["parts"][0], "depth_mm": 3.5}]
        bare = work(read_case(with_values(case, protection__what="nothing")))
        based = work(read_case(with_values(case, protection__base_mm=1.2)))
        (base,) = based.cavity.bases
        assert base.thickness_mm == 1.2
        filled = based.plan.geometry.volume_mm3 + base.solid.volume()
        assert filled == pytest.approx(bare.plan.geometry.volume_mm3, rel=1e-6)
        assert base.solid.volume() == pytest.approx(1.2 * 2.5 * 5.0, rel=0.06)
        assert sum(c.portion.solid.volume() for c in based.lit.cured) == pytest.approx(
            based.cavity.filling.volume(), rel=1e-6
        )
        assert (base.solid ^ based.cavity.filling).volume() == pytest.approx(0, abs=1e-6)
        assert based.plan.totals.cure_seconds < bare.plan.totals.cure_seconds
        lowest = [min(c.portion.solid.bounding_box()[2] for c in w.lit.cured) for w in (bare, based)]
        assert lowest[1] - lowest[0] == pytest.approx(1.2, abs=0.01)
        (check,) = (c for c in based.plan.checks if c.topic.startswith("protect."))
        assert check.measured == pytest.approx(3.5 - 1.2, abs=0.02)
        # Enamel walls stay free: what the portions touch of tooth and base loses only what the base covers.
        touched = [sum(i.cured.touches["tooth"] for i in w.plan.increments) for w in (bare, based)]
        assert 0 < touched[0] - touched[1] < 2 * 1.2 * (2.5 + 5.0)

    @pytest.mark.parametrize(
        ("protection", "said"),
        [
            ({"what": "base", "base_mm": 2.5}, r"protection.base_mm: got 2.5, allowed up to \d\.\d"),
            ({"material": "unheard of"}, "protection.material: got 'unheard of', allowed none"),
            ({"exposure": "cap"}, "protection.exposure: got 'cap', allowed none: no vital pulp"),
        ],
    )
    def test_what_cannot_be_is_refused_by_name(self, protection: dict[str, Any], said: str) -> None:
        alive = "root_filled" if "exposure" in protection else "vital"
        with pytest.raises(InputError, match=said):
            planned(preparation__remaining_dentin_mm=0.4, tooth__vitality=alive, protection=protection)

    def test_where_no_base_fits_none_is_mixed_and_a_cap_is_placed_all_the_same(self) -> None:
        tight = {"preparation__remaining_dentin_mm": 0.4, "preparation__parts__1__axial_depth_mm": 1.2}
        bare = planned(**tight, preparation__parts__0__depth_mm=1.2)
        assert decided(bare, "protect").chosen.startswith("nothing")
        assert steps_of(bare, "protect") == []
        assert "protect.no_room" in {c.code for c in bare.cautions}
        capped = planned(**tight, preparation__parts__0__depth_mm=1.2, protection={"exposure": "cap"})
        assert "protect.place" in {s.id for s in steps_of(capped, "protect")}

    def test_a_liner_that_is_asked_for_is_one_whatever_stands_on_the_shelf(self) -> None:
        for shelf in ([], [{"kind": "base", "name": "s", "substance": "calcium_silicate", "set_s": 720}]):
            made = planned(shelf=shelf, protection={"what": "liner"})
            assert decided(made, "protect").chosen == "resin-modified ionomer liner"
            place = next(s for s in made.steps if s.id == "protect.place")
            assert "no thicker than 0.5 mm" in place.detail

    def test_a_material_that_is_named_is_placed_however_much_dentin_is_left(self) -> None:
        liner = {"kind": "liner", "name": "h", "substance": "calcium_hydroxide", "most_mm": 0.8, "set_s": 150}
        made = planned(shelf=[liner], protection={"material": "h"})
        assert decided(made, "protect").chosen == "calcium hydroxide liner: h"
        assert decided(made, "protect").reasons[0].text == "h was chosen."

    @given(
        left=st.floats(0, 3),
        depth=st.floats(1.2, 3.4),
        axial=st.floats(0.8, 2.0),
        base=st.none() | st.floats(0.3, 3),
    )
    @settings(max_examples=9, deadline=None)
    def test_no_base_leaves_less_filling_than_it_needs(
        self, left: float, depth: float, axial: float, base: float | None
    ) -> None:
        values = {
            "preparation__parts__0__depth_mm": depth,
            "preparation__parts__1__axial_depth_mm": axial,
            "preparation__remaining_dentin_mm": left,
            "protection": {"what": "base", "base_mm": base},
        }
        try:
            made = work(read_case(with_values(first_case(), **values)))
        except (InputError, NotFeasible):
            return
        checks = [c for c in made.plan.checks if c.topic.startswith("protect.")]
        assert len(checks) == len(made.cavity.bases)
        assert all(c.verdict == "pass" for c in checks)
        assert made.cavity.bases or "protect.no_room" in {c.code for c in made.plan.cautions}


class TestLamp:
    def test_a_weak_lamp_warns_and_a_weaker_one_stops(self, book: Rulebook) -> None:
        """233 and 300 mW/cm2 (Rueggeberg 1994; Fan 2002, from memory)."""
        light = read_case(first_case()).light
        fine, weak = (judge_lamp(Beam(4.5, m, 2.0), light, book) for m in (1000.0, 260.0))
        assert [c.verdict for c in fine.checks] == ["pass"]
        assert [c.verdict for c in weak.checks] == ["caution"]
        assert "light.weak" in {c.code for c in weak.cautions}
        assert "light.eye" in {c.code for c in fine.cautions}
        with pytest.raises(NotFeasible, match="at least 233 are required"):
            judge_lamp(Beam(4.5, 232.0, 2.0), light, book)

    def test_the_house_may_be_stricter(self, book: Rulebook) -> None:
        strict = book.with_house({"light.minimum_output_mw_cm2": 500.0})
        with pytest.raises(NotFeasible, match="at least 500 are required"):
            judge_lamp(Beam(4.5, 480.0, 2.0), read_case(first_case()).light, strict)
