"""The card: everything about what is selected."""

from .properties import Properties

__all__ = ["Properties"]
