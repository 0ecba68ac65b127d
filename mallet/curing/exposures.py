"""Steps under the light: what is pressed and from where, in words and as data."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

from mallet.curing.cured import Cured, Portion
from mallet.curing.lamp import mode_name
from mallet.light.presses import Rung
from mallet.light.working_curve import rule_of_dose
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.pieces import RuleUse
from mallet.terms.plan import CuringCycle, Step, StepCheck
from mallet.terms.restoration import FULL, FullOutput, OutputMode

LAMP = "curing light"
AIR = ".air"
BETWEEN = "light.between_exposures_s"
FROM = {
    "occlusal": "",
    "occlusal_mesial": " over the mesial half",
    "occlusal_distal": " over the distal half",
    "occlusal_facial": " over the facial half",
    "occlusal_lingual": " over the lingual half",
    "facial": " from facial",
    "facial_mesial": " from facial over the mesial half",
    "facial_distal": " from facial over the distal half",
    "facial_gingival": " from facial over the half at the gingiva",
    "facial_occlusal": " from facial over the half away from the gingiva",
    "lingual": " from lingual",
    "lingual_mesial": " from lingual over the mesial half",
    "lingual_distal": " from lingual over the distal half",
    "lingual_gingival": " from lingual over the half at the gingiva",
    "lingual_occlusal": " from lingual over the half away from the gingiva",
}


def presses_of(exposures: Iterable[tuple[str, Rung]]) -> list[CuringCycle]:
    """Return the presses of exposures, each given by its source, in order."""
    return [CuringCycle(source=source, seconds=s) for source, rung in exposures for s in rung.presses]


def pressed(presses: Sequence[CuringCycle]) -> str:
    """Say what to press, and from where when it is not from occlusal alone."""
    groups = [(source, [p.seconds for p in some]) for source, some in by_source(presses)]
    several = len(groups) > 1
    return ", then ".join(
        " + ".join(f"{s:g}" for s in seconds)
        + " s"
        + (" from occlusal" if several and source == "occlusal" else FROM[source])
        for source, seconds in groups
    )


def by_source(presses: Sequence[CuringCycle]) -> list[tuple[str, list[CuringCycle]]]:
    """Return presses in groups of one source, in their order."""
    return [(source, list(some)) for source, some in itertools.groupby(presses, key=lambda p: p.source)]


def light_step(
    name: str,
    rules: Rulebook,
    rule: str,
    presses: Sequence[CuringCycle],
    told: Mapping[str, object],
    **fields: Any,
) -> Step:
    """Return a step of the catalogue under the light that says what to press."""
    return catalog_step(
        name,
        rules,
        {**told, "cycles": pressed(presses)},
        seconds=sum(p.seconds for p in presses),
        seconds_rule=rules.use(rule),
        presses=list(presses),
        **fields,
    )


def in_turns(
    step: Step,
    shared: Sequence[Sequence[CuringCycle]],
    pause: Callable[[str, str], Step] | None,
    each: str = "",
) -> list[Step]:
    """Return an exposure in turns, each with what is pressed in it, and a pause between, which is made of its id and of
    the step that it follows; the first keeps the exposure's id, the last its check. `each` is what a turn's number
    comes after in its id."""
    made: list[Step] = []
    for i, presses in enumerate(shared, 1):
        name = step.id if i == 1 else f"{step.id}.{each}{i}"
        if i > 1 and pause:
            # A pause after the last turn has the turn's own name.
            made.append(pause(f"{name}.before{AIR}", made[-1].id))
        turn = {
            "id": name,
            "title": f"{step.title}, {i} of {len(shared)}",
            "detail": step.detail.replace(pressed(step.presses), pressed(presses)),
            "presses": list(presses),
            "seconds": sum(p.seconds for p in presses),
            "after": step.after if i == 1 else [made[-1].id],
            "check": step.check if i == len(shared) else None,
        }
        made.append(step.model_copy(update=turn))
    return made


def turns_of(presses: Sequence[CuringCycle], longest_s: float) -> list[list[CuringCycle]]:
    """Return presses in turns, in none of which a source lights longer than a time, unless one press does."""
    turns: list[list[CuringCycle]] = []
    for _, some in by_source(presses):
        turn, left_s = 0, longest_s
        for press in some:
            if press.seconds > left_s and left_s < longest_s:
                turn, left_s = turn + 1, longest_s
            if turn == len(turns):
                turns.append([])
            turns[turn].append(press)
            left_s -= press.seconds
    return turns


def light_steps(one: Cured, order: int, after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how an increment is cured once it is placed, in turns where one exposure would be too long."""
    exposures = zip((aim.name for aim in one.lit.aims), one.exposed.rungs, strict=True)
    light = light_step(
        "build.light",
        rules,
        rule_of_dose(one.mass),
        presses_of(exposures),
        {"portion": one.portion.id, "name": one.portion.name},
        after=list(after),
        increment=order,
    )
    return again_in_turns(light, rules)


def again_in_turns(light: Step, rules: Rulebook) -> list[Step]:
    """Return an exposure, in turns with air between where it is too long for one."""
    turns, air = turns_of(light.presses, rules.value("light.longest_exposure_s")), rules.use(BETWEEN)
    if len(turns) == 1:
        return [light]

    def pause(name: str, after: str) -> Step:
        return air_step(name, light.stage, after, air.value, air, rules)

    return in_turns(light, turns, pause if air.value else None, each="again")


def air_step(name: str, stage: str, after: str, seconds: float, rule: RuleUse, rules: Rulebook) -> Step:
    """Return a pause in which the tooth is cooled."""
    told = {"name": name, "why": "adds_up" if rule.rule == BETWEEN else "pulp_near"}
    return catalog_step(
        "build.air", rules, told, stage=stage, seconds=seconds, seconds_rule=rule, after=[after]
    )


def is_air(step: Step) -> bool:
    """Tell whether a step is a pause in which the tooth is cooled."""
    return step.role == "cooling"


def with_mode(steps: Sequence[Step], mode: OutputMode) -> list[Step]:
    """Return steps that, under the light, say what the curing light is to be set to where it offers more than full output; the
    adhesive is lit at that."""
    if isinstance(mode, FullOutput):
        return list(steps)

    # At the chair the name is enough; the decision tells the rest.
    def set_to(step: Step) -> Step:
        name = mode_name(FULL if step.stage == "bond" else mode).partition(",")[0]
        tray = [f"{LAMP}, set to {name}" if thing == LAMP else thing for thing in step.tray]
        return step.model_copy(update={"tray": tray})

    return [set_to(step) if step.light else step for step in steps]


def seen_before_light(portion: Portion) -> StepCheck | None:
    """Return what is looked at of an increment before its light; nothing but on a gingival floor."""
    if portion.part != "gingival_floor" and not (portion.part == "floor" and portion.side):
        return None
    return StepCheck(
        question="Before the light: does it meet the gingival floor without a gap?",
        remedy="Press it down again, or take it out and place it again, before it is lit.",
        back_to=f"build.{portion.id}.place",
    )
