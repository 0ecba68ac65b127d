"""Orders steps for two hands: what can be done when, by whom, without overlap.

Deterministic: among steps that can start, the one listed first goes first. Nothing here asks for
the time; times are seconds from the start.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from mallet.terms.plan import Step

HANDS = {"dentist": ("dentist",), "assistant": ("assistant",), "both": ("dentist", "assistant")}


def schedule(steps: Sequence[Step], *, is_alone: bool = False) -> list[Step]:
    """Return the steps in order of doing, with start and end; with one pair of hands the dentist does them all.

    An assistant's own step is moved as late as its followers allow, so that what is mixed or
    portioned arrives fresh. Raises ValueError for an unknown predecessor, a double id or a circle.
    """
    if is_alone:
        steps = [step.model_copy(update={"actor": "dentist"}) for step in steps]
    ordered = _ordered(steps)
    timed = _as_late_as_useful(_forward(ordered, {}))
    if any(step.no_sooner for step in steps):
        # What waits for an assistant's step waits for it where that has come to lie.
        moved = {step.id: step.start_s for step in timed if step.actor == "assistant"}
        timed = _as_late_as_useful(_forward(ordered, moved))
    place = {step.id: i for i, step in enumerate(timed)}
    return sorted(timed, key=lambda s: (s.start_s, s.actor != "assistant", place[s.id]))


def missed_windows(steps: Sequence[Step]) -> list[tuple[Step, str, float]]:
    """Return (step, earlier step, seconds too late) for each window that the order cannot keep."""
    ends = {step.id: step.end_s for step in steps}
    missed = []
    for step in steps:
        for window in step.within:
            late = step.start_s - ends[window.step] - window.seconds
            if late > 1e-9:
                missed.append((step, window.step, late))
    return missed


def _ordered(steps: Sequence[Step]) -> list[Step]:
    known = [step.id for step in steps]
    if len(set(known)) != len(known):
        raise ValueError("two steps share an id")
    for step in steps:
        for name in step.after:
            if name not in known:
                raise ValueError(f"step {step.id} follows {name}, which is no step")
    done: set[str] = set()
    waiting, order = list(steps), []
    while waiting:
        ready = next((i for i, s in enumerate(waiting) if done.issuperset(s.after)), None)
        if ready is None:
            raise ValueError("steps wait for each other: " + ", ".join(s.id for s in waiting))
        order.append(waiting.pop(ready))
        done.add(order[-1].id)
    return order


def _forward(steps: Sequence[Step], not_before: Mapping[str, float]) -> list[Step]:
    """Give each step the earliest gap in the lanes that it needs, after its predecessors and not before a time."""
    busy: dict[str, list[tuple[float, float]]] = {"dentist": [], "assistant": []}
    ends: dict[str, float] = {}
    placed = []
    for step in steps:
        waits = [ends[wait.step] + wait.seconds for wait in step.no_sooner]
        earliest = max([not_before.get(step.id, 0.0), *waits, *(ends[name] for name in step.after)])
        taken = sorted(span for hand in HANDS[step.actor] for span in busy[hand])
        start = _gap(taken, earliest, step.seconds)
        end = start + step.seconds
        for hand in HANDS[step.actor]:
            busy[hand].append((start, end))
        ends[step.id] = end
        placed.append(step.model_copy(update={"start_s": start, "end_s": end}))
    return placed


def _gap(taken: Sequence[tuple[float, float]], earliest: float, seconds: float) -> float:
    start = earliest
    for begins, ends in taken:
        if start + seconds <= begins:
            break
        start = max(start, ends)
    return start


def _as_late_as_useful(steps: Sequence[Step]) -> list[Step]:
    starts = {step.id: step.start_s for step in steps}
    moved = list(steps)
    for i in reversed(range(len(moved))):
        step = moved[i]
        followers = [starts[s.id] for s in moved if step.id in s.after]
        if step.actor != "assistant" or not followers:
            continue
        busy = [
            starts[s.id]
            for s in moved
            if "assistant" in HANDS[s.actor] and s.id != step.id and starts[s.id] >= step.end_s
        ]
        end = min([*followers, *busy])
        starts[step.id] = end - step.seconds
        moved[i] = step.model_copy(update={"start_s": end - step.seconds, "end_s": end})
    return moved
