"""What kinds of things have in common: the fields that they declare, the dimensions of their values."""

from .dimension import Dimension, Units
from .field import Field, Form

__all__ = ["Dimension", "Field", "Form", "Units"]
