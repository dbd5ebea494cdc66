"""Checks without being asked: whether what was drawn can be made, put together, and stays together."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ...kinematics.motion import Motion
from ..advice import Advice
from .bearings import of_bearings
from .finding import ShopFinding, with_waivers
from .guides import of_guides
from .holes import of_holes
from .lying import of_lying, of_ways
from .screws import of_screws
from .stacks import Shop
from .walls import of_walls

if TYPE_CHECKING:
    from ...clearance.approach import Approach

__all__ = ["ShopFinding", "shop_advice", "shop_findings"]
GRAVE = ("no longer fits", "no nut", "nut of another size", "too short", "not held", "holes not in line", "sunk in",
         "in the way", "no hole")  # fmt: skip
"""What keeps it from being put together, or from staying so; the rest is told in the list alone."""


def shop_advice(found: Sequence[ShopFinding]) -> list[Advice]:
    """What of it calls for a hand."""
    return [Advice(one.text, one.place, one.t, one.mend) for one in found if one.name in GRAVE and not one.waived]



def shop_findings(motion: Motion, approaches: "Sequence[Approach]") -> tuple[ShopFinding, ...]:
    """All of a document, those that are waived last."""
    shop = Shop(motion.document)
    found = [*of_screws(shop), *of_lying(shop, motion), *of_ways(shop, approaches), *of_holes(shop), *of_bearings(shop),
             *of_guides(shop, motion), *of_walls(shop)]  # fmt: skip
    return with_waivers(motion.document, found)
