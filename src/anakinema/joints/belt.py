"""Belt, or timing chain, over two pulleys."""

import math
from dataclasses import dataclass
from typing import ClassVar

from ..kinds import Dimension, Field, FieldForm
from .coupling import CouplingType, Given, positive_pair, quotient


class Belt(CouplingType):
    """Ties two revolute joints: Δb = (d_a / d_b) Δa for an open belt, − for a crossed one. `teeth` of the pulleys or
    sprockets serve as well as their `diameters`."""

    name = "belt"
    title = "Belt"
    wants = ("angle", "angle")
    symbol = "belt"
    phrase = "a belt"
    first_guess: ClassVar = {"diameters": [20, 40]}
    fields = (
        Field("diameters", form=FieldForm.PAIR, description="[of a, of b]"),
        Field("teeth", Dimension.NUMBER, FieldForm.PAIR, description="[of a, of b], in place of the diameters"),
        Field("run", form=FieldForm.WORD, words=("open", "crossed"), description="how the belt runs"),
        Field("pitch", size=True, description="of a toothed belt or a chain, with 'teeth'"),
        Field("of", form=FieldForm.WORD, words=("belt", "chain"), description="what runs over the teeth"),
    )
    holds = "Δb = (d_a / d_b) Δa, − for crossed"
    meshes = False

    def faults(self, given: Given) -> list[str]:
        if ("diameters" in given) == ("teeth" in given):
            return ["give either 'diameters' or 'teeth': [of a, of b]"]
        if "pitch" in given and "teeth" not in given:
            return ["'pitch' counts with 'teeth'; give these in place of the diameters"]
        return positive_pair(given, self.key(given))

    @staticmethod
    def key(given: Given) -> str:
        """Which of the two pairs is given."""
        return "diameters" if "diameters" in given else "teeth"

    def pulleys(self, given: Given) -> tuple[float, float] | None:
        pair, teeth, pitch = given.get("diameters"), given.get("teeth"), given.get("pitch")
        if isinstance(pair, tuple):
            return pair
        if not isinstance(teeth, tuple) or not isinstance(pitch, float) or min(teeth) < 2:
            return None
        one, two = (pitch_diameter(pitch, count, given.get("of") == "chain") for count in teeth)
        return one, two

    def ratio(self, given: Given) -> float:
        return quotient(given, self.key(given)) * (-1.0 if given.get("run") == "crossed" else 1.0)


def belt_length(distance: float, one: float, two: float, crossed: bool = False) -> float:
    """Length of a belt over pulleys of diameters `one` and `two` at a centre distance, all in one unit.

    With sin α = (d₁ ∓ d₂) / 2C: 2 C cos α + π (d₁ + d₂) / 2 + α (d₁ ∓ d₂), upper signs for the open belt (any machine
    design text). Raises ValueError where the pulleys overlap or lie inside each other.

    >>> round(belt_length(100, 50, 50), 6) == round(200 + 50 * math.pi, 6)
    True
    """
    spread = one + two if crossed else one - two
    sine = spread / (2 * distance) if distance > 0 else math.inf
    if abs(sine) >= 1 or 2 * distance <= one + two:
        raise ValueError("the pulleys overlap at this centre distance")
    lean = math.asin(sine)
    return 2 * distance * math.cos(lean) + math.pi * (one + two) / 2 + lean * spread


def pitch_diameter(pitch: float, teeth: float, chain: bool) -> float:
    """Of the circle on which a toothed belt's cords, or a chain's pins, run: p z / π, and p / sin(π / z), as pins stand
    a straight link apart (ISO 5294, ISO 606; from memory).

    >>> round(pitch_diameter(12.7, 17, True), 3)
    69.116
    """
    return pitch / math.sin(math.pi / teeth) if chain else pitch * teeth / math.pi


@dataclass(frozen=True)
class Links:
    """How many pitches a toothed belt or chain is long as the axes stand, and the nearest distance of these at which it
    is a whole number."""

    count: float
    whole: int
    distance: float


def links(distance: float, pitch: float, teeth: tuple[float, float], crossed: bool = False) -> Links:
    """Of two wheels at a centre distance. Raises ValueError where they overlap, or no distance suits."""
    from scipy.optimize import brentq

    one, two = (pitch * count / math.pi for count in teeth)  # along the wheels a link counts as a pitch of their rim
    count = belt_length(distance, one, two, crossed) / pitch
    whole = round(count)

    def off(far: float) -> float:
        return belt_length(far, one, two, crossed) / pitch - whole

    low = max((one + two) / 2 * (1 + 1e-9), distance - pitch)
    found = brentq(off, low, distance + pitch, xtol=1e-12)
    return Links(count, whole, float(found))
