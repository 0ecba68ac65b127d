"""Glass ionomer as a restorative: conditioned, placed in one, left to set, finished wet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mallet.cavity.measures import contacts_of
from mallet.cavity.rays import Scene
from mallet.restoratives.glass_ionomer.capsules import capsules_figure, package_inputs
from mallet.restoratives.glass_ionomer.finish import finish, later_visits
from mallet.restoratives.glass_ionomer.judge import judge_load, judge_notch
from mallet.restoratives.glass_ionomer.lit import build_lit
from mallet.restoratives.glass_ionomer.mixes import Mix, mixes_of
from mallet.restoratives.glass_ionomer.steps import conditioning, placing
from mallet.restoratives.glass_ionomer.stock import asked_of, choose_ionomer, coat_of, wants_of
from mallet.restoratives.glass_ionomer.wet import with_wet
from mallet.restoratives.restorative import AsTold, Built, Placed, Points, Schedule, Timed
from mallet.stages.ionomer import Chosen, capsule_rules, supplies_of
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.increments import Increment, Measure, Set
from mallet.terms.pieces import Reason
from mallet.terms.plan import (
    Bracket,
    Decision,
    Figure,
    InputUse,
    LaterVisit,
    StageResult,
    Step,
    Supply,
)
from mallet.terms.reasons import say


@dataclass(frozen=True)
class IonomerBuilt(Built):
    """Glass ionomer in a cavity: its mixes, and what the hands do for them."""

    site: Site
    stages: Sequence[StageResult]
    chosen: Chosen
    mixes: Sequence[Mix]

    @property
    def technique(self) -> str:
        return "in_one" if len(self.mixes) == 1 else "in_mixes"

    @property
    def placed(self) -> list[Placed]:
        return [Placed(mix.id, "ionomer", mix.solid) for mix in self.mixes]

    @property
    def bonded_area_mm2(self) -> float:
        cavity = self.site.cavity
        banded = Scene(*(band.solid.solid for band in self.site.bands))
        return contacts_of(cavity.filling, cavity.cut_tags, cavity.outer.tag, banded, []).tooth.area_mm2

    @property
    def density_inputs(self) -> list[InputUse]:
        return []

    def finish(self) -> StageResult:
        return finish(self.site, "build.set")

    def later(self) -> list[LaterVisit]:
        return later_visits(self.site)

    def in_time(self, stages: Sequence[StageResult], schedule: Schedule) -> Timed:
        steps = schedule([step for stage in stages for step in stage.steps])
        return Timed(with_wet(steps), stages, self)

    def increments(self, points: Points) -> list[Increment]:
        item, rules = self.chosen.item, self.site.rules
        density = rules.value("ionomer.density_g_cm3")
        found = []
        for order, mix in enumerate(self.mixes, 1):
            volume = mix.solid.volume()
            measures = [
                Measure(id="working", title="working time", value=item.working_s, unit="s", why="From the end of mixing."),
                Measure(id="set", title="set", value=item.set_s, unit="s", why="From the end of mixing, undisturbed."),
            ]  # fmt: skip
            joint = f" It begins {mix.from_mm:.1f} mm over the deepest point." if mix.from_mm else ""
            found.append(
                Increment(
                    order=order,
                    id=mix.id,
                    name=mix.name,
                    product=item.name,
                    lot=item.lot,
                    volume_mm3=volume,
                    mass_g=volume * density / 1000,
                    shaping=f"Slightly overfilled, pressed home.{joint}",
                    measures=measures,
                    detail=Set(mix_s=item.mix_s or 0.0, working_s=item.working_s, set_s=item.set_s),
                    reasons=self.chosen.reasons,
                    rules=rules.uses("ionomer.surplus_share", "ionomer.density_g_cm3"),
                )
            )
        return found

    def figures(self, steps: Sequence[Step]) -> list[Figure]:
        item, rules = self.chosen.item, self.site.rules
        placing_steps = [step.id for step in steps if step.increment is not None]
        return [
            Figure(
                id="set_seconds",
                title="Setting, undisturbed",
                value=item.set_s,
                unit="s",
                detail=f"from the end of mixing; working time {item.working_s:g} s",
                how="The longer of the manufacturer's setting time and the practice's counts. Nothing is cut before.",
                rules=rules.uses(
                    "ionomer.set_s", *([] if self.chosen.at is not None else ["ionomer.working_s"])
                ),
                inputs=package_inputs(self.site, self.chosen),
                steps=["build.set"],
            ),
            capsules_figure(self.site, self.chosen, len(self.mixes), placing_steps),
        ]

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        mixed = [(f"build.{mix.id}.mix", [order]) for order, mix in enumerate(self.mixes, 1)]
        return supplies_of(self.chosen, steps, mixed)

    def brackets(self, steps: Sequence[Step]) -> list[Bracket]:
        found = [Bracket(start="bond.dry", end="build.set", text="keep dry until it has set", kind="dry")]
        for mix in self.mixes:
            ready, pressed = f"build.{mix.id}.mix", f"build.{mix.id}.press"
            found.append(Bracket(start=ready, end=pressed, text="working time", kind="working"))
        return found


@dataclass(frozen=True)
class GlassIonomer(AsTold):
    """Glass ionomer, as a case asks for it: set by itself, or by light where it is resin-modified."""

    id: str = "glass_ionomer"

    def build(self, site: Site) -> Built:
        """Return glass ionomer in a site; raise NotFeasible under a load that it does not bear, or where it has resin and
        the patient is allergic."""
        case, rules = site.case, site.rules
        cautions = [*judge_load(case), *judge_notch(case, rules)]
        chosen = choose_ionomer(case, rules)
        bond = StageResult(
            decisions=[_conditioner(chosen), _dryness(case)],
            steps=conditioning(case, chosen, site.ready, rules),
        ).as_stage("bond")
        if chosen.item.resin_modified:
            return build_lit(site, chosen, bond, coat_of(case), cautions)
        mixes = mixes_of(site.cavity, chosen, rules)
        between = site.life.between if site.life else []
        steps = placing(case, site.cavity, chosen, mixes, between, rules)
        build = StageResult(
            says=_says(chosen, mixes),
            decisions=[_placement(site, chosen, mixes)],
            cautions=cautions,
            wants=wants_of(case, chosen, len(mixes), coat_of(case)),
            steps=steps,
            assumptions=chosen.assumed,
        ).as_stage("build")
        return IonomerBuilt(site, [bond, build], chosen, mixes)


def _says(chosen: Chosen, mixes: Sequence[Mix]) -> str:
    many = f"{len(mixes)} capsule{'s' if len(mixes) > 1 else ''}"
    return f"{many}, set {chosen.item.set_s:g} s"


def _conditioner(chosen: Chosen) -> Decision:
    names = {"polyacrylic": "polyacrylic acid", "phosphoric": "phosphoric acid", "none": "no conditioner"}
    item = chosen.item
    reason = say("ionomer.condition", name=item.name, what=names[item.conditioner], seconds=item.condition_s)
    others = [name for key, name in names.items() if key != item.conditioner]
    return Decision(
        topic="bond.condition", chosen=names[item.conditioner], alternatives=others, reasons=[reason]
    )


def _dryness(case: Case) -> Decision:
    words = {"moist": "moist, not parched", "very_dry": "very dry"}
    chosen = asked_of(case).dryness
    other = next(name for key, name in words.items() if key != chosen)
    return Decision(
        topic="bond.dryness",
        chosen=words[chosen],
        alternatives=[other],
        reasons=[say("ionomer.dry_moist" if chosen == "moist" else "ionomer.dry_very")],
    )


def _placement(site: Site, chosen: Chosen, mixes: Sequence[Mix]) -> Decision:
    reasons: list[Reason] = list(chosen.reasons)
    volume = site.cavity.filling.volume()
    if len(mixes) == 1:
        told = "in one"
        reasons.append(say("ionomer.in_one", volume_mm3=volume, capsule_mm3=chosen.capsule_mm3))
    else:
        told = f"in {len(mixes)} mixes"
        joints = " and ".join(f"{mix.from_mm:.1f} mm" for mix in mixes[1:])
        reasons.append(
            say("ionomer.in_mixes", volume_mm3=volume, capsule_mm3=chosen.capsule_mm3, joints=joints)
        )
    use = site.rules.uses("ionomer.surplus_share", *capsule_rules(chosen))
    return Decision(
        topic="build.placement",
        chosen=f"{chosen.item.name}, {told}",
        alternatives=[],
        reasons=reasons,
        rules=use,
    )


GLASS_IONOMER = GlassIonomer()
