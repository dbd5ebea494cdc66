"""What a coupling is: a joint type that ties the coordinates of two other joints, Δb = ratio × Δa from where they are
placed. It has no coordinate of its own and no place: its `a` and `b` name joints."""

from collections.abc import Mapping
from typing import Any, ClassVar

from ..kinds import Field

Given = Mapping[str, float | tuple[float, float] | str]


class CouplingType:
    """A coupling type. `wants` are the dimensions (``angle``, ``length`` or None for any) of the coordinates of `a` and
    `b`; `fields` what it has beside them, `holds` what it keeps, for the docs; `symbol` is the key of its symbol."""

    name: ClassVar[str]
    title: ClassVar[str]
    wants: ClassVar[tuple[str | None, str | None]] = (None, None)
    fields: ClassVar[tuple[Field, ...]]
    holds: ClassVar[str]
    symbol: ClassVar[str]
    phrase: ClassVar[str]
    """What two joints are tied by, in words."""
    first_guess: ClassVar[Mapping[str, Any]]
    """What it begins with; its card then asks for the real numbers."""
    meshes: ClassVar[bool] = True
    """Whether the parts touch on purpose, so that no clearance is wanted between them."""
    toothed: ClassVar[bool] = False
    """Whether its parts may wear teeth, which then say its ratio."""
    by_program: ClassVar[bool] = False
    """Whether a program says how b goes with a, rather than a ratio."""
    in_document_units: ClassVar[bool] = False
    """Whether its ratio is given for coordinates in document units."""

    @property
    def length_for_turn(self) -> bool:
        """Whether its ratio is a length for each rad."""
        return self.wants == ("angle", "length")

    def pulleys(self, given: Given) -> tuple[float, float] | None:
        """The diameters of the pulleys over which it runs, where it has some that are known."""
        return None

    def faults(self, given: Given) -> list[str]:
        """What is wrong with the values beyond what their fields say, in words."""
        raise NotImplementedError

    def ratio(self, given: Given) -> float:
        """Δb / Δa in core units (document lengths, rad); for `ratio` in document units, see there."""
        raise NotImplementedError


def quotient(given: Given, key: str) -> float:
    """First over second of a pair."""
    pair = given[key]
    assert isinstance(pair, tuple)
    return pair[0] / pair[1]


def positive_pair(given: Given, key: str) -> list[str]:
    """The fault of a pair that is missing or not positive."""
    pair = given.get(key)
    if not isinstance(pair, tuple):
        return [f"'{key}' is missing: [of a, of b]"]
    return [] if min(pair) > 0 else [f"'{key}' must both be greater than zero; the mesh says which way they turn"]
