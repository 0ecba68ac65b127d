"""Which sealant is placed, as the light meets it."""

from __future__ import annotations

from dataclasses import dataclass

from mallet.light.working_curve import Completed, complete
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.pieces import Reason
from mallet.terms.plan import Want
from mallet.terms.reasons import say
from mallet.terms.restoration import Composite, SealantRestoration
from mallet.terms.stock import ManufacturerCure, Sealant

HANDBOOK = "a sealant by the handbook"
# At which a package's time is taken to hold where it does not say.
OUTPUT_MW_CM2 = 800.0


@dataclass(frozen=True)
class Chosen:
    """The sealant that is placed, its place in stock if it stands there, and as the light meets it."""

    item: Sealant | None
    at: int | None
    lit: Completed
    reason: Reason

    @property
    def name(self) -> str:
        return self.item.name if self.item else HANDBOOK


def asked_of(case: Case) -> SealantRestoration:
    """Return what a case asks of a sealant."""
    assert isinstance(case.restoration, SealantRestoration)
    return case.restoration


def choose_sealant(case: Case, rules: Rulebook) -> Chosen:
    """Return the sealant of a case: the one that it names, else the first in stock by name, else one by the handbook; raise
    InputError for one that is not in stock."""
    stock = [(at, one) for at, one in enumerate(case.stock) if isinstance(one, Sealant)]
    if (name := asked_of(case).sealant) is not None:
        found = [(at, one) for at, one in stock if one.name == name]
        if not found:
            names = ", ".join(one.name for _, one in stock) or "none: there is no sealant"
            raise InputError.at("restoration.sealant", name, names)
        at, item = found[0]
        return Chosen(item, at, _as_lit(item, at, rules), say("sealant.named", name=name))
    if not stock:
        return Chosen(None, None, _as_lit(None, None, rules), say("sealant.handbook"))
    at, item = min(stock, key=lambda one: one[1].name)
    return Chosen(item, at, _as_lit(item, at, rules), say("sealant.from_stock", name=item.name))


def _as_lit(item: Sealant | None, at: int | None, rules: Rulebook) -> Completed:
    """Return a sealant with its working curve, as a composite of enamel's shade that flows."""
    made = (item.manufacturer if item else None) or ManufacturerCure(
        seconds=rules.value("sealant.exposure_s"), at_irradiance_mw_cm2=OUTPUT_MW_CM2
    )
    resin = Composite(
        name=item.name if item else HANDBOOK,
        role="enamel",
        consistency="flowable",
        max_increment_mm=(item.depth_mm if item else None) or rules.value("sealant.depth_mm"),
        shrinkage_vol_percent=5.0,
        density_g_cm3=item.density_g_cm3 if item else 1.2,
        modulus_gpa=3.0,
        manufacturer=made,
        lot=item.lot if item else None,
    )
    return complete(resin, rules, "restoration.sealant" if at is None else f"stock[{at}]")


def wants_of(case: Case, chosen: Chosen) -> list[Want]:
    """Return what is wanted from stock, where the practice keeps any."""
    if not case.stock:
        return []
    item = chosen.item
    return [
        Want(
            kind="sealant",
            text="fissure sealant",
            name=item.name if item else None,
            lot=item.lot if item else None,
        )
    ]
