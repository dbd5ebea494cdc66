"""What kinds of things have in common: the fields that they declare, the dimensions of their values."""

from .dimension import MM_IN, Dimension, Units
from .field import LEAST_SIZE, Field, FieldForm

__all__ = ["LEAST_SIZE", "MM_IN", "Dimension", "Field", "FieldForm", "Units"]
