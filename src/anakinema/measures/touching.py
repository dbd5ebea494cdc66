"""Measures of a contact: whether it holds, how long, and where it begins."""

from typing import TYPE_CHECKING

from ..errors import located
from ..kinds import Dimension, Field, FieldForm
from .base import OverWhole

if TYPE_CHECKING:
    from ..document.model import Measure
    from ..kinematics.motion import Motion

CONTACT = Field("contact", form=FieldForm.CONTACT, required=True, description="the contact")


def spans(motion: "Motion", contact: str) -> list[tuple[float, float]]:
    """The spans of time (s) in which a contact touches."""
    found: list[tuple[float, float]] = []
    begun: float | None = None
    for event in motion.path.events:
        if event.owner != contact:
            continue
        if event.kind == "touch":
            begun = event.t if begun is None else begun
        elif begun is not None:
            found.append((begun, event.t))
            begun = None
    return found if begun is None else [*found, (begun, motion.path.t1)]


class ContactLost(OverWhole):
    name, title = "contact_lost", "Contact lost"
    description = "how often a contact parts or drops"
    fields, dimension, grows = (CONTACT,), Dimension.NUMBER, True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        lost = [event.t for event in motion.path.events
                if event.owner == measure.values["contact"] and event.kind != "touch"]  # fmt: skip
        return float(len(lost)), lost[0] if lost else 0.0


class InContact(OverWhole):
    name, title = "in_contact", "In contact"
    description = "the share of the motion's time in which a contact touches, 0 to 1"
    fields, dimension, first_bound = (CONTACT,), Dimension.NUMBER, "at_least"

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        touching = spans(motion, measure.values["contact"])
        whole = motion.path.t1
        if not whole:
            return float(bool(touching)), 0.0
        return sum(stop - start for start, stop in touching) / whole, touching[0][0] if touching else 0.0


class LandsAt(OverWhole):
    name, title = "lands_at", "Lands at"
    description = "the first driver's coordinate at which a contact first begins to touch"
    fields, dimension, first_bound = (CONTACT,), None, "both"
    of_driver = True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        name = measure.values["contact"]
        touching = spans(motion, name)
        if not touching or not motion.drive.drivers:
            raise located(f"joints.{name}", f"contact '{name}' does not touch in this motion")
        return motion.driver_value(touching[0][0]) or 0.0, touching[0][0]
