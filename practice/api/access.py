"""Who may call what. Every route has a row here; one without is refused to everyone."""

from __future__ import annotations

from django.http import HttpRequest
from ninja.security import SessionAuth

from practice.accounts.models import User
from practice.accounts.owned import Refused

ANYONE = frozenset({"anyone"})
DENTIST = frozenset({User.Role.DENTIST.value})
BOTH = frozenset(User.Role.values)

PERMISSIONS: dict[str, frozenset[str]] = {
    "GET session": ANYONE,
    "POST session": ANYONE,
    "DELETE session": BOTH,
    "GET today": BOTH,
    "GET lights": BOTH,
    "POST lights": BOTH,
    "GET lights/<int:light_id>": BOTH,
    "POST lights/<int:light_id>/readings": BOTH,
    "POST lights/<int:light_id>/samples": BOTH,
    "POST lights/<int:light_id>/events": BOTH,
    "POST readings-file": BOTH,
    "GET rules": BOTH,
    "POST rules": DENTIST,
    "GET rules-file": BOTH,
    "POST rules-file": BOTH,
    "GET shelf": BOTH,
    "POST shelf": BOTH,
    "GET shelf-file": BOTH,
    "POST shelf-file": BOTH,
    "POST packages": BOTH,
    "POST packages/simulated": BOTH,
    "GET masses": BOTH,
    "GET restorations/<int:restoration_id>": BOTH,
    "POST restorations/<int:restoration_id>/plans": DENTIST,
    "GET restorations/<int:restoration_id>/plans/<int:number>": BOTH,
    "POST restorations/<int:restoration_id>/runs": BOTH,
    "POST preview": BOTH,
    "POST measure-first": BOTH,
    "POST light-lines": BOTH,
    "POST hold-lessons": BOTH,
    "POST shapes": BOTH,
    "POST shapes/<shape>.<format>": BOTH,
    "GET runs/<int:run_id>": BOTH,
    "POST runs/<int:run_id>/events": BOTH,
    "GET records": BOTH,
    "GET records/<int:record_id>": BOTH,
    "PATCH records/<int:record_id>": DENTIST,
    "POST records/<int:record_id>/sign": DENTIST,
    "POST records/<int:record_id>/amendments": DENTIST,
    "GET records/<int:record_id>/export": BOTH,
    "GET records/<int:record_id>/pdf": BOTH,
}


class RoleAuth(SessionAuth):
    """Lets a signed-in user with a fitting role pass; checks the CSRF token of what changes things."""

    def authenticate(self, request: HttpRequest, key: str | None) -> User | None:
        user = super().authenticate(request, key)
        if not isinstance(user, User) or user.practice is None:
            return None
        if user.role not in PERMISSIONS.get(route_key(request), frozenset()):
            raise Refused("role", f"a {user.role} may not do this")
        return user


def route_key(request: HttpRequest) -> str:
    """Return method and route as the table writes them."""
    match = request.resolver_match
    route = match.route.removeprefix("api/") if match else ""
    return f"{request.method} {route}"


def user_of(request: HttpRequest) -> User:
    """Return the signed-in user of a route that `RoleAuth` let pass."""
    assert isinstance(request.user, User)
    return request.user
