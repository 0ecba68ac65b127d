"""Plans that are kept for a while, and what gives way to newer work."""

import pytest

from mallet.plan import Worked, work
from mallet.terms.case import Case, read_case
from mallet.terms.errors import InputError, NotFeasible
from practice import planned
from practice.accounts.models import User
from practice.accounts.owned import Refused
from tests.core.conftest import first_case, with_values
from tests.practice.conftest import Caller


@pytest.fixture
def made(monkeypatch: pytest.MonkeyPatch) -> list[Case]:
    """Return the cases that are planned, with nothing kept from before."""
    cases: list[Case] = []

    def noted(case: Case) -> Worked:
        cases.append(case)
        return work(case)

    monkeypatch.setattr(planned, "work", noted)
    planned._kept.clear()
    planned._answers.clear()
    return cases


def test_a_case_is_planned_once_and_one_that_tells_less_for_itself(made: list[Case]) -> None:
    case = read_case(first_case())
    assert planned.worked_of(case) is planned.worked_of(read_case(first_case()))
    untold = first_case()
    del untold["school"]["layering"]
    planned.worked_of(read_case(untold))
    assert len(made) == 2


def test_a_refusal_is_kept_and_a_contradiction_is_not(made: list[Case]) -> None:
    hopeless = read_case(with_values(first_case(), masses__0__critical_exposure_j_cm2=20.0))
    for _ in range(2):
        with pytest.raises(NotFeasible):
            planned.worked_of(hopeless)
    assert len(made) == 1
    contradiction = read_case(with_values(first_case(), restoration__surfaces="DO"))
    for _ in range(2):
        with pytest.raises(InputError):
            planned.worked_of(contradiction)
    assert len(made) == 3


def test_an_answer_is_given_once_a_case_and_what_is_raised_is_asked_again(
    made: list[Case], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(planned, "KEPT_ANSWERS", 2)
    case, other = read_case(first_case()), read_case(with_values(first_case(), tooth__vitality="necrotic"))
    asked: list[str] = []

    def answer(said: str) -> str:
        asked.append(said)
        if said == "superseded":
            raise Refused("superseded", "ask again")
        return said

    with pytest.raises(Refused):
        planned.answered("light", case, lambda: answer("superseded"))
    for about, of, said in (
        ("light", case, "a"),
        ("light", case, "a"),
        ("view", case, "b"),
        ("light", other, "c"),
    ):
        assert planned.answered(about, of, lambda said=said: answer(said)) == said  # type: ignore[misc]
    # Of three the oldest is gone.
    assert planned.answered("light", case, lambda: answer("again")) == "again"
    assert asked == ["superseded", "a", "b", "c", "again"]


def test_only_the_last_few_are_kept(made: list[Case], monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(planned, "KEPT", 1)
    other = with_values(first_case(), preparation__parts__1__height_mm=4.6)
    for case in (first_case(), other, first_case()):
        planned.worked_of(read_case(case))
    assert len(made) == 3


def test_what_takes_many_plans_gives_way_to_newer_work(call: Caller, dentist: User, assistant: User) -> None:
    case = read_case(first_case())
    going_on = planned.while_latest(dentist.pk)
    call("post", "light-lines", {"case": first_case()})
    Caller(assistant)("post", "preview", {"case": first_case()})
    assert going_on(case).plan.feasible
    call("post", "preview", {"case": first_case()})
    with pytest.raises(Refused, match="newer") as refused:
        going_on(case)
    assert refused.value.code == "superseded"
