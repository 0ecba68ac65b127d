"""What a request that changes nothing asks for again and again is looked up once."""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar
from functools import wraps
from typing import Any, TypeVar, cast

from django.http import HttpRequest, HttpResponse

F = TypeVar("F", bound=Callable[..., Any])
READING = ("GET", "HEAD")
_found: ContextVar[dict[tuple[object, ...], Any] | None] = ContextVar("found", default=None)


def once(look_up: F) -> F:
    """Let a function of rows and days be called once for the same ones while a reading request is answered."""

    @wraps(look_up)
    def looked_up(*of: Any) -> Any:
        found = _found.get()
        if found is None:
            return look_up(*of)
        key = look_up, *of
        if key not in found:
            found[key] = look_up(*of)
        return found[key]

    return cast("F", looked_up)


def remember(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Begin, as middleware, to remember what is looked up, and forget it with the answer."""

    def answer(request: HttpRequest) -> HttpResponse:
        if request.method not in READING:
            return get_response(request)
        begun = _found.set({})
        try:
            return get_response(request)
        finally:
            _found.reset(begun)

    return answer
