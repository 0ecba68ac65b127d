"""A curing light's button: whole curing cycles, what each stands for at full output, and the least that suffice.

Readings are taken at full, steady output; a ramp or pulses give less for the same time, and every
press of a ramp begins it again.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from mallet.terms.restoration import FULL, FullOutput, Light, OutputMode, RampOutput

UNIT_S = 0.5
HAIR_S = 1e-9
FIRST_REACH_S = 60.0
# Longer than anyone holds a lamp: no presses are worked out for it.
ENDLESS_S = 600.0


@dataclass(frozen=True)
class Rung:
    """Presses that give more than all that take less time: their total and what they stand for at
    full output (s)."""

    seconds: float
    full_s: float
    presses: tuple[float, ...]


@dataclass(frozen=True)
class Button:
    """What a curing light's button offers: lengths of a press (s), and how the output goes during each."""

    steps_s: tuple[float, ...]
    mode: OutputMode = FULL

    def full_s(self, press_s: float) -> float:
        """Return the seconds at full output that one press stands for."""
        mode = self.mode
        if isinstance(mode, FullOutput):
            return press_s
        if isinstance(mode, RampOutput):
            rising = min(press_s, mode.rise_s)
            lost = (1 - mode.start_share) * rising * (1 - rising / (2 * mode.rise_s))
            return press_s - lost
        return press_s * mode.on_share

    def least(self, full_s: float) -> Rung:
        """Return the presses with the least total that stand for a time at full output or more.

        Among equal totals those that give most, then the fewest. Nought or less needs no press; a time
        over `ENDLESS_S` comes back as it is, in no presses.
        """
        if full_s > ENDLESS_S:
            return Rung(full_s, full_s, ())
        reach_s = FIRST_REACH_S
        while (ladder := _ladder(self, reach_s))[-1].full_s < full_s - HAIR_S:
            reach_s *= 2
        return next(rung for rung in ladder if rung.full_s >= full_s - HAIR_S)

    def rungs(self, least_s: float, longest_s: float) -> tuple[Rung, ...]:
        """Return no press and every choice that stands for `least_s` at full output or more and takes
        `longest_s` at most, in order."""
        ladder = _ladder(self, longest_s)
        return tuple(rung for rung in ladder if not rung.presses or rung.full_s >= least_s - HAIR_S)


def button_of(light: Light) -> Button:
    """Return the button of a case's curing light in its mode."""
    return Button(tuple(light.time_steps_s), light.output_mode)


@lru_cache(maxsize=64)
def _ladder(button: Button, reach_s: float) -> tuple[Rung, ...]:
    """Return the rungs up to a total, each with more full output than the one before."""
    sizes = sorted({max(1, round(s / UNIT_S)) for s in button.steps_s}, reverse=True)
    full = {size: round(button.full_s(size * UNIT_S), 9) for size in sizes}
    # For each total in units: full output, presses (fewer are better) and the last one added.
    best: list[tuple[float, int, int] | None] = [(0.0, 0, 0)]
    for total in range(1, int(reach_s / UNIT_S) + 1):
        known = [(before, size) for size in sizes if size <= total and (before := best[total - size])]
        options = [(round(gives + full[size], 9), count - 1, size) for (gives, count, _), size in known]
        best.append(max(options, default=None))
    rungs = [Rung(0.0, 0.0, ())]
    for total, found in enumerate(best):
        if found and found[0] > rungs[-1].full_s:
            rungs.append(Rung(total * UNIT_S, found[0], _traced(best, total)))
    return tuple(rungs)


def _traced(best: list[tuple[float, int, int] | None], total: int) -> tuple[float, ...]:
    """Return the presses behind a total, longest first."""
    sizes = []
    while total and (found := best[total]):
        sizes.append(found[2])
        total -= found[2]
    return tuple(size * UNIT_S for size in sorted(sizes, reverse=True))
