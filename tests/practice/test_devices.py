"""Devices at the chair: simulated ones behind the interface, the mix's clock from when it is ready, and what is discarded."""

import pytest

from practice.accounts.models import Practice, User
from practice.devices.programs import KINDS, Device, DeviceError, DeviceKind, SimulatedDevice, device_of
from practice.restorations.models import Restoration
from tests.practice.conftest import Caller, event


class Clock:
    now = 100.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def mixer(clock: Clock) -> SimulatedDevice:
    return SimulatedDevice(KINDS["mixer"], clock)


def test_a_program_runs_for_its_seconds_and_is_done(mixer: SimulatedDevice, clock: Clock) -> None:
    driver: Device = mixer
    assert driver.state().phase == "idle"
    driver.start(9.0)
    for later, phase, left in (
        (0.0, "running", 9.0),
        (8.5, "running", 0.5),
        (0.5, "done", 0.0),
        (60.0, "done", 0.0),
    ):
        clock.now += later
        assert (driver.state().phase, driver.state().left_s) == (phase, pytest.approx(left))
    driver.start(5.0)
    assert driver.state().phase == "running"


@pytest.mark.parametrize(
    ("kind", "program_s", "too_long_s"), [("annealer", 600.0, 1801.0), ("burner", 3.0, 11.0)]
)
def test_gold_is_heated_for_its_time_and_what_is_clean_grows_old(
    kind: DeviceKind, program_s: float, too_long_s: float, clock: Clock
) -> None:
    device = SimulatedDevice(KINDS[kind], clock)
    with pytest.raises(DeviceError, match="a program lasts"):
        device.start(too_long_s)
    device.start(program_s)
    clock.now += program_s / 2
    device.stop()
    assert device.state().phase == "error"
    device.start(program_s)
    clock.now += program_s + 42
    state = device.state()
    assert (state.phase, state.done_s) == ("done", pytest.approx(42))


def test_what_a_mixer_does_not_take_it_says(mixer: SimulatedDevice, clock: Clock) -> None:
    for seconds in (0.0, 61.0):
        with pytest.raises(DeviceError, match="1 to 60 s"):
            mixer.start(seconds)
    mixer.start(9.0)
    with pytest.raises(DeviceError, match="is running"):
        mixer.start(9.0)
    clock.now += 3.0
    mixer.open()
    assert mixer.state().error.startswith("stopped before its time")
    mixer.start(9.0)
    assert mixer.state().error.startswith("lid open")
    mixer.close()
    mixer.start(9.0)
    assert mixer.state().phase == "running"


def test_only_the_demo_has_a_simulated_one(demo: Practice, call: Caller) -> None:
    assert device_of(demo.pk, "mixer", is_demo=False) is None
    assert call("POST", "devices/mixer", {"program_s": 60})[1]["phase"] == "running"
    status, answer = call("POST", "devices/mixer", {"program_s": 5})
    assert (status, answer["code"]) == (409, "mixer.busy")
    assert call("POST", "devices/mixer", {"program_s": 1801})[0] == 422
    assert call("DELETE", "devices/mixer")[1]["phase"] == "error"
    assert "fresh capsule" in call("GET", "devices/mixer")[1]["error"]
    Practice.objects.filter(pk=demo.pk).update(is_demo=False)
    assert call("GET", "devices/mixer")[1]["phase"] == "none"
    assert call("POST", "devices/mixer", {"program_s": 9})[1]["code"] == "mixer.none"


def test_a_mix_is_noted_when_it_is_ready_and_discarded_when_it_is_too_old(
    demo: Practice, dentist: User, call: Caller
) -> None:
    found = Restoration.objects.get(patient__full_name="Torvald Eskil Brannagh")
    run_id = call("POST", f"restorations/{found.pk}/runs")[1]["id"]
    run = call("GET", f"runs/{run_id}")[1]
    (mix,) = (step["id"] for step in run["steps"] if step["role"] == "mix")
    steps, state = {step["id"]: step for step in run["steps"]}, run["state"]

    def happen(kind: str, **detail: str) -> None:
        nonlocal state
        status, state = call("POST", f"runs/{run_id}/events", event(state, kind, detail=detail))
        assert status == 200, state

    while not steps[state["step_id"]]["rhythm"]:
        if state["step_id"] == "build.mix.1.look":
            happen("mixed", id=mix)
        happen("check_passed" if steps[state["step_id"]].get("check") else "step_done")
    assert [(one["step_id"], one["is_discarded"]) for one in state["mixes"]] == [(mix, False)]
    status, answer = call(
        "POST", f"runs/{run_id}/events", event(state, "mixed", detail={"id": "build.burnish"})
    )
    assert (status, answer["problems"][0]["allowed"]) == (422, f"one of {mix}")
    # Two devices see the mixer end: it was ready once.
    happen("mixed", id=mix)
    assert len(state["mixes"]) == 1
    happen("mix_too_old")
    happen("mixed", id=mix)
    assert [one["is_discarded"] for one in state["mixes"]] == [True, False]
