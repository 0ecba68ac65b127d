"""Direct gold as a restorative: cut for it, sealed, beveled, stepped pellet by pellet, finished from gold to tooth."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.gold_pit import depths_mm
from mallet.cavity.preparation import Cavity
from mallet.restoratives.gold.cutting import cutting, sealing
from mallet.restoratives.gold.decide import (
    bevel_first,
    by_hand,
    gold_of,
    heat_of,
    in_order,
    mallet_of,
    order_of,
    varnish_of,
    wants_of,
)
from mallet.restoratives.gold.finish import finish
from mallet.restoratives.gold.form import gate, judge_form
from mallet.restoratives.gold.passes import Stepping, smallest_nib, stepped
from mallet.restoratives.gold.pellets import Pellets, pellets_of, shared_out
from mallet.restoratives.gold.shape import GoldPart, Shape, shape_of
from mallet.restoratives.gold.steps import heating, stepping
from mallet.restoratives.gold.stock import Kit, Piece, asked_of, kit_of
from mallet.restoratives.gold.wet import with_wet
from mallet.restoratives.gold.zones import Zone, ground_of, zones_of
from mallet.restoratives.restorative import AsTold, Built, Placed, Points, Schedule, Timed
from mallet.rulebook import Rulebook
from mallet.rulebook.parts import part_name
from mallet.stages.inputs import input_of, part_inputs
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.increments import Increment, Measure, Stepped
from mallet.terms.parts import GoldPit, ProximalCavity
from mallet.terms.pieces import Point
from mallet.terms.plan import (
    Bracket,
    Figure,
    InputUse,
    StageResult,
    Step,
    Supply,
)
from mallet.terms.reasons import refuse, say

Floats = NDArray[np.float64]
WHY = {
    "floor": say("gold.zone_floor"),
    "point": say("gold.zone_point"),
    "walls": say("gold.zone_walls"),
    "axial": say("gold.zone_axial"),
    "middle": say("gold.zone_middle"),
    "contour": say("gold.zone_contour"),
}


@dataclass(frozen=True)
class GoldBuilt(Built):
    """Direct gold in a pit: its zones, how each is stepped, with which pellets."""

    site: Site
    stages: Sequence[StageResult]
    shape: Shape
    kit: Kit
    zones: Sequence[Zone]
    packed: Sequence[Stepping]
    pellets: Sequence[Pellets]

    @property
    def technique(self) -> str:
        return f"{self.kit.form}, {asked_of(self.site.case).mallet}"

    @property
    def placed(self) -> list[Placed]:
        return [Placed(zone.id, "gold", zone.solid) for zone in self.zones]

    @property
    def bonded_area_mm2(self) -> float:
        return 0.0

    @property
    def density_inputs(self) -> list[InputUse]:
        return []

    @property
    def count(self) -> int:
        return sum(len(one.order) for one in self.pellets)

    def finish(self) -> StageResult:
        building = next(stage for stage in self.stages if stage.stage == "build")
        return finish(self.site, building.steps[-1].id, self.shape)

    def in_time(self, stages: Sequence[StageResult], schedule: Schedule) -> Timed:
        return Timed(with_wet(schedule([step for stage in stages for step in stage.steps])), stages, self)

    def increments(self, points: Points) -> list[Increment]:
        return [self._increment(at) for at in range(len(self.zones))]

    def _increment(self, at: int) -> Increment:
        zone, one, rules = self.zones[at], self.packed[at], self.site.rules
        piece = one.pellets[0] if one.pellets else self.kit.pieces[0]
        counted = Counter(pellet.name for pellet in one.pellets)
        return Increment(
            order=at + 1,
            id=zone.id,
            name=zone.name,
            product=piece.name,
            lot=piece.lot,
            volume_mm3=zone.volume_mm3,
            mass_g=zone.volume_mm3 * piece.density_g_cm3 / 1000,
            shaping=f"{len(one.pellets)} pellets, {zone.line}."
            if one.pellets
            else "Closed by the pellet before.",
            measures=_measures(one),
            detail=Stepped(
                zone=at + 1,
                nib_diameter_mm=one.nib_mm,
                force_n=one.force_n,
                line=zone.line,
                line_of_force=self._points(np.array(zone.force)),
                path=self._points(one.path),
                pellets=dict(counted),
                passes=one.passes,
                steps_a_pass=one.steps_a_pass,
                seconds=one.seconds,
            ),
            reasons=[WHY[zone.id]],
            rules=rules.uses(
                "gold.pressure_mpa",
                "gold.passes",
                "gold.clearance_share",
                "gold.nib_play_mm",
                *self.kit.rules,
            ),
        )

    def _points(self, places: Floats) -> list[Point]:
        turned = np.round(self.site.cavity.access.points_in_tooth(places), 3)
        return [Point(x=float(x), y=float(y), z=float(z)) for x, y, z in turned]

    def figures(self, steps: Sequence[Step]) -> list[Figure]:
        rules, kit = self.site.rules, self.kit
        counted = [pair for one in self.pellets for pair in in_order(one)]
        told = ", then ".join(f"{count} of {name}" for name, count in counted)
        volume, need = sum(zone.volume_mm3 for zone in self.zones), sum(one.need_mg for one in self.pellets)
        stepping_steps = [step.id for step in steps if step.rhythm]
        strokes = sum(one.strokes for one in self.packed)
        smallest, hardest = min(one.nib_mm for one in self.packed), max(one.force_n for one in self.packed)
        inputs = [*part_inputs(self.site.case), *self._package()]
        pellet_rules = ["gold.surplus_share", "gold.spread_share", "gold.first_pellets", *kit.rules]
        if any(piece.at is None for piece in (*kit.pieces, *kit.cover)):
            pellet_rules += ["gold.sheet_mg", "gold.spread_mm2"]
        return [
            Figure(
                id="pellets",
                title="Gold",
                value=self.count,
                unit="pellets",
                detail=f"{told}: {volume:.2f} mm\u00b3, {need:.0f} mg with surplus",
                how="The pit's volume with a surplus, by the density of condensed gold, over the weight of each pellet.",
                rules=rules.uses(*pellet_rules),
                inputs=inputs,
                steps=stepping_steps,
            ),
            Figure(
                id="strokes",
                title="Stepping",
                value=strokes,
                unit="steps",
                detail=f"nibs from {smallest:g} mm, up to {hardest:.1f} N; each pellet {self.packed[0].passes} times over",
                how="Each pellet's ground in steps half a nib apart, along the walls first; the path is drawn.",
                rules=rules.uses("gold.pressure_mpa", "gold.passes", "gold.clearance_share", "gold.step_s"),
                inputs=inputs,
                steps=stepping_steps,
            ),
        ]

    def _package(self) -> list[InputUse]:
        """Return what the packages of the gold say."""
        used = {piece.at for one in self.pellets for piece in one.order if piece.at is not None}
        return [
            input_of(self.site.case, f"stock[{at}].{name}", unit)
            for at in sorted(used)
            for name, unit in (("piece_mg", "mg"), ("density_g_cm3", "g/cm3"))
        ]

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        starts = {step.increment: step.start_s for step in steps if step.increment}
        ends = {step.id: step.end_s for step in steps}
        ready = ends.get("build.heat")
        serves = self.site.rules.value("gold.clean_bulk_s")
        found: dict[str, tuple[Piece, int, list[int]]] = {}
        for order, one in enumerate(self.packed, 1):
            for piece in one.pellets:
                _, count, orders = found.get(piece.name, (piece, 0, []))
                found[piece.name] = (piece, count + 1, orders if order in orders else [*orders, order])
        return [
            Supply(
                kind="gold",
                name=piece.name,
                lot=piece.lot,
                count=count,
                starts_s=starts[orders[0]] if ready is None else ready,
                expires_s=None if ready is None else ready + serves,
                increments=orders,
                counted_in="pellets",
            )
            for piece, count, orders in found.values()
        ]

    def brackets(self, steps: Sequence[Step]) -> list[Bracket]:
        own = [step.id for step in steps if step.rhythm]
        if asked_of(self.site.case).heat == "flame":
            text = f"each pellet clean for {self.site.rules.value('gold.clean_flame_s'):g} s"
            found = [Bracket(start="prepare.verify", end=own[-1], text=text, kind="working")]
        else:
            found = [Bracket(start="build.heat", end=own[-1], text="gold clean, under cover", kind="working")]
        return [
            *found,
            Bracket(start="prepare.verify", end=own[-1], text="keep dry: gold does not weld wet", kind="dry"),
        ]


def _measures(one: Stepping) -> list[Measure]:
    return [
        Measure(
            id="nib", title="nib", value=one.nib_mm, unit="mm", why="The largest below the zone's width."
        ),
        Measure(
            id="force",
            title="force",
            value=round(one.force_n, 1),
            unit="N",
            why="What the pressure wants on this nib.",
        ),
        Measure(
            id="pellets",
            title="pellets",
            value=len(one.pellets),
            unit="",
            why="Of the zone's volume with surplus.",
        ),
        Measure(
            id="steps",
            title="steps a pass",
            value=one.steps_a_pass,
            unit="",
            why=f"Of {len(one.path)} over all its ground: as many as lie under one pellet.",
        ),
    ]


@dataclass(frozen=True)
class GoldFoil(AsTold):
    """Direct gold, as a case asks for it."""

    id: str = "gold_foil"

    def build(self, site: Site) -> Built:
        """Return gold in a site; raise NotFeasible for another part than a pit for gold or a cavity beside the contact from
        lingual, a tooth that gives way or is tender, caries deeper than the axial wall, and where no nib gets in."""
        case, rules, cavity = site.case, site.rules, site.cavity
        shape = shape_of(case, cavity, _part_of(case), rules)
        gate(case, shape, rules)
        kit = kit_of(case, rules)
        ground = ground_of(cavity, shape, min(kit.nibs_mm), rules)
        nib = smallest_nib(kit, ground.outline.section, rules)
        top = rules.value("gold.cover_mm" if kit.is_covered else "gold.contour_mm")
        zones = zones_of(cavity, shape, ground, nib, top, rules)
        pellets, own = _pellets(kit, zones, float(ground.floor_area.area()), rules)
        packed = [
            stepped(zone, few, kit, case, ground.outline.up, rules)
            for zone, few in zip(zones, own, strict=True)
        ]
        depths = _depths(cavity, shape, rules)
        form = judge_form(site, shape, depths)
        cut = form.model_copy(update={"steps": cutting(site, shape, depths)}).as_stage("prepare")
        seal = StageResult(
            decisions=[order_of(case)],
            cautions=bevel_first(case),
            steps=sealing(site, kit, shape),
            wants=varnish_of(case, kit),
        )
        heated = heating(site, kit, sum(len(one.order) for one in pellets))
        count = sum(len(one.order) for one in pellets)
        build = StageResult(
            says=f"{count} pellets, {len(zones)} zones",
            decisions=[gold_of(case, kit, pellets, rules), heat_of(case, rules), mallet_of(case)],
            cautions=by_hand(case),
            wants=wants_of(case, kit, pellets),
            steps=[*heated, *stepping(site, kit, zones, packed, heated)],
            assumptions=list(kit.assumed),
        )
        stages = [cut, seal.as_stage("bond"), build.as_stage("build")]
        return GoldBuilt(site, stages, shape, kit, zones, packed, pellets)


def _part_of(case: Case) -> GoldPart:
    """Return what gold is placed in; raise NotFeasible where it is nothing that is cut for gold."""
    part = case.face_part
    if isinstance(part, ProximalCavity) and part.face == "facial":
        raise refuse("gold.from_facial")
    if not isinstance(part, GoldPit | ProximalCavity):
        raise refuse("gold.parts", part=part_name(case.preparation.parts[0].kind, side=""))
    return part


def _depths(cavity: Cavity, shape: Shape, rules: Rulebook) -> tuple[float, float] | None:
    """Return how deep a pit gets at its upper and its lower end."""
    if not isinstance(shape.part, GoldPit):
        return None
    return depths_mm(shape.part, cavity.outer.solid, cavity.shell(rules, "dentin"), cavity.access)


def _pellets(
    kit: Kit, zones: Sequence[Zone], floor_mm2: float, rules: Rulebook
) -> tuple[list[Pellets], list[list[Piece]]]:
    """Return the pellets of each gold, and which go into each zone: another gold than foil is covered with it."""
    volumes = [zone.volume_mm3 for zone in zones]
    if not kit.is_covered:
        every = pellets_of(sum(volumes), kit.pieces, floor_mm2, rules)
        return [every], shared_out(every, volumes)
    under = pellets_of(sum(volumes[:-1]), kit.pieces, floor_mm2, rules)
    over = pellets_of(volumes[-1], kit.cover, floor_mm2, rules)
    return [under, over], [*shared_out(under, volumes[:-1]), list(over.order)]


GOLD_FOIL = GoldFoil()
