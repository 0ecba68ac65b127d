"""Resin-modified glass ionomer in layers, whatever lies over them: from which capsule each comes, and what the hands do."""

from __future__ import annotations

import math
from collections.abc import Sequence

from mallet.curing.cured import Cured
from mallet.curing.exposures import light_steps, seen_before_light
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.ionomer import Chosen, held_mm3, mixing_step, supplies_of
from mallet.terms.plan import Step, Supply, Within


def capsules_of(cured: Sequence[Cured], chosen: Chosen, rules: Rulebook) -> dict[int, list[int]]:
    """Return the orders of the layers that come from each capsule: the one in hand as long as it lasts and can be worked."""
    held = held_mm3(chosen, rules)
    found: dict[int, list[int]] = {}
    used_mm3, used_s = math.inf, math.inf
    for order, one in enumerate(cured, 1):
        volume, place_s = one.portion.solid.volume(), seconds_to_place(one, rules)
        if used_mm3 + volume > held or used_s + place_s > chosen.item.working_s:
            used_mm3, used_s = 0.0, 0.0
            found[len(found) + 1] = []
        air_s = rules.value("light.between_exposures_s") if one.is_lit_again(rules) else 0.0
        used_mm3, used_s = used_mm3 + volume, used_s + place_s + one.seconds + air_s
        found[len(found)].append(order)
    return found


def step_of(cured: Sequence[Cured], order: int, what: str) -> str:
    """Return the id of a step of the layer of an order."""
    return f"build.{cured[order - 1].portion.id}.{what}"


def supplies_of_layers(
    cured: Sequence[Cured], capsules: dict[int, list[int]], chosen: Chosen, steps: Sequence[Step]
) -> list[Supply]:
    """Return each capsule with its times and its layers."""
    mixed = [(step_of(cured, orders[0], "mix"), orders) for orders in capsules.values()]
    return supplies_of(chosen, steps, mixed)


def seconds_to_place(one: Cured, rules: Rulebook) -> int:
    """Return how long a layer takes to be placed, before its light."""
    volume = one.portion.solid.volume()
    return round(float(rules.value("chair.place_fixed_s") + rules.value("ionomer.place_s_per_mm3") * volume))


def placing_layers(
    cured: Sequence[Cured],
    capsules: dict[int, list[int]],
    chosen: Chosen,
    dry: str,
    between: Sequence[Step],
    rules: Rulebook,
) -> list[Step]:
    """Return the steps of mixing each capsule, and of placing and curing its layers, after the step that left the cavity
    `dry`; `between` is what is changed before the first."""
    steps: list[Step] = []
    last = before = dry
    for step in between:
        steps.append(step.model_copy(update={"after": [last]}))
        last = step.id
    opens, mixed = {orders[0] for orders in capsules.values()}, ""
    for order, one in enumerate(cured, 1):
        if order in opens:
            mixing = mixing_step(chosen, step_of(cured, order, "mix"), order, before, rules)
            steps.append(mixing)
            mixed = mixing.id
        place = _place(order, one, mixed, last, chosen, rules)
        lights = light_steps(one, order, [place.id], rules)
        steps += [place, *lights]
        # The next capsule is mixed while this layer is cured.
        before, last = place.id, lights[-1].id
    return steps


def _place(order: int, one: Cured, mixed: str, last: str, chosen: Chosen, rules: Rulebook) -> Step:
    volume, seconds = one.portion.solid.volume(), seconds_to_place(one, rules)
    told = {
        "portion": one.portion.id,
        "what": one.portion.name,
        "how": one.portion.sculpt,
        "name": chosen.item.name,
        "volume_mm3": volume,
    }
    return catalog_step(
        "ionomer.place_layer",
        rules,
        told,
        seconds=seconds,
        after=list(dict.fromkeys([mixed, last])),
        within=[Within(step=mixed, seconds=max(chosen.item.working_s - seconds, 0.0))],
        increment=order,
        check=seen_before_light(one.portion),
    )
