"""The rulebook as it holds in a house: every rule with its source, the disputes, and setting a value."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from mallet.rulebook import Dispute, Rule, Rulebook, where_used
from mallet.rulebook.book import SURENESS
from mallet.tooth import read_tooth
from practice.accounts.models import User
from practice.api.access import user_of
from practice.api.errors import ErrorOut, ProblemOut
from practice.api.rows import shown_tooth
from practice.house.models import HouseRule
from practice.house.services import Wanted, read_rules_file, rules_file, rules_of, set_rules
from practice.restorations.models import PlanVersion
from practice.restorations.services import plans_citing

router = Router(tags=["rules"], by_alias=True)


class SetOut(Schema):
    """A value that the practice set, or its return to the default."""

    value: float | None
    from_day: dt.date
    why: str
    who: str
    noted_at: dt.datetime
    acts: bool


class CitingOut(Schema):
    restoration_id: int
    patient: str
    tooth: str
    plan_number: int


class RuleOut(Schema):
    """A rule as it holds today; `default_value` is the rulebook's own."""

    id: str
    title: str
    value: float
    default_value: float
    is_house: bool
    unit: str
    source: str
    citation: str
    sureness: str
    low: float
    high: float
    school: str | None
    note: str
    used: list[str]
    plans: list[CitingOut]
    history: list[SetOut]


class SideOut(Schema):
    says: str
    citation: str
    sureness: str


class DisputeOut(Schema):
    id: str
    title: str
    stage: str
    sides: list[SideOut]
    default: str
    why: str
    rules: list[str]
    choices: list[str]


class RulesOut(Schema):
    version: str
    today: dt.date
    sureness: dict[str, str]
    rules: list[RuleOut]
    disputes: list[DisputeOut]


class ChangeIn(Schema):
    """A value for a rule from a day on; none for the default, and none for today."""

    rule: str = Field(max_length=80)
    value: float | None
    why: str = Field("", max_length=200)
    from_day: dt.date | None = None


class ChangesIn(Schema):
    changes: list[ChangeIn] = Field(min_length=1, max_length=500)


class RulesFileIn(Schema):
    text: str = Field(max_length=500_000)


class RulesFileOut(Schema):
    """What a file would change, and what is wrong with its other rows."""

    changes: list[ChangeIn]
    problems: list[ProblemOut]


@router.get("rules", response=RulesOut)
def rules(request: HttpRequest) -> RulesOut:
    return _rules(user_of(request))


@router.post("rules", response={200: RulesOut, 422: ErrorOut})
def change_rules(request: HttpRequest, body: ChangesIn) -> RulesOut:
    user = user_of(request)
    wanted = [Wanted(c.rule, c.value, c.why, c.from_day) for c in body.changes]
    set_rules(user.practice, wanted, user)
    return _rules(user)


@router.get("rules-file", response=str)
def file_of_rules(request: HttpRequest) -> HttpResponse:
    practice = user_of(request).practice
    response = HttpResponse(rules_file(practice), content_type="text/csv; charset=utf-8")
    day = practice.today().isoformat()
    response["Content-Disposition"] = f'attachment; filename="rules-{day}.csv"'
    return response


@router.post("rules-file", response={200: RulesFileOut, 422: ErrorOut})
def rules_in_file(request: HttpRequest, body: RulesFileIn) -> RulesFileOut:
    """Tell what a file of rules would change, without keeping anything."""
    wanted, problems = read_rules_file(user_of(request).practice, body.text)
    return RulesFileOut(
        changes=[ChangeIn(**vars(one)) for one in wanted],
        problems=[ProblemOut(path=p.path, got=p.got, allowed=p.allowed) for p in problems],
    )


def _rules(user: User) -> RulesOut:
    practice = user.practice
    book, citing = rules_of(practice), plans_citing(practice)
    history: dict[str, list[HouseRule]] = {}
    for row in HouseRule.objects.owned_by(practice).select_related("who"):
        history.setdefault(row.rule, []).append(row)
    today = practice.today()
    return RulesOut(
        version=book.version,
        today=today,
        sureness=SURENESS,
        rules=[
            _rule(rule, book, history.get(rule_id, []), citing.get(rule_id, []), user)
            for rule_id, rule in book.rules.items()
        ],
        disputes=[_dispute(dispute, book) for dispute in book.disputes],
    )


def _rule(
    rule: Rule, book: Rulebook, history: Sequence[HouseRule], citing: Sequence[PlanVersion], user: User
) -> RuleOut:
    today = user.practice.today()
    come = [row for row in history if row.from_day <= today]
    # A value that the rulebook no longer allows is written down but does not act.
    acting = come[-1] if come and (come[-1].value is None) != (rule.id in book.house) else None
    return RuleOut(
        **_own(rule),
        value=book.value(rule.id),
        default_value=rule.value,
        is_house=rule.id in book.house,
        citation=book.sources[rule.source],
        used=list(where_used()[rule.id]),
        plans=[
            CitingOut(
                restoration_id=plan.restoration_id,
                patient=plan.restoration.patient.full_name,
                tooth=shown_tooth(read_tooth(plan.restoration.told["tooth"]["code"]), user),
                plan_number=plan.number,
            )
            for plan in citing
        ],
        history=[
            SetOut(
                value=row.value,
                from_day=row.from_day,
                why=row.why,
                who=row.who.full_name,
                noted_at=row.noted_at,
                acts=row is acting,
            )
            for row in history
        ],
    )


def _own(rule: Rule) -> dict[str, Any]:
    names = ("id", "title", "unit", "source", "sureness", "low", "high", "school", "note")
    return {name: getattr(rule, name) for name in names}


def _dispute(dispute: Dispute, book: Rulebook) -> DisputeOut:
    return DisputeOut(
        id=dispute.id,
        title=dispute.title,
        stage=dispute.stage,
        sides=[
            SideOut(says=side.says, citation=book.sources[side.source], sureness=side.sureness)
            for side in dispute.sides
        ],
        default=dispute.default,
        why=dispute.why,
        rules=list(dispute.rules),
        choices=list(dispute.choices),
    )
