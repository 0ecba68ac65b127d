"""What walls send back, against the closed form of a sphere, plain random walks and bounds."""

import math

import numpy as np
import pytest
from manifold3d import Manifold

from mallet.cavity.rays import Scene
from mallet.cavity.solids import skin
from mallet.light.arriving import exchange
from mallet.light.beam import Beam
from mallet.light.field import Filling, Tip, irradiance_mw_cm2
from mallet.light.walls import bare_walls
from mallet.plan import plan, work
from mallet.terms.case import read_case
from mallet.terms.plan import Plan
from tests.core.conftest import first_case

ALBEDO = 0.6


def test_faces_of_a_sphere_see_each_other_alike() -> None:
    """Within a sphere every face receives A / (4 pi R2) of each other's radiosity, wherever it lies."""
    radius, count = 3.0, 600
    turn, z = np.arange(count) * 2.399963, 1 - (2 * np.arange(count) + 1) / count
    flat = np.sqrt(1 - z**2)
    out = np.column_stack([flat * np.cos(turn), flat * np.sin(turn), z])
    areas = np.full(count, 4 * math.pi * radius**2 / count)
    nothing = Scene().trees
    faces = (radius * out, -out, areas)
    shares = exchange(radius * out, -out, *faces, nothing, nothing, np.zeros(1))
    far = np.linalg.norm(out[:, None] - out[None], axis=2) > 0.5
    expected = np.full(shares.shape, 1 / count)
    assert shares[far] == pytest.approx(expected[far], rel=0.03)
    # Light that has gone everywhere adds up to albedo / (1 - albedo) of what came in.
    even = np.linalg.solve(np.eye(len(shares)) - ALBEDO * expected, np.full(len(shares), ALBEDO))
    assert expected[0] @ even == pytest.approx(ALBEDO / (1 - ALBEDO), rel=1e-6)


def _walk(tip: Tip, depth: float, half: float, draws: int) -> float:
    """Return the light (mW/cm2) that reaches the middle of a square well's floor after at least one bounce off
    its four walls: backward random walks, each step a cosine-weighted flight (floor and opening end it)."""
    rng = np.random.default_rng(11)
    total = 0.0
    for _ in range(draws):
        at, normal, weight = np.array([0.0, 0.0, 1e-9]), np.array([0.0, 0.0, 1.0]), 1.0
        for bounce in range(12):
            u, v = rng.random(2)
            side = np.cross(normal, [0.3, 0.5, 0.81])
            side /= np.linalg.norm(side)
            flat = math.cos(2 * math.pi * v) * side + math.sin(2 * math.pi * v) * np.cross(normal, side)
            way = math.sqrt(u) * flat + math.sqrt(1 - u) * normal
            reach = [
                ((half if way[i] > 0 else -half) - at[i]) / way[i] if way[i] else math.inf for i in (0, 1)
            ]
            up = (depth - at[2]) / way[2] if way[2] > 0 else -at[2] / way[2] if way[2] < 0 else math.inf
            if up <= min(reach):
                if way[2] > 0 and bounce:
                    # Out of the well: what the disc sends along this way, pi times its radiance.
                    there = at + way * (tip.centre[2] - at[2]) / way[2]
                    if math.hypot(there[0], there[1]) < tip.beam.radius_mm:
                        shine = tip.beam.peak_radiance * way[2] ** (tip.beam.exponent - 1)
                        total += weight * math.pi * shine
                break
            i = int(np.argmin(reach))
            at = at + way * reach[i]
            normal = np.zeros(3)
            normal[i] = -math.copysign(1.0, way[i])
            weight *= ALBEDO
    return total / draws


def test_a_square_well_sends_back_what_random_walks_find() -> None:
    half, depth = 1.5, 4.0
    tip = Tip((0.0, 0.0, depth + 0.5), Beam(4.0, 1000.0, 2.0))
    block = Manifold.cube([12.0, 12.0, depth + 1.0]).translate([-6.0, -6.0, -1.0])
    hollow = Manifold.cube([2 * half, 2 * half, depth + 2.0]).translate([-half, -half, 0.0])
    faces = skin(hollow.trim_by_plane([0, 0, -1], -depth).refine_to_length(0.5))
    upright = faces.where(np.abs(faces.normals[:, 2]) < 0.5)
    floor = np.array([[0.0, 0.0, 1e-6]])
    walls = bare_walls([upright], ALBEDO)
    back = walls.sent_back_mw_cm2(floor, tip, Scene(block - hollow), ())[0]
    assert back == pytest.approx(_walk(tip, depth, half, 40_000), rel=0.04)
    direct = irradiance_mw_cm2(floor, tip, Scene(block - hollow))[0]
    assert 0.1 < back / direct < 0.6
    # A slab on the floor weakens what comes aslant from the walls more than what comes straight.
    slab = Filling(Scene(Manifold.cube([2 * half, 2 * half, 1.0]).translate([-half, -half, -0.001])), 1.0)
    through = walls.sent_back_mw_cm2(floor, tip, Scene(block - hollow), [slab])[0]
    straight = irradiance_mw_cm2(floor, tip, Scene(block - hollow), [slab])[0]
    assert through / back < straight / direct


def test_walls_that_send_light_back_never_ask_for_more_and_say_what_they_add() -> None:
    dark = plan(read_case(first_case()))
    bright = plan(read_case({**first_case(), "house": {"light.wall_albedo": 0.5}}))
    assert isinstance(dark, Plan)
    assert isinstance(bright, Plan)
    assert bright.totals.cure_seconds <= dark.totals.cure_seconds
    weakest = next(f for f in bright.figures if f.id == "weakest_point")
    assert "walls send back" in weakest.how
    assert "light.wall_albedo" in {use.rule for use in weakest.rules}
    assert "lower bound" in next(f for f in dark.figures if f.id == "weakest_point").how


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
        for share, longest in ((0.5, 40.0), (6.0, 40.0), (6.0, 5.0)):
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
        assert found[2] == (10.0, "caution")

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
