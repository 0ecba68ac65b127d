"""Loads the rulebook and hands out rules, house overrides applied."""

from __future__ import annotations

import hashlib
import math
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from importlib import resources
from typing import Any

from mallet.terms.errors import InputError, Problem, RulebookError
from mallet.terms.plan import RuleUse

SURENESS = {
    "A": "value and citation agreed, from memory",
    "B": "value agreed, edge or citation uncertain, from memory",
    "C": "a single recollection or a range: a default to change, not a limit",
    "T": "common practice, no source",
}
FILES = ("composite", "light", "matrix", "bond", "chair", "tooth", "estimate")


@dataclass(frozen=True)
class Rule:
    """One number of the job. `low` and `high` bound what a house may set."""

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
class Rulebook:
    """The rules in force. Build one with `load_rulebook`; change it with `with_house`."""

    rules: Mapping[str, Rule]
    sources: Mapping[str, str]
    crowns: Mapping[str, Any]
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
        problems = [p for key, value in sorted(house.items()) if (p := self._refused(key, value))]
        if problems:
            raise InputError(*problems)
        return Rulebook(self.rules, self.sources, self.crowns, self.version, dict(house))

    def _rule(self, rule_id: str) -> Rule:
        if rule_id not in self.rules:
            raise RulebookError(f"no rule {rule_id!r}; known: {', '.join(sorted(self.rules))}")
        return self.rules[rule_id]

    def _refused(self, rule_id: str, value: float) -> Problem | None:
        path = f'house["{rule_id}"]'
        if rule_id not in self.rules:
            return Problem(path, "an unknown rule", f"one of {', '.join(sorted(self.rules))}")
        rule = self.rules[rule_id]
        if math.isfinite(value) and rule.low <= value <= rule.high:
            return None
        return Problem(path, f"{value:g}", f"{rule.low:g} to {rule.high:g} {rule.unit}")


@lru_cache(maxsize=1)
def load_rulebook() -> Rulebook:
    """Return the shipped rulebook.

    Raises RulebookError where a row lacks a field, names an unknown source or breaks its bounds.
    """
    folder = resources.files("mallet.rulebook")
    texts = {name: (folder / f"{name}.toml").read_text() for name in (*FILES, "sources", "crowns")}
    sources = {key: row["text"] for key, row in tomllib.loads(texts["sources"]).items()}
    rules: dict[str, Rule] = {}
    for name in FILES:
        for key, row in tomllib.loads(texts[name]).items():
            rule = read_rule(f"{name}.{key}", row, sources)
            rules[rule.id] = rule
    digest = hashlib.sha256("".join(texts[name] for name in sorted(texts)).encode()).hexdigest()
    return Rulebook(rules, sources, tomllib.loads(texts["crowns"]), digest[:12])


def read_rule(rule_id: str, row: Mapping[str, Any], sources: Mapping[str, str]) -> Rule:
    """Return a rule from a row of a rulebook file; raise RulebookError where it is incomplete."""
    required = {"title", "value", "unit", "source", "sureness", "low", "high"}
    missing = sorted(required - row.keys())
    if missing:
        raise RulebookError(f"rule {rule_id} lacks {', '.join(missing)}")
    if row["source"] not in sources:
        raise RulebookError(f"rule {rule_id} names the unknown source {row['source']!r}")
    if row["sureness"] not in SURENESS:
        raise RulebookError(f"rule {rule_id}: sureness {row['sureness']!r} is none of {', '.join(SURENESS)}")
    unknown = sorted(row.keys() - required - {"school", "note"})
    if unknown:
        raise RulebookError(f"rule {rule_id} has unknown fields {', '.join(unknown)}")
    if not row["low"] <= row["value"] <= row["high"]:
        raise RulebookError(f"rule {rule_id}: {row['value']} is outside {row['low']} to {row['high']}")
    return Rule(id=rule_id, **row)
