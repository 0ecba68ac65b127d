"""The restoratives that there are, by what a case calls them."""

from __future__ import annotations

from collections.abc import Mapping

from mallet.restoratives.composite import COMPOSITE
from mallet.restoratives.restorative import Restorative

RESTORATIVES: Mapping[str, Restorative] = {one.id: one for one in (COMPOSITE,)}
