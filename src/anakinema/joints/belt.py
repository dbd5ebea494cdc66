"""Belt, or timing chain, over two pulleys."""

import math
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
    )
    holds = "Δb = (d_a / d_b) Δa, − for crossed"
    meshes = False

    def faults(self, given: Given) -> list[str]:
        if ("diameters" in given) == ("teeth" in given):
            return ["give either 'diameters' or 'teeth': [of a, of b]"]
        return positive_pair(given, self.key(given))

    @staticmethod
    def key(given: Given) -> str:
        """Which of the two pairs is given."""
        return "diameters" if "diameters" in given else "teeth"

    def pulleys(self, given: Given) -> tuple[float, float] | None:
        pair = given.get("diameters")
        return pair if isinstance(pair, tuple) else None

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
