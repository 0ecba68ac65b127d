"""Composite: shades, bonding, building and finishing, what each decides, checks and lets the hands do."""

from typing import Any

import pytest

from mallet.cavity.preparation import prepare_cavity
from mallet.light.presses import Button
from mallet.restoratives.composite.bond import Exposed, FilmCure, bond
from mallet.restoratives.composite.build import mass_for
from mallet.rulebook import Rulebook
from mallet.terms.case import read_case
from mallet.terms.plan import Plan
from mallet.terms.restoration import Composite
from tests.core.conftest import first_case, with_values
from tests.core.planned import decided, plan, planned, steps_of


def adhesive(name: str, strategy: str, bottles: int, **more: Any) -> dict[str, Any]:
    return {
        "kind": "adhesive", "name": name, "lot": "L1", "strategy": strategy, "bottles": bottles,
        "solvent": "ethanol", "scrub_s": 20, "air_s": 10, **more,
    }  # fmt: skip


SHELF = [
    adhesive("rinse 2", "etch_and_rinse", 2, coats=2, scrub_s=15),
    adhesive("rinse 3", "etch_and_rinse", 3, solvent="acetone", air_s=5),
    adhesive("any 1", "universal", 1, ph=2.3),
    adhesive("mild 1", "self_etch", 1, ph=2.0),
    adhesive("strong 2", "self_etch", 2, ph=0.9),
    adhesive("mild 2", "self_etch", 2, solvent="water", ph=2.0),
]


def film(*exposed: Exposed) -> FilmCure:
    return FilmCure(exposed, 1.0, "facial", 0.8, 2.5, 3.0)


class TestShade:
    def test_it_is_read_wet_before_isolation_where_it_shows(self) -> None:
        """A tooth dries out within about 10 min (Burki et al. 2013, from memory)."""
        assert steps_of(planned(), "shade") == []
        shown = planned(findings={"shows": True}, shade={"mock_up": True, "value": "A body"})
        ids = [s.id for s in shown.steps]
        assert ids.index("shade.pumice") < ids.index("shade.look") < ids.index("shade.mock_up")
        assert ids.index("shade.mock_up") < ids.index("isolate.dam")
        (mock_up,) = (s for s in shown.steps if s.id == "shade.mock_up")
        assert [(w.step, w.seconds) for w in mock_up.within] == [("shade.pumice", 600)]
        assert "shade.no_mass" in {c.code for c in shown.cautions}

    def test_it_is_looked_at_again_after_a_week_where_anybody_judges_it(self) -> None:
        """Common practice, no source: a dried tooth is lighter, and its shade is judged from day 7 on."""
        assert planned().later == []
        assert planned(findings={"shows": True}).later == []
        pit = read_case(with_values(
            first_case(), tooth__code="12", restoration__surfaces="L", findings={"shows": True}, neighbours={}, provenance={},
            preparation__parts=[{"kind": "pit", "face": "lingual", "depth_mm": 1.2, "diameter_mm": 1.5,
                                 "above_cervical_mm": 3.0}],
        ))  # fmt: skip
        seen_from_lingual = plan(pit)
        assert isinstance(seen_from_lingual, Plan)
        assert seen_from_lingual.later == []
        shown = planned(findings={"shows": True}, shade={"mock_up": True})
        (review,) = shown.later
        assert (review.purpose, review.from_h, review.by_h) == ("review", 7 * 24, 14 * 24)
        ids = [step.id for step in review.steps]
        assert ids[1] == "shade.review", "before anything dries the teeth"
        assert {"finish.contact", "finish.bite"} <= set(ids)
        said = " ".join(f"{step.detail} {step.check.remedy}" for step in review.steps if step.check)
        assert "anesthetized" not in said, "nobody is numb at a review"
        assert "field" not in said
        (told,) = (step for step in shown.steps if step.id == "finish.tell")
        assert "from day 7" in told.detail
        sooner = planned(findings={"shows": True}, shade={"mock_up": True}, house={"shade.review_days": 3})
        assert sooner.later[0].from_h == 3 * 24
        assert "from day 3" in next(step.detail for step in sooner.steps if step.id == "finish.tell")

    @pytest.mark.parametrize(
        ("house", "roles"), [({}, "shade.deep"), ({"shade.dentin_from_mm": 6}, "shade.shallow")]
    )
    def test_the_depth_says_which_masses_are_wanted(self, house: dict[str, float], roles: str) -> None:
        masses = [m.model_dump() for m in TestBuild.MASSES]
        made = planned(findings={"shows": True}, house=house, masses=masses)
        # What is decided is what the technique places; the depth from facial gives the reason.
        (decision,) = (d for d in made.decisions if d.topic == "shade.roles")
        assert decision.chosen == "enamel over dentin"
        assert [r.code for r in decision.reasons] == [roles]

    def test_no_shade_is_decided_that_nothing_places(self) -> None:
        assert [d for d in planned().decisions if d.topic == "shade.roles"] == []
        box = {"kind": "occlusal_box", "depth_mm": 1.5, "width_mm": 1.2, "length_mm": 2.0}
        small = planned(
            tooth__code="15", preparation__parts=[box], restoration__surfaces="O", neighbours={}, provenance={},
            school__layering="horizontal",
        )  # fmt: skip
        assert [d for d in small.decisions if d.topic == "shade.roles"] == []


class TestBond:
    def test_the_clocks_are_the_rulebook_s(self, book: Rulebook) -> None:
        """Enamel 15-30 s (operative textbooks); 15 s equals 60 s (Barkmeier 1986, from memory)."""
        cure = film(Exposed("occlusal", Button((10.0,)).least(10.0)))
        case = read_case(first_case())
        steps = {s.id: s for s in bond(case, prepare_cavity(case, book), cure, ["before"], book).steps}
        assert steps["bond.etch_enamel"].seconds == 15
        assert steps["bond.etch_enamel"].after == ["before"]
        assert 10 <= steps["bond.scrub"].seconds <= 20
        assert steps["bond.air"].seconds >= 5
        assert steps["bond.cure"].seconds == 10
        assert steps["bond.air"].check
        assert steps["bond.air"].check.back_to == "bond.etch_enamel"

    @pytest.mark.parametrize(
        ("school", "suited"),
        [("selective_enamel", "mild 2"), ("etch_and_rinse", "rinse 3"), ("self_etch", "mild 2")],
    )
    def test_of_those_that_suit_the_kind_that_fails_least_is_taken(self, school: str, suited: str) -> None:
        """Mild two-step self-etch 2.5, three-step etch-and-rinse 3.1, two-step 5.8 % a year
        (Peumans et al. 2014, from memory)."""
        made = planned(school__etch=school, shelf=SHELF)
        assert decided(made, "bond.strategy").chosen.endswith(suited)
        want = next(w for w in made.wants if w.kind == "adhesive")
        assert (want.name, want.lot) == (suited, "L1")

    @pytest.mark.parametrize("name", [one["name"] for one in SHELF])
    @pytest.mark.parametrize("school", ["selective_enamel", "etch_and_rinse", "self_etch"])
    def test_every_adhesive_has_its_own_steps_and_clocks(self, name: str, school: str) -> None:
        """As the maker has it used, told by the shelf; acid on dentin at most 15 s (operative textbooks, from
        memory); a resin apart follows the primer of two bottles, of three where acid counts as none."""
        made = planned(school__etch=school, shelf=SHELF, bonding={"adhesive": name})
        one = next(row for row in SHELF if row["name"] == name)
        steps = {s.id: s for s in steps_of(made, "bond")}
        rinses = one["strategy"] == "etch_and_rinse" or (
            one["strategy"] == "universal" and school == "etch_and_rinse"
        )
        assert ("bond.etch_dentin" in steps) == rinses
        assert ("bond.rinse" in steps) == ("bond.etch_enamel" in steps)
        scrub = steps["bond.scrub"]
        assert scrub.seconds == one.get("coats", 1) * one["scrub_s"]
        assert scrub.seconds_input
        assert scrub.seconds_input.path == f"stock[{SHELF.index(one)}].scrub_s"
        assert steps["bond.air"].seconds == one["air_s"]
        apart = one["bottles"] - (1 if one["strategy"] == "etch_and_rinse" else 0) > 1
        assert ("bond.resin" in steps) == apart
        unsuited = "bond.school_unsuited" in {c.code for c in made.cautions}
        fits = {"etch_and_rinse": ["etch_and_rinse"], "self_etch": ["selective_enamel", "self_etch"]}
        assert unsuited == (school not in fits.get(one["strategy"], [school]))
        for step in steps.values():
            assert step.check is None or step.check.back_to in steps

    def test_wet_in_the_bond_begins_again_at_the_first_step_of_it(self) -> None:
        for school in ("selective_enamel", "etch_and_rinse", "self_etch"):
            bonding = steps_of(planned(school__etch=school, school__chlorhexidine="after_etch"), "bond")
            for i, step in enumerate(bonding):
                assert step.wet
                assert step.wet.redo == [s.id for s in bonding[:i]]

    def test_two_halves_are_lit_one_after_the_other(self, book: Rulebook) -> None:
        press = Button((5.0,)).least(5.0)
        halves = film(Exposed("occlusal_mesial", press), Exposed("occlusal_distal", press))
        case = read_case(first_case())
        steps = bond(case, prepare_cavity(case, book), halves, [], book).steps
        assert [s.id for s in steps[-2:]] == ["bond.cure.mesial", "bond.cure.distal"]
        assert steps[-1].after == ["bond.cure.mesial"]

    def test_the_film_gels_at_its_darkest_corner_and_the_increments_bring_the_rest(self) -> None:
        made = planned()
        cure = next(s for s in made.steps if s.id == "bond.cure")
        gel, whole = (next(c for c in made.checks if c.topic == t) for t in ("bond.gel", "bond.light"))
        assert (gel.verdict, whole.verdict) == ("pass", "pass")
        worst = min(i.cured.dose_at_worst_point_j_cm2 for i in made.increments)
        assert whole.measured == pytest.approx(gel.measured + worst, abs=0.02)
        # What the increments do not bring is asked of the film's own exposure.
        more = planned(house={"light.adhesive_dose_j_cm2": 5.0})
        longer = next(s for s in more.steps if s.id == "bond.cure")
        assert cure.seconds <= 20
        assert cure.seconds < longer.seconds <= 40
        assert next(c for c in more.checks if c.topic == "bond.light").verdict == "pass"

    def test_the_maker_s_time_for_an_adhesive_is_kept_and_its_lack_is_assumed(self) -> None:
        maker = {"seconds": 20, "at_irradiance_mw_cm2": 1000}
        told = planned(shelf=[adhesive("any 1", "universal", 1, ph=2.3, maker=maker)])
        assert sum(s.seconds for s in told.steps if s.id.startswith("bond.cure")) == 20
        assert "stock[0].manufacturer" not in {a.path for a in told.assumptions}
        bare = planned(shelf=[adhesive("any 1", "universal", 1, ph=2.3)])
        assert "stock[0].manufacturer" in {a.path for a in bare.assumptions}


class TestBuild:
    MASSES = tuple(
        Composite(
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
        # So thin that what each mass lets through splits none further.
        masses = [{**m.model_dump(), "max_increment_mm": 1.0} for m in self.MASSES]
        made = planned(masses=masses, findings={"shows": True})
        assert {
            i.id: i.product for i in made.increments if i.id.endswith((".gingival", ".wall.1", ".core.1"))
        } == {
            "mesial.gingival": "enamel",
            "mesial.wall.1": "enamel",
            "mesial.core.1": "dentin",
        }
        only_body = planned(masses=masses[1:2])
        darker = {i.id: i.cured.exposures[0].seconds_by_dose for i in made.increments}
        plain = {i.id: i.cured.exposures[0].seconds_by_dose for i in only_body.increments}
        assert darker["mesial.wall.1"] < plain["mesial.wall.1"]
        assert darker["mesial.core.1"] > plain["mesial.core.1"]

    def test_each_mass_bounds_its_own_portions(self) -> None:
        masses = [m.model_dump() for m in self.MASSES]
        masses[0]["max_increment_mm"] = 1.2
        made = planned(masses=masses, findings={"shows": True})
        thick = {role: max(i.cured.thickness_mm for i in made.increments if i.cured.role == role)
                 for role in ("dentin", "enamel")}  # fmt: skip
        assert thick["dentin"] <= 1.205 < thick["enamel"] <= 2.005

    def test_steps_tell_what_to_take_and_how_to_press(self) -> None:
        made = planned()
        by_id = {s.id: s for s in made.steps}
        for one in made.increments:
            light, place = by_id[f"build.{one.id}.light"], by_id[f"build.{one.id}.place"]
            assert light.seconds == sum(e.seconds for e in one.cured.exposures)
            assert light.timed
            assert light.light
            assert " + ".join(f"{p:g}" for p in one.cured.exposures[0].presses) in light.detail
            # Under a twentieth of a gram nobody weighs it.
            assert ("g)" in place.tray[0]) == (one.mass_g >= 0.05)
            assert place.increment == light.increment == one.order
            assert place.end_s <= light.start_s

    def test_the_gingival_portion_is_looked_at_before_it_is_covered(self) -> None:
        by_id = {s.id: s for s in planned().steps}
        check = by_id["build.mesial.gingival.place"].check
        assert check
        assert check.back_to == "build.mesial.gingival.place"
        assert by_id["build.mesial.gingival.light"].check is None


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
