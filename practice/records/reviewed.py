"""What reviews teach: how restorations of a composite were read once they were wet again, over what was predicted of them."""

from __future__ import annotations

import datetime as dt
import math
from collections import defaultdict
from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from mallet.color.corrected import READ_AS, Bias, bias_of, corrected
from mallet.terms.color_plan import CompositeColor
from mallet.terms.errors import InputError
from practice.accounts.models import Practice, User
from practice.accounts.owned import Refused
from practice.equipment.models import Item, Specimen
from practice.equipment.optics import OPTICS, keep_optics
from practice.house.services import rules_of
from practice.restorations.models import PlanVersion
from practice.runs.models import RunEvent

STEP = "shade.review"
# What is older tells less of what is in stock now.
LAST = 100
Floats = NDArray[np.float64]


def taught(practice: Practice) -> dict[str, Bias]:
    """Return what reviews teach of composites, by their names: of plans since a composite was last measured, for what was known
    before is none of its own any more."""
    rules, known_since = rules_of(practice), _known_since(practice)
    read: dict[str, list[tuple[Floats, Floats]]] = defaultdict(list)
    for plan, lab in _reviewed(practice):
        planned = plan.body.planned
        name = _answering(planned)
        if name not in known_since or plan.saved_at > known_since[name]:
            read[name].append((np.array(planned["color"]["predicted"]), lab))
    return {name: bias_of(*np.array(pairs).swapaxes(0, 1), rules) for name, pairs in read.items()}


def put_right(item: Item, who: User) -> CompositeColor:
    """Move what is known of a composite by what its reviews teach; plans weigh it from now on. Raises Refused where too few teach
    enough, or it would be no color."""
    told = taught(item.practice).get(item.name)
    optics = item.properties.get("optics")
    if not (optics and told and told.is_enough):
        raise Refused("equipment.optics.not_taught", "reviews do not teach enough yet: measure a specimen")
    try:
        moved = corrected(OPTICS.validate_python(optics), told.off_lab)
        return keep_optics(item, moved, "", who, reviews=told.reviews)
    except (ValueError, InputError) as error:
        raise Refused(
            "equipment.optics.no_color", "so moved, it is no composite: measure a specimen"
        ) from error


def _known_since(practice: Practice) -> dict[str, dt.datetime]:
    rows = Specimen.objects.owned_by(practice).order_by("noted_at")
    return dict(rows.values_list("item__name", "noted_at"))


def _reviewed(practice: Practice) -> Iterator[tuple[PlanVersion, Floats]]:
    """Yield the plan that each restoration was placed by, and the color that was read of it at its last review; the last so many
    restorations."""
    rows = RunEvent.objects.owned_by(practice).filter(
        kind=RunEvent.Kind.MEASURED, step_id=STEP, run__finished_at__isnull=False
    )
    values: dict[int, dict[str, float]] = defaultdict(dict)
    plans: dict[int, int] = {}
    for restoration, plan, told in rows.order_by("run_id", "revision").values_list(
        "run__restoration_id", "run__plan_id", "detail"
    ):
        values[restoration][told["id"]] = told["value"]
        plans[restoration] = plan
    whole = [restoration for restoration, told in values.items() if set(READ_AS) <= told.keys()][-LAST:]
    wanted = {plans[restoration] for restoration in whole}
    bodies = PlanVersion.objects.select_related("body").defer("body__case", "body__drawing").in_bulk(wanted)
    for restoration in whole:
        plan = bodies[plans[restoration]]
        if plan.body.planned.get("color"):
            yield plan, np.array([values[restoration][axis] for axis in READ_AS])


def _answering(plan: Mapping[str, Any]) -> str:
    """Return which composite answers for the color: of those placed, the one that hides what lies behind it soonest."""
    hides = plan["color"]["hides_mm"]
    placed = {one["product"] for one in plan["increments"]} & hides.keys()
    return min(sorted(placed), key=lambda name: hides[name] if hides[name] is not None else math.inf)
