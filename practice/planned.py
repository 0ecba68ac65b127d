"""Plans made lately, and answers about them: whoever asks for a case again, to see it, for its light or its shapes or to save
it, waits for none."""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Callable
from concurrent.futures import Future
from threading import Lock
from typing import Any, TypeVar, cast

from django.http import HttpRequest, HttpResponse

from mallet.plan import Worked, told_sha256, work
from mallet.terms.case import Case
from mallet.terms.errors import NotFeasible
from practice.accounts.owned import Refused

KEPT, KEPT_ANSWERS = 16, 96
# What is reckoned beside a plan: no newer work of its user's.
BESIDE = (
    "/api/measure-first",
    "/api/light-lines",
    "/api/color-face",
    "/api/match-costs",
    "/api/hold-lessons",
    "/api/designs",
    "/api/shapes",
)
_kept: OrderedDict[str, Future[Worked]] = OrderedDict()
_turn = Lock()
_asked: Counter[object] = Counter()
_answers: OrderedDict[tuple[str, str], Any] = OrderedDict()
Answer = TypeVar("Answer")


def worked_of(case: Case) -> Worked:
    """Return the plan of a case with its solids; one of the last few, or one that is just being made, is not made again.

    Raises NotFeasible where there is no plan, and InputError for a case that contradicts itself.
    """
    key = told_sha256(case)
    with _turn:
        is_known = key in _kept
        kept = _kept.setdefault(key, Future())
        _kept.move_to_end(key)
        while len(_kept) > KEPT:
            _kept.popitem(last=False)
    if not is_known:
        try:
            kept.set_result(work(case))
        except BaseException as error:
            kept.set_exception(error)
            if not isinstance(error, NotFeasible):
                with _turn:
                    _kept.pop(key, None)
    return kept.result()


def answered(about: str, case: Case, answer: Callable[[], Answer]) -> Answer:
    """Return one of the last answers about a case, by what it is about, or answer now; what is raised is not kept."""
    key = about, told_sha256(case)
    with _turn:
        if key in _answers:
            _answers.move_to_end(key)
            return cast("Answer", _answers[key])
    made = answer()
    with _turn:
        _answers[key] = made
        while len(_answers) > KEPT_ANSWERS:
            _answers.popitem(last=False)
    return made


def count_work(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Note, as middleware, that a user asks for something new."""

    def answer(request: HttpRequest) -> HttpResponse:
        if request.method == "POST" and not request.path.startswith(BESIDE):
            _asked[request.user.pk] += 1
        return get_response(request)

    return answer


def while_latest(who: object) -> Callable[[Case], Worked]:
    """Return what plans case after case for a user, by primary key, and raises Refused once that user asks for
    something new: what takes many plans holds up nobody."""
    began = _asked[who]

    def planned(case: Case) -> Worked:
        if _asked[who] != began:
            raise Refused("superseded", "something newer was asked for: ask again")
        return worked_of(case)

    return planned
