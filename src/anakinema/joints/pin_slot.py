"""Pin in a slot: b's point runs along a straight or circular slot of a's part; b's part turns freely about it."""

import math
from typing import ClassVar

from ..kinds import LEAST_SIZE, Dimension, Field
from .base import JointType, Meeting, Press, Row, Values


class PinSlot(JointType):
    """Straight slot through a's point (`direction`, an angle in a's part): coordinate is the displacement of b's point
    along the slot (length); row: no displacement across it.

    Arc slot about a's point (`radius`): coordinate is the angle of b's point about a's point, seen in a's part,
    counter-clockwise positive (rad); row: b's point stays at the radius.
    """

    name = "pin-slot"
    title = "Pin in slot"
    symbol = "slot"
    word = "slot"
    straight = slotted = True
    press = Press.PIN
    suits: ClassVar = {Meeting.ROUND_SLOT: 0, Meeting.SLOT: 0, Meeting.SIDES: 3, Meeting.LINE: 3}
    one_of = ("direction", "radius")
    fields = (
        Field("direction", Dimension.ANGLE, description="of a straight slot, in a's part"),
        Field("radius", description="of an arc slot about a's point"),
    )
    holds = "straight: no displacement across the direction; arc: P_b stays at the radius about P_a"
    counts = "straight: displacement along it; arc: angle of P_b about P_a, seen in a's part, counted on over turns"

    def faults(self, values: Values) -> list[str]:
        if ("direction" in values) == ("radius" in values):
            return ["give either 'direction' (a straight slot) or 'radius' (an arc)"]
        if values.get("radius", 1.0) < LEAST_SIZE:
            return ["'radius' must be greater than zero"]
        return []

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        if "radius" in values:
            return [Row("distance", length=values["radius"])]
        return [Row("projection", direction=values["direction"] + math.pi / 2)]

    def coordinate(self, values: Values) -> Row:
        if "radius" in values:
            return Row("polar")
        return Row("projection", direction=values.get("direction", 0.0))
