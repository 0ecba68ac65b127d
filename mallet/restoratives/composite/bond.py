"""Bonding: the adhesive in stock that suits the technique, a clock for each step, the cure from the curing light."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from mallet.cavity.preparation import Cavity
from mallet.curing.exposures import light_step, presses_of
from mallet.curing.film import Exposed, FilmCure
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.asks import title_of_item
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.pieces import Reason
from mallet.terms.plan import (
    Assumption,
    Caution,
    Check,
    Decision,
    InputUse,
    StageResult,
    Step,
    Want,
)
from mallet.terms.reasons import say, warn, warn_by
from mallet.terms.restoration import Etch
from mallet.terms.stock import Adhesive

SCHOOLS: dict[Etch, str] = {
    "selective_enamel": "selective enamel etch",
    "etch_and_rinse": "etch-and-rinse",
    "self_etch": "self-etch",
}
SUITS: dict[str, tuple[Etch, ...]] = {
    "etch_and_rinse": ("etch_and_rinse",),
    "self_etch": ("selective_enamel", "self_etch"),
    "universal": ("selective_enamel", "etch_and_rinse", "self_etch"),
}
FAMILIES = {
    "bond.failure_three_step_etch": "three-step etch-and-rinse",
    "bond.failure_two_step_etch": "two-step etch-and-rinse",
    "bond.failure_mild_two_step": "mild two-step self-etch",
    "bond.failure_strong_two_step": "strong two-step self-etch",
    "bond.failure_mild_one_step": "mild one-step self-etch",
    "bond.failure_strong_one_step": "strong one-step self-etch",
}
TEXTBOOKS = "Textbooks of operative dentistry (from memory)"


@dataclass(frozen=True)
class Chosen:
    """An adhesive and the way it is used; without one, any that suits. `at` is its place in stock."""

    etch: Etch
    adhesive: Adhesive | None = None
    at: int = 0

    @property
    def has_resin_apart(self) -> bool:
        """Tell whether a resin from a bottle of its own follows the primer."""
        if self.adhesive is None:
            return False
        return self.adhesive.bottles > (2 if self.adhesive.strategy == "etch_and_rinse" else 1)

    def family(self, rules: Rulebook) -> str | None:
        """Return the rule of the yearly failure of such adhesives, used so."""
        if self.adhesive is None:
            return None
        if self.etch == "etch_and_rinse":
            return f"bond.failure_{'three' if self.has_resin_apart else 'two'}_step_etch"
        is_mild = self.adhesive.ph is None or self.adhesive.ph >= rules.value("bond.mild_from_ph")
        steps = "two" if self.has_resin_apart else "one"
        return f"bond.failure_{'mild' if is_mild else 'strong'}_{steps}_step"

    def rests_on(self, rules: Rulebook) -> list[str]:
        """Return the rules by which it was taken from stock."""
        family = self.family(rules)
        by_ph = self.etch != "etch_and_rinse" and self.adhesive and self.adhesive.ph is not None
        return [*([family] if family else []), *(["bond.mild_from_ph"] if by_ph else [])]


def adhesive_of(case: Case, rules: Rulebook) -> Adhesive | None:
    """Return the adhesive that is taken, if one is known; raise InputError for one that does not stand in stock."""
    return _choose(case, rules)[0].adhesive


def bond(case: Case, cavity: Cavity, film: FilmCure, after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the adhesive steps; `after` are the steps that must be done before the acid.

    Raises InputError where the adhesive that is asked for does not stand in stock.
    """
    chosen, reasons = _choose(case, rules)
    named = f"{SCHOOLS[chosen.etch]}: {chosen.adhesive.name}" if chosen.adhesive else SCHOOLS[chosen.etch]
    decision = Decision(
        topic="bond.strategy",
        chosen=named,
        alternatives=[name for school, name in SCHOOLS.items() if school != chosen.etch],
        reasons=reasons,
        rules=rules.uses(*chosen.rests_on(rules)),
    )
    steps = _steps(chosen, case, cavity, after, rules)
    return StageResult(
        decisions=[decision],
        steps=[*steps, *_cures(film.exposures, steps[-1].id, rules)],
        checks=_film_checks(film, rules),
        cautions=_cautions(chosen, case, cavity, rules),
        wants=_wants(chosen, case),
        assumptions=_untold(chosen, film),
    )


def _film_checks(film: FilmCure, rules: Rulebook) -> list[Check]:
    """Return whether the film gels at its darkest corner by its own exposure, and gets all its light in the end."""
    acting = rules.uses("light.adhesive_gel_j_cm2", "light.longest_exposure_s")
    gels, has_all = film.own_j_cm2 >= film.gels_j_cm2 - 1e-9, film.in_all_j_cm2 >= film.wanted_j_cm2 - 1e-9
    remedy = "Hold the tip closer and straight, or remove what blocks the light."
    mean = " on average" if len(film.exposures) > 1 else ""
    return [
        Check(
            topic="bond.gel",
            title="Adhesive gelled, where it gets least",
            measured=round(film.own_j_cm2, 2),
            needed=round(film.gels_j_cm2, 2),
            relation="at_least",
            unit="J/cm2",
            verdict="pass" if gels else "fail",
            remedy=remedy,
            where=f"{film.spot}: {film.mean_mw_cm2:.0f} mW/cm\u00b2{mean} for {film.seconds:g} s",
            rules=acting,
        ),
        Check(
            topic="bond.light",
            title="Adhesive with the increments' light",
            measured=round(film.in_all_j_cm2, 2),
            needed=round(film.wanted_j_cm2, 2),
            relation="at_least",
            unit="J/cm2",
            verdict="pass" if has_all else "fail",
            remedy=remedy,
            where="anywhere, once every increment is lit",
            rules=rules.uses("light.adhesive_dose_j_cm2"),
        ),
    ]


def _untold(chosen: Chosen, film: FilmCure) -> list[Assumption]:
    """Return what the light on the film goes by where its manufacturer tells no time."""
    if chosen.adhesive and chosen.adhesive.manufacturer:
        return []
    path = f"stock[{chosen.at}].manufacturer" if chosen.adhesive else "restoration.adhesive"
    why = "no manufacturer's light time for the adhesive: it is gelled where it gets least"
    return [Assumption(path=path, value=film.seconds, unit="s", provenance="estimated", why=why)]


def _choose(case: Case, rules: Rulebook) -> tuple[Chosen, list[Reason]]:
    """Return the adhesive asked for, else of those that suit the technique the one whose kind fails least."""
    asked = case.composite.etch
    stock = [(i, one) for i, one in enumerate(case.stock) if isinstance(one, Adhesive)]
    why = {
        "selective_enamel": say("bond.selective_enamel"),
        "etch_and_rinse": say("bond.etch_and_rinse"),
        "self_etch": say("bond.self_etch"),
    }
    reasons = [why[asked]]
    if (wanted := case.composite.adhesive) is not None:
        stock = [(i, one) for i, one in stock if one.name == wanted]
        if not stock:
            names = [one.name for one in case.stock if isinstance(one, Adhesive)]
            raise InputError.at(
                "restoration.adhesive", wanted, ", ".join(names) or "none: there is no adhesive"
            )
    if not stock:
        return Chosen(asked), [*reasons, *([say("shelf.none")] if case.stock else [])]
    suited = [Chosen(asked, one, i) for i, one in stock if asked in SUITS[one.strategy]]
    ways = suited or [Chosen(SUITS[one.strategy][0], one, i) for i, one in stock]
    best = min(ways, key=lambda way: (rules.value(way.family(rules) or ""), way.adhesive.name))  # type: ignore[union-attr]
    assert best.adhesive
    family = best.family(rules) or ""
    told: dict[str, Any] = {
        "name": best.adhesive.name,
        "family": FAMILIES[family],
        "percent": rules.value(family),
    }
    return best, [*reasons, say("bond.asked", **told) if wanted else say("bond.least_failing", **told)]


def _cautions(chosen: Chosen, case: Case, cavity: Cavity, rules: Rulebook) -> list[Caution]:
    cautions = []
    adhesive, family = chosen.adhesive, chosen.family(rules)
    if chosen.etch != case.composite.etch and adhesive:
        used, asked = SCHOOLS[chosen.etch], SCHOOLS[case.composite.etch]
        told = {"name": adhesive.name, "used": used, "asked": asked}
        cautions.append(
            warn("caution", "bond.school_unsuited", "Manufacturer's way of use, from stock", **told)
        )
    kind = {"family": FAMILIES[family], "percent": f"{rules.value(family):g}"} if family else {}
    if family and "strong" in family:
        cautions.append(warn_by("caution", "bond.strong_acid", rules.use(family), **kind))
    where = " and ".join(cavity.margins_in_dentin)
    if where and family:
        cautions.append(warn_by("caution", "bond.margin_in_dentin", rules.use(family), where=where, **kind))
    elif where:
        cautions.append(warn("caution", "bond.margin_without_enamel", TEXTBOOKS, where=where))
    left, deep = cavity.remaining_dentin_mm, "tooth.least_remaining_dentin_mm"
    is_covered = bool(cavity.bases) or case.protection.exposure != "none"
    if chosen.etch == "etch_and_rinse" and not is_covered and left < rules.value(deep):
        cautions.append(
            warn_by("caution", "bond.acid_on_deep_dentin", rules.use(deep), left_mm=f"{left:.2f}")
        )
    if case.findings.field == "dry_without_dam":
        cautions.append(warn("caution", "bond.damp_field", "Common practice, no source"))
    return cautions


def _wants(chosen: Chosen, case: Case) -> list[Want]:
    wants = []
    if chosen.adhesive:
        one = chosen.adhesive
        wants.append(Want(kind="adhesive", text="adhesive", name=one.name, lot=one.lot))
    elif case.stock:
        wants.append(Want(kind="adhesive", text=f"adhesive for {SCHOOLS[chosen.etch]}"))
    return wants


# What cleans before the acid.
CLEANED = ("bond.clean", "bond.alcohol", "bond.air_abrasion")


class _Chain:
    """Steps of bonding, each after the one before."""

    def __init__(self, after: Sequence[str], rules: Rulebook) -> None:
        self.steps: list[Step] = []
        self._after, self._rules = list(after), rules

    def add(self, name: str, told: dict[str, Any] | None = None, **fields: Any) -> None:
        after = [self.steps[-1].id] if self.steps else self._after
        self.steps.append(catalog_step(f"bond.{name}", self._rules, told, after=after, **fields))


def _steps(chosen: Chosen, case: Case, cavity: Cavity, after: Sequence[str], rules: Rulebook) -> list[Step]:
    chain = _Chain(after, rules)
    if case.composite.cleaning != "none":
        chain.add(case.composite.cleaning)
    if case.composite.chlorhexidine == "before_etch":
        chain.add("clean")
    if chosen.etch != "self_etch":
        _acid(chain, chosen, cavity, rules)
    first = chain.steps[0].id if chain.steps else "bond.dry"
    if chosen.etch == "etch_and_rinse":
        solvent = chosen.adhesive.solvent if chosen.adhesive else "ethanol"
        chain.add("dry_etch_and_rinse", {"dentin": solvent})
    else:
        chain.add(f"dry_{chosen.etch}")
    if case.composite.chlorhexidine == "after_etch":
        chain.add("collagen")
    _adhesive(chain, chosen, first)
    return chain.steps


def _acid(chain: _Chain, chosen: Chosen, cavity: Cavity, rules: Rulebook) -> None:
    sides = " and ".join(cavity.margins_in_dentin)
    on_enamel = {"no_enamel": bool(sides), "sides": sides, "band": bool(cavity.boxes)}
    # Glass ionomer under composite lies on no wall toward the pulp: it counts nothing there.
    under = "base" if any(one.thickness_mm for one in cavity.bases) else "ionomer"
    base = {"base": under if cavity.bases else None}
    if chosen.etch == "selective_enamel":
        chain.add("etch_selective", {**on_enamel, **base})
    else:
        if rules.value("bond.enamel_head_start_s"):
            chain.add("etch_first", on_enamel)
        chain.add("etch_dentin", base)
    chain.add("rinse")


def _adhesive(chain: _Chain, chosen: Chosen, first: str) -> None:
    one = chosen.adhesive
    name = one.name if one else "adhesive"
    coats = one.coats if one else 1
    applied = {
        "what": "primer" if chosen.has_resin_apart else "adhesive",
        "several": coats > 1,
        "coats": coats,
        "name": name,
    }
    chain.add(
        "scrub",
        applied,
        **(_by_maker(chosen, "scrub_s", coats * one.scrub_s, one.scrub_s) if one else {}),
    )
    chain.add("wick")
    begin = "clean" if first in CLEANED else first.removeprefix("bond.")
    blown = {
        "how": one.solvent if one else "unknown",
        "shine": not chosen.has_resin_apart,
        "begin": begin if begin in ("clean", "dry") else "etch",
        "first": first,
    }
    chain.add("air", blown, **(_by_maker(chosen, "air_s", one.air_s, one.air_s) if one else {}))
    if chosen.has_resin_apart:
        chain.add("resin", {"name": name})


def _by_maker(chosen: Chosen, name: str, seconds: float, value: float) -> dict[str, object]:
    """Return a step's seconds as the manufacturer has the adhesive used."""
    path = f"stock[{chosen.at}].{name}"
    title = title_of_item(chosen.adhesive.name if chosen.adhesive else "", name)
    told = InputUse(path=path, title=title, value=value, unit="s", provenance="handbook")
    return {"seconds": seconds, "seconds_rule": None, "seconds_input": told}


def _cures(cures: Sequence[Exposed], previous: str, rules: Rulebook) -> list[Step]:
    steps: list[Step] = []
    for cure in cures:
        half = cure.aim.partition("_")[2]
        # Where it takes several sides, each is a step.
        where = half or (cure.aim if steps else "")
        told = {
            "end": f".{where}" if where else "",
            "part": "half" if half else "side" if where else None,
            "where": where,
        }
        step = light_step(
            "bond.cure",
            rules,
            "light.adhesive_gel_j_cm2",
            presses_of([(cure.aim, cure.rung)]),
            told,
            after=[previous],
        )
        steps.append(step)
        previous = step.id
    return steps
