"""What amalgam is placed with: capsules, carrier, varnish, condensers; from stock, else by the handbook."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.plan import Assumption
from mallet.terms.restoration import AmalgamRestoration
from mallet.terms.stock import Capsule, Carrier, Condenser, Varnish

HANDBOOK = "amalgam by the handbook"
NIBS_MM = (0.8, 1.0, 1.5, 2.0, 2.5)


def asked_of(case: Case) -> AmalgamRestoration:
    """Return what a case asks of amalgam."""
    assert isinstance(case.restoration, AmalgamRestoration)
    return case.restoration


@dataclass(frozen=True)
class Kit:
    """Capsules of one alloy by size, each with its place in stock, and what else places them: `gauge_mm` is the nib that
    passes everywhere. What was assumed where something is not in stock."""

    capsules: Sequence[tuple[int | None, Capsule]]
    carrier: Carrier
    varnish: Varnish
    nibs_mm: Sequence[float]
    gauge_mm: float
    assumed: Sequence[Assumption]

    @property
    def is_spherical(self) -> bool:
        return self.capsules[0][1].particle == "spherical"

    @property
    def is_from_stock(self) -> bool:
        return self.capsules[0][0] is not None


def kit_of(case: Case, rules: Rulebook) -> Kit:
    """Return what a case is filled with; raise InputError for a capsule that it names and that is not in stock."""
    assumed: list[Assumption] = []
    capsules = _capsules(case)
    if not capsules:
        capsules = [(None, _handbook(rules))]
        assumed += [
            _assumption("restoration.capsule", value, unit, "no capsule in stock: read the package")
            for value, unit in ((capsules[0][1].alloy_mg, "mg"), (capsules[0][1].mercury_share, "x"))
        ]
    carrier = next((one for one in case.stock if isinstance(one, Carrier)), None)
    if carrier is None:
        bore, length = rules.value("amalgam.carrier_bore_mm"), rules.value("amalgam.carrier_length_mm")
        carrier = Carrier(kind="carrier", name="amalgam carrier", bore_mm=bore, length_mm=length)
        assumed.append(_assumption("stock", bore, "mm", "no carrier in stock: its bore"))
    varnish = next((one for one in case.stock if isinstance(one, Varnish)), None)
    if varnish is None:
        coats, dry_s = round(rules.value("amalgam.varnish_coats")), rules.value("amalgam.varnish_dry_s")
        varnish = Varnish(kind="varnish", name="cavity varnish", coats=coats, dry_s=dry_s)
    nibs = sorted({one.nib_mm for one in case.stock if isinstance(one, Condenser) and one.use == "amalgam"})
    if not nibs:
        assumed.append(
            _assumption("stock", NIBS_MM[0], "mm", "no condenser for amalgam in stock: the usual nibs")
        )
    gauge_mm = nibs[0] if nibs else rules.value("amalgam.gauge_mm")
    return Kit(capsules, carrier, varnish, nibs or NIBS_MM, gauge_mm, assumed)


def _capsules(case: Case) -> list[tuple[int | None, Capsule]]:
    """Return the capsules that a case may open: those that it names, else all of the first alloy by name, since what is
    of different alloys is not packed together."""
    stock = [(at, one) for at, one in enumerate(case.stock) if isinstance(one, Capsule)]
    named = asked_of(case).capsule
    if named is not None:
        found = [(at, one) for at, one in stock if one.name == named]
        if not found:
            names = ", ".join(one.name for _, one in stock) or "none: there is no capsule"
            raise InputError.at("restoration.capsule", named, names)
        return list(found)
    if not stock:
        return []
    _, first = min(stock, key=lambda one: (one[1].name, one[0]))
    alike = [(at, one) for at, one in stock if _alloy(one) == _alloy(first)]
    alike.sort(key=lambda one: (one[1].alloy_mg, one[1].name, one[0]))
    return [next(same) for _, same in itertools.groupby(alike, key=lambda one: one[1].alloy_mg)]


def _alloy(one: Capsule) -> tuple[str, float]:
    return one.particle, one.mercury_share


def _handbook(rules: Rulebook) -> Capsule:
    return Capsule(
        kind="capsule",
        name=HANDBOOK,
        alloy_mg=rules.value("amalgam.alloy_mg"),
        mercury_share=rules.value("amalgam.mercury_share"),
        particle="admixed",
        trituration_s=rules.value("amalgam.trituration_s"),
        working_s=rules.value("amalgam.working_s"),
    )


def _assumption(path: str, value: float, unit: str, why: str) -> Assumption:
    return Assumption(path=path, value=value, unit=unit, provenance="handbook", why=why)
