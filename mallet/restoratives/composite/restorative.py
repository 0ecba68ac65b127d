"""Composite as a restorative: bonding, layers under the light, finishing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mallet.cavity.preparation import Cavity
from mallet.color.match import Match
from mallet.curing.after_band import AfterBand, after_bands
from mallet.curing.around import surroundings
from mallet.curing.cured import Curing, as_pressed
from mallet.curing.film import film_cure
from mallet.curing.lamp import judge_lamp
from mallet.light.aims import hold_of
from mallet.light.beam import fit_beam
from mallet.light.presses import button_of
from mallet.light.working_curve import complete
from mallet.restoratives.composite.bond import adhesive_of, bond
from mallet.restoratives.composite.build import Build, build_composite, built_stage, portion_checks
from mallet.restoratives.composite.color import Looked, color_of, look, nearest, not_known, with_shades
from mallet.restoratives.composite.color_face import color_face
from mallet.restoratives.composite.finish import after_strip, bands_off, finish
from mallet.restoratives.composite.later import later_visits
from mallet.restoratives.composite.reckoning import Reckoned, reckon
from mallet.restoratives.composite.sandwich import Sandwich, sandwich
from mallet.restoratives.composite.shade import first_look
from mallet.restoratives.composite.steps import build_steps
from mallet.restoratives.composite.wet import with_wet
from mallet.restoratives.lit import in_order, increments_of
from mallet.restoratives.restorative import Built, Placed, Points, Schedule, Timed
from mallet.rulebook import Rulebook
from mallet.stages.inputs import input_of
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.color_plan import ColorFace, ColorPlan, MatchCost
from mallet.terms.errors import NotFeasible
from mallet.terms.increments import Increment
from mallet.terms.plan import (
    Assumption,
    Bracket,
    Design,
    Figure,
    InputUse,
    LaterVisit,
    StageResult,
    Step,
    Supply,
)  # fmt: skip

# Nobody weighs more of them.
MOST_COSTED = 8


@dataclass(frozen=True)
class CompositeBuilt(Built):
    """Composite in a cavity: its layers, their light, and what the hands do for it. `early` is the light on what a band shaded,
    where that came off after the wall."""

    site: Site
    stages: Sequence[StageResult]
    build: Build
    under: Sandwich | None
    curing: Curing
    early: Sequence[AfterBand] | None = None
    looks: ColorPlan | None = None
    looked: Looked | None = None
    ranking: Sequence[Match] = ()

    def later(self) -> list[LaterVisit]:
        return later_visits(self.site, self.looks)

    @property
    def color(self) -> ColorPlan | None:
        return self.looks

    def color_face(self) -> ColorFace | None:
        site = self.site
        if self.looked is None:
            return None
        return color_face(self.looked, self.curing.cured, site.cavity.access, site.rules)

    def match_costs(self) -> list[MatchCost]:
        site, under, curing = self.site, self.under, self.curing
        cavity = under.cavity if under else site.cavity

        def asks(match: Match) -> MatchCost:
            names = match.layers.names
            try:
                build = build_composite(
                    with_shades(site.case, match), cavity, curing.around, curing.beam, site.rules
                )
            except NotFeasible as refusal:
                return MatchCost(composites=names, refused=refusal.text)
            lit_s = sum(sum(one.exposed.seconds) for one in build.cured)
            return MatchCost(composites=names, increments=len(build.cured), cure_seconds=lit_s)

        return [asks(match) for match in self.ranking[:MOST_COSTED]]

    @property
    def technique(self) -> str:
        return self.build.layering.school

    @property
    def placed(self) -> list[Placed]:
        return [Placed(one.portion.id, one.portion.role, one.portion.solid) for one in self.curing.cured]

    @property
    def bonded_area_mm2(self) -> float:
        return float(sum(one.contacts.tooth.area_mm2 for one in self.curing.cured))

    @property
    def density_inputs(self) -> list[InputUse]:
        case = self.site.case
        paths = [f"restoration.composites[{i}].density_g_cm3" for i in range(len(case.composites))]
        return [input_of(case, path, "g/cm3") for path in paths]

    def finish(self) -> StageResult:
        site, curing = self.site, self.curing
        case, rules = site.case, site.rules
        worn, last = site.life.off if site.life else [], self._built.steps[-1].id
        if site.life and site.life.is_fixed:
            worn = [*worn, *after_strip(case, curing.cured, rules)]
        if self.early is not None:
            return finish(case, site.cavity, [], worn, self.early, last, rules)
        lit, around, beam = curing.cured, curing.around, curing.beam
        after = after_bands(case, site.cavity, lit, site.bands, site.beside, around, beam, rules)
        return finish(case, site.cavity, site.bands, worn, after, last, rules)

    @property
    def _built(self) -> StageResult:
        return next(stage for stage in self.stages if stage.stage == "build")

    def in_time(self, stages: Sequence[StageResult], schedule: Schedule) -> Timed:
        ordered, warmth = in_order(self.site, self.curing, stages, schedule)
        steps = with_wet(ordered)
        cured = as_pressed(self.curing.cured, steps, button_of(self.site.case.light))
        built = replace(self, curing=replace(self.curing, cured=cured))
        # What an exposure in parts gives is known only now.
        lit_s = sum(one.seconds for one in cured)
        told = {
            "says": f"{len(cured)} increment{'s' if len(cured) > 1 else ''}, {lit_s:g} s",
            "checks": portion_checks(cured, self.site.rules),
        }
        judged = [stage.model_copy(update=told) if stage.stage == "build" else stage for stage in stages]
        return Timed(steps, [*judged, *warmth], built)

    def increments(self, points: Points) -> list[Increment]:
        return increments_of(self.curing, self.site.cavity.access, self.site.rules, points)

    def figures(self, steps: Sequence[Step]) -> list[Figure]:
        site = self.site
        return reckon(Reckoned(site.case, site.rules, site.cavity, self.curing, self.build, steps))

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        return self.under.supplies(steps) if self.under else []

    def brackets(self, steps: Sequence[Step]) -> list[Bracket]:
        """Return from when to when nothing may get wet: to the last increment's light."""
        lit = [step.id for step in steps if step.light and (step.increment or step.stage == "bond")]
        text = "keep dry up to the last increment's light"
        start = "build.sandwich.dry" if self.under and self.under.cured else "bond.dry"
        return [Bracket(start=start, end=lit[-1], text=text, kind="dry")] if lit else []


def _shade(
    case: Case, cavity: Cavity, build: Build, colored: tuple[ColorPlan, StageResult] | None, rules: Rulebook
) -> StageResult:
    """Return the first look at the shade with what is said of the color."""
    choices = colored[0].choices if colored else []
    first = first_look(case, cavity, [one.portion.role for one in build.cured], choices, rules)
    said = colored[1] if colored else StageResult()
    return first.model_copy(
        update={
            "decisions": [*first.decisions, *said.decisions],
            "cautions": [*first.cautions, *said.cautions, *not_known(case)],
            "checks": [*first.checks, *said.checks],
        }
    )


@dataclass(frozen=True)
class CompositeRestorative:
    """Composite, as a case asks for it."""

    id: str = "composite"

    def complete(self, case: Case, rules: Rulebook) -> tuple[Case, list[Assumption]]:
        """Return the case with the working curve of every composite, and what was assumed for it."""
        completed = [
            complete(mass, rules, f"restoration.composites[{i}]") for i, mass in enumerate(case.composites)
        ]
        assumed = [
            one
            for i, made in enumerate(completed)
            for one in made.assumptions(f"restoration.composites[{i}]")
        ]
        if not assumed:
            return case, []
        known = {**case.provenance, **{a.path: a.provenance for a in assumed}}
        restoration = case.composite.model_copy(update={"composites": [one.mass for one in completed]})
        return case.model_copy(update={"restoration": restoration, "provenance": known}), assumed

    def designs(self, case: Case, rules: Rulebook) -> list[Design]:
        """Return nothing: it is bonded."""
        return []

    def build(self, site: Site) -> CompositeBuilt:
        case, rules, cavity = site.case, site.rules, site.cavity
        beam = fit_beam(case.light.readings, case.light.tip_diameter_mm, rules=rules)
        lamp = judge_lamp(beam, case.light, rules)
        hold = hold_of(case.light, cavity.access)
        around = surroundings(cavity, site.bands, site.beside, beam, rules, hold)
        if site.bands and case.composite.band_off == "after_wall":
            around = replace(around, once_off=surroundings(cavity, [], site.beside, beam, rules, hold))
        under = sandwich(site, around, beam)
        cavity = under.cavity if under else cavity
        looked = look(case, cavity, rules)
        ranking = nearest(case, looked) if looked else []
        shaded = with_shades(case, ranking[0]) if ranking else case
        build = build_composite(shaded, cavity, around, beam, rules)
        colored = color_of(looked, ranking, build.cured, rules) if looked else None
        film = film_cure(case, cavity, build.cured, around, beam, adhesive_of(case, rules), rules)
        bonding = bond(case, cavity, film, under.ready if under else site.ready, rules)
        life = site.life
        between, index_off = (life.between, life.index_off) if life else ([], None)
        below = under.cured if under else []
        lit = [*below, *build.cured]
        early = None
        if site.bands and build.banded < len(build.cured):
            walls = lit[: len(below) + build.banded]
            early = after_bands(case, site.cavity, walls, site.bands, site.beside, around, beam, rules)
        steps = build_steps(
            build.cured,
            len(below) + 1,
            bonding.steps[-1].id,
            between,
            index_off,
            button_of(case.light),
            rules,
            bead=build.bead,
            tint=build.tint,
            warm_c=case.composite.warm_c,
            walls_done=None if early is None else lambda last: bands_off(site.bands, early, last, rules),
        )
        looks = colored[0] if colored else None
        stages = [
            _shade(case, cavity, build, colored, rules).as_stage("shade"),
            bonding.as_stage("bond"),
            lamp.as_stage("lamp"),
            built_stage(case, cavity, build, steps, under.said if under else StageResult(), rules).as_stage(
                "build"
            ),
        ]
        return CompositeBuilt(
            site, stages, build, under, Curing(beam, around, lit), early, looks, looked, ranking
        )


COMPOSITE = CompositeRestorative()
