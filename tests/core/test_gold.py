"""Direct gold: a sheet from its grains, pellets by hand, zones that add up, a path that is the plan's, solids re-measured."""

import json
import math
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from mallet.cavity.crowns import shell_solid
from mallet.cavity.gold_pit import outline_of, tightest_mm
from mallet.condensing.nibs import force_n
from mallet.plan import Worked
from mallet.restoratives.gold.pellets import need_mg, pellets_of, shared_out
from mallet.restoratives.gold.restorative import GoldBuilt
from mallet.restoratives.gold.stock import FRACTIONS, Piece
from mallet.rulebook import Rulebook
from mallet.studies.measure_first import measure_first
from mallet.terms.case import read_case
from mallet.terms.errors import InputError, NotFeasible
from mallet.terms.increments import Stepped
from mallet.terms.parts import GoldPit
from mallet.terms.plan import Plan
from mallet.terms.restoration import CompositeRestoration, GoldRestoration
from mallet.worked import read_worked
from tests.core.conftest import with_values
from tests.core.planned import work

EXAMPLE = Path(__file__).parents[2] / "examples" / "lower_molar_facial_pit_gold.json"
WORKED = [
    path
    for path in sorted((EXAMPLE.parent / "worked").glob("gold_*.json"))
    if '"refused"' not in path.read_text()
]
GRAIN_MG = 64.79891


def told(**values: Any) -> dict[str, Any]:
    return with_values(json.loads(EXAMPLE.read_text()), **values)


def worked(**values: Any) -> Worked:
    return work(read_case(told(**values)))


def of(solid: Any) -> trimesh.Trimesh:
    mesh = solid.to_mesh64()
    return trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts)


def stepped(made: Plan) -> list[Stepped]:
    return [one.detail for one in made.increments if isinstance(one.detail, Stepped)]


def test_a_sheet_weighs_four_grains_and_is_thicker_than_is_printed(book: Rulebook) -> None:
    """4 grains of 64.79891 mg (international avoirdupois) over 4 by 4 inches of 25.4 mm, gold at 19.3 g/cm3: 1.30 um, where
    0.51 um is printed."""
    sheet = book.value("gold.sheet_mg")
    assert sheet == pytest.approx(4 * GRAIN_MG, abs=0.01)
    thick_um = sheet / 19.3 / (4 * 25.4) ** 2 * 1000
    assert thick_um == pytest.approx(1.30, abs=0.01)
    (dispute,) = (one for one in book.disputes if one.id == "gold_sheet")
    assert "1.30" in dispute.default
    assert any("0.51" in side.says for side in dispute.sides)


def test_pellets_are_fractions_of_a_sheet(book: Rulebook) -> None:
    """1/16 to 1/128 of a sheet: 16.2, 8.10, 6.03, 4.05, 2.03 mg (textbooks of direct gold, from memory)."""
    by_hand = {16: 16.2, 32: 8.10, 43: 6.03, 64: 4.05, 128: 2.03}
    assert set(FRACTIONS) == set(by_hand)
    for of_sheet, mg in by_hand.items():
        assert book.value("gold.sheet_mg") / of_sheet == pytest.approx(mg, abs=0.01)


@pytest.mark.parametrize(
    ("volume_mm3", "density", "mg", "pellet_mg", "count"),
    [
        (2.40, 15.8, 41.7, 2.03, 21),
        (1.00, 15.8, 17.4, 2.03, 9),
        (3.34, 15.8, 58.0, 2.03, 29),
        (2.00, 15.0, 33.0, 6.0, 6),
        (5.00, 14.5, 79.8, 5.0, 16),
    ],
)
def test_pellets_for_a_lesion_by_hand(
    volume_mm3: float, density: float, mg: float, pellet_mg: float, count: int, book: Rulebook
) -> None:
    """Volume by density by 1.10, over the weight of a pellet, rounded up."""
    piece = Piece("piece", "foil", pellet_mg, 1.0, density)
    assert need_mg(volume_mm3, density, 0.10) == pytest.approx(mg, abs=0.06)
    assert len(pellets_of(volume_mm3, [piece], 3.0, book).order) == count


def test_densities_and_pressure_are_as_published(book: Rulebook) -> None:
    """Condensed foil 15.8 to 15.9, mat and foil 15.0 to 15.1, powdered 14.4 to 14.9 g/cm3 (Richter and Cantwell 1965, from
    memory); 15 lbf, 66.7 N, on a nib of 1 mm are 85 MPa."""
    bounds = {"foil": (15.8, 15.9), "mat": (15.0, 15.1), "powdered": (14.4, 14.9)}
    for form, (low, high) in bounds.items():
        assert low <= book.value(f"gold.density_{form}") <= high
    assert 66.7 / (math.pi / 4) == pytest.approx(85, abs=0.1)
    pressure = book.value("gold.pressure_mpa")
    assert [round(force_n(pressure, d), 1) for d in (0.5, 0.75, 1.0)] == pytest.approx(
        [16.7, 37.5, 66.7], abs=0.15
    )


@given(st.floats(0.2, 12.0), st.lists(st.floats(0.05, 3.0), min_size=2, max_size=5))
def test_pellets_reach_what_is_needed_and_are_all_shared_out(volume: float, shares: list[float]) -> None:
    from mallet.rulebook import load_rulebook

    rules = load_rulebook()
    pieces = [Piece(f"{mg:g}", "foil", mg, mg / 2.7, 15.8) for mg in (2.03, 4.05, 8.1)]
    pellets = pellets_of(volume, pieces, 3.0, rules)
    weight = sum(piece.mg for piece in pellets.order)
    assert pellets.need_mg <= weight + 1e-9 < pellets.need_mg + pellets.order[-1].mg + 1e-9
    assert [piece.mg for piece in pellets.order] == sorted(piece.mg for piece in pellets.order)
    whole = sum(shares)
    own = shared_out(pellets, [volume * share / whole for share in shares])
    assert [piece for zone in own for piece in zone] == list(pellets.order)


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_zones_fill_the_pit_and_are_stepped_by_the_drawn_path(path: Path, book: Rulebook) -> None:
    done = work(read_worked(path)[1])
    assert isinstance(done.built, GoldBuilt)
    zones, filling = done.built.zones, done.cavity.filling
    assert sum(of(zone.solid).volume for zone in zones) == pytest.approx(of(filling).volume, rel=1e-3)
    for i, zone in enumerate(zones):
        assert sum((zone.solid ^ other.solid).volume() for other in zones[:i]) < 1e-3
    steps = {step.increment: step for step in done.plan.steps if step.rhythm}
    for order, (zone, one) in enumerate(zip(zones, stepped(done.plan), strict=True), 1):
        count = sum(one.pellets.values())
        assert count == 0 or one.path, zone.id
        assert 1 <= one.steps_a_pass <= max(len(one.path), 1)
        if step := steps.get(order):
            assert step.rhythm
            assert step.rhythm.count == count * one.passes * one.steps_a_pass
            assert step.rhythm.pieces
            assert step.rhythm.pieces.count == count
        covered = shapely.union_all(
            [shapely.Point(*_xy(done, p)).buffer(one.nib_diameter_mm / 2) for p in one.path]
        )
        ground = shapely.union_all([shapely.Polygon(ring) for ring in zone.ground.to_polygons()[:1]])
        holes = [shapely.Polygon(ring) for ring in zone.ground.to_polygons()[1:]]
        ground = ground.difference(shapely.union_all(holes)) if holes else ground
        assert ground.difference(covered).buffer(-0.02).is_empty, zone.id
    pieces = [step.rhythm.pieces for step in done.plan.steps if step.rhythm and step.rhythm.pieces]
    assert [one.first for one in pieces] == [1 + sum(p.count for p in pieces[:i]) for i in range(len(pieces))]


def _xy(done: Worked, point: Any) -> tuple[float, float]:
    x, y, _ = done.cavity.access.toward((point.x, point.y, point.z))
    return x, y


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    st.sampled_from(["oval", "teardrop", "trapezoid"]),
    st.floats(1.1, 1.8),
    st.floats(1.2, 1.8),
    st.floats(0.2, 0.5),
)
def test_the_solid_is_what_the_sizes_say(outline: str, width: float, height: float, into: float) -> None:
    """Another library: the volume by plain figures, the floor everywhere so far past the junction, the walls within the
    outline and its groove."""
    part = {"outline": outline, "width_mm": width, "height_mm": height, "into_dentin_mm": into}
    case = told(preparation__parts=[{"kind": "gold_pit", "face": "facial", "above_cej_mm": 2.9, **part}])
    done = work(read_case(case))
    cavity, tool = done.cavity, done.cavity.tools[0]
    filling = of(cavity.filling)
    assert filling.volume == pytest.approx(tool.nominal_volume_mm3, rel=0.05)
    pit = done.case.preparation.parts[0]
    assert isinstance(pit, GoldPit)
    own = outline_of(pit, cavity.access)
    inside = np.array(own.middle) + 0.6 * (own.ring() - own.middle)
    starts = np.column_stack([inside, np.full(len(inside), 30.0)])
    down = np.tile([0.0, 0.0, -1.0], (len(inside), 1))
    dentin = of(cavity.access.turned(shell_solid(cavity.tooth, done.rules, "dentin").solid))

    def reached(mesh: trimesh.Trimesh, take: Any) -> np.ndarray:
        hits, rays, _ = mesh.ray.intersects_location(starts, down)
        return np.array([take(hits[rays == i, 2]) for i in range(len(inside))])

    assert reached(dentin, np.max) - reached(filling, np.min) == pytest.approx(into, abs=0.03)
    groove = pit.groove_depth_mm
    assert filling.bounds[0, 0] >= tool.floor[0] - pit.bevel_mm - 0.02
    low = filling.vertices[filling.vertices[:, 2] < tool.floor_mm + 0.3 * into]
    assert np.hypot(*(low[:, :2] - own.middle).T).max() <= max(width, height) / 2 + groove + 0.45


def test_the_tightest_curve_is_that_of_the_outline() -> None:
    """An oval's narrow ends have the radius b squared over a; another library's osculating circle agrees."""
    part = GoldPit(kind="gold_pit", width_mm=1.2, height_mm=2.0)
    assert tightest_mm(part) == pytest.approx(0.36)
    near = np.array([[0.6 * math.sin(t), 1.0 * math.cos(t)] for t in (-0.05, 0.0, 0.05)])
    (a, b, c) = near
    area = shapely.Polygon(near).area
    sides = [np.linalg.norm(p - q) for p, q in ((a, b), (b, c), (c, a))]
    assert math.prod(sides) / (4 * area) == pytest.approx(0.36, rel=0.01)


def test_the_bevel_comes_after_the_varnish_and_before_the_last_look() -> None:
    ids = [step.id for step in worked().plan.steps]
    order = [
        "prepare.enter",
        "prepare.decay",
        "prepare.walls",
        "prepare.groove",
        "prepare.points",
        "prepare.clean",
    ]
    order += ["bond.seal", "bond.bevel", "prepare.verify", "build.floor.step"]
    assert [id for id in ids if id in order] == order
    other = [step.id for step in worked(restoration__bevel="before_varnish").plan.steps]
    assert other.index("bond.bevel") < other.index("bond.seal") < other.index("prepare.verify")


def test_gold_and_composite_weigh_the_same_and_what_would_tip_them_is_told() -> None:
    (decision,) = (d for d in worked().plan.decisions if d.topic == "choose.material")
    assert decision.reasons[0].text.startswith("Gold foil and composite weigh the same")
    tied = [option for option in decision.options if option.name in ("gold foil", "composite")]
    assert tied[0].points == tied[1].points
    assert all(option.speaks_for for option in tied)


def test_cleaned_gold_and_hands_decide_how_long_a_pellet_takes() -> None:
    """In the flame, by hand, each pellet waits for its heat; with a motor mallet the assistant heats meanwhile."""
    seconds = {
        name: sum(one.seconds for one in stepped(worked(**values).plan))
        for name, values in {
            "hand": {}, "motor": {"restoration__mallet": "pneumatic"}, "bulk": {"restoration__heat": "electric_low"},
            "alone": {"restoration__mallet": "pneumatic", "pairs_of_hands": "one"},
        }.items()
    }  # fmt: skip
    assert seconds["hand"] == seconds["alone"]
    assert seconds["motor"] == seconds["bulk"]
    assert seconds["hand"] - seconds["motor"] == pytest.approx(29 * 3.0)


def test_heat_in_bulk_is_ready_before_the_first_pellet_and_serves_for_its_time() -> None:
    plan = worked(restoration__heat="electric_high").plan
    ends = {step.id: step.end_s for step in plan.steps}
    starts = {step.id: step.start_s for step in plan.steps}
    assert ends["build.heat"] <= starts["build.floor.step"]
    (supply,) = plan.supplies
    assert supply.expires_s == ends["build.heat"] + 3600
    bracket = next(one for one in plan.brackets if one.kind == "working")
    assert bracket.start == "build.heat"


def test_wet_takes_off_no_more_than_the_wet_layer() -> None:
    plan = worked().plan
    packing = [step for step in plan.steps if step.rhythm]
    assert all(
        step.wet and step.wet.redo == [] and "fresh gold on clean gold" in step.wet.reason.text
        for step in packing
    )
    locked = next(step for step in packing if step.id == "build.point.step")
    assert locked.check
    assert locked.check.back_to == "build.floor.step"


@pytest.mark.parametrize(
    ("values", "path", "allowed"),
    [
        ({"restoration__plugger": "c"}, "restoration.plugger", "a plugger for gold"),
        ({"restoration__gold": "lead"}, "restoration.gold", "piece"),
        ({"restoration__gold": "piece"}, "restoration.gold", "pieces of up to"),
        ({"preparation__parts__0__height_mm": 4.5}, "preparation.parts[0].height_mm", "up to"),
        ({"preparation__parts__0__above_cej_mm": 5.2}, "preparation.parts[0].height_mm", "dentin|face"),
        ({"restoration__surfaces": "L"}, "restoration.surfaces", "F"),
    ],
)
def test_bad_input_names_the_field_and_what_is_allowed(
    values: dict[str, Any], path: str, allowed: str
) -> None:
    stock = [
        {"kind": "condenser", "name": "c", "use": "amalgam", "nib_mm": 1.0},
        {"kind": "gold", "name": "piece", "form": "foil", "piece_mg": 90.0, "density_g_cm3": 15.8},
    ]
    given = {"stock": stock} if "restoration__gold" in values or "restoration__plugger" in values else {}
    with pytest.raises(InputError) as refused:
        worked(**given, **values)
    (problem,) = refused.value.problems
    assert problem.path == path
    assert any(word in problem.allowed for word in allowed.split("|"))


def test_caries_past_the_wall_says_to_where_it_would_have_to_go() -> None:
    with pytest.raises(NotFeasible) as little:
        worked(findings__caries_past_junction_mm=0.4)
    assert little.value.nearest == {"preparation.parts[0].into_dentin_mm": 0.4}
    with pytest.raises(NotFeasible) as much:
        worked(findings__caries_past_junction_mm=1.2)
    assert not much.value.nearest


def test_another_part_is_not_planned_for_gold() -> None:
    pit = {"kind": "pit", "diameter_mm": 1.5, "depth_mm": 1.0, "above_cej_mm": 2.0}
    with pytest.raises(NotFeasible, match="Measure an outline"):
        worked(preparation__parts=[pit])


ORDINARY = [
    ("46", "facial", "oval", 1.7, 1.4, 3.0), ("36", "facial", "teardrop", 1.8, 1.3, 2.9), ("47", "facial", "oval", 1.5, 1.2, 2.8),
    ("16", "lingual", "oval", 1.6, 1.3, 3.0), ("46", "occlusal", "oval", 1.2, 1.5, 0.0), ("35", "occlusal", "oval", 1.2, 1.3, 0.0),
    ("45", "facial", "oval", 1.5, 1.3, 3.0), ("24", "facial", "trapezoid", 1.4, 2.2, 1.5), ("33", "facial", "trapezoid", 1.5, 2.2, 1.6),
    ("12", "lingual", "oval", 1.2, 1.1, 3.5),
]  # fmt: skip


@pytest.mark.parametrize(("code", "face", "outline", "height", "width", "above"), ORDINARY)
def test_ordinary_pits_pass_the_form(
    code: str, face: str, outline: str, height: float, width: float, above: float
) -> None:
    """Ten that nobody would fault; the dentin over a front tooth's pulp was measured."""
    part = {"kind": "gold_pit", "face": face, "outline": outline, "height_mm": height, "width_mm": width}
    cut = {"remaining_dentin_mm": 1.2, "parts": [{**part, "above_cej_mm": above}]}
    plan = worked(tooth__code=code, restoration__surfaces=face[0].upper(), preparation=cut).plan
    assert [(c.topic, c.measured) for c in plan.checks if c.verdict != "pass"] == []


def test_a_handbook_pulp_alone_fails_no_gold_and_a_measured_one_does() -> None:
    pit = {"kind": "gold_pit", "face": "lingual", "height_mm": 1.2, "width_mm": 1.1, "above_cej_mm": 3.5}
    verdicts = []
    for measured in ({}, {"remaining_dentin_mm": 0.3}):
        plan = worked(
            tooth__code="12", restoration__surfaces="L", preparation={**measured, "parts": [pit]}
        ).plan
        verdicts += [c.verdict for c in plan.checks if c.topic == "prepare.gold_pulp"]
    assert verdicts == ["caution", "fail"]


BESIDE = {
    "kind": "proximal_cavity", "side": "mesial", "face": "lingual", "height_mm": 1.6, "below_contact_mm": 1.5,
    "depth_mm": 1.4, "faciolingual_mm": 2.0, "point_depth_mm": 0.4, "bevel_mm": 0.3,
}  # fmt: skip


def beside(code: str = "13", **sizes: Any) -> Worked:
    part = {**BESIDE, **sizes}
    surfaces = f"{part['side'][0].upper()}L"
    return worked(
        tooth__code=code,
        restoration__surfaces=surfaces,
        preparation={"remaining_dentin_mm": 1.2, "parts": [part]},
    )


@pytest.mark.parametrize(
    ("code", "sizes"),
    [
        ("13", {}),
        ("23", {"height_mm": 1.4, "depth_mm": 1.5}),
        ("13", {"side": "distal", "height_mm": 1.4, "depth_mm": 1.3}),
        ("11", {"side": "distal", "height_mm": 1.4, "depth_mm": 1.3, "faciolingual_mm": 1.8}),
        ("21", {"side": "distal", "depth_mm": 1.3, "faciolingual_mm": 1.6}),
        ("12", {"below_contact_mm": 2.0, "height_mm": 1.4, "depth_mm": 1.3, "faciolingual_mm": 1.6}),
        ("22", {"side": "distal", "depth_mm": 1.2, "faciolingual_mm": 1.8}),
        ("12", {"side": "distal", "depth_mm": 1.1}),
        ("43", {}),
        ("33", {"side": "distal", "depth_mm": 1.2}),
    ],
)
def test_ordinary_cavities_beside_the_contact_pass_the_form(code: str, sizes: dict[str, Any]) -> None:
    """Ten small ones from lingual whose dentin over the pulp was measured."""
    plan = beside(code, **sizes).plan
    assert [(c.topic, c.measured) for c in plan.checks if c.verdict != "pass"] == []


def test_points_and_bevel_beside_the_contact_are_in_the_solid() -> None:
    """Another library: three holes of 0.5 mm across past the axial wall, two gingival and one incisal, in dentin; a strip of
    the bevel's cross-section along the three margins."""
    bare, pointed = beside(point_depth_mm=None, bevel_mm=None), beside(bevel_mm=None)
    beveled = beside(point_depth_mm=None)
    volume = of(bare.cavity.filling).volume
    hole = math.pi * 0.25**2 * 0.4
    assert 2 * hole < of(pointed.cavity.filling).volume - volume < 3.9 * hole
    axial = of(bare.cavity.filling).bounds[0, 0]
    deep = np.array([v for v in of(pointed.cavity.filling).vertices if v[0] < axial - 0.25])
    assert of(pointed.cavity.shell(pointed.rules, "dentin")).contains(deep).all()
    middle = pointed.cavity.tools[0].spot[1]
    gingival, incisal = deep[deep[:, 1] < middle], deep[deep[:, 1] > middle]
    assert len(incisal) == len(gingival) / 2 > 3
    along = 1.6 + 2 * 1.4
    strip = of(beveled.cavity.filling).volume - volume
    assert strip == pytest.approx(along * 0.3**2 / 2, rel=0.35)


@pytest.mark.parametrize(
    ("code", "sizes", "name"),
    [
        (
            "12",
            {"side": "distal", "below_contact_mm": 0.0, "faciolingual_mm": 1.3, "point_depth_mm": 0.5},
            "point_depth_mm",
        ),
        ("13", {"below_contact_mm": 1.0, "faciolingual_mm": 1.3}, "faciolingual_mm"),
        ("11", {"below_contact_mm": None, "depth_mm": 1.6, "faciolingual_mm": 1.4}, "below_contact_mm"),
        ("12", {"below_contact_mm": None, "depth_mm": 1.5, "faciolingual_mm": 1.4}, "below_contact_mm"),
        ("21", {"side": "distal", "below_contact_mm": None, "faciolingual_mm": 1.5}, "below_contact_mm"),
    ],
)
def test_points_without_dentin_say_what_would_give_them_some(
    code: str, sizes: dict[str, Any], name: str
) -> None:
    """At a handbook incisor's contact there is none; what is told, taken, is planned."""
    with pytest.raises(InputError) as refused:
        beside(code, **sizes)
    (problem,) = refused.value.problems
    assert problem.path == f"preparation.parts[0].{name}"
    (number,) = re.findall(r"\d+\.\d+", problem.allowed)
    assert beside(code, **{**sizes, name: float(number)}).plan


def test_a_cavity_beside_the_contact_is_shaped_for_gold_and_back() -> None:
    bare = {name: value for name, value in BESIDE.items() if name not in ("point_depth_mm", "bevel_mm")}
    assert GoldRestoration.shaped(bare) == BESIDE
    assert CompositeRestoration.shaped(BESIDE) == bare


def test_what_is_measured_first_is_what_moves_the_pellets() -> None:
    case = told(provenance={"preparation.parts[0].width_mm": "estimated"})
    (sway,) = measure_first(read_case(case))
    part = case["preparation"]["parts"][0]
    wide = [
        sum(one.count for one in worked(preparation__parts=[{**part, "width_mm": width}]).plan.supplies)
        for width in (sway.low, sway.value, sway.high)
    ]
    assert sway.supplies == (min(wide), max(wide))
    assert sway.supplies_in == "pellets"
    assert min(wide) < max(wide)
