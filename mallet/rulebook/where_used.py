"""Where each rule acts: found in the heart's own source and catalogues, so that it cannot be told wrong."""

from __future__ import annotations

import ast
from collections.abc import Iterator, Mapping
from functools import lru_cache
from importlib import resources
from importlib.resources.abc import Traversable

from mallet.rulebook.book import load_rulebook
from mallet.rulebook.steps import steps_catalog

# The places as the user knows them, by the module that names a rule.
PLACES = {
    "tooth": "Tooth",
    "stages/assess": "Examination and diagnosis",
    "color": "Shade",
    "restoratives/composite/color": "Shade",
    "restoratives/composite/shade": "Shade",
    "stages/choose": "Material",
    "stages/isolate": "Isolation",
    "stages/anesthetic": "Isolation",
    "stages/untold": "Preparation",
    "stages/prepare": "Preparation",
    "stages/prepare_checks": "Preparation",
    "stages/prepare_cover": "Preparation",
    "stages/prepare_cuts": "Preparation",
    "stages/prepare_features": "Preparation",
    "stages/prepare_grooves": "Preparation",
    "stages/prepare_margins": "Preparation",
    "cavity": "Preparation",
    "stages/protect": "Pulp protection",
    "stages/protect_steps": "Pulp protection",
    "stages/primary_pulp": "Pulp protection",
    "stages/matrix": "Matrix and wedge",
    "stages/adjacent": "Matrix and wedge",
    "stages/matrix_stock": "Matrix and wedge",
    "stages/matrix_checks": "Matrix and wedge",
    "stages/matrix_steps": "Matrix and wedge",
    "stages/matrix_face": "Matrix and wedge",
    "stages/matrix_round": "Matrix and wedge",
    "restoratives/composite/bond": "Adhesion",
    "restoratives/composite": "Placement",
    "restoratives/composite/finish": "Finishing and checks",
    "restoratives/composite/contour": "Finishing and checks",
    "stages/matrix_off": "Finishing and checks",
    "stages/finish_steps": "Finishing and checks",
    "stages/site": "Preparation",
    "restoratives/glass_ionomer": "Placement",
    "restoratives/sealant": "Placement",
    "stages/ionomer": "Placement",
    "stages/ionomer_layers": "Placement",
    "stages/fissures": "Preparation",
    "restoratives/amalgam": "Placement",
    "restoratives/amalgam/form": "Preparation",
    "restoratives/amalgam/retention": "Preparation",
    "restoratives/amalgam/finish": "Finishing and checks",
    "restoratives/gold": "Placement",
    "restoratives/gold/form": "Preparation",
    "restoratives/gold/cutting": "Preparation",
    "restoratives/gold/finish": "Finishing and checks",
    "condensing": "Placement",
    "restoratives/glass_ionomer/finish": "Finishing and checks",
    "curing/lamp": "Curing light",
    "curing/film": "Adhesion",
    "curing": "Placement",
    "curing/warmth": "Pulp temperature rise",
    "light/heat": "Pulp temperature rise",
    "light/eye": "Curing light",
    "light/upkeep": "Curing lights",
    "light": "Light",
    "studies/light_lines": "Light",
    "studies/hold_lessons": "Tip angle and distance",
    "studies/measure_first": "Measure first",
    "studies/starting": "New restoration",
    "restoratives/composite/reckoning": "Summary",
    "runsheet": "Summary",
    "plan": "Summary",
}
# And by the stage of a step that takes a rule's time.
STAGES = {
    "assess": "Examination and diagnosis",
    "shade": "Shade",
    "isolate": "Isolation",
    "prepare": "Preparation",
    "protect": "Pulp protection",
    "matrix": "Matrix and wedge",
    "bond": "Adhesion",
    "build": "Placement",
    "finish": "Finishing and checks",
}


@lru_cache(maxsize=1)
def where_used() -> Mapping[str, tuple[str, ...]]:
    """Return, for each rule, the places of the work in which it acts, in the order of `PLACES`."""
    known = load_rulebook().rules.keys()
    found: dict[str, set[str]] = {rule_id: set() for rule_id in known}
    for path, text in _modules(resources.files("mallet")):
        for named in _strings(text) & known:
            found[named].add(place_of(path))
    for step in steps_catalog().values():
        if step.rule:
            found[step.rule].add(STAGES[step.stage])
    order = list(dict.fromkeys(PLACES.values()))
    return {rule_id: tuple(sorted(places, key=order.index)) for rule_id, places in found.items()}


def place_of(module: str) -> str:
    """Return the place of a module (`stages/protect`); raise KeyError where it has none."""
    parts = module.split("/")
    for length in range(len(parts), 0, -1):
        if place := PLACES.get("/".join(parts[:length])):
            return place
    raise KeyError(module)


def _modules(folder: Traversable, prefix: str = "") -> Iterator[tuple[str, str]]:
    for entry in folder.iterdir():
        if entry.is_dir():
            yield from _modules(entry, f"{prefix}{entry.name}/")
        elif entry.name.endswith(".py"):
            yield prefix + entry.name.removesuffix(".py"), entry.read_text()


def _strings(text: str) -> set[str]:
    """Return the string constants of a module."""
    nodes = ast.walk(ast.parse(text))
    return {node.value for node in nodes if isinstance(node, ast.Constant) and isinstance(node.value, str)}
