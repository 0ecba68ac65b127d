"""The one door of the heart: a case goes in, a plan comes out. Composes the stages, nothing else."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mallet import ENGINE
from mallet.cavity.access import Access
from mallet.cavity.band import Band
from mallet.cavity.neighbours import Beside, place_neighbours
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.light.beam import Beam, fit_beam
from mallet.light.cure import Lit, hold_of
from mallet.light.presses import button_of
from mallet.light.working_curve import complete, rule_of_dose
from mallet.rulebook import Rulebook, load_rulebook
from mallet.runsheet.reckoning import Settled, filling_mass_g, reckon, totals
from mallet.runsheet.schedule import missed_windows, schedule
from mallet.runsheet.wet import with_wet
from mallet.stages.assess import assess, diagnosis_gate, not_confirmed
from mallet.stages.bond import adhesive_of, bond
from mallet.stages.build.after_band import after_bands
from mallet.stages.build.around import Surroundings, surroundings
from mallet.stages.build.composite import ambiguous, build_composite, film_cure, not_placed
from mallet.stages.build.cured import Build, Cured, as_pressed, lit_all_over, reasons_of
from mallet.stages.build.layering import SCHOOL_NAMES
from mallet.stages.build.steps import build_steps
from mallet.stages.choose import choose, rank
from mallet.stages.finish import finish
from mallet.stages.isolate import before_cutting, field_step, isolate
from mallet.stages.lamp import judge_lamp
from mallet.stages.lighting import with_mode
from mallet.stages.matrix import fit_matrix
from mallet.stages.matrix_face import face_matrix
from mallet.stages.matrix_round import crown_form
from mallet.stages.prepare import judge_preparation
from mallet.stages.protect import protect
from mallet.stages.shade import first_look
from mallet.stages.untold import with_untold
from mallet.stages.warmth import (
    NO_COOLING,
    Cooling,
    after_each_portion,
    in_parts,
    judge_warmth,
    least_cooling,
    pulp_heat,
)
from mallet.terms.canonical import sha256_of
from mallet.terms.case import Case, get_path
from mallet.terms.errors import NotFeasible
from mallet.terms.plan import (
    Assumption,
    Caution,
    Check,
    Decision,
    Exposure,
    Geometry,
    Increment,
    LitPoint,
    NoPlan,
    PartGeometry,
    Plan,
    Point,
    Reason,
    StageResult,
    Step,
    Want,
)
from mallet.terms.reasons import warn


@dataclass(frozen=True)
class Worked:
    """A plan with the solids behind it, for whoever draws or measures them."""

    case: Case
    plan: Plan
    cavity: Cavity
    bands: list[Band]
    neighbours: list[Beside]
    beam: Beam
    build: Build
    rules: Rulebook


Points = Literal["none", "dimmest", "all"]


def plan(case: Case, book: Rulebook | None = None, points: Points = "none") -> Plan | NoPlan:
    """Return the plan of a case, or why there is none; with the light at the dimmest points of each increment, or at
    200 points and more all over it.

    Pure: the same case, rulebook and engine give the same plan. Raises InputError for a case that
    contradicts itself or the tooth.
    """
    try:
        return work(case, book, points).plan
    except NotFeasible as refusal:
        return no_plan(case, refusal, book)


def no_plan(case: Case, refusal: NotFeasible, book: Rulebook | None = None) -> NoPlan:
    """Return a refusal in the form of a plan."""
    rules = (book or load_rulebook()).with_house(case.house)
    return NoPlan(
        engine=ENGINE,
        rulebook=rules.version,
        case_sha256=case_sha256(case),
        requirement=Reason(code=refusal.code, params={}, text=refusal.text),
        nearest=refusal.nearest,
        options=rank(case, rules) if refusal.code == "choose.stopped" else [],
    )


def case_sha256(case: Case) -> str:
    return sha256_of(case.model_dump(mode="json"))


def told_sha256(case: Case) -> str:
    """Return the digest of what a case tells: what it leaves out may be planned otherwise than the same value told."""
    return sha256_of(case.model_dump(mode="json", exclude_unset=True))


def work(case: Case, book: Rulebook | None = None, points: Points = "none") -> Worked:
    """Return the plan of a case with its solids; raise NotFeasible where there is none."""
    rules = (book or load_rulebook()).with_house(case.house)
    for path in case.provenance:
        get_path(case, path)
    sha256 = case_sha256(case)
    diagnosis_gate(case)
    wanted_before = not_confirmed(case)
    chosen = choose(case, rules)
    case, untold = with_untold(case, rules)
    case, curves = _with_curves(case, rules)
    cavity = prepare_cavity(case, rules)
    cavity, protection = protect(case, cavity, rules)
    beam = fit_beam(case.light.readings, case.light.tip_diameter_mm, rules=rules)
    lamp = judge_lamp(beam, case.light, rules)
    neighbours, assumed = place_neighbours(case, cavity, rules)
    # Whatever covers the dentin is in place, and the field dry, before a band stands.
    ready = [step.id for step in protection.steps[-1:]] or ["prepare.verify"]
    if case.isolation.dam_on == "after_preparation":
        ready.append(field_step(case))
    bands, matrix = fit_matrix(case, cavity, neighbours, ready, rules)
    life = None
    if cavity.from_face:
        life = face_matrix(case, cavity, ready, rules)
        matrix = life.before
    elif cavity.stump:
        matrix = crown_form(ready, rules)
    beside = [cavity.access.turned(neighbour.solid) for neighbour in neighbours]
    around = surroundings(cavity, bands, beside, beam, rules, hold_of(case.light, cavity.access))
    build = build_composite(case, cavity, around, beam, rules)

    before_acid = [step.id for step in matrix.steps if step.id.endswith(".seal")] or ready
    film = film_cure(case, cavity, build, around, beam, adhesive_of(case, rules), rules)
    bonding = bond(case, cavity, film, before_acid, rules)
    between, index_off, worn = (life.between, life.index_off, life.off) if life else ([], None, [])
    building = build_steps(build.cured, bonding.steps[-1].id, between, index_off, rules)
    isolation = isolate(case, cavity.tooth, rules)
    shade = first_look(case, cavity, [one.portion.role for one in build.cured], rules)
    prepared = judge_preparation(case, cavity, neighbours, before_cutting(case), rules)
    known = assess(case, rules)
    before = [known, shade, chosen, isolation, prepared, protection, matrix, bonding, lamp]
    after = after_bands(case, cavity, build, bands, beside, around, beam, rules)
    finishing = finish(case, cavity, bands, worn, after, building[-1].id, rules)
    heat = pulp_heat(case, cavity, build, around, rules)

    def ordered(cooling: Cooling) -> list[Step]:
        so_far = [step for stage in before for step in stage.steps]
        every = [*so_far, *after_each_portion(building, cooling, rules), *finishing.steps]
        if heat:
            every = in_parts(every, heat, cooling, rules)
        return schedule(with_mode(every, case.light.output_mode))

    cooled = least_cooling(heat, ordered, rules) if heat else None
    steps = with_wet(cooled.steps if cooled else ordered(NO_COOLING))
    build = as_pressed(build, steps, button_of(case.light))
    built = StageResult(
        decisions=[_layering(case, build), *ambiguous(case, build)],
        checks=_portion_checks(build, rules),
        cautions=not_placed(case, build),
    )
    stages = [*before, built, finishing]
    if cooled:
        stages.append(judge_warmth(cooled, rules))
    settled = Settled(case, rules, cavity, beam, around, build, steps)
    made = Plan(
        engine=ENGINE,
        rulebook=rules.version,
        case_sha256=sha256,
        may_start=not wanted_before,
        wanted_before=wanted_before,
        tooth={
            "code": cavity.tooth.iso,
            "number": cavity.tooth.number,
            "right_angle": cavity.tooth.right_angle,
            "name": cavity.tooth.name,
        },
        assumptions=[
            *cavity.assumptions,
            *assumed,
            *untold,
            *curves,
            *(a for stage in stages for a in stage.assumptions),
        ],
        geometry=_geometry(cavity, build, case),
        decisions=[d for stage in stages for d in stage.decisions],
        checks=[*(c for stage in stages for c in stage.checks), *_windows(steps)],
        cautions=[*(c for stage in stages for c in stage.cautions), _advice()],
        figures=reckon(settled),
        increments=[
            _increment(i, c, cavity.access, rules, _lit_at(points, i, build, around))
            for i, c in enumerate(build.cured, 1)
        ],
        totals=totals(settled),
        wants=[*(w for stage in stages for w in stage.wants), *_masses_wanted(build)],
        steps=steps,
    )
    return Worked(case, made, cavity, bands, neighbours, beam, build, rules)


def _layering(case: Case, build: Build) -> Decision:
    chosen = build.layering.school
    others = [name for school, name in SCHOOL_NAMES.items() if school != chosen]
    return Decision(
        topic="build.layering", chosen=SCHOOL_NAMES[chosen], alternatives=others, reasons=build.reasons
    )


def _portion_checks(build: Build, rules: Rulebook) -> list[Check]:
    thickest = max(build.cured, key=lambda c: c.thickness_mm)
    limit = thickest.mass.max_increment_mm
    worst = min(build.cured, key=lambda c: c.worst_dose_j_cm2 / c.need.dose_j_cm2)
    dose, need = worst.worst_dose_j_cm2, worst.need.dose_j_cm2
    return [
        Check(
            topic="increment.thickness",
            title="Thickest increment along the light",
            measured=round(thickest.thickness_mm, 2),
            needed=limit,
            relation="at_most",
            unit="mm",
            verdict="pass" if thickest.thickness_mm <= limit + 5e-3 else "fail",
            remedy="Cut it thinner.",
            where=thickest.portion.name,
        ),
        Check(
            topic="increment.dose",
            title="Dose at the weakest point",
            measured=round(dose, 3),
            needed=round(need, 3),
            relation="at_least",
            unit="J/cm2",
            verdict="pass" if dose >= need - 1e-9 else "fail",
            remedy="Light it longer, or cut it thinner.",
            where=worst.portion.name,
            rules=rules.uses(rule_of_dose(worst.mass)),
        ),
    ]


def _masses_wanted(build: Build) -> list[Want]:
    masses = {c.mass.name: c.mass for c in build.cured}
    return [
        Want(kind="mass", text=f"{mass.role} mass", name=mass.name, lot=mass.lot) for mass in masses.values()
    ]


def _windows(steps: list[Step]) -> list[Check]:
    """Return a check for each window that the order of two people cannot keep."""
    titles = {step.id: step.title for step in steps}
    return [
        Check(
            topic=f"window.{step.id}",
            title=f"{step.title}: in time",
            measured=round(late, 1),
            needed=0.0,
            relation="at_most",
            unit="s too late",
            verdict="caution",
            remedy="Cover what was handed over until it is placed.",
            where=f"after “{titles[earlier]}”",
        )
        for step, earlier, late in missed_windows(steps)
    ]


def _advice() -> Caution:
    return warn("note", "advice", "Safety")


def _with_curves(case: Case, rules: Rulebook) -> tuple[Case, list[Assumption]]:
    """Return the case with the working curve of every mass, and what was assumed for it."""
    completed = [complete(mass, rules, f"masses[{i}]") for i, mass in enumerate(case.masses)]
    assumed = [
        Assumption(path=f"masses[{i}].{name}", value=value, unit=unit, provenance="handbook", why=why)
        for i, one in enumerate(completed)
        for name, (value, unit, why) in one.filled.items()
    ]
    if not assumed:
        return case, []
    known = {**case.provenance, **{a.path: a.provenance for a in assumed}}
    masses = [one.mass for one in completed]
    return case.model_copy(update={"masses": masses, "provenance": known}), assumed


def _geometry(cavity: Cavity, build: Build, case: Case) -> Geometry:
    bonded = sum(c.contacts.tooth.area_mm2 for c in build.cured)
    sides = [box.side for box in cavity.boxes if box.side]
    return Geometry(
        volume_mm3=cavity.filling.volume(),
        mass_g=filling_mass_g(build),
        parts=[
            PartGeometry(
                kind=part.kind, side=getattr(part, "side", None), nominal_volume_mm3=part.nominal_volume_mm3
            )
            for part in cavity.parts
        ],
        remaining_dentin_mm=cavity.remaining_dentin_mm if cavity.pulp else None,
        bonded_area_mm2=float(bonded),
        ridge_height_mm={side: cavity.crown.ridge_mm(side) for side in sides},
        cusps=list(cavity.crown.cusps),
    )


def _lit_at(points: Points, order: int, build: Build, around: Surroundings) -> Lit | None:
    """Return the places of an increment that are listed, with their light."""
    if points == "none":
        return None
    return build.cured[order - 1].lit if points == "dimmest" else lit_all_over(build.cured, order - 1, around)


def _increment(order: int, one: Cured, access: Access, rules: Rulebook, listed: Lit | None) -> Increment:
    names = [aim.name for aim in one.lit.aims]
    exposed = zip(names, one.exposed.least_s, one.exposed.rungs, strict=True)
    # A ramp or pulses give less than the full output, on the mean of an exposure.
    shares = [rung.full_s / rung.seconds for rung in one.exposed.rungs]

    def told(lit: Lit) -> list[LitPoint]:
        light = lit.irradiance_mw_cm2 * shares
        return [
            LitPoint(x=x, y=y, z=z, irradiance_mw_cm2=dict(zip(names, row, strict=True)))
            for (x, y, z), row in zip(access.points_in_tooth(lit.points), light, strict=True)
        ]

    worst, (reasons, acting) = told(one.lit)[0], reasons_of(one, access.side, rules)
    volume = one.portion.solid.volume()
    return Increment(
        order=order,
        id=one.portion.id,
        name=one.portion.name,
        mass=one.mass.name,
        lot=one.mass.lot,
        role=one.portion.role,
        volume_mm3=volume,
        mass_g=volume * one.mass.density_g_cm3 / 1000,
        thickness_mm=round(one.thickness_mm, 3),
        least_thickness_mm=round(one.least_width_mm, 3),
        c_factor=one.contacts.c_factor(),
        exposures=[
            Exposure(
                source=name,
                seconds=rung.seconds,
                presses=list(rung.presses),
                full_output_seconds=rung.full_s,
                seconds_by_dose=least_s,
                seconds_by_maker=one.need.seconds_by_maker,
            )
            for name, least_s, rung in exposed
        ],
        dose_needed_j_cm2=one.need.dose_j_cm2,
        dose_at_worst_point_j_cm2=one.worst_dose_j_cm2,
        worst_point=Point(x=worst.x, y=worst.y, z=worst.z),
        touches=one.contacts.areas_mm2(),
        sculpt=one.portion.sculpt,
        reasons=reasons,
        rules=acting,
        points=told(listed) if listed else None,
    )
