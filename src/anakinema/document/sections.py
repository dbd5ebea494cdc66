"""The sections of a document, each declared once: what it is called, the keys of its entries, whether a sub-assembly
may hold it, whether the motion hangs on it. Reader, references, schema and window ask here.

Joints and shapes have kinds, whose own fields stand with them; here is what all entries of a section have in common.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from ..kinds import Dimension, Field, FieldForm
from ..laws import STANDARD

MAX_STEPS, MOST_TIMES = 1_000_000, 10_000
MOST_PICTURE = 5_600_000
"""Letters of a picture: 4 MB of bytes."""


@dataclass(frozen=True)
class Section:
    """A section: its `name`, what one of its entries is called, and the keys that every entry may have."""

    name: str
    singular: str
    fields: tuple[Field, ...] = ()
    named: bool = True
    """Whether it holds entries by name; else it is one thing, or a list."""
    inside: bool = False
    """Whether a sub-assembly may hold it."""
    affects_motion: bool = True

    @property
    def keys(self) -> tuple[str, ...]:
        """The keys that an entry may have."""
        return keys_of(self.fields)


def keys_of(fields: Iterable[Field]) -> tuple[str, ...]:
    """Their keys."""
    return tuple(field.name for field in fields)


NOTE = Field("note", form=FieldForm.TEXT, description="for whoever reads it")
LABEL = Field("label", form=FieldForm.TEXT, description="what to call it on screen")
COLOR = Field("color", form=FieldForm.TEXT)
SUSPENDED = Field("suspended", form=FieldForm.FLAG, description="left out for now")
PLACED = (
    Field("pose", form=FieldForm.POSE, description="the rough placement"),
    Field("lift", description="by how much its depths are shifted"),
    Field("mirror", form=FieldForm.FLAG, description="turned over about its own x axis"),
    Field("fixed", form=FieldForm.FLAG, description="stays at its pose exactly"), LABEL, COLOR, NOTE,
)  # fmt: skip
"""What whatever stands somewhere may say."""
ITEM = (
    Field("name", form=FieldForm.TEXT, description="in the parts list, else the label"),
    Field("number", form=FieldForm.TEXT, description="its item number"),
    Field("material", form=FieldForm.TEXT, description="by its name"),
    Field("standard", form=FieldForm.TEXT, description="its designation, such as ISO 4762"),
    Field("quantity", form=FieldForm.COUNT, most=100_000),
    NOTE, Field("density", Dimension.NUMBER, description="in kg/m³, in place of the material's"),
)  # fmt: skip
"""What a part is in the shop."""
HARDWARE = (
    Field("standard", form=FieldForm.TEXT, required=True, description="a table of hardware, such as ISO 4762"),
    Field("size", form=FieldForm.TEXT, required=True, description="one of its sizes, such as M6"),
    Field("at", form=FieldForm.POINT, required=True, description="its axis, and the part with which it moves"),
    Field("through", form=FieldForm.POINTS, description="points of the other parts through which the axis runs"),
    Field("front_of", form=FieldForm.PART, description="what it lies on, its front face"),
    Field("behind", form=FieldForm.PART, description="what it lies on, its back face"),
    Field("to", form=FieldForm.PART, description="what it reaches to: its length is chosen by that"),
    Field("length", description="its length, in place of one that is chosen"),
    Field("off", description="how far it lies off what it lies on"),
)  # fmt: skip
"""A piece from a table of hardware."""
MATERIAL = (Field("density", Dimension.NUMBER, required=True, description="in kg/m³"), NOTE)
PART = (
    Field("of", form=FieldForm.NAME, description="the part that it is a copy of"),
    Field("keep_depth", form=FieldForm.FLAG, description="a mirrored copy keeps its depths"),
    Field("points", form=FieldForm.ENTRIES), Field("edges", form=FieldForm.ENTRIES),
    Field("item", form=FieldForm.ENTRIES, description="what it is in the shop"),
    Field("hardware", form=FieldForm.ENTRIES, description="a piece from a table, in place of points and shapes"),
    Field("shapes", form=FieldForm.SHAPES), Field("depth", form=FieldForm.PAIR, description="from back to front"),
    *PLACED,
)  # fmt: skip
OWN = ("fixed", "points", "edges", "pose", "shapes", "depth", "item", "hardware", "label", "color", "note")
"""Keys of a part that is no copy."""
REPEAT = (
    Field("repeat", form=FieldForm.NAME, required=True, description="the part that is repeated"),
    Field("count", Dimension.NUMBER, required=True), Field("pitch", form=FieldForm.PAIR),
    Field("center", form=FieldForm.PAIR), Field("over", Dimension.ANGLE), Field("strand", form=FieldForm.FLAG),
    LABEL, NOTE,
)  # fmt: skip
USE = (
    Field("assembly", form=FieldForm.NAME, required=True, description="the sub-assembly that is placed"),
    Field("frozen", form=FieldForm.FLAG, description="one rigid body as it is placed"),
    Field("parameters", form=FieldForm.NUMBERS, description="that replace those of the definition"),
    Field("poses", form=FieldForm.ENTRIES, description="rough placements of its parts in this use"), *PLACED,
)  # fmt: skip
LIMITS = (
    Field("min", form=FieldForm.AMOUNT), Field("max", form=FieldForm.AMOUNT), Field("rest", form=FieldForm.AMOUNT),
    Field("pushes", form=FieldForm.FLAG, description="whether its rest moves what is free"),
)  # fmt: skip
JOINT = (SUSPENDED, NOTE)
"""What every joint and coupling may say besides its kind's own."""
DRIVER = (
    Field("joint", form=FieldForm.JOINT, required=True), Field("to", form=FieldForm.AMOUNT),
    Field("rate", form=FieldForm.AMOUNT), Field("duration", Dimension.TIME),
    Field("law", form=FieldForm.WORD, words=tuple(STANDARD)), Field("program", form=FieldForm.PROGRAM),
    Field("follows", form=FieldForm.TEXT), Field("at", Dimension.TIME), Field("after", form=FieldForm.DRIVER),
    Field("back", form=FieldForm.FLAG), NOTE, Field("running", form=FieldForm.FLAG),
    Field("times", form=FieldForm.COUNT, most=MOST_TIMES), Field("steps", form=FieldForm.COUNT, most=MAX_STEPS),
    Field("from", form=FieldForm.AMOUNT),
)  # fmt: skip
TRACE = (
    Field("point", form=FieldForm.POINT, required=True), Field("on", form=FieldForm.PART), NOTE, COLOR,
)  # fmt: skip
BOUNDS = (Field("at_least", form=FieldForm.AMOUNT), Field("at_most", form=FieldForm.AMOUNT))
CHECK = (
    *BOUNDS, Field("at", form=FieldForm.AMOUNT), Field("from", form=FieldForm.AMOUNT),
    Field("until", form=FieldForm.AMOUNT), Field("by", form=FieldForm.DRIVER), NOTE,
)  # fmt: skip
"""What every check may say besides what its measure asks."""
TRACK = (Field("height", form=FieldForm.COUNT, least=20, most=2000, description="in pixels"), NOTE)
POSITION = (
    Field("drivers", form=FieldForm.NUMBERS), Field("joints", form=FieldForm.NUMBERS), NOTE,
    Field("at_opening", form=FieldForm.FLAG),
)  # fmt: skip
PICTURE = (
    Field("data", form=FieldForm.TEXT, required=True), Field("at", form=FieldForm.PAIR),
    Field("width", required=True, size=True), NOTE,
)  # fmt: skip

SECTIONS: dict[str, Section] = {
    section.name: section
    for section in (
        Section("parameters", "parameter", inside=True),
        Section("assemblies", "sub-assembly"),
        Section("parts", "part", PART, inside=True),
        Section("groups", "rigid group", (Field("parts", form=FieldForm.MEMBERS, required=True), LABEL, NOTE),
                inside=True),
        Section("joints", "joint", JOINT, inside=True),
        Section("programs", "program"),
        Section("drivers", "driver", DRIVER),
        Section("traces", "trace", TRACE, inside=True),
        Section("measures", "measure", (NOTE,)),
        Section("checks", "check", CHECK),
        Section("tracks", "track", TRACK, affects_motion=False),
        Section("pairs", "what is said of the pair",
                (Field("parts", form=FieldForm.PARTS, required=True),
                 Field("ignore", form=FieldForm.TEXT, required=True)), affects_motion=False),
        Section("positions", "position", POSITION, affects_motion=False),
        Section("picture", "picture", PICTURE, named=False, affects_motion=False),
        Section("waived", "waived finding",
                (Field("finding", form=FieldForm.TEXT, required=True, description="what is found, by its name"),
                 Field("of", form=FieldForm.MEMBERS, description="the parts of which it is found"),
                 Field("reason", form=FieldForm.TEXT, required=True)), affects_motion=False),
        Section("materials", "material", MATERIAL, affects_motion=False),
        Section("trials", "trial", named=False, affects_motion=False),
    )
}  # fmt: skip
"""By the key of the document, in the order in which a document says them."""
INSIDE = tuple(name for name, section in SECTIONS.items() if section.inside)
"""Those that a sub-assembly may hold."""
UNMOVED = tuple(name for name, section in SECTIONS.items() if not section.affects_motion)
"""Those on which no motion hangs."""
