"""Building composite: portions by a school, each with its seconds under the light."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.measures import (
    Contacts,
    contacts_of,
    least_width_mm,
    longest_along_mm,
    longest_vertical_mm,
)
from mallet.cavity.preparation import SIGN, Cavity, shell_solid
from mallet.cavity.rays import Scene
from mallet.cavity.solids import joined
from mallet.light.beam import Beam
from mallet.light.cure import (
    STRAIGHT,
    Aim,
    Field,
    Hold,
    Lit,
    Need,
    aims_over,
    deep_points,
    dimmest,
    hold_of,
    least_from_sides,
    need_of,
    side_aims,
)
from mallet.light.field import FINE, Filling, Grain, axes_of, irradiance_mw_cm2
from mallet.light.presses import Button, Rung, button_of
from mallet.light.program import Program
from mallet.light.walls import Walls, bare_walls
from mallet.light.working_curve import curve_of
from mallet.rulebook import Rulebook
from mallet.stages.bond import FilmCure
from mallet.stages.build.layering import Layering, Portion, layer
from mallet.stages.matrix import Band
from mallet.terms.case import Case, Mass, MassRole
from mallet.terms.plan import Reason, Step
from mallet.terms.reasons import refuse, say

Floats = NDArray[np.float64]
THINNER = 0.82
MARGIN = 1.03
SLACK_MM = 5e-3
TOOTH_CONTRAST = 0.2
COARSE = Grain(6, 10)


@dataclass(frozen=True)
class Surroundings:
    """What stands around the filling: what blocks rays from occlusal, what a tip can rest on (N, 3), and
    the bands. From the side the tooth lets some light through; there only metal and neighbours block."""

    blockers: Scene
    skyline: Floats
    banded: list[tuple[float, float]]
    beside: Scene
    tooth: tuple[Filling, ...]

    def field(
        self,
        points: Floats,
        aim: Aim,
        placed: Sequence[Filling],
        grain: Grain = FINE,
        walls: Walls | None = None,
    ) -> Floats:
        """Return irradiance (N,) at points from an aim, through what is placed, and from occlusal what bare
        walls send back."""
        if aim.is_side:
            finer = replace(grain, contrast=TOOTH_CONTRAST)
            return irradiance_mw_cm2(points, aim.tip, self.beside, [*placed, *self.tooth], finer)
        light = irradiance_mw_cm2(points, aim.tip, self.blockers, placed, grain)
        return light + walls.sent_back_mw_cm2(points, aim.tip, self.blockers, placed) if walls else light

    def through(self, placed: Sequence[Filling], walls: Walls | None = None) -> Field:
        """Return the field through what is placed."""
        return lambda points, aim, grain: self.field(points, aim, placed, grain, walls)


@dataclass(frozen=True)
class Cured:
    """One portion with everything that is known of its cure. `from_above_s` is what light from occlusal
    alone would take, inf where it does not do; `walls` are still bare when it is lit, where they are
    taken to send light back."""

    portion: Portion
    inside: Scene
    mass: Mass
    contacts: Contacts
    thickness_mm: float
    least_width_mm: float
    lit: Lit
    need: Need
    exposed: Program
    from_above_s: float
    walls: Walls | None = None

    @property
    def seconds(self) -> float:
        return sum(self.exposed.seconds)

    @property
    def worst_dose_j_cm2(self) -> float:
        return float(self.lit.irradiance_mw_cm2[0] @ np.array(self.exposed.full_s)) / 1000


@dataclass(frozen=True)
class Build:
    """The portions in order, the layering behind them and the thickest portion that was allowed."""

    layering: Layering
    cured: list[Cured]
    limit_mm: float
    asked_mm: float
    reasons: list[Reason]


@dataclass(frozen=True)
class Losses:
    """Irradiance (mW/cm2) at a point from all aims: with nothing in the way, past what blocks it, and
    through what is placed as well; and what walls send back, if that counts."""

    open_mw_cm2: float
    past_walls_mw_cm2: float
    arriving_mw_cm2: float
    sent_back_mw_cm2: float


def losses_at_worst(cured: Sequence[Cured], order: int, around: Surroundings) -> Losses:
    """Return where the light is lost on its way to the weakest point of the portion at an index."""
    one = cured[order]
    placed = [Filling(c.inside, curve_of(c.mass).attenuation_per_mm) for c in cured[: order + 1]]
    point, aims = one.lit.points[:1], one.lit.aims
    bare = Surroundings(Scene(), around.skyline, [], Scene(), ())

    def light(where: Surroundings, through: Sequence[Filling], walls: Walls | None = None) -> float:
        return float(sum(where.field(point, aim, through, walls=walls)[0] for aim in aims))

    arriving = light(around, placed)
    sent_back = light(around, placed, one.walls) - arriving if one.walls else 0.0
    return Losses(light(bare, ()), light(around, ()), arriving, sent_back)


def at_once_s(cured: Sequence[Cured], around: Surroundings) -> float:
    """Return the seconds at full output that one exposure from occlusal would take if the whole filling were
    placed at once: by the points that are dimmest in each portion; inf where it would not do."""
    placed = [Filling(c.inside, curve_of(c.mass).attenuation_per_mm) for c in cured]
    points = np.concatenate([one.lit.points[:1] for one in cured])
    dose_mj_cm2 = 1000 * np.array([one.need.dose_j_cm2 for one in cured])
    # The tip stands as for the last portion, over the whole.
    light = sum(around.field(points, aim, placed, COARSE) for aim in cured[-1].lit.aims if not aim.is_side)
    with np.errstate(divide="ignore"):
        return float((dose_mj_cm2 / light).max())


def spot_of(lit: Lit) -> str:
    """Say where the weakest point lies."""
    _, y, z = lit.points[0]
    above = [aim.tip.centre[2] for aim in lit.aims if not aim.is_side]
    side = "facial" if y > 0 else "lingual"
    return f"{side}, {above[0] - z:.1f} mm below the tip" if above else f"{side}, lit from the side"


def build_composite(case: Case, cavity: Cavity, around: Surroundings, beam: Beam, rules: Rulebook) -> Build:
    """Return the portions of the asked school, cut thinner until each cures in one exposure.

    Raises NotFeasible where even the thinnest portion would need too long.
    """
    asked = min(mass.max_increment_mm for mass in case.masses)
    longest = rules.value("light.longest_exposure_s")
    limit, reasons = asked, []
    tilt = case.light.tip_tilt_deg
    if tilt:
        # Light goes aslant through a layer, and no way along it may be longer than the mass allows.
        limit = asked * math.cos(math.radians(tilt))
    while True:
        layering = layer(case.school.layering, cavity, limit, rules)
        cured = cure_portions(case, cavity, layering.portions, around, beam, rules)
        slow = [
            c for c in cured if max(c.exposed.least_s) > longest + 1e-9 or max(c.exposed.seconds) > longest
        ]
        over = [c for c in cured if tilt and c.thickness_mm > asked + SLACK_MM]
        if not slow and not over:
            break
        if not slow:
            # A slope that faces away from the tip makes the way longer than the tilt alone does.
            limit *= THINNER
            if limit < rules.value("composite.least_portion_mm"):
                straight: dict[str, object] = {"light.tip_tilt_deg": 0}
                raise refuse("cure.too_aslant", straight, tilt_deg=tilt, asked_mm=asked)
            continue
        worst = max(slow, key=lambda c: c.need.seconds)
        if worst.need.seconds_by_maker and worst.need.seconds_by_maker > longest:
            raise _too_long(worst, cured, around, limit, button_of(case.light), beam, rules)
        thinner = limit * THINNER
        if thinner < rules.value("composite.least_portion_mm"):
            raise _too_long(worst, cured, around, limit, button_of(case.light), beam, rules)
        limit = thinner
    if tilt:
        reasons.append(say("layering.aslant", limit_mm=limit, asked_mm=asked, tilt_deg=tilt))
    elif limit < asked:
        thinned = say("layering.thinned", limit_mm=limit, asked_mm=asked, longest_s=longest)
        reasons.append(thinned)
    return Build(layering, cured, limit, asked, [*layering.reasons, *reasons, say("layering.stress")])


def cure_portions(
    case: Case,
    cavity: Cavity,
    portions: Sequence[Portion],
    around: Surroundings,
    beam: Beam,
    rules: Rulebook,
) -> list[Cured]:
    """Return every portion of fixed cuts with its least whole seconds, in order of placing."""
    tags = {tool.cut.tag for tool in cavity.tools}
    insides = [Scene(portion.solid) for portion in portions]
    contacts = [
        contacts_of(portion.solid, tags, cavity.outer.tag, around.banded, insides[:i])
        for i, portion in enumerate(portions)
    ]
    placed: list[Filling] = []
    cured = []
    for i, portion in enumerate(portions):
        mass = mass_for(case.masses, portion.role)
        placed.append(Filling(insides[i], curve_of(mass).attenuation_per_mm))
        points = deep_points(contacts[i], insides[i])
        walls = _still_bare(contacts[i + 1 :], rules)
        field = around.through(placed, walls)
        (lit, need, exposed), from_above_s = _least_seconds(
            portion, mass, points, field, case, around, beam, rules
        )
        cured.append(
            Cured(
                portion=portion,
                inside=insides[i],
                mass=mass,
                contacts=contacts[i],
                thickness_mm=_thickness_mm(portion.solid, insides[i], hold_of(case.light)),
                least_width_mm=least_width_mm(portion.solid),
                lit=lit,
                need=need,
                exposed=exposed,
                from_above_s=from_above_s,
                walls=walls,
            )
        )
    return cured


def _still_bare(contacts: Sequence[Contacts], rules: Rulebook) -> Walls | None:
    """Return the walls that portions to come will cover, if walls are taken to send light back."""
    albedo = rules.value("light.wall_albedo")
    skins = [skin for faces in contacts for skin in (faces.tooth, faces.band)]
    return bare_walls(skins, albedo) if albedo else None


def _thickness_mm(solid: Manifold, inside: Scene, hold: Hold) -> float:
    """Return the longest way inside a portion along the axis of the tip."""
    if not hold.tilt_deg:
        return longest_vertical_mm(solid, inside)
    return longest_along_mm(solid, axes_of(hold.towards))


def _least_seconds(
    portion: Portion,
    mass: Mass,
    points: Floats,
    field: Field,
    case: Case,
    around: Surroundings,
    beam: Beam,
    rules: Rulebook,
) -> tuple[tuple[Lit, Need, Program], float]:
    """Return the shortest way to light a portion at its points (N, 3) in a field, and what light from
    occlusal alone takes."""
    hold, button = hold_of(case.light), button_of(case.light)
    ways: list[tuple[Lit, Need, Program]] = []
    longest = rules.value("light.longest_exposure_s")

    def cost(way: tuple[Lit, Need, Program]) -> tuple[bool, float]:
        return max(way[2].seconds) > longest, sum(way[2].seconds)

    from_above = aims_over(points, around.skyline, beam, hold)
    for aims in from_above:
        lit = dimmest(points, aims, field, rules)
        need = need_of(mass, lit.weakest_mw_cm2, beam.contact_mw_cm2, rules)
        if np.isfinite(need.seconds):
            count, rung = len(aims), button.least(need.seconds)
            ways.append((lit, need, Program((need.seconds_by_dose,) * count, (rung,) * count)))
    from_above_s = min((sum(way[2].seconds) for way in ways), default=math.inf)
    if around.tooth and portion.side:
        aims = [from_above[0][0], *side_aims(points, around.skyline, beam, hold)]
        dose = need_of(mass, 1.0, beam.contact_mw_cm2, rules).dose_j_cm2
        # What the darkest points alone want tells cheaply whether the sides can save any time.
        few = least_from_sides(ways[0][0].points, aims, field, dose, button, rules) if ways else None
        if not ways or (few and (False, sum(few[1].seconds)) < min(cost(way) for way in ways)):
            found = least_from_sides(points, aims, field, dose, button, rules)
            if found:
                ways.append(_from_sides(*found, mass, beam, button, rules))
    if not ways:
        raise refuse("cure.dark", where=f"the {portion.name}", spot=spot_of(lit))
    return min(ways, key=cost), from_above_s


def _from_sides(
    lit: Lit, program: Program, mass: Mass, beam: Beam, button: Button, rules: Rulebook
) -> tuple[Lit, Need, Program]:
    """Return a program without the sides that it leaves out, and never shorter than the maker's time."""
    used = [i for i, seconds in enumerate(program.seconds) if seconds]
    lit = Lit(lit.points, tuple(lit.aims[i] for i in used), lit.irradiance_mw_cm2[:, used])
    rungs = [program.rungs[i] for i in used]
    full_s = np.array([rung.full_s for rung in rungs])
    mean_mw_cm2 = float(lit.irradiance_mw_cm2[0] @ full_s / full_s.sum())
    by_maker = need_of(mass, mean_mw_cm2, beam.contact_mw_cm2, rules)
    need = Need(by_maker.dose_j_cm2, sum(program.least_s), by_maker.seconds_by_maker)
    rest = float(full_s[1:].sum())
    rungs[0] = button.least(max(rungs[0].full_s, (need.seconds_by_maker or 0.0) - rest))
    return lit, need, Program(tuple(program.least_s[i] for i in used), tuple(rungs))


def as_pressed(build: Build, steps: Sequence[Step], button: Button) -> Build:
    """Return a build whose exposures are what its steps press, in parts or not."""

    def exposed(order: int, one: Cured) -> Program:
        presses = [p for step in steps if step.light and step.increment == order for p in step.presses]
        from_aim = [tuple(p.seconds for p in presses if p.source == aim.name) for aim in one.lit.aims]
        rungs = [Rung(sum(some), sum(map(button.full_s, some)), some) for some in from_aim]
        return Program(one.exposed.least_s, tuple(rungs))

    cured = [replace(one, exposed=exposed(order, one)) for order, one in enumerate(build.cured, 1)]
    return replace(build, cured=cured)


def mass_for(masses: Sequence[Mass], role: MassRole) -> Mass:
    """Return the mass for a role; where the shelf has none of it, the body mass, else the first."""
    for wanted in (role, "body"):
        found = next((m for m in masses if m.role == wanted), None)
        if found:
            return found
    return masses[0]


def _too_long(
    worst: Cured,
    cured: Sequence[Cured],
    around: Surroundings,
    limit: float,
    button: Button,
    beam: Beam,
    rules: Rulebook,
) -> Exception:
    """Return the refusal: which point holds it up and why, and the lamp output that would do for the same
    portion."""
    order = next(i for i, one in enumerate(cured) if one is worst)
    lost = losses_at_worst(cured, order, around)
    longest = rules.value("light.longest_exposure_s")
    most_s = button.rungs(0.0, longest)[-1].full_s or longest
    output = MARGIN * beam.contact_mw_cm2 * worst.need.seconds / most_s
    nearest: dict[str, object] = {
        "light.output_mw_cm2": float(np.ceil(output / 10) * 10),
        "for": worst.portion.name,
    }
    return refuse(
        "cure.too_long",
        nearest,
        where=f"The {worst.portion.name}",
        spot=spot_of(worst.lit),
        contact_mw_cm2=beam.contact_mw_cm2,
        open_mw_cm2=lost.open_mw_cm2,
        past_walls_mw_cm2=lost.past_walls_mw_cm2,
        arriving_mw_cm2=lost.arriving_mw_cm2,
        needed_s=round(worst.need.seconds),
        limit_mm=round(limit, 2),
        longest_s=longest,
    )


def surroundings(
    cavity: Cavity,
    bands: Sequence[Band],
    neighbours: Sequence[Manifold],
    beam: Beam,
    rules: Rulebook,
    hold: Hold = STRAIGHT,
) -> Surroundings:
    """Return what blocks light and what a tip can stand on: tooth, metal bands and neighbours."""
    metal = [band.solid.solid for band in bands if band.is_metal]
    # Rays rise from the cavity to a tip whose middle stands over it.
    x0, y0, lowest, x1, y1, _ = cavity.filling.bounding_box()
    r = beam.radius_mm + hold.aside_mm
    reach = ((x0 - r, y0 - r, lowest), (x1 + r, y1 + r, np.inf))
    blockers = Scene(cavity.remaining_tooth, *metal, *neighbours, reach=reach)
    clear = [band for band in bands if not band.is_metal]
    standing = [cavity.outer.solid, *(band.solid.solid for band in bands), *neighbours]
    corners = np.concatenate([np.asarray(s.to_mesh64().vert_properties)[:, :3] for s in standing])
    # A tip rests on crowns, never on roots.
    skyline = corners[corners[:, 2] > 0]
    return Surroundings(
        blockers,
        skyline,
        [(SIGN[b.side], b.top_mm) for b in bands],
        beside=Scene(*metal, *neighbours) if clear else Scene(),
        tooth=_as_medium(cavity, rules) if clear else (),
    )


def _as_medium(cavity: Cavity, rules: Rulebook) -> tuple[Filling, ...]:
    """Return what is left of the tooth as it weakens light: enamel throughout, and what dentin adds."""
    enamel = rules.value("light.enamel_attenuation_per_mm")
    added = rules.value("light.dentin_attenuation_per_mm") - enamel
    dentin = cavity.remaining_tooth ^ shell_solid(cavity.tooth, rules, "dentin").solid
    return Filling(Scene(cavity.remaining_tooth), enamel), Filling(Scene(dentin), added)


def film_cures(
    case: Case, cavity: Cavity, build: Build, around: Surroundings, beam: Beam, rules: Rulebook
) -> list[FilmCure]:
    """Return the exposures of the adhesive film under a build, the cavity still empty."""
    points = _film_points(cavity, build)
    dose = rules.value("light.adhesive_dose_j_cm2")
    field = around.through((), _still_bare([one.contacts for one in build.cured], rules))
    ways = []
    for aims in aims_over(points, around.skyline, beam, hold_of(case.light)):
        lit = dimmest(points, aims, field, rules)
        if lit.weakest_mw_cm2 > 0:
            full_s = max(dose * 1000 / lit.weakest_mw_cm2, rules.value("light.least_exposure_s"))
            rung = button_of(case.light).least(full_s)
            ways.append([FilmCure(aim.name, rung) for aim in aims])
    if not ways:
        raise refuse("cure.dark", where="the adhesive film", spot=spot_of(lit))
    return min(ways, key=lambda cures: sum(cure.rung.seconds for cure in cures))


def _film_points(cavity: Cavity, build: Build) -> Floats:
    """Return points (N, 3) just off the walls and floors that the adhesive covers: what the portions
    touch of the tooth."""
    walls = joined([cured.contacts.tooth for cured in build.cured])
    nothing = walls.where(np.zeros(len(walls.areas), dtype=np.bool_))
    return deep_points(Contacts(walls, nothing, nothing, nothing), Scene(cavity.filling))
