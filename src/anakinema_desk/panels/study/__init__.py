"""The panels that ask the mechanism: tune a number, sweep, tolerances, the log of trials."""

from .panel import Studies

__all__ = ["Studies"]
