"""The restoratives that there are, by what a case calls them."""

from __future__ import annotations

from collections.abc import Mapping

from mallet.restoratives.amalgam import AMALGAM
from mallet.restoratives.composite import COMPOSITE
from mallet.restoratives.glass_ionomer import GLASS_IONOMER
from mallet.restoratives.gold import GOLD_FOIL
from mallet.restoratives.restorative import Restorative
from mallet.restoratives.sealant import SEALANT

RESTORATIVES: Mapping[str, Restorative] = {
    one.id: one for one in (COMPOSITE, AMALGAM, GLASS_IONOMER, SEALANT, GOLD_FOIL)
}
