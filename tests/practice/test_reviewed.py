"""What reviews teach: readings of restorations over what was predicted of them put a composite right, once there are enough."""

from typing import Any

import numpy as np
import pytest

from mallet.color.corrected import READ_AS, bias_of, corrected
from mallet.color.difference import de00
from mallet.color.shown import shown_of
from mallet.rulebook import load_rulebook
from mallet.terms.optics import FamilyOptics, LabOptics
from practice.accounts.models import User
from practice.equipment.models import Item, Specimen
from practice.equipment.optics import OPTICS
from practice.records.reviewed import STEP, taught
from practice.restorations.models import Restoration, Visit, VisitPart
from practice.runs.models import Run, RunEvent
from tests.practice.conftest import Caller, event
from tests.practice.test_later import placed

pytestmark = pytest.mark.django_db
DENTIN = "Skarv dentin, opaque"
OFF = (-2.5, 0.5, 1.0)


@pytest.fixture
def corner(dentist: User, call: Caller) -> Restoration:
    """Return a broken corner with a plan made today."""
    found: Restoration = Restoration.objects.get(patient__full_name="Birta Vantongeren")
    case = call("get", f"restorations/{found.pk}")[1]["case"]
    assert call("post", f"restorations/{found.pk}/plans", {"case": case})[0] == 201
    return found


def review_of(corner: Restoration, dentist: User) -> Run:
    """Return a review of a restoration that was placed ten days ago, just begun."""
    placed(corner, dentist, hours_ago=240)
    visit = Visit.objects.create(
        practice=corner.practice,
        patient=corner.patient,
        dentist=dentist,
        starts_at=corner.visit.starts_at,
        chair="chair 1",
    )
    part = VisitPart.objects.create(
        practice=corner.practice, visit=visit, restoration=corner, purpose="review"
    )
    run_id = Caller(dentist)("post", f"parts/{part.pk}/runs")[1]["id"]
    found: Run = Run.objects.get(pk=run_id)
    return found


def next_step(call: Caller, run: Run, state: dict[str, Any]) -> dict[str, Any]:
    steps = {step["id"]: step for step in call("get", f"runs/{run.pk}")[1]["steps"]}
    at_end = state["index"] == state["count"] - 1
    kind = "check_passed" if steps[state["step_id"]].get("check") else "finished" if at_end else "step_done"
    status, after = call("post", f"runs/{run.pk}/events", event(state, kind))
    assert status == 200, after
    return after


def looked_at(call: Caller, run: Run) -> dict[str, Any]:
    """Go on to where the shade is looked at."""
    state: dict[str, Any] = call("get", f"runs/{run.pk}")[1]["state"]
    while state["step_id"] != STEP:
        state = next_step(call, run, state)
    return state


def read_at(call: Caller, run: Run, off: tuple[float, ...]) -> None:
    """Type in what is read of a restoration, so far off what was predicted, and end its review."""
    predicted, state = run.plan.body.planned["color"]["predicted"], looked_at(call, run)
    for name, value, more in zip(READ_AS, predicted, off, strict=True):
        told = event(state, "measured", detail={"id": name, "value": round(value + more, 1)})
        status, state = call("post", f"runs/{run.pk}/events", told)
        assert status == 200, state
    while not state["finished"]:
        state = next_step(call, run, state)


def again(run: Run, times: int) -> None:
    """Have more patients whose restorations were planned, placed and reviewed the same."""
    for _ in range(times):
        other = Restoration.objects.get(pk=run.restoration_id)
        other.pk = None
        other.save()
        copy = Run.objects.get(pk=run.pk)
        copy.pk, copy.restoration, copy.part = None, other, None
        copy.save()
        for one in RunEvent.objects.filter(run=run):
            RunEvent.objects.create(
                **{
                    field.name: getattr(one, field.name)
                    for field in RunEvent._meta.concrete_fields
                    if field.name not in ("id", "run", "client_id")
                },
                run=copy,
                client_id=event({"step_id": "", "revision": 0}, "")["client_id"],
            )


def shade_of(call: Caller) -> dict[str, Any]:
    found: dict[str, Any] = next(one for one in call("get", "shades")[1] if one["name"] == DENTIN)
    return found


def test_five_reviews_that_agree_put_a_composite_right_and_teach_no_more(
    corner: Restoration, dentist: User, assistant: User, call: Caller
) -> None:
    run = review_of(corner, dentist)
    read_at(call, run, OFF)
    item = Item.objects.get(name=DENTIN)
    reviewed = shade_of(call)["reviewed"]
    assert (reviewed["reviews"], reviewed["is_enough"]) == (1, False)
    assert reviewed["off_lab"] == pytest.approx(OFF, abs=0.05)
    assert reviewed["says"].startswith("darker")
    route = f"stock/{item.pk}/color/reviews"
    assert call("post", route)[1]["code"] == "equipment.optics.not_taught"

    again(run, 4)
    before = shade_of(call)
    assert (before["reviewed"]["reviews"], before["reviewed"]["is_enough"]) == (5, True)
    assert Caller(assistant)("post", route)[0] == 403
    status, told = call("post", route)
    assert status == 200
    # One millimeter over black, where it hides: it reads as much darker as the teeth did.
    moved = np.array(told["color"]["over_black"]) - before["color"]["over_black"]
    assert moved == pytest.approx(OFF, abs=0.4)
    after = shade_of(call)
    assert after["reviewed"] is None, "what was planned before is no review of what is known now"
    assert after["readings"][-1]["reviews"] == 5
    assert (
        Specimen.objects.filter(item=item).last().optics == Item.objects.get(pk=item.pk).properties["optics"]
    )
    assert call("post", route)[0] == 409


def test_readings_that_agree_with_what_was_predicted_put_nothing_right(
    corner: Restoration, dentist: User, call: Caller
) -> None:
    run = review_of(corner, dentist)
    read_at(call, run, (0.4, 0.0, -0.3))
    again(run, 6)
    told = taught(corner.practice)[DENTIN]
    assert (told.reviews, told.is_enough) == (7, False)


def test_half_a_reading_and_a_review_that_is_not_ended_teach_nothing(
    corner: Restoration, dentist: User, call: Caller
) -> None:
    run = review_of(corner, dentist)
    state = looked_at(call, run)
    told = event(state, "measured", detail={"id": "lab_l", "value": 101})
    status, answer = call("post", f"runs/{run.pk}/events", told)
    assert (status, answer["problems"][0]["allowed"]) == (422, "-100 to 100")
    assert (
        call("post", f"runs/{run.pk}/events", event(state, "measured", detail={"id": "lab_l", "value": 70}))[
            0
        ]
        == 200
    )
    assert taught(corner.practice) == {}
    Run.objects.filter(pk=run.pk).update(finished_at=run.started_at)
    assert taught(corner.practice) == {}


@pytest.mark.parametrize("kind", ["spectral", "lab", "family"])
def test_moved_optics_read_moved_and_no_move_moves_nothing(kind: str) -> None:
    known = OPTICS.validate_python(Item.objects.get(name=DENTIN).properties["optics"])
    color = shown_of(known, load_rulebook())
    told = {
        "spectral": known,
        "lab": LabOptics(
            kind="lab",
            thickness_mm=1.0,
            over_black=color.over_black,
            over_white=color.over_white,
            white=[95.0, 0.0, 0.0],
        ),
        "family": FamilyOptics(kind="family", opacity="opaque", tab=color.deep),
    }[kind]
    first = shown_of(told, load_rulebook())
    same = shown_of(corrected(told, np.zeros(3)), load_rulebook())
    assert de00(np.array(first.deep), np.array(same.deep)) < 0.1
    moved = shown_of(corrected(told, np.array(OFF)), load_rulebook())
    assert np.array(moved.deep) - first.deep == pytest.approx(OFF, abs=0.9)
    with pytest.raises(ValueError, match=r"L\* 0 to 100|less than or equal|over white lighter"):
        corrected(told, np.array([90.0, 0.0, 0.0]))


def test_reviews_that_contradict_each_other_teach_nothing() -> None:
    """The same mean, of readings that agree and of readings that lie about; both are far enough off."""
    rules, predicted = load_rulebook(), np.tile([80.0, 1.0, 14.0], (6, 1))
    alike = predicted + OFF + np.array([[0.2], [-0.2]] * 3)
    apart = predicted + OFF + np.array([[9.0, 0, 0], [-9.0, 0, 0]] * 3)
    close, wide = (bias_of(predicted, read, rules) for read in (alike, apart))
    assert close.off_de00 == wide.off_de00 > 1
    assert (close.agrees, close.is_enough) == (True, True)
    assert (wide.agrees, wide.is_enough) == (False, False)
