"""Who works in a practice: the first person of a new one, those added after, their passwords and what they may do."""

from __future__ import annotations

import datetime as dt
import hashlib
import re
import secrets
import zoneinfo
from collections.abc import Sequence
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from mallet.terms.errors import InputError, Problem
from practice.accounts.models import PasswordLink, Practice, User, audit
from practice.accounts.owned import Refused

LINK_SERVES = dt.timedelta(hours=24)
USERNAME = re.compile(r"[a-z0-9][a-z0-9._-]{1,29}")
PLACES = ("eu", "us", "elsewhere")
MOST_CHAIRS = 20


def is_set_up() -> bool:
    """Tell whether there is a practice on this server."""
    return Practice.objects.exists()


def set_up(
    *, name: str, zone: str, place: str, chairs: Sequence[str], full_name: str, username: str, password: str
) -> User:
    """Return the owner, a dentist, of a server's first practice.

    Raises InputError for what cannot be, and Refused where there is a practice already.
    """
    _check_unset()
    chairs = [one.strip() for one in chairs]
    problems = [
        *_name("name", name),
        *(
            []
            if zone in zoneinfo.available_timezones()
            else [Problem("zone", repr(zone), "a time zone such as Europe/Oslo")]
        ),
        *([] if place in PLACES else [Problem("place", repr(place), "one of " + ", ".join(PLACES))]),
        *_chairs(chairs),
        *_name("full_name", full_name),
        *_username(username),
        *_password(password),
    ]
    if problems:
        raise InputError(*problems)
    with transaction.atomic():
        _check_unset()
        practice = Practice.objects.create(name=name.strip(), zone=zone, place=place, chairs=chairs)
        owner = User(
            practice=practice,
            username=username,
            full_name=full_name.strip(),
            role=User.Role.DENTIST,
            is_owner=True,
        )
        owner.set_password(password)
        owner.save()
        audit(owner, "accounts.set_up", f"practice {practice.pk}", name=practice.name)
    return owner


def change_practice(practice: Practice, by: User, in_use: Sequence[str] = (), **told: Any) -> Practice:
    """Return a practice with another name, place or chairs; raise InputError for what cannot be, as without a chair that is in
    use."""
    if "chairs" in told:
        told["chairs"] = [one.strip() for one in told["chairs"]]
    place = told.get("place", practice.place)
    problems = [
        *(_name("name", told["name"]) if "name" in told else []),
        *([] if place in PLACES else [Problem("place", repr(place), "one of " + ", ".join(PLACES))]),
        *(_chairs(told["chairs"]) or _with(in_use, told["chairs"]) if "chairs" in told else []),
    ]
    if problems:
        raise InputError(*problems)
    if "name" in told:
        told["name"] = told["name"].strip()
    before = {name: getattr(practice, name) for name in told}
    with transaction.atomic():
        for name, value in told.items():
            setattr(practice, name, value)
        practice.save(update_fields=list(told))
        audit(by, "accounts.practice.changed", f"practice {practice.pk}", **told, before=before)
    return practice


def _with(in_use: Sequence[str], chairs: Sequence[str]) -> list[Problem]:
    lost = [one for one in in_use if one not in chairs]
    allowed = f"a list with {', '.join(lost)}; move its visits first to leave it out"
    return [Problem("chairs", ", ".join(chairs), allowed)] if lost else []


def _check_unset() -> None:
    if is_set_up():
        raise Refused("set_up", "sign in: this server has a practice already")


def add_person(*, full_name: str, username: str, role: str, is_owner: bool, by: User) -> User:
    """Return a person added to a practice, who sets a password by a link; raise InputError for what cannot be."""
    problems = [*_name("full_name", full_name), *_role(role), *_username(username)]
    if problems:
        raise InputError(*problems)
    with transaction.atomic():
        person = User(
            practice=by.practice,
            username=username,
            full_name=full_name.strip(),
            role=role,
            is_owner=is_owner,
        )
        person.set_unusable_password()
        person.save()
        audit(by, "accounts.person.added", f"user {person.pk}", role=role, is_owner=is_owner)
    return person


def change_person(person: User, by: User, **changes: Any) -> User:
    """Return a person with another role, ownership, name, or deactivated or let in again; raise InputError for a role that
    there is not, and Refused where nobody would be left to run the practice."""
    if "role" in changes and (problems := _role(changes["role"])):
        raise InputError(*problems)
    if "full_name" in changes and (problems := _name("full_name", changes["full_name"])):
        raise InputError(*problems)
    with transaction.atomic():
        owners = User.objects.filter(practice=by.practice, is_owner=True, is_active=True).exclude(
            pk=person.pk
        )
        stays = changes.get("is_owner", person.is_owner) and changes.get("is_active", person.is_active)
        if person.is_owner and person.is_active and not stays and not owners.exists():
            raise Refused("last_owner", "make somebody else an owner first: a practice keeps at least one")
        for name, value in changes.items():
            setattr(person, name, value)
        person.save(update_fields=list(changes))
        audit(by, "accounts.person.changed", f"user {person.pk}", **changes)
    return person


def issue_link(person: User, by: User) -> str:
    """Return the secret of a link by which a person sets a password; those issued before serve no more."""
    if not person.is_active:
        raise Refused(
            "deactivated", "let this person in again first: whoever is deactivated sets no password"
        )
    secret = secrets.token_urlsafe(32)
    with transaction.atomic():
        PasswordLink.objects.filter(user=person, used_at=None).delete()
        PasswordLink.objects.create(
            practice=person.practice,
            user=person,
            token_sha256=_digest(secret),
            issued_by=by,
            expires_at=timezone.now() + LINK_SERVES,
        )
        audit(by, "accounts.link.issued", f"user {person.pk}")
    return secret


def person_of_link(secret: str) -> User:
    """Return whose link a secret is of; raise Refused for one that is used, late or none, without saying which."""
    found = PasswordLink.objects.select_related("user").filter(token_sha256=_digest(secret)).first()
    if not found or found.used_at or found.expires_at <= timezone.now() or not found.user.is_active:
        raise Refused("link", "ask an owner of the practice for another link: this one no longer works")
    person: User = found.user
    return person


def use_link(secret: str, password: str) -> User:
    """Return the person who has set a password by a link; raise Refused and InputError as above."""
    person_of_link(secret)
    if problems := _password(password):
        raise InputError(*problems)
    with transaction.atomic():
        used = PasswordLink.objects.filter(
            token_sha256=_digest(secret), used_at=None, expires_at__gt=timezone.now()
        )
        if not used.update(used_at=timezone.now()):
            raise Refused("link", "ask an owner of the practice for another link: this one no longer works")
        person: User = PasswordLink.objects.select_related("user").get(token_sha256=_digest(secret)).user
        person.set_password(password)
        person.save(update_fields=["password"])
        audit(person, "accounts.password.set", f"user {person.pk}", by="link")
    return person


def change_password(person: User, old: str, new: str) -> None:
    """Set somebody's own password; all other sessions of theirs end. Raises Refused for a wrong old one."""
    if not person.check_password(old):
        raise Refused("password", "the old password is wrong")
    if problems := _password(new, person):
        raise InputError(*problems)
    with transaction.atomic():
        person.set_password(new)
        person.save(update_fields=["password"])
        audit(person, "accounts.password.set", f"user {person.pk}", by="self")


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def _name(path: str, given: str) -> list[Problem]:
    is_fine = 0 < len(given.strip()) <= 120
    return [] if is_fine else [Problem(path, repr(given[:40]), "a name of 1 to 120 characters")]


def _role(given: str) -> list[Problem]:
    is_fine = given in User.Role.values
    return [] if is_fine else [Problem("role", repr(given), "one of " + ", ".join(User.Role.values))]


def _chairs(given: Sequence[str]) -> list[Problem]:
    is_fine = 0 < len(given) <= MOST_CHAIRS and all(0 < len(one) <= 20 for one in given)
    if is_fine and len(set(given)) == len(given):
        return []
    return [
        Problem(
            "chairs",
            ", ".join(given)[:40] or "none",
            f"1 to {MOST_CHAIRS} names of up to 20 characters, each once",
        )
    ]


def _username(given: str) -> list[Problem]:
    if not USERNAME.fullmatch(given):
        return [Problem("username", repr(given[:40]), "2 to 30 small letters, digits, dots, dashes")]
    if User.objects.filter(username=given).exists():
        return [Problem("username", repr(given), "a name that nobody here has yet")]
    return []


def _password(given: str, person: User | None = None) -> list[Problem]:
    """Return what is wrong with a password, which is never repeated."""
    try:
        validate_password(given, person)
    except ValidationError as error:
        return [Problem("password", f"{len(given)} characters", " ".join(error.messages))]
    return []
