"""What the hands do to protect a pulp: stop its bleeding, place what covers it, let it set."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from mallet.rulebook import Rulebook
from mallet.stages.asks import title_of_item
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import InputUse, Step, StepCheck
from mallet.terms.stock import Base, Liner

Cover = Base | Liner
SILICATE: Literal["calcium_silicate"] = "calcium_silicate"
IONOMER: Literal["resin_modified_ionomer"] = "resin_modified_ionomer"
SUBSTANCES = {
    "calcium_silicate": "calcium silicate",
    "resin_modified_ionomer": "resin-modified ionomer",
    "zinc_phosphate": "zinc phosphate",
    "calcium_hydroxide": "calcium hydroxide",
}
# A pulp that was opened is covered, whatever is left over it elsewhere.
OPENED = ("cap", "pulpotomy")


@dataclass(frozen=True)
class Taken:
    """A base or liner, its place in stock, if it stands there, and why it was taken."""

    cover: Cover
    at: int | None
    reason: Reason

    @property
    def name(self) -> str:
        """Return what it is and, from stock, what it is called."""
        kind = f"{SUBSTANCES[self.cover.substance]} {self.cover.kind}"
        return kind if self.at is None else f"{kind}: {self.cover.name}"


def protect_steps(case: Case, taken: Taken, rules: Rulebook) -> list[Step]:
    """Return what the hands do for a base or liner, over an opened pulp too."""
    made: list[Step] = []

    def add(name: str, title: str, detail: str, rule: str, **more: object) -> None:
        told = {"after": [made[-1].id if made else "prepare.verify"], **more}
        made.append(hand_step(id=f"protect.{name}", title=title, detail=detail, rule=rules.use(rule), **told))

    opened = case.protection.exposure in OPENED
    if opened:
        _stop_bleeding(case, add)
    if case.protection.placed_days_ago is not None:
        add(
            "cut_back",
            "Cut the base back",
            _shape(),
            "protect.trim_s",
            tray=["round bur", "spoon excavator"],
        )
        return made
    _cover(case, taken, ["protect.bleeding"] if opened else [], add)
    return made


def _stop_bleeding(case: Case, add: Callable[..., None]) -> None:
    """Add what is done to an opened pulp before it is covered."""
    if case.protection.exposure == "pulpotomy":
        detail = "Sterile round bur with water, to the canal openings; no soft dentin is left over or beside the pulp."
        tray = ["sterile round bur", "sterile spoon excavator"]
        add("pulpotomy", "Remove the coronal pulp", detail, "protect.pulpotomy_s", tray=tray)
    check = StepCheck(
        question="Has the bleeding stopped within five minutes?",
        remedy="It has not: the pulp is inflamed deeper. Stop, decide again, record it.",
        back_to="protect.bleeding",
    )
    detail = "Disinfect: sodium hypochlorite on a sterile moist pellet, light pressure. Sterile instruments, no air."
    tray = ["sodium hypochlorite", "sterile pellets", "sterile instruments"]
    add(
        "bleeding",
        "Stop the bleeding",
        detail,
        "protect.stop_bleeding_s",
        timed=True,
        check=check,
        tray=tray,
    )


def _cover(case: Case, taken: Taken, after: Sequence[str], add: Callable[..., None]) -> None:
    """Add how a base or liner is mixed, placed, left to set and trimmed."""
    cover = taken.cover
    what = SUBSTANCES[cover.substance]
    name = what if taken.at is None else cover.name
    drop = " Keep a drop of the liquid back to dampen the cavity." if cover.substance == SILICATE else ""
    add("mix", f"Mix the {cover.kind}", f"{name}.{drop}", "protect.mix_s", actor="assistant", tray=[name])
    add(
        "place",
        f"Place the {cover.kind}",
        _placing(case, cover),
        "protect.place_s",
        tray=[name, "spatula"],
        after=["prepare.verify", *after, "protect.mix"],
    )
    rule = "protect.silicate_set_s" if cover.substance == SILICATE else "protect.ionomer_set_s"
    add("set", f"{what.capitalize()} sets", _setting(cover), rule, timed=True, **_set_time(taken))
    if isinstance(cover, Base):
        add(
            "trim",
            "Trim the base",
            f"{_shape()} In a flat cavity trimming can dislodge it.",
            "protect.trim_s",
            tray=["probe", "spoon excavator"],
            check=StepCheck(
                question=f"Does a probe leave no mark, and do {cover.least_above_mm:g} mm fit over it in occlusion?",
                remedy="Soft: wait two minutes, probe again. Too high: trim it lower.",
                back_to="protect.trim",
            ),
        )


def _shape() -> str:
    return "The shape of the lost dentin, off enamel and margins, against thin cusps."


def _placing(case: Case, cover: Cover) -> str:
    if isinstance(cover, Liner):
        if cover.substance == "calcium_hydroxide" and case.techniques.hydroxide == "whole_floor":
            return f"Over the whole floor, no thicker than {cover.most_mm:g} mm; off enamel and margins."
        return f"On the deepest spot only, no thicker than {cover.most_mm:g} mm; off enamel and margins."
    if case.protection.exposure in OPENED:
        return "On the exposed pulp and round it with a sterile instrument; no pressure, no air."
    if cover.substance == SILICATE:
        return "Dentin barely moist. Roll it with dry fingers, tease it in, do not pack; no air on it."
    return f"Dentin clean and dry, not parched. {_shape()}"


def _setting(cover: Cover) -> str:
    if isinstance(cover, Base) and cover.soft_until_s:
        return f"Not set at {cover.soft_until_s / 60:.0f} min; setting varies with moisture. Do not air-dry."
    if cover.substance == IONOMER:
        return "With the curing light where its manufacturer says so."
    return "Leave it alone."


def _set_time(taken: Taken) -> dict[str, Any]:
    """Return a step's seconds as the manufacturer tells them, for what stands in stock."""
    if taken.at is None:
        return {}
    path, set_s = f"stock[{taken.at}].set_s", taken.cover.set_s
    told = InputUse(
        path=path,
        title=title_of_item(taken.cover.name, "set_s"),
        value=set_s,
        unit="s",
        provenance="handbook",
    )
    return {"seconds": set_s, "seconds_rule": None, "seconds_input": told}
