"""The joint types. A new one is a file here with its class, an entry in the list below, its tests and its symbol."""

from .base import JointType, Row
from .distance import Distance
from .fixed import Fixed
from .pin_slot import PinSlot
from .prismatic import Prismatic
from .revolute import Revolute

JOINT_TYPES: dict[str, JointType] = {
    joint_type.name: joint_type for joint_type in (Revolute(), Prismatic(), Fixed(), PinSlot(), Distance())
}

__all__ = ["JOINT_TYPES", "JointType", "Row"]
