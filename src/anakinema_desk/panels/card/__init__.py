"""The card: everything about what is selected."""

from .card import Card

__all__ = ["Card"]
