"""What the hands do for resin-modified glass ionomer: mix, place a layer, cure it, and the next from the same capsule."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.curing.cured import Cured
from mallet.curing.exposures import again_in_turns, light_step, presses_of
from mallet.light.working_curve import rule_of_dose
from mallet.rulebook import Rulebook
from mallet.stages.ionomer import Chosen, mixing_step
from mallet.terms.plan import Step, Within


def seconds_to_place(one: Cured, rules: Rulebook) -> int:
    """Return how long a layer takes to be placed, before its light."""
    volume = one.portion.solid.volume()
    return round(float(rules.value("chair.place_fixed_s") + rules.value("ionomer.place_s_per_mm3") * volume))


def placing_lit(
    cured: Sequence[Cured],
    capsules: Sequence[int],
    chosen: Chosen,
    between: Sequence[Step],
    rules: Rulebook,
) -> list[Step]:
    """Return the steps of mixing each capsule, and of placing and curing its layers; `capsules` tells from which each layer
    comes, `between` is what is changed before the first."""
    steps: list[Step] = []
    last = "bond.dry"
    for step in between:
        steps.append(step.model_copy(update={"after": [last]}))
        last = step.id
    before, capsule, mixed = "bond.dry", 0, ""
    for order, (one, of) in enumerate(zip(cured, capsules, strict=True), 1):
        if of != capsule:
            capsule = of
            mixing = mixing_step(chosen, f"build.{one.portion.id}.mix", order, before, rules)
            steps.append(mixing)
            mixed = mixing.id
        place = _place(order, one, mixed, last, chosen, rules)
        exposures = zip((aim.name for aim in one.lit.aims), one.exposed.rungs, strict=True)
        light = light_step(
            f"build.{one.portion.id}.light",
            "build",
            f"Light-cure the {one.portion.name}",
            presses_of(exposures),
            rules.use(rule_of_dose(one.mass)),
            [place.id],
            then="Hold still.",
            increment=order,
        )
        lights = again_in_turns(light, rules)
        steps += [place, *lights]
        # The next capsule is mixed while this layer is cured.
        before, last = place.id, lights[-1].id
    return steps


def _place(order: int, one: Cured, mixed: str, last: str, chosen: Chosen, rules: Rulebook) -> Step:
    volume, seconds = one.portion.solid.volume(), seconds_to_place(one, rules)
    return Step(
        id=f"build.{one.portion.id}.place",
        stage="build",
        title=f"Place the {one.portion.name}",
        detail=f"Keep the tip in it, so that no air is caught. {one.portion.sculpt}",
        actor="dentist",
        seconds=seconds,
        seconds_rule=rules.use("ionomer.place_s_per_mm3"),
        tray=[f"{chosen.item.name}, {volume:.0f} mm\u00b3"],
        after=list(dict.fromkeys([mixed, last])),
        within=[Within(step=mixed, seconds=max(chosen.item.working_s - seconds, 0.0))],
        increment=order,
    )
