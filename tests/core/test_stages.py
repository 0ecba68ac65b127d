"""The stages one by one: what each decides, checks and lets the hands do."""

from typing import Any

import pytest

from mallet.light.beam import Beam
from mallet.light.presses import Button
from mallet.plan import plan, work
from mallet.rulebook import Rulebook
from mallet.stages.bond import FilmCure, bond
from mallet.stages.build.composite import mass_for
from mallet.stages.isolate import isolate
from mallet.stages.lamp import judge_lamp
from mallet.terms.case import Mass, read_case
from mallet.terms.errors import NotFeasible
from mallet.terms.mouth import Patient
from mallet.terms.plan import Plan, Step
from mallet.tooth import read_tooth
from tests.core.conftest import first_case, with_values


def planned(**values: Any) -> Plan:
    made = plan(read_case(with_values(first_case(), **values)))
    assert isinstance(made, Plan)
    return made


def steps_of(made: Plan, stage: str) -> list[Step]:
    return [s for s in made.steps if s.stage == stage]


class TestIsolate:
    def test_the_clamp_sits_one_tooth_behind(self, book: Rulebook) -> None:
        """At least one behind the treated tooth (operative textbook, from memory)."""
        (dam,) = isolate(read_tooth("36"), Patient(), book).steps
        assert "Clamp on 37" in dam.detail
        assert "36" in dam.detail

    def test_the_last_tooth_bears_the_clamp_itself(self, book: Rulebook) -> None:
        (dam,) = isolate(read_tooth("38"), Patient(), book).steps
        assert "Clamp on 38" in dam.detail


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
        assert [c.code for c in made.cautions if c.code.startswith("pulp.")] == ([code] if code else [])

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


class TestLamp:
    def test_a_weak_lamp_warns_and_a_weaker_one_stops(self, book: Rulebook) -> None:
        """233 and 300 mW/cm2 (Rueggeberg 1994; Fan 2002, from memory)."""
        light = read_case(first_case()).light
        fine, weak = (judge_lamp(Beam(4.5, m, 2.0), light, book) for m in (1000.0, 260.0))
        assert [c.verdict for c in fine.checks] == ["pass"]
        assert [c.verdict for c in weak.checks] == ["caution"]
        assert "light.weak" in {c.code for c in weak.cautions}
        assert "light.eye" in {c.code for c in fine.cautions}
        with pytest.raises(NotFeasible, match="under 233"):
            judge_lamp(Beam(4.5, 232.0, 2.0), light, book)

    def test_the_house_may_be_stricter(self, book: Rulebook) -> None:
        strict = book.with_house({"light.minimum_output_mw_cm2": 500.0})
        with pytest.raises(NotFeasible, match="under 500"):
            judge_lamp(Beam(4.5, 480.0, 2.0), read_case(first_case()).light, strict)


class TestBond:
    def test_the_clocks_are_the_rulebook_s(self, book: Rulebook) -> None:
        """Enamel 15-30 s (operative textbooks); 15 s equals 60 s (Barkmeier 1986, from memory)."""
        cure = FilmCure("occlusal", Button((10.0,)).least(10.0))
        steps = {s.id: s for s in bond([cure], ["before"], book).steps}
        assert steps["bond.etch_enamel"].seconds == 15
        assert steps["bond.etch_enamel"].after == ["before"]
        assert 10 <= steps["bond.scrub"].seconds <= 20
        assert steps["bond.air"].seconds >= 5
        assert steps["bond.cure"].seconds == 10
        assert steps["bond.air"].check
        assert steps["bond.air"].check.back_to == "bond.etch_enamel"

    def test_two_halves_are_lit_one_after_the_other(self, book: Rulebook) -> None:
        press = Button((5.0,)).least(5.0)
        halves = [FilmCure("occlusal_mesial", press), FilmCure("occlusal_distal", press)]
        steps = bond(halves, [], book).steps
        assert [s.id for s in steps[-2:]] == ["bond.cure.mesial", "bond.cure.distal"]
        assert steps[-1].after == ["bond.cure.mesial"]

    def test_the_adhesive_gets_its_dose_at_the_dimmest_wall(self) -> None:
        """Seconds times the weakest irradiance reach the rule's exposure, in whole presses."""
        made = planned()
        cure = next(s for s in made.steps if s.id == "bond.cure")
        twice = planned(house={"light.adhesive_dose_j_cm2": 5.0})
        longer = next(s for s in twice.steps if s.id == "bond.cure")
        assert cure.seconds % 5 == 0
        assert cure.seconds < longer.seconds <= 2 * cure.seconds + 5


class TestBuild:
    MASSES = tuple(
        Mass(
            name=role,
            role=role,
            penetration_depth_mm=dp,
            critical_exposure_j_cm2=0.4,
            max_increment_mm=2.0,
            shrinkage_vol_percent=2.0,
            density_g_cm3=2.0,
            modulus_gpa=9.0,
        )
        for role, dp in (("dentin", 0.9), ("body", 1.25), ("enamel", 1.6))
    )

    def test_each_role_takes_its_mass_and_else_the_body(self) -> None:
        assert [mass_for(self.MASSES, r).name for r in ("dentin", "body", "enamel")] == [
            "dentin",
            "body",
            "enamel",
        ]
        assert mass_for(self.MASSES[:2], "enamel").name == "body"
        assert mass_for(self.MASSES[2:], "dentin").name == "enamel"

    def test_a_plan_uses_the_masses_by_role_and_lights_each_by_its_own(self) -> None:
        masses = [m.model_dump() for m in self.MASSES]
        made = planned(masses=masses)
        assert {
            i.id: i.mass for i in made.increments if i.id.endswith((".gingival", ".wall.1", ".core.1"))
        } == {
            "mesial.gingival": "body",
            "mesial.wall.1": "enamel",
            "mesial.core.1": "dentin",
        }
        only_body = planned(masses=masses[1:2])
        darker = {i.id: i.exposures[0].seconds_by_dose for i in made.increments}
        plain = {i.id: i.exposures[0].seconds_by_dose for i in only_body.increments}
        assert darker["mesial.wall.1"] < plain["mesial.wall.1"]
        assert darker["mesial.core.1"] > plain["mesial.core.1"]

    def test_the_strictest_mass_bounds_every_portion(self) -> None:
        masses = [m.model_dump() for m in self.MASSES]
        masses[2]["max_increment_mm"] = 1.2
        made = planned(masses=masses)
        assert max(i.thickness_mm for i in made.increments) <= 1.205

    def test_steps_tell_what_to_take_and_how_to_press(self) -> None:
        made = planned()
        by_id = {s.id: s for s in made.steps}
        for one in made.increments:
            light, place = by_id[f"build.{one.id}.light"], by_id[f"build.{one.id}.place"]
            assert light.seconds == sum(e.seconds for e in one.exposures)
            assert light.timed
            assert light.light
            assert " + ".join(f"{p:g}" for p in one.exposures[0].presses) in light.detail
            assert f"{one.mass_g:.2f} g" in place.tray[0]
            assert place.increment == light.increment == one.order
            assert place.end_s <= light.start_s

    def test_the_gingival_portion_is_looked_at_before_it_is_covered(self) -> None:
        by_id = {s.id: s for s in planned().steps}
        check = by_id["build.mesial.gingival.light"].check
        assert check
        assert check.back_to == "build.mesial.gingival.place"


class TestFinish:
    def test_contact_is_checked_under_the_dam_and_the_bite_after_it(self) -> None:
        ends = {s.id: s.end_s for s in planned().steps}
        starts = {s.id: s.start_s for s in planned().steps}
        assert ends["finish.contact"] <= starts["isolate.dam_off"]
        assert ends["isolate.dam_off"] <= starts["finish.bite"]

    def test_side_light_comes_once_the_band_is_off_and_is_whole_presses(self) -> None:
        made = planned(light__time_steps_s=[8.5])
        sides = [s for s in made.steps if ".final." in s.id]
        off = next(s for s in made.steps if s.id == "matrix.mesial.off")
        assert [s.seconds for s in sides] == [8.5, 8.5]
        assert all(s.start_s >= off.end_s for s in sides)

    def test_an_occlusal_box_alone_has_no_contact_to_check(self) -> None:
        case = first_case()
        case["restoration"]["surfaces"] = "O"
        case["preparation"]["parts"] = case["preparation"]["parts"][:1]
        case["provenance"] = {}
        made = plan(read_case(case))
        assert isinstance(made, Plan)
        assert steps_of(made, "matrix") == []
        assert "finish.contact" not in {s.id for s in made.steps}
        assert made.decisions[-1].chosen == "horizontal"
        assert "layering.no_box" in {r.code for r in made.decisions[-1].reasons}
