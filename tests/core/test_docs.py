"""The example on the page about curing time is what the core calculates."""

import json
import math

import pytest

from mallet.curing.around import surroundings
from mallet.curing.cured import losses_at_worst
from mallet.light.beam import fit_beam
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from tests.core.planned import work
from tools.server import ROOT

PAGE = (ROOT / "docs" / "CURING_TIME.md").read_text()


def told() -> dict[str, str]:
    """Return the values of the page's table as they are written, by step."""
    rows = [line.strip("|").split("|") for line in PAGE.splitlines() if line.startswith("| ")]
    return {row[0].strip(): row[2].strip() for row in rows[1:]}


def test_the_worked_example_is_what_comes_out() -> None:
    case = read_case(json.loads((ROOT / "examples" / "lower_first_molar_mo.json").read_text()))
    worked = work(case)
    rules = load_rulebook()
    cured, mass = worked.lit.cured[0], case.composites[0]
    beside = [n.solid for n in worked.neighbours]
    around = surroundings(worked.cavity, worked.bands, beside, worked.lit.beam, rules)
    lost = losses_at_worst(worked.lit.cured, 0, around)
    beam = fit_beam(case.light.readings, case.light.tip_diameter_mm)
    depth = cured.lit.aims[0].tip.centre[2] - float(cured.lit.points[0][2])
    dose = mass.critical_exposure_j_cm2 * rules.value("light.conversion_factor")
    naive = beam.on_axis_mw_cm2(depth) * math.exp(-cured.thickness_mm / mass.penetration_depth_mm)
    calculated = {
        "beam at contact": beam.contact_mw_cm2,
        "beam exponent": beam.exponent,
        "depth of the lowest radiant exposure under the tip": depth,
        "on the axis at that depth": beam.on_axis_mw_cm2(depth),
        "at the point, nothing in the way": lost.open_mw_cm2,
        "past tooth, band and adjacent tooth": lost.past_walls_mw_cm2,
        "through the composite": lost.arriving_mw_cm2,
        "with what the walls send back": lost.arriving_mw_cm2 + lost.returned_mw_cm2,
        "required exposure": dose,
        "seconds by radiant exposure": 1000 * dose / (lost.arriving_mw_cm2 + lost.returned_mw_cm2),
        "in whole curing cycles": cured.seconds,
        "radiant exposure given": cured.worst_dose_j_cm2,
        "by the axis formula alone": 1000 * dose / naive,
    }
    written = told()
    assert written.keys() == calculated.keys()
    for step, text in written.items():
        decimals = len(text.partition(".")[2])
        assert round(calculated[step], decimals) == pytest.approx(float(text), abs=1.01 * 10**-decimals), step


def test_the_page_states_the_rules_that_are_in_force() -> None:
    rules = load_rulebook()
    for rule, text in (
        ("light.enamel_attenuation_per_mm", "enamel {:g}"),
        ("light.dentin_attenuation_per_mm", "dentin {:g} per mm"),
        ("light.conversion_factor", "conversion factor ({:g} by default"),
        ("light.refractive_index", "index {:g}"),
        ("light.scraped_share", "share s = {:g}"),
        ("light.adhesive_gel_j_cm2", "gels it ({:g} J/cm²"),
        ("light.adhesive_dose_j_cm2", "all that it requires ({:g} J/cm²)"),
        ("light.irradiance_cap_mw_cm2", "at most {:g} mW"),
        ("light.least_exposure_s", "at least {:g} s"),
        ("light.longest_exposure_s", "longest single exposure ({:g} s)"),
        ("composite.thin_layer_mm", "thin layers ({:g} mm"),
        ("light.exposures_in_place", "at most {:g} exposures"),
        ("light.between_exposures_s", "{:g} s of air between"),
        ("light.final_cure_s", "the customary {:g} s each"),
        ("light.habit_exposure_s", "the customary {:g} s an increment"),
        ("light.pulp_rise_k", "Be careful from a rise of {:g} °C"),
    ):
        assert text.format(rules.value(rule)) in " ".join(PAGE.split()), rule
