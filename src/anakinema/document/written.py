"""How numbers and placements are written into a document."""

import math

from .model import Document

DIGITS, SHORT, NEAR = 9, 6, 5e-9
"""Decimal places that are kept of what a hand has placed: all matter where joints repeat each other; but a number of
fewer that lies so near is what is meant."""


def tidy(number: float) -> float | int:
    """A number as a hand would write it: no digits that only rounding has left, and no point where it is whole."""
    rounded = round(number, SHORT)
    if abs(rounded - number) > NEAR:
        rounded = round(number, DIGITS)
    return int(rounded) if rounded == int(rounded) and abs(rounded) < 1e15 else rounded


def pose_of(document: Document, at: complex, angle: float = 0.0) -> list[float | int]:
    """A pose as the document writes it; the angle in rad."""
    turned = math.degrees(angle) if document.units.angle == "deg" else angle
    return [tidy(at.real), tidy(at.imag), tidy(turned)]
