"""Glass ionomer as it comes in capsules, for whatever it is placed: what its package says, how it is mixed, how light meets
it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from mallet.light.working_curve import Completed, complete
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.asks import title_of_item
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.pieces import Reason
from mallet.terms.plan import Assumption, InputUse, Step, Supply
from mallet.terms.restoration import Composite
from mallet.terms.stock import Ionomer, ManufacturerCure

# At which a package's time is taken to hold where it does not say.
OUTPUT_MW_CM2 = 800.0
ACIDS = {
    "polyacrylic": ("polyacrylic acid", "ionomer.polyacrylic_s"),
    "phosphoric": ("phosphoric acid", "ionomer.phosphoric_s"),
}


@dataclass(frozen=True)
class Chosen:
    """The glass ionomer that is placed, its place in stock if it stands there, and why; `asked_at` is where a case names it."""

    item: Ionomer
    at: int | None
    reasons: list[Reason]
    assumed: list[Assumption]
    asked_at: str = "restoration.ionomer"

    @property
    def path(self) -> str:
        """Return where in a case its properties stand."""
        return self.asked_at if self.at is None else f"stock[{self.at}]"

    @property
    def capsule_mm3(self) -> float:
        """Return what one capsule gives."""
        assert self.item.volume_mm3 is not None
        return self.item.volume_mm3


def filled(
    item: Ionomer, at: int | None, why: Reason, rules: Rulebook, asked_at: str = "restoration.ionomer"
) -> Chosen:
    """Return an ionomer with what its package does not say by the rulebook, and what was assumed."""
    missing = {
        name: rules.value(f"ionomer.{rule}")
        for name, rule in (("volume_mm3", "capsule_mm3"), ("mix_s", "mix_s"))
        if getattr(item, name) is None
    }
    units = {"volume_mm3": "mm3", "mix_s": "s"}
    path = asked_at if at is None else f"stock[{at}]"
    assumed = [
        Assumption(path=f"{path}.{name}", value=value, unit=units[name], provenance="handbook", why=f"{item.name}: ask the package")
        for name, value in missing.items()
    ]  # fmt: skip
    # The longer of manufacturer and practice waits.
    set_s = max(item.set_s, rules.house.get("ionomer.set_s", 0.0))
    return Chosen(item.model_copy(update={**missing, "set_s": set_s}), at, [why], assumed, asked_at)


def as_lit(chosen: Chosen, rules: Rulebook) -> Completed:
    """Return a glass ionomer as the light meets it: with its working curve, as a composite of dentin's shade."""
    item = chosen.item
    made = item.manufacturer or ManufacturerCure(
        seconds=rules.value("ionomer.exposure_s"), at_irradiance_mw_cm2=OUTPUT_MW_CM2
    )
    resin = Composite(
        name=item.name,
        role="dentin",
        max_increment_mm=item.depth_mm or rules.value("ionomer.layer_mm"),
        shrinkage_vol_percent=3.0,
        density_g_cm3=rules.value("ionomer.density_g_cm3"),
        modulus_gpa=8.0,
        manufacturer=made,
        lot=item.lot,
    )
    return complete(resin, rules, chosen.path)


def mixing_step(chosen: Chosen, name: str, order: int, after: str, rules: Rulebook) -> Step:
    """Return how a capsule is activated and mixed for the increment of an order."""
    item = chosen.item
    return catalog_step(
        "ionomer.mix",
        rules,
        {"id": name, "name": item.name, "mix_s": item.mix_s},
        after=[after],
        increment=order,
        **(by_package(chosen, "mix_s", item.mix_s) if item.mix_s else {}),
    )


def by_package(chosen: Chosen, name: str, seconds: float) -> dict[str, object]:
    """Return a step's seconds as the package has them, for what stands in stock."""
    if chosen.at is None:
        return {}
    return {"seconds": seconds, "seconds_rule": None, "seconds_input": told_input(chosen, name, seconds)}


def told_input(chosen: Chosen, name: str, value: float) -> InputUse:
    title = title_of_item(chosen.item.name, name)
    path = f"stock[{chosen.at}].{name}"
    return InputUse(path=path, title=title, value=value, unit="s", provenance="handbook")


def held_mm3(chosen: Chosen, rules: Rulebook) -> float:
    """Return what of a capsule may be planned on: the rest is pressed out, or stays in its tip."""
    return float(chosen.capsule_mm3 / (1 + rules.value("ionomer.surplus_share")))


def supplies_of(
    chosen: Chosen, steps: Sequence[Step], mixed: Sequence[tuple[str, Sequence[int]]]
) -> list[Supply]:
    """Return each capsule with when it is mixed, and until when it can be worked; `mixed` tells each by the step that mixes
    it and the increments that it is placed in."""
    ends = {step.id: step.end_s for step in steps}
    return [
        Supply(
            kind="capsule",
            name=chosen.item.name,
            lot=chosen.item.lot,
            count=1,
            starts_s=ends[step_id],
            expires_s=ends[step_id] + chosen.item.working_s,
            increments=list(orders),
        )
        for step_id, orders in mixed
    ]


def conditioned(
    chosen: Chosen, after: Sequence[str], rules: Rulebook, under: Literal["", "sandwich_"] = ""
) -> list[Step]:
    """Return how dentin is conditioned and rinsed, as the package has it; nothing, where it asks for no conditioner."""
    item = chosen.item
    if item.conditioner == "none":
        return []
    acid, rule = ACIDS[item.conditioner]
    use = rules.use(rule)
    time: dict[str, object] = {"seconds": use.value, "seconds_rule": use}
    if item.condition_s:
        time |= by_package(chosen, "condition_s", item.condition_s)
    acting = catalog_step(f"ionomer.{under}condition", rules, {"acid": acid}, after=list(after), **time)
    return [acting, catalog_step(f"ionomer.{under}rinse", rules, after=[acting.id])]


def by_handbook(name: str, rules: Rulebook, *, resin_modified: bool) -> Ionomer:
    """Return a glass ionomer with the handbook's times, for where none is in stock."""
    return Ionomer(
        kind="ionomer",
        name=name,
        resin_modified=resin_modified,
        conditioner="polyacrylic",
        condition_s=rules.value("ionomer.polyacrylic_s"),
        working_s=rules.value("ionomer.working_s"),
        set_s=rules.value("ionomer.set_s"),
    )


def in_stock(case: Case, *, lit_only: bool) -> list[tuple[int, Ionomer]]:
    """Return the glass ionomers in stock with their places, those that need no light first, then by name."""
    found = [(at, one) for at, one in enumerate(case.stock) if isinstance(one, Ionomer)]
    wanted = [(at, one) for at, one in found if one.resin_modified or not lit_only]
    return sorted(wanted, key=lambda one: (one[1].resin_modified, one[1].name, one[0]))


def named_among(stock: Sequence[tuple[int, Ionomer]], name: str, path: str) -> tuple[int, Ionomer]:
    """Return the one that a case names; raise InputError where it is not among them."""
    for at, one in stock:
        if one.name == name:
            return at, one
    raise InputError.at(
        path, name, ", ".join(one.name for _, one in stock) or "none: nothing in stock would do"
    )


def lit_rules(chosen: Chosen) -> list[str]:
    """Return the rules that act where the package says nothing of its layer or its light."""
    said = {"ionomer.layer_mm": chosen.item.depth_mm, "ionomer.exposure_s": chosen.item.manufacturer}
    return [rule for rule, value in said.items() if value is None]


def capsule_rules(chosen: Chosen) -> list[str]:
    """Return the rule of what a capsule gives, where the package does not say."""
    is_assumed = any(one.path.endswith(".volume_mm3") for one in chosen.assumed)
    return ["ionomer.capsule_mm3"] if is_assumed else []
