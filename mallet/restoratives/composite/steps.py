"""What the hands do for each increment: hand over, place, light."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from mallet.curing.cured import Cured
from mallet.curing.exposures import again_in_turns, light_step, light_steps, presses_of, seen_before_light
from mallet.light.presses import Button
from mallet.light.working_curve import dose_wanted_j_cm2, rule_of_dose
from mallet.restoratives.composite.layering_face import IN_FORM
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.pieces import RuleUse
from mallet.terms.plan import Step, Within
from mallet.terms.restoration import Composite

LEAST_G = 0.05
INTO_BEAD = "Place it into the bead; both are cured at once."


def build_steps(
    cured: Sequence[Cured],
    first: int,
    after: str,
    between: Sequence[Step],
    index_off: Step | None,
    button: Button,
    rules: Rulebook,
    *,
    bead: Composite | None = None,
    warm_c: float | None = None,
    tint: Composite | None = None,
    walls_done: Callable[[str], list[Step]] | None = None,
) -> list[Step]:
    """Return the steps of building; `first` is the order of the first increment, `after` the last step of bonding, `between`
    what is changed before the first increment, and an index comes off before dentin.

    A `bead` of flowable lies under the first increment, a `tint` under the last, `warm_c` is how warm composite is handed over,
    and `walls_done` gives what follows the step that ends the walls, where the bands come off then.

    The next increment is handed over while the dentist places the one before it.
    """
    steps: list[Step] = []
    before_last, last = "bond.dry", after
    for step in between:
        steps.append(step.model_copy(update={"after": [last]}))
        last = step.id
    for order, one in enumerate(cured, first):
        if index_off and one.portion.part != "lingual_wall" and order > first:
            steps.append(index_off.model_copy(update={"after": [last]}))
            last, index_off = index_off.id, None
        if walls_done and not one.portion.is_banded:
            steps += walls_done(last)
            before_last = last = steps[-1].id
            walls_done = None
        if bead and order == first:
            steps.append(_bead(bead, last, rules))
            last = steps[-1].id
        if tint and one is cured[-1]:
            steps += _tint(tint, one, last, button, rules)
            before_last = last = steps[-1].id
        if bead and order == first:
            one = replace(one, portion=replace(one.portion, sculpt=f"{INTO_BEAD} {one.portion.sculpt}"))
        of_one = _of_one(order, one, last, before_last, warm_c, rules)
        steps += of_one
        _, _, *lights = of_one
        # What is handed over before a long exposure, or the first of several, would wait too long.
        is_long = len(lights) > 1 or lights[0].seconds > _open_s(one, warm_c, rules).value
        before_last, last = lights[0].id if is_long else last, lights[-1].id
    if index_off:
        steps.append(index_off.model_copy(update={"after": [last]}))
    return steps


def _bead(bead: Composite, last: str, rules: Rulebook) -> Step:
    return catalog_step("build.bead", rules, {"material": bead.name}, after=[last])


def _tint(tint: Composite, over: Cured, last: str, button: Button, rules: Rulebook) -> list[Step]:
    """Return a film of tint below an increment, and its light: from wherever that increment is lit, for as long as brings its
    dimmest point what the tint wants; bare, the tint gets more."""
    told = {"material": tint.name, "name": over.portion.name}
    put = catalog_step("build.tint", rules, told, after=[last])
    share, least_s = (
        dose_wanted_j_cm2(tint, rules) / over.worst_dose_j_cm2,
        rules.value("light.least_exposure_s"),
    )
    exposures = [
        (aim.name, button.least(max(share * full_s, least_s)))
        for aim, full_s in zip(over.lit.aims, over.exposed.full_s, strict=True)
        if full_s
    ]
    use, presses = rule_of_dose(tint), presses_of(exposures)
    lit = light_step("build.tint_light", rules, use, presses, told, after=[put.id])
    return [put, *again_in_turns(lit, rules)]


def _open_s(one: Cured, warm_c: float | None, rules: Rulebook) -> RuleUse:
    """Return how long an increment may wait once it is dispensed: by the light in the room, or until it has cooled."""
    is_warm = warm_c is not None and one.mass.consistency == "paste"
    return rules.use("chair.warm_mass_s" if is_warm else "chair.open_mass_s")


def _of_one(
    order: int, one: Cured, last: str, before_last: str, warm_c: float | None, rules: Rulebook
) -> list[Step]:
    portion, volume = one.portion, one.portion.solid.volume()
    is_in_form = portion.id == IN_FORM
    # Out of the vents of a form comes what is too much; without it there would be voids.
    wanted = volume * rules.value("composite.form_fill_share") if is_in_form else volume
    grams = wanted * one.mass.density_g_cm3 / 1000
    told = {
        "portion": portion.id,
        "name": portion.name,
        "material": one.mass.name,
        "amount": _amount(wanted, grams),
        "fill": is_in_form,
        "room_mm3": volume,
        "how": portion.sculpt or "Adapt it to the walls; leave no void at the line angles.",
    }
    warmed = {"warmed": one.mass.consistency == "paste", "warm_c": warm_c} if warm_c else {"warmed": False}
    ready = catalog_step("build.ready", rules, {**told, **warmed}, after=[before_last], increment=order)
    open_s = _open_s(one, warm_c, rules)
    place = catalog_step(
        "build.place",
        rules,
        told,
        seconds=round(rules.value("chair.place_fixed_s") + rules.value("chair.place_s_per_mm3") * volume),
        after=[ready.id, last],
        within=[Within(step=ready.id, seconds=open_s.value, rule=open_s)],
        increment=order,
        check=seen_before_light(portion),
    )
    return [ready, place, *light_steps(one, order, [place.id], rules)]


def _amount(volume_mm3: float, grams: float) -> str:
    """Say how much of a composite is handed over; under a twentieth of a gram nobody weighs it."""
    told = f"about {max(volume_mm3, 1):.0f} mm\u00b3"
    return f"{told} ({grams:.2f} g)" if grams >= LEAST_G else told
