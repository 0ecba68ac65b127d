"""Which glass ionomer is placed, and with which coat."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.stages.ionomer import Chosen, by_handbook, filled, in_stock, named_among
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.plan import Want
from mallet.terms.reasons import refuse, say
from mallet.terms.restoration import GlassIonomerRestoration
from mallet.terms.stock import Coat

HANDBOOK = "a conventional glass ionomer, by the handbook"


def asked_of(case: Case) -> GlassIonomerRestoration:
    """Return what a case asks of glass ionomer."""
    assert isinstance(case.restoration, GlassIonomerRestoration)
    return case.restoration


def choose_ionomer(case: Case, rules: Rulebook) -> Chosen:
    """Return the glass ionomer of a case: the one that it names, else the first in stock by name that needs no light, else
    one by the handbook.

    Raises InputError for one that is not in stock, and NotFeasible for one with resin where the patient is allergic to it.
    """
    stock, named = in_stock(case, lit_only=False), asked_of(case).ionomer
    at: int | None = None
    if named is not None:
        at, item = named_among(stock, named, "restoration.ionomer")
        why = say("ionomer.named", name=named)
    elif stock:
        at, item = stock[0]
        why = say("ionomer.from_stock", name=item.name)
    else:
        item, why = by_handbook(HANDBOOK, rules, resin_modified=False), say("ionomer.handbook")
    if item.resin_modified and "resin" in case.patient.allergies:
        raise refuse("ionomer.resin_allergy", name=item.name)
    return filled(item, at, why, rules)


def coat_of(case: Case) -> Coat | None:
    """Return the coat of a case: the one that it names, else the first by name of the tint that its value asks for; None
    where none is in stock."""
    asked = asked_of(case)
    stock = sorted((one for one in case.stock if isinstance(one, Coat)), key=lambda one: one.name)
    if asked.coat is not None:
        named = [one for one in stock if one.name == asked.coat]
        if not named:
            names = ", ".join(one.name for one in stock) or "none: there is no coat"
            raise InputError.at("restoration.coat", asked.coat, names)
        return named[0]
    return next((one for one in stock if one.tint == tint_of(case)), None)


def tint_of(case: Case) -> str:
    """Return the tint that the value of the wet surface asks for: a clear coat keeps it, a tinted one lowers it."""
    return "tinted" if asked_of(case).value_when_wet == "too_high" else "clear"


def wants_of(case: Case, chosen: Chosen, capsules: int, coat: Coat | None) -> list[Want]:
    """Return what is wanted from stock, where the practice keeps any."""
    if not case.stock:
        return []
    item = chosen.item if chosen.at is not None else None
    many = f"{capsules} capsule{'s' if capsules > 1 else ''}"
    ionomer = Want(
        kind="ionomer",
        text=f"glass ionomer, {many}",
        name=item.name if item else None,
        lot=item.lot if item else None,
    )
    wanted = Want(
        kind="coat",
        text=f"{tint_of(case)} coat",
        name=coat.name if coat else None,
        lot=coat.lot if coat else None,
    )
    return [ionomer, wanted] if chosen.item.needs_coat else [ionomer]
