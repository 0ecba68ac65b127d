"""The light against closed forms, an independent sampler and exhaustive search."""

import itertools
import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from manifold3d import Manifold
from scipy.integrate import quad

from mallet.cavity.rays import Scene
from mallet.curing.around import surroundings
from mallet.curing.lamp import judge_lamp
from mallet.curing.portions import cure_portions, in_place_s
from mallet.light.beam import Beam, fit_beam, read_readings_csv
from mallet.light.cure import need_of
from mallet.light.field import Filling, Passing, Tip, axes_of, irradiance_mw_cm2
from mallet.light.presses import Button, Rung
from mallet.light.slab import slab_mw_cm2
from mallet.light.working_curve import (
    DepthReading,
    WorkingCurve,
    complete,
    curve_of,
    fit_curve,
    read_depths_csv,
    scraped,
)
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import NoPlan
from mallet.terms.restoration import Reading
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan, work
from tests.core.sampler import brute_force

NOTHING = Scene()


def reading(distance: float, irradiance: float, day: str | None = None) -> Reading:
    return Reading(distance_mm=distance, irradiance_mw_cm2=irradiance, taken_at=day)


@pytest.mark.parametrize(("z", "share"), [(2, 0.8), (4, 0.5), (6, 0.308), (8, 0.2), (10, 0.138)])
def test_lambertian_disc_on_axis(z: float, share: float) -> None:
    """E0 a2/(a2+z2), a = 4 mm (closed form; values from memory)."""
    beam = Beam(4.0, 1.0, 1.0)
    assert beam.on_axis_mw_cm2(z) == pytest.approx(share, abs=5e-4)
    sampled = irradiance_mw_cm2(np.zeros((1, 3)), Tip((0, 0, z), beam), NOTHING)[0]
    assert sampled == pytest.approx(16 / (16 + z * z), rel=5e-3)


@pytest.mark.parametrize("n", [1.0, 2.0, 3.5])
@pytest.mark.parametrize("z", [1.0, 2.0, 4.0, 8.0])
def test_sampler_meets_the_axis_formula(n: float, z: float) -> None:
    beam = Beam(4.5, 1000.0, n)
    sampled = irradiance_mw_cm2(np.zeros((1, 3)), Tip((0, 0, z), beam), NOTHING)[0]
    assert sampled == pytest.approx(beam.on_axis_mw_cm2(z), rel=5e-3)


@given(x=st.floats(0, 9), z=st.floats(1.0, 10), turn=st.floats(0, 2 * math.pi))
@settings(max_examples=80, deadline=None)
def test_sampler_meets_the_off_axis_formula(x: float, z: float, turn: float) -> None:
    """M/2 [1 - (z2+a2-R2)/sqrt((z2+a2+R2)2 - 4R2a2)], n = 1 (closed form)."""
    radius = 4.5
    root = math.sqrt((z * z + x * x + radius**2) ** 2 - 4 * radius**2 * x * x)
    exact = 500 * (1 - (z * z + x * x - radius**2) / root)
    point = np.array([[x * math.cos(turn), x * math.sin(turn), 0.0]])
    sampled = irradiance_mw_cm2(point, Tip((0, 0, z), Beam(radius, 1000.0, 1.0)), NOTHING)[0]
    # Close under the rim the light falls so steeply that cells of a hundredth of the tip tell it less well.
    is_under_rim = abs(x - radius) < 0.5 and z < 2
    assert sampled == pytest.approx(exact, rel=0.015 if is_under_rim else 5e-3)


@pytest.mark.parametrize(("n", "value"), [(1, 169.6310), (2, 217.9734), (3, 251.9778)])
def test_sampler_meets_the_slab_integral(n: int, value: float) -> None:
    """R 4.5, M 1000, z 4, a slab of 2 mm with mu 0.5 per mm above the target (quadrature)."""
    low = 4 / math.hypot(4, 4.5)
    exact = 1000 * (n + 1) * quad(lambda u: u**n * math.exp(-0.5 * 2 / u), low, 1)[0]
    assert exact == pytest.approx(value, abs=5e-4)
    slab = Scene(Manifold.cube([80, 80, 2], True).translate([0, 0, 1.0001]))
    target = np.array([[0.0, 0.0, 0.0]])
    sampled = irradiance_mw_cm2(target, Tip((0, 0, 4), Beam(4.5, 1000.0, n)), NOTHING, [Filling(slab, 0.5)])[
        0
    ]
    assert sampled == pytest.approx(exact, rel=1e-2)


@pytest.mark.parametrize(
    ("dp", "ec", "seconds", "bare_s"),
    [(1.6, 0.35, 8.1, 9.8), (1.25, 0.40, 13.6, 17.0), (0.85, 0.45, 34.3, 46.6)],
)
def test_refracted_ways_meet_the_closed_sum(dp: float, ec: float, seconds: float, bare_s: float) -> None:
    """Exitance 1000, exponent 2, R 4.5, 1 mm over 2 mm of composite, 5 x Ec; refracted and straight (quadrature)."""
    beam, target = Beam(4.5, 1000.0, 2.0), np.array([[0.0, 0.0, 0.0]])
    slab = Filling(Scene(Manifold.cube([80, 80, 2], True).translate([0, 0, 1.0001])), 1 / dp)
    for index, wanted in ((1.5, seconds), (1.0, bare_s)):
        assert 5 * ec * 1000 / slab_mw_cm2(beam, 1.0, 2.0, 1 / dp, index) == pytest.approx(wanted, abs=0.05)
        light = irradiance_mw_cm2(target, Tip((0, 0, 3), beam), NOTHING, [slab], passing=Passing(index))[0]
        assert 5 * ec * 1000 / light == pytest.approx(wanted, rel=0.01)


@given(seed=st.integers(0, 10_000))
@settings(max_examples=60, deadline=None)
def test_honest_readings_with_noise_are_fitted(seed: int) -> None:
    """Sets with 2 % noise, none off by more than 5, whose near readings may rise, tell the lamp within 6 where floors
    lie."""
    true, draw = Beam(4.5, 1000.0, 2.0), np.random.default_rng(seed)
    distances = (0.0, 1.0, 2.0, 4.0, 6.0, 8.0)
    noise = np.clip(0.02 * draw.standard_normal(len(distances)), -0.05, 0.05)
    readings = [
        reading(z, true.on_axis_mw_cm2(z) * (1 + off)) for z, off in zip(distances, noise, strict=True)
    ]
    fit = fit_beam(readings, 9)
    for z in (4.0, 6.0, 8.0):
        assert fit.on_axis_mw_cm2(z) == pytest.approx(true.on_axis_mw_cm2(z), rel=0.06)


def test_a_guide_whose_light_gathers_is_taken_as_it_was_measured_and_told() -> None:
    shares = {0: 1000, 2: 950, 4: 520, 6: 230, 8: 140}
    fit = fit_beam([reading(z, e) for z, e in shares.items()], 8)
    for z, e in shares.items():
        assert fit.on_axis_mw_cm2(z) == pytest.approx(e, rel=0.025)
    case = first_case()
    case["light"]["tip_diameter_mm"] = 8
    case["light"]["readings"] = [{"distance_mm": z, "irradiance_mw_cm2": e} for z, e in shares.items()]
    gathering = judge_lamp(fit, read_case(case).light, load_rulebook())
    assert "light.residual" in {c.code for c in gathering.cautions}
    plain = read_case(first_case()).light
    even = judge_lamp(fit_beam(plain.readings, plain.tip_diameter_mm), plain, load_rulebook())
    assert "light.residual" not in {c.code for c in even.cautions}


def test_a_wall_blocks_only_before_the_tip() -> None:
    wall = Scene(Manifold.cube([40, 40, 0.1], True).translate([0, 0, 2]))
    point, beam = np.zeros((1, 3)), Beam(4.5, 1000.0, 1.0)
    before, behind = (irradiance_mw_cm2(point, Tip((0, 0, z), beam), wall)[0] for z in (1.5, 5.0))
    assert before == pytest.approx(beam.on_axis_mw_cm2(1.5), rel=5e-3)
    assert behind == 0


@given(m=st.floats(300, 3000), n=st.floats(0.3, 12), diameter=st.floats(6, 13))
@settings(max_examples=60, deadline=None)
def test_three_readings_recover_a_beam(m: float, n: float, diameter: float) -> None:
    true = Beam(diameter / 2, m, n)
    readings = [reading(z, true.on_axis_mw_cm2(z)) for z in (0, 4, 8)]
    fit = fit_beam(readings, diameter)
    assert fit.contact_mw_cm2 == pytest.approx(m, rel=0.01)
    assert fit.exponent == pytest.approx(n, rel=0.01)
    assert max(abs(r.fitted_mw_cm2 / r.measured_mw_cm2 - 1) for r in fit.residuals) < 1e-3


def test_the_newest_day_counts_and_bad_readings_are_named() -> None:
    old = [reading(0, 1200, "2026-01-05"), reading(6, 700, "2026-01-05")]
    new = [reading(0, 900, "2026-11-05"), reading(6, 500, "2026-11-05")]
    assert fit_beam([*old, *new], 9).contact_mw_cm2 == pytest.approx(fit_beam(new, 9).contact_mw_cm2)
    with pytest.raises(InputError, match=r"light.readings: got 1 distance, allowed readings at two"):
        fit_beam([reading(0, 900), reading(0, 910)], 9)
    with pytest.raises(
        InputError, match="got 900 mW/cm2 at 0 mm and 1000 at 4 mm, allowed readings that fall"
    ):
        fit_beam([reading(0, 900), reading(4, 1000)], 9)
    text = "distance_mm,irradiance_mw_cm2,taken_at\n0,900,2026-11-21\nfour,800,\n8,-3,\n9,300,soon\n"
    with pytest.raises(InputError) as caught:
        read_readings_csv(text)
    assert [p.path for p in caught.value.problems] == [
        "line 3, distance_mm",
        "line 4, irradiance_mw_cm2",
        "line 5, taken_at",
    ]
    with pytest.raises(InputError, match=r"line 1: got .*, allowed the columns"):
        read_readings_csv("mm,mw\n0,900\n")


@given(seconds=st.floats(0.5, 60), steps=st.lists(st.integers(2, 30), min_size=1, max_size=4, unique=True))
@settings(max_examples=120, deadline=None)
def test_presses_are_the_least_sum_then_the_fewest(seconds: float, steps: list[int]) -> None:
    found = Button(tuple(float(s) for s in steps)).least(seconds).presses
    assert sum(found) >= seconds - 1e-6
    most = math.ceil(seconds / min(steps))
    sums: dict[int, int] = {}
    for combination in _combinations(sorted(steps), most, seconds + max(steps)):
        sums[sum(combination)] = min(sums.get(sum(combination), 99), len(combination))
    least = min(total for total in sums if total >= seconds - 1e-6)
    assert (sum(found), len(found)) == (least, sums[least])


def test_no_presses_are_worked_out_for_a_time_that_nobody_holds_a_lamp() -> None:
    """A point that gets next to nothing asks for months; listing their presses would fill the memory."""
    button = Button((10.0, 20.0))
    assert sum(button.least(600.0).presses) == 600
    for full_s in (600.1, 1.5e7, math.inf):
        assert button.least(full_s) == Rung(full_s, full_s, ())


def _combinations(steps: list[int], most: int, ceiling: float) -> list[tuple[int, ...]]:
    """Return every multiset of steps below a ceiling, by plain enumeration of counts."""
    ranges = [range(int(ceiling // s) + 1) for s in steps]
    return [
        tuple(itertools.chain.from_iterable([s] * c for s, c in zip(steps, counts, strict=True)))
        for counts in itertools.product(*ranges)
        if sum(s * c for s, c in zip(steps, counts, strict=True)) <= ceiling
    ]


def test_working_curve_doubles_by_the_published_step() -> None:
    """Doubling the dose adds Dp ln 2 (Jacobs 1992, from memory)."""
    curve = WorkingCurve(1.25, 0.4)
    assert curve.cure_depth_mm(0.4) == 0.0
    assert curve.cure_depth_mm(8.0) - curve.cure_depth_mm(4.0) == pytest.approx(1.25 * math.log(2))
    with pytest.raises(InputError, match="exposure_j_cm2: got -1, allowed 0 or more"):
        curve.cure_depth_mm(-1.0)


@given(
    dp=st.floats(0.5, 4),
    ec=st.floats(0.05, 5),
    times=st.lists(st.floats(1.5, 40), min_size=2, max_size=6, unique=True),
)
@settings(max_examples=60, deadline=None)
def test_depths_of_cure_recover_a_working_curve(dp: float, ec: float, times: list[float]) -> None:
    """Readings made by a known curve; scraped lengths are twice the depth (ISO 4049)."""
    assume(max(times) > 1.05 * min(times))
    true = WorkingCurve(dp, ec)
    readings = [scraped(ec * t, 2 * true.cure_depth_mm(ec * t), 0.5) for t in times]
    fit = fit_curve(readings)
    assert fit.curve.penetration_depth_mm == pytest.approx(dp, rel=1e-6)
    assert fit.curve.critical_exposure_j_cm2 == pytest.approx(ec, rel=1e-6)
    assert max(map(abs, fit.residuals_mm)) < 1e-6


def test_depths_that_tell_no_curve_are_refused() -> None:
    with pytest.raises(InputError, match="readings: got 1 exposure, allowed depths at two exposures"):
        fit_curve([DepthReading(8.0, 2.0), DepthReading(8.0, 2.1)])
    with pytest.raises(InputError, match=r"got a slope of -0\.\d+ mm, allowed depths that grow"):
        fit_curve([DepthReading(4.0, 2.5), DepthReading(16.0, 2.0)])
    text = "exposure_j_cm2,depth_mm,method\n8,2.0,\n16,4.6,scraped\nnone,2,\n24,-1,\n24,3,guess\n"
    with pytest.raises(InputError) as caught:
        read_depths_csv(text, load_rulebook())
    assert [p.path for p in caught.value.problems] == [
        "line 4, exposure_j_cm2",
        "line 5, depth_mm",
        "line 6, method",
    ]
    good = read_depths_csv(text.split("none")[0], load_rulebook())
    assert good == [DepthReading(8.0, 2.0), DepthReading(16.0, 2.3)]


@pytest.mark.parametrize("towards", [(0.0, 1.0, 0.0), (0.0, -1.0, 0.0), (0.6, 0.0, 0.8), (-1.0, 0.0, 0.0)])
def test_the_field_turns_with_the_lamp(towards: tuple[float, float, float]) -> None:
    """Lamp, wall and mass turned alike light the same, up to how finely the disc is cut."""
    turn = axes_of(towards).T
    wall = Manifold.cube([6, 1.5, 3]).translate([-3, 0.8, 1])
    mass = Manifold.cube([3, 3, 2], True).translate([0, 0, 0.9])
    points = np.array([[0.0, 0.0, 0.0], [0.7, -0.4, 0.3], [-1.0, 0.6, 0.1]])
    beam, centre = Beam(4.5, 1000.0, 2.3), np.array([0.5, 0.2, 5.0])
    straight = irradiance_mw_cm2(points, Tip(tuple(centre), beam), Scene(wall), [Filling(Scene(mass), 0.7)])
    affine = np.column_stack([turn, np.zeros(3)])
    turned = irradiance_mw_cm2(
        points @ turn.T,
        Tip(tuple(turn @ centre), beam, towards),
        Scene(wall.transform(affine)),
        [Filling(Scene(mass.transform(affine)), 0.7)],
    )
    assert turned == pytest.approx(straight, rel=4e-3)


def behind_a_clear_band() -> dict[str, Any]:
    """Return a deep box filled in bulk, whose neighbour is rotated so that the band is clear."""
    return with_values(
        first_case(),
        preparation__parts__1__height_mm=7.5,
        school__layering="horizontal",
        neighbours__mesial__rotated=True,
        masses__0__max_increment_mm=5.0,
        masses__0__penetration_depth_mm=2.0,
    )


@pytest.mark.parametrize("name", ["occlusal", "facial", "lingual"])
def test_light_from_the_side_meets_an_independent_sampler(name: str) -> None:
    worked = work(read_case(behind_a_clear_band()))
    cured = worked.lit.cured[0]
    at = next(i for i, aim in enumerate(cured.lit.aims) if aim.name == name)
    assert cured.lit.irradiance_mw_cm2[0, at] == pytest.approx(brute_force(worked, 0, 0, name), rel=0.02)


@pytest.mark.parametrize("steps", [[60], [15], [7, 40]])
def test_a_lamp_with_odd_steps_gets_a_plan_or_a_reason(steps: list[float]) -> None:
    made = plan(read_case(with_values(behind_a_clear_band(), light__time_steps_s=steps)))
    if isinstance(made, NoPlan):
        assert made.requirement.text
        return
    for one in made.increments:
        assert one.cured.dose_at_worst_point_j_cm2 >= one.cured.dose_needed_j_cm2
        assert all(set(e.presses) <= set(steps) for e in one.cured.exposures)


def test_three_sides_are_shorter_than_one_in_a_deep_box_and_metal_shuts_them() -> None:
    worked = work(read_case(behind_a_clear_band()))
    cured = worked.lit.cured[0]
    assert [aim.name for aim in cured.lit.aims] == ["occlusal", "facial", "lingual"]
    rules = load_rulebook()
    beside = [n.solid for n in worked.neighbours]
    around = surroundings(worked.cavity, worked.bands, beside, worked.lit.beam, rules)
    only_above = replace(around, tooth=())
    portions, masses = zip(*((one.portion, one.mass) for one in worked.lit.cured), strict=True)
    longest_s = [in_place_s(rules)] * len(portions)
    lit = cure_portions(
        worked.case, worked.cavity, portions, masses, only_above, worked.lit.beam, rules, longest_s
    )
    alone = next(lit)
    assert [aim.name for aim in alone.lit.aims] == ["occlusal"]
    assert cured.seconds < alone.seconds
    assert cured.worst_dose_j_cm2 >= cured.need.dose_j_cm2
    cited = {use.rule for use in worked.plan.figures[0].rules}
    assert {"light.enamel_attenuation_per_mm", "light.dentin_attenuation_per_mm"} <= cited
    metal = with_values(behind_a_clear_band(), neighbours__mesial__rotated=False)
    for one in work(read_case(metal)).lit.cured:
        assert [aim.name for aim in one.lit.aims] == ["occlusal"]


@pytest.mark.parametrize("order", [0, 4, 5])
def test_deep_points_meet_an_independent_sampler(order: int) -> None:
    """A box floor, the box behind the wall and the occlusal body, with what was placed before."""
    worked = work(read_case(first_case()))
    cured = worked.lit.cured[order]
    found = sum(brute_force(worked, order, 0, aim.name) for aim in cured.lit.aims)
    assert cured.lit.weakest_mw_cm2 == pytest.approx(found, rel=0.015)


def test_the_axis_formula_alone_overstates_a_box_floor() -> None:
    worked = work(read_case(first_case()))
    cured = worked.lit.cured[0]
    tip = cured.lit.aims[0].tip
    depth = tip.centre[2] - cured.lit.points[0][2]
    naive = worked.lit.beam.on_axis_mw_cm2(depth) * math.exp(-1.0 / cured.mass.penetration_depth_mm)
    assert naive > 2.5 * cured.lit.weakest_mw_cm2


def test_a_curve_from_the_makers_time_gives_the_bottom_just_its_dose() -> None:
    """10 s at 600 mW/cm2 for 2 mm; penetration depth by role where it is not given."""
    case = first_case()
    mass = case["masses"][0]
    del mass["critical_exposure_j_cm2"]
    mass["maker"] = {"seconds": 10, "at_irradiance_mw_cm2": 600}
    rules = load_rulebook()
    found = complete(read_case(case).composites[0], rules).mass
    # Half the scraped length is the largest increment (ISO 4049): 6 J/cm2 at the surface leave Ec at twice that.
    assert found.critical_exposure_j_cm2 == pytest.approx(6 * math.exp(-4 / 1.25), abs=1e-4)
    reaching = 6 * math.exp(-2 / curve_of(found).penetration_depth_mm)
    dose = need_of(found, 100.0, 1000.0, rules).dose_j_cm2
    assert dose == pytest.approx(reaching, rel=1e-3)
    assert dose == pytest.approx(math.sqrt(6 * found.critical_exposure_j_cm2), rel=1e-3)
    del mass["penetration_depth_mm"]
    made = work(read_case(case)).plan
    filled = {a.path: a for a in made.assumptions}
    assert filled["restoration.composites[0].penetration_depth_mm"].value == pytest.approx(1 / 0.9, abs=1e-3)
    assert "manufacturer's time" in filled["restoration.composites[0].critical_exposure_j_cm2"].why
    used = {i.path: i.provenance for i in made.figures[0].inputs}
    assert used["restoration.composites[0].critical_exposure_j_cm2"] == "handbook"
    assert all(e.seconds >= 10 for i in made.increments for e in i.cured.exposures)


def test_a_mass_of_which_nothing_is_known_is_refused() -> None:
    case = first_case()
    del case["masses"][0]["critical_exposure_j_cm2"]
    with pytest.raises(
        InputError, match=r"composites\[0\].critical_exposure_j_cm2: got nothing, allowed a value, or"
    ):
        work(read_case(case))
