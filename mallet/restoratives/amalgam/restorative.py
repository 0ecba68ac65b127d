"""Amalgam as a restorative: dentin sealed, mixed from capsules, condensed in zones, carved while it yields."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from mallet.condensing.nibs import Packing, packed
from mallet.condensing.zones import Zone, zones_of
from mallet.restoratives.amalgam.decide import (
    in_time,
    mixes_of,
    mixes_told,
    nibs_of,
    pressure_of,
    under_it,
    varnish_of,
    wants_of,
    zones_told,
)
from mallet.restoratives.amalgam.designer import designs, nearest_sites
from mallet.restoratives.amalgam.finish import finish
from mallet.restoratives.amalgam.form import CarvedMargin, carved_margin, judge_form
from mallet.restoratives.amalgam.later import later_visits
from mallet.restoratives.amalgam.mixes import Mixing, mixed
from mallet.restoratives.amalgam.steps import condensing, overfill_of, sealing
from mallet.restoratives.amalgam.stock import Kit, kit_of
from mallet.restoratives.amalgam.wet import with_wet
from mallet.restoratives.restorative import AsTold, Built, Placed, Points, Schedule, Timed
from mallet.rulebook import Rulebook
from mallet.rulebook.parts import part_name
from mallet.stages.inputs import input_of, part_inputs
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.increments import Condensed, Increment, Measure
from mallet.terms.parts import SealantGroove
from mallet.terms.plan import (
    Bracket,
    Design,
    Figure,
    InputUse,
    LaterVisit,
    StageResult,
    Step,
    Supply,
)
from mallet.terms.reasons import refuse, say

GRAVITY = 9.81


@dataclass(frozen=True)
class AmalgamBuilt(Built):
    """Amalgam in a cavity: its zones, how each is packed, and from which mixes."""

    site: Site
    stages: Sequence[StageResult]
    kit: Kit
    zones: Sequence[Zone]
    packings: Sequence[Packing]
    mixing: Mixing
    carved: CarvedMargin | None

    @property
    def technique(self) -> str:
        return "spherical" if self.kit.is_spherical else "admixed"

    @property
    def placed(self) -> list[Placed]:
        return [Placed(zone.id, "amalgam", zone.solid) for zone in self.zones]

    @property
    def bonded_area_mm2(self) -> float:
        return 0.0

    @property
    def density_inputs(self) -> list[InputUse]:
        return []

    def finish(self) -> StageResult:
        building = next(stage for stage in self.stages if stage.stage == "build")
        last_mix = f"build.mix.{len(self.mixing.mixes)}"
        return finish(self.site, building.steps[-1].id, last_mix, self.carved)

    def in_time(self, stages: Sequence[StageResult], schedule: Schedule) -> Timed:
        steps = schedule([step for stage in stages for step in stage.steps])
        return Timed(with_wet(steps), stages, self)

    def later(self) -> list[LaterVisit]:
        return later_visits(self.site)

    def increments(self, points: Points) -> list[Increment]:
        return [self._increment(at) for at in range(len(self.zones))]

    def _increment(self, at: int) -> Increment:
        zone, packing, rules = self.zones[at], self.packings[at], self.site.rules
        own = [portion for portion in self.mixing.portions if portion.zone == at]
        mixes = list(dict.fromkeys(portion.mix for portion in own))
        capsule = self.mixing.mixes[mixes[0] - 1].capsule
        seconds = sum(portion.seconds(rules) for portion in own)
        return Increment(
            order=at + 1,
            id=zone.id,
            name=zone.name,
            product=capsule.name,
            lot=capsule.lot,
            volume_mm3=zone.volume_mm3,
            mass_g=zone.volume_mm3 * rules.value("amalgam.density_mg_mm3") / 1000,
            shaping=f"From {'mix' if len(mixes) == 1 else 'mixes'} {' and '.join(map(str, mixes))}.",
            measures=_measures(zone, packing),
            detail=Condensed(
                zone=at + 1,
                nib_diameter_mm=packing.nib_mm,
                force_n=packing.force_n,
                layers=packing.layers,
                thrusts=packing.thrusts,
                seconds=seconds,
                mix=mixes,
            ),
            reasons=[say("amalgam.spherical" if self.kit.is_spherical else "amalgam.small_first")],
            rules=rules.uses(
                pressure_of(self.kit), "amalgam.layer_mm", "amalgam.overlap_share", "amalgam.density_mg_mm3"
            ),
        )

    def figures(self, steps: Sequence[Step]) -> list[Figure]:
        rules, mixing = self.site.rules, self.mixing
        sizes = Counter(mix.capsule.alloy_mg for mix in mixing.mixes)
        told = " and ".join(f"{count} \u00d7 {mg:g} mg" for mg, count in sorted(sizes.items(), reverse=True))
        thrusts = sum(packing.thrusts for packing in self.packings)
        hardest = max(packing.force_n for packing in self.packings)
        condensing_steps = [step.id for step in steps if step.rhythm]
        inputs = [*part_inputs(self.site.case), *self._package()]
        return [
            Figure(
                id="mixes",
                title="Mixes",
                value=len(mixing.mixes),
                unit="",
                detail=f"{told}: {mixing.need_mm3:.0f} of {mixing.volume_mm3:.0f} mm\u00b3",
                how="The cavity's volume with a surplus to carve off, over what each capsule gives; as few mixes as fill it.",
                rules=rules.uses("amalgam.surplus_share", "amalgam.density_mg_mm3", *self._handbook),
                inputs=inputs,
                steps=[step.id for step in steps if step.id.startswith("build.mix.")],
            ),
            Figure(
                id="thrusts",
                title="Condensation",
                value=thrusts,
                unit="thrusts",
                detail=f"{zones_told(len(self.zones))}, up to {hardest:.0f} N ({hardest / GRAVITY:.1f} kg on a scale)",
                how="Each zone in layers; as many thrusts of the largest nib that passes as cover it, overlapping.",
                rules=rules.uses(
                    pressure_of(self.kit),
                    "amalgam.hand_limit_n",
                    "amalgam.layer_mm",
                    "amalgam.overlap_share",
                    "amalgam.nib_play_mm",
                ),
                inputs=inputs,
                steps=condensing_steps,
            ),
        ]

    @property
    def _handbook(self) -> list[str]:
        return [] if self.kit.is_from_stock else ["amalgam.alloy_mg", "amalgam.mercury_share"]

    def _package(self) -> list[InputUse]:
        """Return what the opened capsules' package says."""
        places = sorted({mix.at for mix in self.mixing.mixes if mix.at is not None})
        return [
            input_of(self.site.case, f"stock[{at}].{name}", unit)
            for at in places
            for name, unit in (("alloy_mg", "mg"), ("mercury_share", ""), ("working_s", "s"))
        ]

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        ends = {step.id: step.end_s for step in steps}
        return [
            Supply(
                kind="capsule",
                name=mix.capsule.name,
                lot=mix.capsule.lot,
                count=1,
                starts_s=ends[f"build.mix.{mix.order}"],
                expires_s=ends[f"build.mix.{mix.order}"] + limit,
                increments=[p.zone + 1 for p in self.mixing.portions if p.mix == mix.order],
                mass_mg=mix.volume_mm3 * self.site.rules.value("amalgam.density_mg_mm3"),
            )
            for mix, limit in zip(self.mixing.mixes, self.mixing.limits_s, strict=True)
        ]

    def brackets(self, steps: Sequence[Step]) -> list[Bracket]:
        ids = [step.id for step in steps]
        found = []
        for mix in self.mixing.mixes:
            own = [id for id in ids if id in self._of_mix(mix.order)]
            found.append(
                Bracket(
                    start=f"build.mix.{mix.order}",
                    end=own[-1],
                    text=f"mix {mix.order}: working time",
                    kind="working",
                )
            )
        last = f"build.mix.{len(self.mixing.mixes)}"
        found.append(Bracket(start=last, end="finish.trim", text="carve while it yields", kind="carving"))
        return found

    def _of_mix(self, order: int) -> list[str]:
        """Return the ids of the steps that place a mix."""
        own = [
            f"build.{self.zones[p.zone].id}.condense{f'.{p.first}' if p.first > 1 else ''}"
            for p in self.mixing.portions
            if p.mix == order
        ]
        return [*own, "build.overfill"] if order == len(self.mixing.mixes) else own


def _measures(zone: Zone, packing: Packing) -> list[Measure]:
    kilograms = packing.force_n / GRAVITY
    return [
        Measure(
            id="nib",
            title="nib",
            value=packing.nib_mm,
            unit="mm",
            why=f"The largest that passes {zone.width_mm:.1f} mm, within the force of a hand.",
        ),
        Measure(
            id="force",
            title="force",
            value=round(packing.force_n),
            unit="N",
            why=f"{kilograms:.1f} kg on a kitchen scale.",
        ),
        Measure(
            id="layers",
            title="layers",
            value=packing.layers,
            unit="",
            why=f"{zone.height_mm:.1f} mm high in the mean.",
        ),
        Measure(
            id="thrusts",
            title="thrusts",
            value=packing.thrusts,
            unit="",
            why=f"{packing.layers} layers of {packing.thrusts_a_layer}, each overlapping the last.",
        ),
    ]


@dataclass(frozen=True)
class Amalgam(AsTold):
    """Amalgam, as a case asks for it."""

    id: str = "amalgam"

    def designs(self, case: Case, rules: Rulebook) -> list[Design]:
        """Return sets of grooves, slots and pins that would hold it."""
        return designs(case, rules)

    def build(self, site: Site) -> Built:
        """Return amalgam in a site; raise NotFeasible for an anterior tooth, and for a part that would not hold it."""
        case, rules, cavity = site.case, site.rules, site.cavity
        _refuse_parts(case, site)
        kit = kit_of(case, rules)
        zones = zones_of(cavity)
        packings = [packed(zone, kit.nibs_mm, is_spherical=kit.is_spherical, rules=rules) for zone in zones]
        over = overfill_of(cavity, packings, rules.value(pressure_of(kit)), rules)
        mixing = mixed(zones, packings, kit, over.seconds, rules)
        carved = carved_margin(cavity, rules)
        form = judge_form(site, kit, zones, packings, carved).as_stage("prepare")
        kept = [check for stage in site.stages for check in stage.checks]
        sited = StageResult(cautions=nearest_sites(case, cavity, kept, rules)).as_stage("prepare")
        seal = StageResult(decisions=[under_it(case)], steps=sealing(site, kit), wants=varnish_of(case, kit))
        steps = condensing(site, kit, zones, packings, mixing, over)
        build = StageResult(
            says=f"{mixes_told(mixing)}, {zones_told(len(zones))}",
            decisions=[mixes_of(site, kit, mixing), nibs_of(kit, packings, rules)],
            checks=in_time(mixing, rules),
            wants=wants_of(case, mixing),
            steps=steps,
            assumptions=list(kit.assumed),
        )
        stages = [form, sited, seal.as_stage("bond"), build.as_stage("build")]
        return AmalgamBuilt(site, stages, kit, zones, packings, mixing, carved)


def _refuse_parts(case: Case, site: Site) -> None:
    if not site.cavity.tooth.is_posterior:
        raise refuse("amalgam.anterior")
    for part in case.preparation.parts:
        if isinstance(part, SealantGroove):
            raise refuse("amalgam.parts", part=part_name(part.kind))


AMALGAM = Amalgam()
