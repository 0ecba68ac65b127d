"""A capsule mixer: the interface that a driver serves, and the simulated one that ships with the application."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, Protocol

LEAST_S, MOST_S = 1.0, 60.0
Phase = Literal["idle", "running", "done", "error"]


@dataclass(frozen=True)
class MixerState:
    """What a mixer does: how long its program still runs (s), or what stopped it."""

    phase: Phase
    left_s: float = 0.0
    program_s: float = 0.0
    error: str = ""


class MixerError(Exception):
    """A mixer does not take what it is asked to do."""


class Mixer(Protocol):
    """What a driver must do: name itself, run a program of so many seconds, stop it, and tell its state at any time."""

    name: str

    def start(self, program_s: float) -> None: ...

    def stop(self) -> None: ...

    def state(self) -> MixerState: ...


class SimulatedMixer:
    """Shakes a capsule that there is none of; an open lid stops it, as it stops a real one."""

    name = "simulated capsule mixer"

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._began: float | None = None
        self._program_s = 0.0
        self._error = ""
        self.is_lid_open = False

    def start(self, program_s: float) -> None:
        """Run a program; raise MixerError while another runs, or for a time that no mixer has."""
        if not LEAST_S <= program_s <= MOST_S:
            raise MixerError(f"{program_s:g} s: a program lasts {LEAST_S:g} to {MOST_S:g} s")
        if self.state().phase == "running":
            raise MixerError("a program is running: wait, or stop it")
        self._error = "lid open: close it and start again" if self.is_lid_open else ""
        self._began = None if self._error else self._clock()
        self._program_s = program_s

    def stop(self) -> None:
        if self.state().phase == "running":
            self._began, self._error = None, "stopped before its time: take a fresh capsule"

    def open_lid(self) -> None:
        self.is_lid_open = True
        self.stop()

    def close_lid(self) -> None:
        self.is_lid_open = False

    def state(self) -> MixerState:
        if self._error:
            return MixerState("error", program_s=self._program_s, error=self._error)
        if self._began is None:
            return MixerState("idle")
        left = self._program_s - (self._clock() - self._began)
        if left > 0:
            return MixerState("running", left, self._program_s)
        return MixerState("done", 0.0, self._program_s)


# One for each practice that has one, as long as the server runs.
_mixers: dict[int, Mixer] = {}


def mixer_of(practice_id: int, *, is_demo: bool) -> Mixer | None:
    """Return the mixer of a practice; a real one has no driver yet, and a simulated one never stands beside patients."""
    if not is_demo:
        return None
    return _mixers.setdefault(practice_id, SimulatedMixer())
