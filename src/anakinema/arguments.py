"""What is typed behind a command: values that begin with a minus, whole numbers."""

import argparse
from collections.abc import Callable, Sequence

SIGNED = ("--want", "--from", "--to")
"""The options whose values may be negative."""
DIGITS = 18
"""Digits beyond which a number is out of all range."""


def whole(low: int, high: int | None = None) -> Callable[[str], int]:
    """What reads a whole number of an option. It tells the number as it was given."""
    span = f"from {low:,} to {high:,}" if high is not None else f"from {low:,} on"

    def read(text: str) -> int:
        digits = text.removeprefix("-")
        if digits.isascii() and digits.isdecimal() and len(digits) <= DIGITS:
            number = int(text)
            if low <= number and (high is None or number <= high):
                return number
        raise argparse.ArgumentTypeError(f"'{text[:40]}' is not a whole number {span}")

    return read


def joined(arguments: Sequence[str]) -> list[str]:
    """Arguments in which a value that begins with a minus is tied to its option, and is no option itself.

    >>> joined(["tune", "x.anakinema", "throw", "checks.gap", "--want", "-5 mm"])[-1]
    '--want=-5 mm'
    """
    found: list[str] = []
    for word in arguments:
        if found and found[-1] in SIGNED and word.startswith("-") and not word.startswith("--"):
            found[-1] += f"={word}"
        else:
            found.append(word)
    return found
