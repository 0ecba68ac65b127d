"""Devices that run a program of so many seconds at the chair: the interface that a driver serves, and the simulated ones that
ship with the application: a capsule mixer, an electric annealer, an alcohol burner."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, Protocol

Phase = Literal["idle", "running", "done", "error"]
DeviceKind = Literal["mixer", "annealer", "burner"]


@dataclass(frozen=True)
class Kind:
    """A kind of device: its name as a simulated one, how long its programs last (s), what is wrong while it is open, and what
    comes of stopping it."""

    name: str
    least_s: float
    most_s: float
    opened: str
    stopped: str


KINDS: dict[DeviceKind, Kind] = {
    "mixer": Kind(
        "simulated capsule mixer", 1.0, 60.0, "lid open: close it and start again",
        "stopped before its time: take a fresh capsule",
    ),
    "annealer": Kind(
        "simulated electric annealer", 60.0, 1800.0, "door open: close it and start again",
        "stopped before its time: heat all of it again",
    ),
    "burner": Kind(
        "simulated alcohol burner", 1.0, 10.0, "cap on: take it off and light it",
        "taken out too soon: heat the pellet again",
    ),
}  # fmt: skip


@dataclass(frozen=True)
class DeviceState:
    """What a device does: how long its program still runs (s), how long ago it was done, or what stopped it."""

    phase: Phase
    left_s: float = 0.0
    program_s: float = 0.0
    done_s: float = 0.0
    error: str = ""


class DeviceError(Exception):
    """A device does not take what it is asked to do."""


class Device(Protocol):
    """What a driver must do: name itself, run a program of so many seconds, stop it, and tell its state at any time."""

    name: str

    def start(self, program_s: float) -> None: ...

    def stop(self) -> None: ...

    def state(self) -> DeviceState: ...


class SimulatedDevice:
    """Runs its time over nothing; opened it stops, as a real one does."""

    def __init__(self, kind: Kind, clock: Callable[[], float] = time.monotonic) -> None:
        self.name = kind.name
        self._kind = kind
        self._clock = clock
        self._began: float | None = None
        self._program_s = 0.0
        self._error = ""
        self.is_open = False

    def start(self, program_s: float) -> None:
        """Run a program; raise DeviceError while another runs, or for a time that no such device has."""
        kind = self._kind
        if not kind.least_s <= program_s <= kind.most_s:
            raise DeviceError(f"{program_s:g} s: a program lasts {kind.least_s:g} to {kind.most_s:g} s")
        if self.state().phase == "running":
            raise DeviceError("a program is running: wait, or stop it")
        self._error = kind.opened if self.is_open else ""
        self._began = None if self._error else self._clock()
        self._program_s = program_s

    def stop(self) -> None:
        if self.state().phase == "running":
            self._began, self._error = None, self._kind.stopped

    def open(self) -> None:
        self.is_open = True
        self.stop()

    def close(self) -> None:
        self.is_open = False

    def state(self) -> DeviceState:
        if self._error:
            return DeviceState("error", program_s=self._program_s, error=self._error)
        if self._began is None:
            return DeviceState("idle")
        left = self._program_s - (self._clock() - self._began)
        if left > 0:
            return DeviceState("running", left, self._program_s)
        return DeviceState("done", 0.0, self._program_s, -left)


# One of a kind for each practice that has one, as long as the server runs.
_devices: dict[tuple[int, DeviceKind], Device] = {}


def device_of(practice_id: int, kind: DeviceKind, *, is_demo: bool) -> Device | None:
    """Return the device of a practice; a real one has no driver yet, and a simulated one never stands beside patients."""
    if not is_demo:
        return None
    return _devices.setdefault((practice_id, kind), SimulatedDevice(KINDS[kind]))
