"""What walls return against random walks, and the light once a band is off."""

import math

import numpy as np
import pytest
from manifold3d import Manifold

from mallet.cavity.rays import Scene
from mallet.light.beam import Beam
from mallet.light.field import Tip, irradiance_mw_cm2, passing_of
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from mallet.terms.plan import Plan
from tests.core.conftest import first_case
from tests.core.planned import plan, work


def _walk(tip: Tip, depth: float, half: float, albedo: float, draws: int) -> float:
    """Return the light (mW/cm2) that reaches the middle of a square well's floor after at least one bounce off
    its four walls: backward random walks, each step a cosine-weighted flight (floor and opening end it)."""
    rng = np.random.default_rng(11)
    at = np.tile([0.0, 0.0, 1e-9], (draws, 1))
    normal = np.tile([0.0, 0.0, 1.0], (draws, 1))
    total, weight = 0.0, 1.0
    for bounce in range(12):
        u, v = rng.random((2, len(at), 1))
        side = np.cross(normal, [0.3, 0.5, 0.81])
        side /= np.linalg.norm(side, axis=1, keepdims=True)
        flat = np.cos(2 * np.pi * v) * side + np.sin(2 * np.pi * v) * np.cross(normal, side)
        way = np.sqrt(u) * flat + np.sqrt(1 - u) * normal
        reach = (np.copysign(half, way[:, :2]) - at[:, :2]) / way[:, :2]
        up = (np.where(way[:, 2] > 0, depth, 0.0) - at[:, 2]) / way[:, 2]
        is_out = up <= reach.min(axis=1)
        if bounce:
            # Out of the well: what the disc sends along this way, pi times its radiance.
            out = is_out & (way[:, 2] > 0)
            there = at[out] + way[out] * ((tip.centre[2] - at[out, 2]) / way[out, 2])[:, None]
            shine = tip.beam.peak_radiance * way[out, 2] ** (tip.beam.exponent - 1)
            is_of_tip = np.hypot(there[:, 0], there[:, 1]) < tip.beam.radius_mm
            total += weight * math.pi * float(shine[is_of_tip].sum())
        stay = np.flatnonzero(~is_out)
        axis = reach[stay].argmin(axis=1)
        at = at[stay] + way[stay] * reach[stay, axis][:, None]
        normal = np.zeros((len(stay), 3))
        normal[np.arange(len(stay)), axis] = -np.sign(way[stay, axis])
        weight *= albedo
    return total / draws


def test_the_closed_formula_adds_what_bright_walls_do() -> None:
    """At the floor of a square well walls that send back 0.3 to 0.7 of their light add 10 to 40 %: random walks tell how
    much, and the formula's share lies between."""
    half, depth = 1.5, 4.0
    tip = Tip((0.0, 0.0, depth + 0.5), Beam(4.0, 1000.0, 2.0))
    block = Manifold.cube([12.0, 12.0, depth + 1.0]).translate([-6.0, -6.0, -1.0])
    hollow = Manifold.cube([2 * half, 2 * half, depth + 2.0]).translate([-half, -half, 0.0])
    floor, walls = np.array([[0.0, 0.0, 1e-6]]), Scene(block - hollow)
    bare = irradiance_mw_cm2(floor, tip, walls)[0]
    dark, bright = (_walk(tip, depth, half, albedo, 6000) / bare for albedo in (0.3, 0.7))
    passing = passing_of(load_rulebook())
    added = irradiance_mw_cm2(floor, tip, walls, passing=passing)[0] / bare - 1
    assert dark < added < bright
    assert 0.1 < added < 0.4
    # By the formula's own words: of what the walls keep, a share comes back, up to a limit.
    open_mw_cm2 = irradiance_mw_cm2(floor, tip, Scene())[0]
    assert added == pytest.approx(
        min(passing.returned * (open_mw_cm2 / bare - 1), passing.most - 1), rel=1e-6
    )


def test_walls_that_return_nothing_never_ask_for_less() -> None:
    bright = plan(read_case(first_case()))
    dark = plan(read_case({**first_case(), "house": {"light.wall_return_share": 0.0}}))
    assert isinstance(dark, Plan)
    assert isinstance(bright, Plan)
    assert bright.totals.cure_seconds < dark.totals.cure_seconds
    weakest = next(f for f in bright.figures if f.id == "weakest_point")
    assert "walls return" in weakest.how
    assert "light.wall_return_share" in {use.rule for use in weakest.rules}


class TestAfterBand:
    def test_what_the_band_shaded_gets_the_share_that_the_rule_wants(self) -> None:
        for share in (0.3, 0.5, 1.0):
            made = plan(read_case({**first_case(), "house": {"light.final_share": share}}))
            assert isinstance(made, Plan)
            check = next(c for c in made.checks if c.topic == "cure.after_band.mesial")
            assert check.verdict == "pass"
            assert check.measured >= share - 0.005
            final = [s for s in made.steps if ".final." in s.id]
            assert {p.source for s in final for p in s.presses} == {"facial", "lingual"}

    def test_more_wanted_takes_longer_and_what_cannot_be_reached_is_said(self) -> None:
        strong = first_case()
        for reading in strong["light"]["readings"]:
            reading["irradiance_mw_cm2"] *= 2.2
        found = []
        for share, longest in ((0.5, 40.0), (6.0, 40.0)):
            house = {
                "light.final_share": share,
                "light.longest_exposure_s": longest,
                "light.final_cure_s": 5.0,
            }
            made = plan(read_case({**strong, "house": house}))
            assert isinstance(made, Plan)
            check = next(c for c in made.checks if c.topic == "cure.after_band.mesial")
            final = [s for s in made.steps if ".final." in s.id]
            found.append((sum(s.seconds for s in final), check.verdict))
            cited = {s.seconds_rule.rule for s in final if s.seconds_rule}
            assert cited == {"light.final_cure_s" if check.verdict == "caution" else "light.final_share"}
        assert found[0][0] < found[1][0]
        # With a weak lamp behind a dark tooth no exposure adds so much: habit's time, and the check says so.
        dark = {"light.final_share": 6.0, "light.final_cure_s": 5.0, "light.dentin_attenuation_per_mm": 5.0}
        weak = first_case()
        for reading in weak["light"]["readings"]:
            reading["irradiance_mw_cm2"] *= 0.6
        made = plan(read_case({**weak, "house": dark}))
        assert isinstance(made, Plan)
        check = next(c for c in made.checks if c.topic == "cure.after_band.mesial")
        assert check.verdict == "caution"
        final = [s for s in made.steps if ".final." in s.id]
        assert {s.seconds for s in final} == {5.0}
        assert {s.seconds_rule.rule for s in final if s.seconds_rule} == {"light.final_cure_s"}

    def test_each_box_of_an_mod_has_its_own(self) -> None:
        case = first_case()
        case["restoration"]["surfaces"] = "MOD"
        case["preparation"]["parts"].append({**case["preparation"]["parts"][1], "side": "distal"})
        case["neighbours"]["distal"] = {"tooth": "37"}
        worked = work(read_case(case))
        topics = [c.topic for c in worked.plan.checks if c.topic.startswith("cure.after_band")]
        assert topics == ["cure.after_band.mesial", "cure.after_band.distal"]

    def test_a_slot_too_low_to_be_shaded_has_nothing_to_light(self) -> None:
        case = first_case()
        slot = {**case["preparation"]["parts"][1], "height_mm": 0.4, "width_mm": 2.0, "axial_depth_mm": 1.0}
        case["preparation"]["parts"] = [slot]
        case["neighbours"] = {"mesial": {"ridge_offset_mm": -4.0}}
        made = plan(read_case({**case, "provenance": {}}))
        assert isinstance(made, Plan)
        assert "matrix.mesial.off" in {step.id for step in made.steps}
        assert [s.id for s in made.steps if ".final." in s.id] == []
        assert [c for c in made.checks if c.topic.startswith("cure.after_band")] == []
