"""The light against closed forms, an independent sampler and exhaustive search."""

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold
from scipy.integrate import quad

from mallet.cavity.rays import Scene
from mallet.cavity.solids import skin
from mallet.light.beam import Beam, fit_beam, read_readings_csv
from mallet.light.field import Filling, Tip, irradiance_mw_cm2
from mallet.light.presses import presses_for
from mallet.light.working_curve import WorkingCurve
from mallet.plan import work
from mallet.terms.case import Reading, read_case
from mallet.terms.errors import InputError
from tests.core.conftest import first_case

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
    assert sampled == pytest.approx(exact, rel=5e-3)


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
        InputError, match="got 900 mW/cm2 at 0 mm and 950 at 4 mm, allowed readings that fall"
    ):
        fit_beam([reading(0, 900), reading(4, 950)], 9)
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
    found = presses_for(seconds, [float(s) for s in steps])
    assert sum(found) >= seconds - 1e-6
    most = math.ceil(seconds / min(steps))
    sums: dict[int, int] = {}
    for combination in _combinations(sorted(steps), most, seconds + max(steps)):
        sums[sum(combination)] = min(sums.get(sum(combination), 99), len(combination))
    least = min(total for total in sums if total >= seconds - 1e-6)
    assert (sum(found), len(found)) == (least, sums[least])


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


def crossings(triangles: np.ndarray, origin: np.ndarray, ends: np.ndarray) -> np.ndarray:
    """Return, per segment, the crossing shares (0-1) with triangles, NaN for none (Moeller-Trumbore)."""
    edge1, edge2 = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    d = (ends - origin)[:, None, :]
    p = np.cross(d, edge2[None])
    det = (p * edge1[None]).sum(-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        s = origin - triangles[:, 0]
        u = (p * s[None]).sum(-1) / det
        q = np.cross(s, edge1)
        v = (d * q[None]).sum(-1) / det
        t = (edge2 * q).sum(-1)[None] / det
    hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0) & (t < 1) & (np.abs(det) > 1e-14)
    return np.where(hit, t, np.nan) * np.sign(det), hit


def brute_force(worked: Any, order: int, index: int) -> float:
    """Return irradiance at a point by plain numpy: jittered tip points, every triangle tried."""
    cured = worked.build.cured[order]
    point, tip = cured.lit.points[index], cured.lit.aims[0].tip
    blockers = [worked.cavity.remaining_tooth, *(b.solid.solid for b in worked.bands)]
    blockers += [n.solid for n in worked.neighbours]
    placed = Manifold()
    for earlier in worked.build.cured[: order + 1]:
        placed = placed + earlier.portion.solid
    walls = np.concatenate([skin(s).corners for s in blockers])
    r, centre = tip.beam.radius_mm, np.array(tip.centre)
    rim = np.array([r, r, 0.0])
    low, high = np.minimum(point, centre - rim), np.maximum(point, centre + rim)
    walls = walls[((walls.max(axis=1) > low) & (walls.min(axis=1) < high)).all(axis=1)]
    mass = skin(placed).corners
    rings, around = 120, 180
    draw = np.random.default_rng(7)
    r2 = (np.arange(rings)[:, None] + draw.random((rings, around))) / rings
    angle = 2 * np.pi * (np.arange(around)[None] + draw.random((rings, around))) / around
    out = r * np.sqrt(r2)
    ends = np.stack([out * np.cos(angle), out * np.sin(angle), np.zeros_like(out)], -1).reshape(-1, 3)
    ends = ends + centre
    total = 0.0
    for some in np.array_split(ends, 120):
        _, hit = crossings(walls, point, some)
        open_way = ~hit.any(axis=1)
        signed, _ = crossings(mass, point, some)
        span = np.linalg.norm(some - point, axis=1)
        # Leaving adds its distance, entering takes it away: what is left is the way inside.
        inside = np.abs(np.nansum(signed, axis=1)) * span
        cosine = (some[:, 2] - point[2]) / span
        n, m = tip.beam.exponent, tip.beam.contact_mw_cm2
        radiance = m * (n + 1) / (2 * np.pi) * cosine ** (n - 1)
        weight = radiance * cosine**2 / span**2 * np.exp(-inside / cured.mass.penetration_depth_mm)
        total += float(weight[open_way].sum())
    return total * np.pi * tip.beam.radius_mm**2 / (rings * around)


@pytest.mark.parametrize("order", [0, 4, 5])
def test_deep_points_meet_an_independent_sampler(order: int) -> None:
    """A box floor, the box behind the wall and the occlusal body, with what was placed before."""
    worked = work(read_case(first_case()))
    cured = worked.build.cured[order]
    assert cured.lit.weakest_mw_cm2 == pytest.approx(brute_force(worked, order, 0), rel=0.015)


def test_the_axis_formula_alone_overstates_a_box_floor() -> None:
    worked = work(read_case(first_case()))
    cured = worked.build.cured[0]
    tip = cured.lit.aims[0].tip
    depth = tip.centre[2] - cured.lit.points[0][2]
    naive = worked.beam.on_axis_mw_cm2(depth) * math.exp(-1.0 / cured.mass.penetration_depth_mm)
    assert naive > 2.5 * cured.lit.weakest_mw_cm2
