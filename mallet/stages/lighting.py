"""Steps under the light: what is pressed and from where, in words and as data."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence

from mallet.light.presses import Rung
from mallet.stages.lamp import mode_name
from mallet.terms.case import FULL, FullOutput, OutputMode
from mallet.terms.plan import Press, RuleUse, Step, StepCheck

LAMP = "lamp"
FROM = {
    "occlusal": "",
    "occlusal_mesial": " over the mesial half",
    "occlusal_distal": " over the distal half",
    "occlusal_facial": " over the facial half",
    "occlusal_lingual": " over the lingual half",
    "facial": " from facial",
    "facial_mesial": " from facial over the mesial half",
    "facial_distal": " from facial over the distal half",
    "facial_gingival": " from facial over the half at the gum",
    "facial_occlusal": " from facial over the half away from the gum",
    "lingual": " from lingual",
    "lingual_mesial": " from lingual over the mesial half",
    "lingual_distal": " from lingual over the distal half",
    "lingual_gingival": " from lingual over the half at the gum",
    "lingual_occlusal": " from lingual over the half away from the gum",
}


def presses_of(exposures: Iterable[tuple[str, Rung]]) -> list[Press]:
    """Return the presses of exposures, each given by its source, in order."""
    return [Press(source=source, seconds=s) for source, rung in exposures for s in rung.presses]


def pressed(presses: Sequence[Press]) -> str:
    """Say what to press, and from where when it is not from occlusal alone."""
    groups = [(source, [p.seconds for p in some]) for source, some in by_source(presses)]
    several = len(groups) > 1
    return ", then ".join(
        " + ".join(f"{s:g}" for s in seconds)
        + " s"
        + (" from occlusal" if several and source == "occlusal" else FROM[source])
        for source, seconds in groups
    )


def by_source(presses: Sequence[Press]) -> list[tuple[str, list[Press]]]:
    """Return presses in groups of one source, in their order."""
    return [(source, list(some)) for source, some in itertools.groupby(presses, key=lambda p: p.source)]


def light_step(
    id: str,
    stage: str,
    title: str,
    presses: Sequence[Press],
    rule: RuleUse,
    after: Sequence[str],
    *,
    how: str = "Tip flat, as close as it goes.",
    then: str = "Orange shield.",
    increment: int | None = None,
    check: StepCheck | None = None,
) -> Step:
    """Return a step under the light that says what to press."""
    return Step(
        id=id,
        stage=stage,
        title=title,
        detail=f"{how} Press {pressed(presses)}. {then}",
        actor="both",
        seconds=sum(p.seconds for p in presses),
        seconds_rule=rule,
        timed=True,
        light=True,
        presses=list(presses),
        tray=[LAMP, "orange shield"],
        after=list(after),
        increment=increment,
        check=check,
    )


def with_mode(steps: Sequence[Step], mode: OutputMode) -> list[Step]:
    """Return steps that, under the light, say what the lamp is to be set to where it offers more than full output; the
    adhesive is lit at that."""
    if isinstance(mode, FullOutput):
        return list(steps)

    # At the chair the name is enough; the decision tells the rest.
    def set_to(step: Step) -> Step:
        name = mode_name(FULL if step.stage == "bond" else mode).partition(",")[0]
        tray = [f"{LAMP}, set to {name}" if thing == LAMP else thing for thing in step.tray]
        return step.model_copy(update={"tray": tray})

    return [set_to(step) if step.light else step for step in steps]
