"""Who may call what. Every route has a row here; one without is refused to everyone."""

from __future__ import annotations

from django.http import HttpRequest
from ninja.security import SessionAuth

from practice.accounts.models import User
from practice.accounts.owned import Refused

ANYONE = frozenset({"anyone"})
# Who answers for the work; who treats, a trainee too; all who work here.
ANSWERS = frozenset({User.Role.DENTIST.value, User.Role.TEACHER.value})
TREATS = ANSWERS | {User.Role.TRAINEE.value}
STAFF = frozenset(User.Role.values)
# Who runs the practice, whatever the role.
OWNERS = frozenset({"owner"})

PERMISSIONS: dict[str, frozenset[str]] = {
    "GET session": ANYONE,
    "POST session": ANYONE,
    "DELETE session": STAFF,
    "POST set-up": ANYONE,
    "GET links/<secret>": ANYONE,
    "POST links/<secret>": ANYONE,
    "GET practice": OWNERS,
    "PATCH practice": OWNERS,
    "GET people": OWNERS,
    "POST people": OWNERS,
    "PATCH people/<int:person_id>": OWNERS,
    "POST people/<int:person_id>/link": OWNERS,
    "PATCH own": STAFF,
    "POST own/password": STAFF,
    "GET audit": OWNERS,
    "GET audit-file": OWNERS,
    "GET patients": STAFF,
    "POST patients": STAFF,
    "GET patients/<int:patient_id>": STAFF,
    "PATCH patients/<int:patient_id>": STAFF,
    "POST patients/<int:patient_id>/history": STAFF,
    "POST patients/<int:patient_id>/archive": STAFF,
    "POST patients/<int:patient_id>/restorations": STAFF,
    "GET trials": STAFF,
    "POST trials": STAFF,
    "POST trials/<int:restoration_id>/attach": STAFF,
    "GET patients-file": ANSWERS,
    "POST patients-file": ANSWERS,
    "GET teeth": STAFF,
    "POST visits": STAFF,
    "PATCH visits/<int:visit_id>": STAFF,
    "GET colleagues": STAFF,
    "GET today": STAFF,
    "GET lights": STAFF,
    "POST lights": STAFF,
    "GET lights/<int:light_id>": STAFF,
    "POST lights/<int:light_id>/readings": STAFF,
    "POST lights/<int:light_id>/samples": STAFF,
    "POST lights/<int:light_id>/events": STAFF,
    "POST readings-file": STAFF,
    "GET rules": STAFF,
    "POST rules": ANSWERS,
    "GET rules-file": STAFF,
    "POST rules-file": STAFF,
    "GET stock": STAFF,
    "POST stock": STAFF,
    "GET stock/<int:item_id>/color": STAFF,
    "PUT stock/<int:item_id>/color": ANSWERS,
    "PUT stock/<int:item_id>/optics": ANSWERS,
    "POST stock/<int:item_id>/color/reviews": ANSWERS,
    "GET shades": STAFF,
    "GET stock-file": STAFF,
    "POST stock-file": STAFF,
    "GET color-reader": STAFF,
    "POST color-reader/calibration": STAFF,
    "POST color-reader/readings": STAFF,
    "GET devices/<kind>": STAFF,
    "POST devices/<kind>": STAFF,
    "DELETE devices/<kind>": STAFF,
    "POST packages": STAFF,
    "POST packages/simulated": STAFF,
    "GET materials": STAFF,
    "GET restorations/<int:restoration_id>": STAFF,
    "POST restorations/<int:restoration_id>/plans": TREATS,
    "POST restorations/<int:restoration_id>/restorative": STAFF,
    "GET restorations/<int:restoration_id>/plans/<int:number>": STAFF,
    "POST restorations/<int:restoration_id>/runs": STAFF,
    "GET restorations/<int:restoration_id>/later": STAFF,
    "POST restorations/<int:restoration_id>/later": STAFF,
    "POST parts/<int:part_id>/runs": STAFF,
    "POST preview": STAFF,
    "POST measure-first": STAFF,
    "POST light-lines": STAFF,
    "POST color-face": STAFF,
    "POST match-costs": STAFF,
    "POST hold-lessons": STAFF,
    "POST designs": STAFF,
    "POST shapes": STAFF,
    "POST shapes/<shape>.<format>": STAFF,
    "GET runs/<int:run_id>": STAFF,
    "POST runs/<int:run_id>/events": STAFF,
    "POST runs/<int:run_id>/holds": STAFF,
    "GET records": STAFF,
    "GET waste-log": STAFF,
    "GET records/<int:record_id>": STAFF,
    "PATCH records/<int:record_id>": TREATS,
    "POST records/<int:record_id>/sign": ANSWERS,
    "POST records/<int:record_id>/amendments": ANSWERS,
    "GET records/<int:record_id>/export": STAFF,
    "GET records/<int:record_id>/pdf": STAFF,
}


class RoleAuth(SessionAuth):
    """Lets a signed-in user with a fitting role pass; checks the CSRF token of what changes things."""

    def authenticate(self, request: HttpRequest, key: str | None) -> User | None:
        user = super().authenticate(request, key)
        if not isinstance(user, User) or user.practice is None:
            return None
        may = PERMISSIONS.get(route_key(request), frozenset())
        if user.role not in may and not (user.is_owner and may & OWNERS):
            raise Refused(
                "role", "an owner may do this" if may & OWNERS else f"a {user.role} may not do this"
            )
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
