"""Maps what the heart and the services refuse to HTTP, in this one place."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, ValidationError

from mallet.terms.errors import InputError, NotFeasible
from practice.accounts.owned import Refused

A_DAY = "a day such as 1984-02-29"
STATUS_BY_CODE = {"password": 403, "role": 403}


class ProblemOut(Schema):
    path: str
    got: str
    allowed: str


class ErrorOut(Schema):
    """Every error of the API: a stable code, a sentence, and the fields it is about."""

    code: str
    message: str
    problems: list[ProblemOut] = []


def install(api: NinjaAPI) -> None:
    """Let an API answer every known error as an `ErrorOut`."""

    def answer(request: HttpRequest, status: int, error: ErrorOut) -> HttpResponse:
        return api.create_response(request, error.model_dump(), status=status)

    @api.exception_handler(InputError)
    def bad_input(request: HttpRequest, error: InputError) -> HttpResponse:
        problems = [ProblemOut(path=p.path, got=p.got, allowed=p.allowed) for p in error.problems]
        return answer(request, 422, ErrorOut(code="bad_input", message=str(error), problems=problems))

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Refused) -> HttpResponse:
        status = STATUS_BY_CODE.get(error.code, 409)
        return answer(request, status, ErrorOut(code=error.code, message=str(error)))

    @api.exception_handler(NotFeasible)
    def no_plan(request: HttpRequest, error: NotFeasible) -> HttpResponse:
        return answer(request, 409, ErrorOut(code=error.code, message=error.text))

    @api.exception_handler(ValidationError)
    def unreadable(request: HttpRequest, error: ValidationError) -> HttpResponse:
        problems = [
            ProblemOut(
                path=".".join(str(p) for p in e["loc"][2:]) or "body",
                got=str(e.get("input", ""))[:60] or "nothing",
                allowed=A_DAY if e["type"].startswith("date_") else str(e["msg"]),
            )
            for e in error.errors
        ]
        message = "; ".join(f"{p.path}: {p.allowed}" for p in problems)
        return answer(request, 422, ErrorOut(code="bad_request", message=message, problems=problems))

    @api.exception_handler(AuthenticationError)
    def signed_out(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return answer(request, 401, ErrorOut(code="signed_out", message="sign in first"))

    @api.exception_handler(Http404)
    def not_found(request: HttpRequest, error: Http404) -> HttpResponse:
        return answer(request, 404, ErrorOut(code="not_found", message="not found here"))
