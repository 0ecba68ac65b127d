"""The color of composite in a tooth that shows: which composites come nearest, and what the planned increments look like."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.preparation import Cavity
from mallet.color.columns import Columns, columns_of, stacked
from mallet.color.composites import Seen, hides_from_mm, in_bands, known_of, surface_of
from mallet.color.difference import de00, difference, in_words, seen
from mallet.color.dry import as_if_wet, dried
from mallet.color.flux import Surface, seen_inside
from mallet.color.match import Match, Wanted, lacking_mm, looked_at, ranked
from mallet.color.smooth import smooth_of
from mallet.color.spectra import BANDS, Lamp, bands_of_lab, lab_of, lab_of_reflectance, xyz_of
from mallet.color.stack import read_over
from mallet.curing.cured import Cured
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.color_plan import ColorChoice, ColorPlan
from mallet.terms.errors import InputError
from mallet.terms.plan import Caution, Check, Decision, StageResult
from mallet.terms.reasons import say, warn, warn_by
from mallet.terms.shade import ShadeTarget

Floats = NDArray[np.float64]
# Where the thirds of a crown's height have their middles.
MIDDLES = {"cervical": 1 / 6, "middle": 1 / 2, "incisal": 5 / 6}
DRY_MIN = 30.0
OTHER_LAMPS: tuple[Lamp, ...] = ("a", "fl11", "led_b3")
SAYS = {
    "not_seen": "not seen",
    "accepted": "seen, and accepted",
    "not_accepted": "seen, and not accepted",
    "cannot_tell": "cannot tell",
}


@dataclass(frozen=True)
class Looked:
    """A restoration as it is seen from the face that shows: its columns, what is wanted there, and the composites of which it is
    known how they look, by name; which of them may be enamel, which dentin, and which all of it: no opaque dentin shade."""

    columns: Columns
    wanted: Wanted
    known: Mapping[str, Seen]
    surface: Surface
    target: ShadeTarget
    target_lab: Floats
    enamels: Sequence[str]
    dentins: Sequence[str]
    alone: Sequence[str]

    def uncertain_de00(self, rules: Rulebook) -> float:
        """Return how unsure what was read is: twice as much where it had to be reckoned back from a dry tooth."""
        read = rules.value(
            "color.by_instrument_de00" if self.target.how == "instrument" else "color.by_eye_de00"
        )
        return 2 * read if self.target.minutes_dry else read


def look(case: Case, cavity: Cavity, rules: Rulebook) -> Looked | None:
    """Return what is looked at; None where no color was read, no composite is known by its looks, or it is not entered from the
    face that shows. Raises InputError for what an instrument read of a tooth that was dry too long."""
    _check(case, rules)
    is_seen = cavity.from_face is not None and cavity.access.side == "facial"
    told = {mass.name: mass for mass in case.layered if mass.optics}
    if not (case.shade.target and told and is_seen):
        return None
    surface = surface_of(rules)
    at = {mass.name: i for i, mass in enumerate(case.composites)}
    known = {
        name: known_of(mass.optics, surface, f"restoration.composites[{at[name]}].optics")
        for name, mass in told.items()
        if mass.optics
    }
    if not all(one.is_spectral for one in known.values()):
        known = {name: in_bands(one, surface) for name, one in known.items()}
    columns = columns_of(cavity.filling, cavity.remaining_tooth)
    target = next((one for one in case.shade.target if one.zone == "middle"), case.shade.target[0])
    lab = _wanted_lab(case, cavity, columns, rules)
    enamels = sorted(name for name, mass in told.items() if mass.role == "enamel")
    dentins = sorted(name for name, mass in told.items() if mass.role != "enamel")
    alone = sorted(name for name, mass in told.items() if mass.role != "dentin")
    is_spectral = any(one.is_spectral for one in known.values())
    behind = _behind(lab, columns, surface, rules, is_spectral=is_spectral)
    # Where it is thin, at its edges, a tooth lets the dark through as well.
    counts = ~columns.is_beside & (columns.room_mm >= rules.value("shade.thin_edge_mm"))
    weight = counts.astype(np.float64) if counts.any() else np.ones(len(columns))
    wanted = Wanted(lab, behind, weight)
    return Looked(columns, wanted, known, surface, target, wet_lab(target, rules), enamels, dentins, alone)


def _check(case: Case, rules: Rulebook) -> None:
    latest_min = rules.value("shade.latest_reading_min")
    for i, one in enumerate(case.shade.target):
        if one.how == "instrument" and one.minutes_dry > latest_min:
            allowed = f"up to {latest_min:g} for an instrument: the tooth has dried out, read it again wet"
            raise InputError.at(f"shade.target[{i}].minutes_dry", one.minutes_dry, allowed)


def wet_lab(target: ShadeTarget, rules: Rulebook) -> Floats:
    """Return the color (3,) that was read, as of a wet tooth."""
    read = lab_of_reflectance(np.array(target.reflectance)) if target.reflectance else np.array(target.lab)
    return as_if_wet(read, target.minutes_dry, rules)


def _wanted_lab(case: Case, cavity: Cavity, columns: Columns, rules: Rulebook) -> Floats:
    """Return the color (C, 3) that is wanted at each column: between the thirds that were read, by height."""
    read = sorted(case.shade.target, key=lambda one: MIDDLES[one.zone])
    at = np.column_stack([columns.places, np.zeros(len(columns))])
    up = cavity.access.points_in_tooth(at)[:, 2] / cavity.crown.height_mm
    middles, labs = [MIDDLES[one.zone] for one in read], np.array([wet_lab(one, rules) for one in read])
    return np.column_stack([np.interp(up, middles, labs[:, i]) for i in range(3)])


def _behind(lab: Floats, columns: Columns, surface: Surface, rules: Rulebook, *, is_spectral: bool) -> Floats:
    """Return what lies behind each column (C, N): tooth, which looks as what is wanted, or the dark of the mouth."""
    tooth = seen_inside(smooth_of(lab) if is_spectral else bands_of_lab(lab), surface)
    mouth = np.full_like(tooth, rules.value("color.mouth_reflectance"))
    return np.where(columns.has_tooth_behind[:, None], tooth, mouth)


def nearest(case: Case, looked: Looked) -> list[Match]:
    """Return what may be layered on a broken edge, what comes nearest first, at the thicknesses that were asked for where any
    were; nothing where one of the composites is not known by its looks: it might come nearer."""
    if not (case.has_shell and all(mass.optics for mass in case.layered)):
        return []
    return ranked(
        looked.columns,
        looked.enamels,
        looked.dentins,
        looked.alone,
        looked.known,
        looked.wanted,
        looked.surface,
        case.composite.enamel_mm,
        case.composite.shell_mm,
    )


def with_shades(case: Case, best: Match) -> Case:
    """Return a case that is built of the composites that come nearest, as thick as they are wanted."""
    layers = best.layers
    tints = [mass for mass in case.composites if mass not in case.layered]
    masses = [mass for mass in case.layered if mass.name in layers.names] + tints
    thick = {"enamel_mm": layers.enamel_mm, "shell_mm": layers.shell_mm} if layers.enamel else {}
    restoration = case.composite.model_copy(update={"composites": masses, **thick})
    return case.model_copy(update={"restoration": restoration})


def color_of(
    looked: Looked, ranking: Sequence[Match], cured: Sequence[Cured], rules: Rulebook
) -> tuple[ColorPlan, StageResult] | None:
    """Return what the planned increments look like, and what the plan says of it; None where it is not known of all of them."""
    if any(one.mass.name not in looked.known for one in cured):
        return None
    solids = [(one.portion.solid, one.mass.name) for one in cured]
    cut = stacked(solids, looked.columns.places)
    lab = looked_at(cut, looked.known, looked.wanted, looked.surface)
    off, weight = de00(looked.wanted.lab, lab), looked.wanted.weight / looked.wanted.weight.sum()
    mean = float(off @ weight)
    uncertain = _uncertain(looked, cut, lab, weight, rules)
    verdict, accepted = seen(mean, uncertain, rules), rules.value("color.acceptable_de00")
    target, predicted = looked.target_lab, lab.T @ weight
    lacking = _lacking(looked, ranking, accepted)
    made = ColorPlan(
        target=_told(target),
        predicted=_told(predicted),
        target_dry=_told(target + dried(DRY_MIN, rules)),
        de00=round(mean, 2),
        uncertain_de00=round(uncertain, 2),
        seen=verdict,
        says=in_words(difference(target, predicted)),
        accepted_share=round(float((off <= accepted) @ weight), 2),
        lacking_mm=round(lacking, 2) if math.isfinite(lacking) else 0.0,
        is_beyond=math.isinf(lacking),
        hides_mm={name: _depth(one, looked, rules) for name, one in looked.known.items()},
        metamerism_de00=_metamerism(looked, cut, predicted, weight),
        choices=[_choice(one) for one in ranking],
        rules=rules.uses(*RULES),
    )
    return made, _said(made, rules)


RULES = (
    "color.perceptible_de00", "color.acceptable_de00", "color.surface_k1", "color.surface_k2", "color.mouth_reflectance",
    "color.two_flux_de00", "color.spectral_de00", "color.lab_de00", "color.family_de00", "color.by_instrument_de00",
    "color.by_eye_de00", "shade.place_error_mm", "shade.dry_tau_min",
)  # fmt: skip


def _uncertain(
    looked: Looked, cut: Sequence[tuple[str, Floats]], lab: Floats, weight: Floats, rules: Rulebook
) -> float:
    """Return how unsure a predicted difference is (dE00): the model, the composites, what was read, and the hand that places."""
    names = {name for name, _ in cut}
    composites = max(rules.value(looked.known[name].unsure_by) for name in names)
    placing = 0.0
    if len(cut) > 1:
        # As much more of the first layer, and less of the next.
        (front, over), (second, under), *others = cut
        moved = np.minimum(rules.value("shade.place_error_mm"), under)
        other = looked_at(
            [(front, over + moved), (second, under - moved), *others],
            looked.known,
            looked.wanted,
            looked.surface,
        )
        placing = float(de00(lab, other) @ weight)
    return math.hypot(rules.value("color.two_flux_de00"), composites, looked.uncertain_de00(rules), placing)


def _lacking(looked: Looked, ranking: Sequence[Match], accepted: float) -> float:
    if not ranking:
        return 0.0
    layers = ranking[0].layers
    return lacking_mm(layers, looked.columns, looked.known, looked.wanted, looked.surface, accepted)


def _depth(one: Seen, looked: Looked, rules: Rulebook) -> float | None:
    depth = hides_from_mm(one, rules.value("color.acceptable_de00"), rules, looked.surface)
    return round(depth, 2) if math.isfinite(depth) else None


def _metamerism(
    looked: Looked, cut: Sequence[tuple[str, Floats]], predicted: Floats, weight: Floats
) -> float | None:
    """Return by how much other lamps tell the two apart once they are brought together by daylight; None without spectra."""
    reflectance = looked.target.reflectance
    if not reflectance or not all(one.is_spectral for one in looked.known.values()):
        return None
    layers = [looked.known[name].layer(length) for name, length in cut]
    read = read_over(layers, looked.wanted.behind, looked.surface)
    assert read.shape[-1] == BANDS
    made, wanted = weight @ read, np.array(reflectance)
    alike = xyz_of(wanted) / xyz_of(made)

    def off(lamp: Lamp) -> float:
        return float(de00(lab_of(xyz_of(wanted, lamp), lamp), lab_of(xyz_of(made, lamp) * alike, lamp)))

    return round(max(off(lamp) for lamp in OTHER_LAMPS), 2)


def _choice(one: Match) -> ColorChoice:
    layers = one.layers
    return ColorChoice(
        composites=layers.names,
        enamel_mm=layers.enamel_mm,
        shell_mm=layers.shell_mm,
        de00=round(one.mean_de00, 2),
    )


def _told(lab: Floats) -> list[float]:
    return [round(float(value), 1) for value in lab]


def named(one: ColorChoice) -> str:
    """Say what is layered, and how thick."""
    if not one.enamel_mm:
        return f"{one.composites[0]} alone"
    front, *behind = one.composites
    return f"{front} {one.enamel_mm:g} mm over {behind[0] if behind else front}"


def _said(made: ColorPlan, rules: Rulebook) -> StageResult:
    decisions, cautions, checks = [], [], []
    if made.choices:
        chosen, *others = made.choices
        decisions.append(
            Decision(
                topic="shade.match",
                chosen=f"{named(chosen)}: dE00 {chosen.de00:.1f}",
                alternatives=[f"{named(one)}: dE00 {one.de00:.1f}" for one in others],
                reasons=[say("shade.matched", off=chosen.de00, uncertain=made.uncertain_de00)],
                rules=rules.uses("color.acceptable_de00", "shade.place_error_mm"),
            )
        )
    if made.seen != "cannot_tell":
        checks.append(_check_of(made, rules))
    else:
        cautions.append(warn("note", "shade.cannot_tell", PLAN, off=made.de00, uncertain=made.uncertain_de00))
    if made.is_beyond:
        cautions.append(warn("caution", "shade.dark_beyond", PLAN))
    elif made.lacking_mm:
        cautions.append(warn("caution", "shade.dark_shows", PLAN, lacking_mm=made.lacking_mm))
    if made.metamerism_de00 and made.metamerism_de00 > rules.value("color.perceptible_de00"):
        use = rules.use("color.perceptible_de00")
        cautions.append(warn_by("caution", "shade.by_lamplight", use, off=made.metamerism_de00))
    return StageResult(decisions=decisions, cautions=cautions, checks=checks)


PLAN = "The plan itself"


def _check_of(made: ColorPlan, rules: Rulebook) -> Check:
    how = f", {made.says}" if made.says else ""
    return Check(
        topic="shade.color",
        title="Color, off what was read",
        measured=made.de00,
        needed=rules.value("color.acceptable_de00"),
        relation="at_most",
        unit="dE00",
        verdict="caution" if made.seen == "not_accepted" else "pass",
        remedy="Choose composites that come nearer, or cut a mock-up as thick as planned and look at it wet.",
        where=f"{SAYS[made.seen]}{how}; \u00b1{made.uncertain_de00:.1f}, on the mean of the face",
        rules=rules.uses("color.perceptible_de00", "color.acceptable_de00"),
    )


def not_known(case: Case) -> list[Caution]:
    """Return which composites nothing is reckoned of, where a color was read."""
    unknown = sorted(mass.name for mass in case.layered if not mass.optics)
    if not case.shade.target:
        return []
    if len(unknown) == len(case.layered):
        return [warn("note", "shade.no_optics_at_all", PLAN)]
    return [warn("note", "shade.no_optics", PLAN, name=name) for name in unknown]
