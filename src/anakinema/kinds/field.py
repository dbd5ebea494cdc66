"""Fields: how a kind of thing (a joint type, a shape, a measure) declares what it is made of. The reader, the JSON
Schema, the form on the card and the tables in the docs all come from these declarations."""

from dataclasses import dataclass
from enum import StrEnum

from .dimension import Dimension

LEAST_SIZE = 1e-7
"""Least length that can be a size (document units): below it, corners of outlines coincide by rounding."""


class FieldForm(StrEnum):
    """What stands in a field."""

    NUMBER = "number"
    """A number or an expression."""
    PAIR = "pair"
    """Two of them."""
    SPOT = "spot"
    """A place in the part: the name of one of its points, or [x, y]."""
    SPOTS = "spots"
    SEGMENTS = "segments"
    """The lines and arcs of a path."""
    WORD = "word"
    """One of a few words; the first where nothing is said."""
    PART = "part"
    """The name of a part."""
    PARTS = "parts"
    """The names of two parts."""
    JOINT = "joint"
    """The name of a joint that has a coordinate."""
    AMOUNT = "amount"
    """A number or an expression of what the joint counts that is named beside it."""
    TRACE = "trace"
    """The name of a trace."""
    CONTACT = "contact"
    """The name of a contact."""
    POINT = "point"
    """``part.point``."""
    POINTS = "points"
    """Several of them."""
    FEATURE = "feature"
    """``part.point``, or two of them: the line through both."""
    LINE = "line"
    """Two points ``part.point`` of one part, or a part: its x axis."""
    MEASURE = "measure"
    """The name of a measure."""
    PROGRAM = "program"
    """The name of a program."""
    DRIVER = "driver"
    """The name of a driver."""
    CAM = "cam"
    """The name of a cam joint."""
    FOLLOWER = "follower"
    """What touches a cam."""
    EXPRESSION = "expression"
    """An expression of measures of the document."""
    TEXT = "text"
    """Any text."""
    COUNT = "count"
    """A whole number, from `least` to `most`."""
    POSE = "pose"
    """[x, y, angle]."""
    NAME = "name"
    """The name of an entry beside it."""
    MEMBERS = "members"
    """The names of parts, one or more."""
    NUMBERS = "numbers"
    """Numbers or expressions by name."""
    ENTRIES = "entries"
    """Entries by name, of a form of their own."""
    SHAPES = "shapes"
    """The shapes of a part."""
    FLAG = "flag"
    """True or false."""


@dataclass(frozen=True)
class Field:
    """A key of a kind. `told` says what it is, for a fault, a tip and the docs; `attribute` is what the code calls it
    where the key can't be a name in Python; `least` and `most` count the entries of a list; a `size` is a
    length greater than zero."""

    name: str
    dimension: Dimension = Dimension.LENGTH
    form: FieldForm = FieldForm.NUMBER
    description: str = ""
    required: bool = False
    size: bool = False
    words: tuple[str, ...] = ()
    attribute: str = ""
    least: int = 1
    most: int | None = None

    @property
    def caption(self) -> str:
        """What to call it on a card."""
        return self.name.replace("_", " ")

    @property
    def key(self) -> str:
        """What the code calls it."""
        return self.attribute or self.name
