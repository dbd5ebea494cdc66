"""The joint types. A new one is a file here with its class, an entry in a list below, its tests and its symbol."""

from .base import Elsewhere, Guide, JointType, Meeting, Press, Row
from .belt import Belt
from .cam import Cam
from .contact import CONTACT, ContactType
from .coupling import CouplingType
from .distance import Distance
from .fixed import Fixed
from .gear import Gear
from .pin_slot import PinSlot
from .prismatic import Prismatic
from .rack import Rack
from .ratio import Ratio
from .revolute import Revolute
from .slide_arc import SlideArc
from .tangent import Rolling, Tangent

JOINT_TYPES: dict[str, JointType] = {
    joint_type.name: joint_type
    for joint_type in (
        Revolute(), Prismatic(), Fixed(), PinSlot(), Distance(), SlideArc(), Tangent(), Rolling()
    )
}
COUPLING_TYPES: dict[str, CouplingType] = {
    coupling_type.name: coupling_type for coupling_type in (Gear(), Rack(), Ratio(), Belt(), Cam())
}

PIN = Revolute.name
"""What is made where two parts are to turn about a place."""
SLIDE = Prismatic.name
"""What is made where a part is to slide along a line."""

__all__ = [
    "CONTACT", "COUPLING_TYPES", "JOINT_TYPES", "PIN", "SLIDE",
    "ContactType", "CouplingType", "Elsewhere", "Guide", "JointType", "Meeting", "Press", "Row",
]  # fmt: skip
