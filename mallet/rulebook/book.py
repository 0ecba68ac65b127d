"""Loads the rulebook and hands out rules, house overrides applied."""

from __future__ import annotations

import hashlib
import math
import tomllib
from collections.abc import Mapping, Set
from dataclasses import dataclass, field, replace
from functools import lru_cache
from importlib import resources
from typing import Any

from mallet.terms.errors import InputError, Problem, RulebookError
from mallet.terms.pieces import RuleUse

SURENESS = {
    "A": "value and citation agreed, from memory",
    "B": "value agreed, edge or citation uncertain, from memory",
    "C": "a single recollection or a range: a default to change, not a limit",
    "T": "common practice, no source",
}
OTHER_FILES = ("sources", "crowns", "disputes", "places")
FILES = (
    "tooth", "choose", "color", "shade", "isolate", "anesthetic", "prepare", "protect", "matrix", "bond", "composite", "ionomer", "sealant", "amalgam", "gold", "light", "chair",
    "estimate",
)  # fmt: skip


@dataclass(frozen=True)
class Rule:
    """One number of the job. `low` and `high` bound what a practice may set."""

    id: str
    title: str
    value: float
    unit: str
    source: str
    sureness: str
    low: float
    high: float
    school: str | None = None
    note: str = ""


@dataclass(frozen=True)
class Side:
    """What one side of a dispute says, and on whose word."""

    says: str
    source: str
    sureness: str


@dataclass(frozen=True)
class Dispute:
    """A matter on which practice and publication, or technique and technique, differ: what each says, what we
    take unless told otherwise, and why. `rules` and `choices` (paths of a case) are what it acts through."""

    id: str
    title: str
    stage: str
    sides: tuple[Side, ...]
    default: str
    why: str
    rules: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class Rulebook:
    """The rules in force. Build one with `load_rulebook`; change it with `with_house`. `places` are profiles
    of what the law says there."""

    rules: Mapping[str, Rule]
    sources: Mapping[str, str]
    crowns: Mapping[str, Any]
    disputes: tuple[Dispute, ...]
    places: Mapping[str, Any]
    version: str
    house: Mapping[str, float] = field(default_factory=dict)

    def value(self, rule_id: str) -> float:
        """Return the value in force of a rule; raise RulebookError for an unknown id."""
        return self.house.get(rule_id, self._rule(rule_id).value)

    def use(self, rule_id: str) -> RuleUse:
        """Return the rule as it acts now, with its citation, for a figure's reasons."""
        rule = self._rule(rule_id)
        changed = rule_id in self.house
        return RuleUse(
            rule=rule.id,
            title=rule.title,
            value=self.value(rule_id),
            unit=rule.unit,
            source=rule.source,
            citation=self.sources[rule.source],
            sureness=rule.sureness,
            school=rule.school,
            default_value=rule.value if changed else None,
        )

    def uses(self, *rule_ids: str) -> list[RuleUse]:
        return [self.use(rule_id) for rule_id in rule_ids]

    def with_house(self, house: Mapping[str, float]) -> Rulebook:
        """Return the rulebook with house overrides; raise InputError outside sane bounds."""
        refused = [
            self.refused(key, value, f'practice_settings["{key}"]') for key, value in sorted(house.items())
        ]
        problems = [problem for problem in refused if problem]
        if problems:
            raise InputError(*problems)
        return replace(self, house=dict(house))

    def refused(self, rule_id: str, value: float, path: str) -> Problem | None:
        """Return what is wrong with a house's value, at the path where it was given; None for a sane one."""
        if rule_id not in self.rules:
            return Problem(path, f"the unknown rule {rule_id}", f"one of {', '.join(sorted(self.rules))}")
        rule = self.rules[rule_id]
        if math.isfinite(value) and rule.low <= value <= rule.high:
            return None
        return Problem(path, f"{value:g}", f"{rule.low:g} to {rule.high:g} {rule.unit}")

    def _rule(self, rule_id: str) -> Rule:
        if rule_id not in self.rules:
            raise RulebookError(f"no rule {rule_id!r}; known: {', '.join(sorted(self.rules))}")
        return self.rules[rule_id]


@lru_cache(maxsize=1)
def load_rulebook() -> Rulebook:
    """Return the shipped rulebook.

    Raises RulebookError where a row lacks a field, names an unknown source or breaks its bounds.
    """
    folder = resources.files("mallet.rulebook")
    texts = {name: (folder / f"{name}.toml").read_text() for name in (*FILES, *OTHER_FILES)}
    sources = {key: row["text"] for key, row in tomllib.loads(texts["sources"]).items()}
    rules: dict[str, Rule] = {}
    for name in FILES:
        for key, row in tomllib.loads(texts[name]).items():
            rule = read_rule(f"{name}.{key}", row, sources)
            rules[rule.id] = rule
    disputes = tuple(
        read_dispute(key, row, rules, sources) for key, row in tomllib.loads(texts["disputes"]).items()
    )
    digest = hashlib.sha256("".join(texts[name] for name in sorted(texts)).encode()).hexdigest()
    crowns, places = (tomllib.loads(texts[name]) for name in ("crowns", "places"))
    return Rulebook(rules, sources, crowns, disputes, places, digest[:12])


def read_rule(rule_id: str, row: Mapping[str, Any], sources: Mapping[str, str]) -> Rule:
    """Return a rule from a row of a rulebook file; raise RulebookError where it is incomplete."""
    required = {"title", "value", "unit", "source", "sureness", "low", "high"}
    _check_fields(f"rule {rule_id}", row, required, {"school", "note"})
    _check_source(f"rule {rule_id}", row, sources)
    if not row["low"] <= row["value"] <= row["high"]:
        raise RulebookError(f"rule {rule_id}: {row['value']} is outside {row['low']} to {row['high']}")
    return Rule(id=rule_id, **row)


def read_dispute(
    dispute_id: str, row: Mapping[str, Any], rules: Mapping[str, Rule], sources: Mapping[str, str]
) -> Dispute:
    """Return a dispute from a row of its file; raise RulebookError where it is incomplete or names a rule
    or source that there is not."""
    what = f"dispute {dispute_id}"
    required = {"title", "stage", "sides", "default", "why"}
    _check_fields(what, row, required, {"rules", "choices"})
    if unknown := sorted(set(row.get("rules", ())) - rules.keys()):
        raise RulebookError(f"{what} names the unknown rules {', '.join(unknown)}")
    if len(row["sides"]) < 2:
        raise RulebookError(f"{what} has one side only")
    for side in row["sides"]:
        _check_fields(f"a side of {what}", side, {"says", "source", "sureness"}, set())
        _check_source(f"a side of {what}", side, sources)
    return Dispute(
        dispute_id,
        row["title"],
        row["stage"],
        tuple(Side(**side) for side in row["sides"]),
        row["default"],
        row["why"],
        tuple(row.get("rules", ())),
        tuple(row.get("choices", ())),
    )


def _check_fields(what: str, row: Mapping[str, Any], required: Set[str], optional: Set[str]) -> None:
    if missing := sorted(required - row.keys()):
        raise RulebookError(f"{what} lacks {', '.join(missing)}")
    if unknown := sorted(row.keys() - required - optional):
        raise RulebookError(f"{what} has unknown fields {', '.join(unknown)}")


def _check_source(what: str, row: Mapping[str, Any], sources: Mapping[str, str]) -> None:
    if row["source"] not in sources:
        raise RulebookError(f"{what} names the unknown source {row['source']!r}")
    if row["sureness"] not in SURENESS:
        raise RulebookError(f"{what}: sureness {row['sureness']!r} is none of {', '.join(SURENESS)}")
