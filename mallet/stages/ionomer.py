"""Glass ionomer as it comes in capsules, for whatever it is placed: what its package says, how it is mixed, how light meets
it."""

from __future__ import annotations

from dataclasses import dataclass

from mallet.light.working_curve import Completed, complete
from mallet.rulebook import Rulebook
from mallet.stages.asks import title_of_item
from mallet.stages.hand import hand_step
from mallet.terms.pieces import Reason
from mallet.terms.plan import Assumption, InputUse, Step
from mallet.terms.restoration import Composite
from mallet.terms.stock import Ionomer, ManufacturerCure

# At which a package's time is taken to hold where it does not say.
OUTPUT_MW_CM2 = 800.0


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
    return hand_step(
        id=name,
        title="Activate and mix a capsule",
        detail=f"{item.name}: activate it, mix {item.mix_s:g} s, hand it over with the tip on.",
        actor="assistant",
        rule=rules.use("ionomer.mix_s"),
        timed=True,
        tray=[f"{item.name}, 1 capsule", "capsule mixer", "capsule applicator"],
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
