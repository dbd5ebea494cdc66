"""What kinds of things have in common: the dimensions of their values."""

from .dimension import Dimension, Units

__all__ = ["Dimension", "Units"]
