"""Signing in and out."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from ninja.errors import AuthenticationError
from ninja.utils import check_csrf

from practice.accounts.demo import PASSWORD
from practice.accounts.models import Practice, User, audit
from practice.accounts.owned import Refused
from practice.accounts.people import is_set_up
from practice.api.errors import ErrorOut

router = Router(tags=["session"])


class DemoAccount(Schema):
    username: str
    password: str
    full_name: str
    role: str


class UserOut(Schema):
    username: str
    full_name: str
    role: str
    notation: str
    practice: str
    zone: str
    is_demo: bool
    is_owner: bool
    hears: bool
    chairs: list[str]


class SessionOut(Schema):
    """Who is signed in, if anyone; on a demo server also with what to sign in. A server without a practice wants setting up."""

    user: UserOut | None
    wants_set_up: bool = False
    demo_accounts: list[DemoAccount] = []


class SignIn(Schema):
    username: str
    password: str


@router.get("session", response=SessionOut, auth=None)
def current_session(request: HttpRequest) -> SessionOut:
    get_token(request)
    user = request.user if isinstance(request.user, User) else None
    return SessionOut(
        user=_shown(user) if user and user.practice else None,
        wants_set_up=not is_set_up(),
        demo_accounts=_demo_accounts(),
    )


@router.post("session", response={200: SessionOut, 401: ErrorOut, 403: ErrorOut}, auth=None)
def sign_in(request: HttpRequest, body: SignIn) -> SessionOut:
    if check_csrf(request):
        raise Refused("role", "the page is too old: load it again")
    user = authenticate(request, username=body.username, password=body.password)
    if not isinstance(user, User) or user.practice is None:
        raise AuthenticationError
    login(request, user)
    audit(user, "accounts.signed_in", f"user {user.pk}")
    return session_of(user)


@router.delete("session", response={204: None})
def sign_out(request: HttpRequest) -> Status[None]:
    logout(request)
    return Status(204, None)


def session_of(user: User) -> SessionOut:
    """Return what somebody who is signed in is told."""
    return SessionOut(user=_shown(user))


def _shown(user: User) -> UserOut:
    assert user.practice
    return UserOut(
        username=user.username,
        full_name=user.full_name,
        role=user.role,
        notation=user.notation,
        practice=user.practice.name,
        zone=user.practice.zone,
        is_demo=user.practice.is_demo,
        is_owner=user.is_owner,
        hears=user.hears,
        chairs=user.practice.chairs,
    )


def _demo_accounts() -> list[DemoAccount]:
    """Return the demo practice's sign-ins; they open nothing but the demo practice, and none is told beside a real one."""
    demo = Practice.objects.filter(is_demo=True).first()
    if demo is None or Practice.objects.filter(is_demo=False).exists():
        return []
    return [
        DemoAccount(username=u.username, password=PASSWORD, full_name=u.full_name, role=u.role)
        for u in demo.people.filter(is_active=True).order_by("pk")
    ]
