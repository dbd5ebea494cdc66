"""The document: what the user made, as frozen dataclasses.

Lengths are in the document's unit of length, angles in radians (counter-clockwise positive seen from the front),
times in seconds. The JSON tree from which a document was read stays with it, so that expressions, key order and keys
of newer versions survive; `values` tells the number behind every expression of the tree.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING, Any

from ..errors import Fault
from ..geometry.shapes import Shape
from ..hardware import TABLES, HardwareKind, Row, Solid, Table
from ..joints import COUPLING_TYPES, JOINT_TYPES, CouplingType, JointType
from ..kinds import Units
from .expressions import coerce, evaluate
from .units import Quantity, unit_of

if TYPE_CHECKING:
    from ..cams import CamGeometry, CamLaw, Follower
    from ..geometry.outline import Slab
    from ..laws import LawPiece

MOST_EFFORT = 600_000
"""What joining the outlines of a document may take, in pairs of edges that may meet: about five seconds."""

Point = tuple[float, float]
Tree = Mapping[str, Any]


@dataclass(frozen=True)
class Value:
    """The evaluated number at a place of the tree, in core units, with its dimension (``length``, ``angle``, …)."""

    number: float
    dimension: str


@dataclass(frozen=True)
class Tolerance:
    """How much a parameter may be off either way, `by` in the unit in which the document counts it, and how it is
    spread: ``normal`` (three standard deviations), ``uniform``, or ``worst`` (at its ends)."""

    by: float
    spread: str = "normal"


@dataclass(frozen=True)
class Parameter:
    """A named quantity that expressions refer to."""

    id: str
    expression: float | str
    quantity: Quantity
    note: str = ""
    tolerance: Tolerance | None = None


@dataclass(frozen=True)
class Edge:
    """A named contact edge of a part, in its own axes: straight from `start` to `stop` (radius 0), or an arc about
    `start` of `radius`, counter-clockwise from angle `low` to `high` (rad; a full circle where they differ by 2π)."""

    id: str
    start: Point
    stop: Point
    radius: float = 0.0
    low: float = 0.0
    high: float = 0.0

    @property
    def is_arc(self) -> bool:
        return self.radius > 0


@dataclass(frozen=True)
class Item:
    """What a part is in the shop. `density` in kg/m³; None: that of the material."""

    name: str = ""
    number: str = ""
    material: str = ""
    standard: str = ""
    quantity: int = 1
    note: str = ""
    density: float | None = None


@dataclass(frozen=True)
class Hardware:
    """A piece from a table: which, about which axis, on the front or the back face of what, as long as it was given or
    until it reaches what it goes `to`. What follows from that: the plane in which it lies on its seat, its solids and
    its length (document lengths, depths as they stand), and what no longer fits, in words."""

    standard: str
    size: str
    at: "PointRef"
    through: "tuple[PointRef, ...]" = ()
    seat: str = ""
    front: bool = True
    to: str = ""
    given: float | None = None
    off: float = 0.0
    face: float = 0.0
    solids: tuple[Solid, ...] = ()
    length: float = 0.0
    unfit: str = ""

    @property
    def table(self) -> Table:
        """The table that it is from."""
        return TABLES[self.standard]

    @property
    def kind(self) -> HardwareKind:
        """What kind it is of."""
        return self.table.kind

    @property
    def row(self) -> Row:
        """Its size, in mm."""
        return self.table.rows[self.size]

    @property
    def axis(self) -> "tuple[PointRef, ...]":
        """The points that lie on its axis."""
        return (self.at, *self.through)

    @property
    def way(self) -> float:
        """Which way is outward: 1 to the front, −1 to the back."""
        return 1.0 if self.front else -1.0


@dataclass(frozen=True)
class Part:
    """A rigid piece. `pose` is its rough placement (exact for a fixed part); `depth` the interval along z."""

    id: str
    fixed: bool
    pose: tuple[float, float, float]
    points: Mapping[str, Point]
    shapes: tuple[Shape, ...]
    depth: tuple[float, float]
    label: str = ""
    color: str = ""
    note: str = ""
    edges: Mapping[str, Edge] = field(default_factory=dict)
    of: str = ""
    """The part that it is a copy of."""
    item: Item = Item()
    hardware: Hardware | None = None
    """What it is of a table of hardware; it then has the axes of the part with which it moves."""

    def place(self, name: str) -> Point:
        """Where a joint takes hold: a point by name, or an edge's start or center."""
        return self.points[name] if name in self.points else self.edges[name].start

    @property
    def name(self) -> str:
        """What to call the part on screen."""
        return self.label or self.id

    @cached_property
    def slabs(self) -> "tuple[Slab, ...]":
        """The part's regions from back to front (ascending z), each over the depth in which it is the same."""
        from ..geometry.outline import slabs

        return slabs(self.shapes, self.depth)


    @cached_property
    def effort(self) -> int:
        """What joining and cutting its shapes takes, in pairs of edges; not counted on beyond `MOST_EFFORT`."""
        from ..geometry.effort import effort

        return effort(self.shapes, self.depth, MOST_EFFORT) if self.shapes else 0


@dataclass(frozen=True)
class PointRef:
    """A point of a part, written ``part.point``."""

    part: str
    point: str

    def __str__(self) -> str:
        return f"{self.part}.{self.point}"


@dataclass(frozen=True)
class Limits:
    """The range of a joint's coordinate, in the units of the coordinate; `rest` is where it returns by itself, and
    `pushes` whether it then moves parts that are free."""

    min: float | None = None
    max: float | None = None
    rest: float | None = None
    pushes: bool = False


@dataclass(frozen=True)
class Joint:
    """A joint between point `a` and point `b`. `values` holds the keys of its type; see `anakinema.joints`."""

    id: str
    type: str
    a: PointRef
    b: PointRef
    values: Mapping[str, float]
    limits: Limits = Limits()
    suspended: bool = False
    note: str = ""
    at_end: str = ""
    """For joints of edges: ``stop`` or ``lost``, what happens when the contact runs off an edge."""

    @property
    def kind(self) -> JointType:
        """What its type is."""
        return JOINT_TYPES[self.type]

    def seen_from(self, part: str) -> tuple[PointRef, PointRef]:
        """Its end on one of its two parts, and the other end."""
        return (self.a, self.b) if self.a.part == part else (self.b, self.a)


@dataclass(frozen=True)
class Coupling:
    """Ties the coordinates of joints `a` and `b`: Δb = `ratio` × Δa in core units; or, of a cam, b = `low` + law(a), as
    the poses place both where `low` is None. `given` holds the keys of its type
    (see `anakinema.joints.coupling`), `carrier` the part against which a gear pair turns, where it is named."""

    id: str
    type: str
    a: str
    b: str
    ratio: float
    given: Mapping[str, float | tuple[float, float] | str]
    carrier: str | None = None
    suspended: bool = False
    note: str = ""
    program: str = ""
    law: "CamLaw | None" = None
    low: float | None = None
    base: float | None = None
    """The least radius that the profile of a cam is to have, where that is said."""
    follower: "Follower | None" = None
    cam: "CamGeometry | None" = None
    """The cam with its follower, where both are known and carried by one body."""

    @property
    def kind(self) -> CouplingType:
        """What its type is."""
        return COUPLING_TYPES[self.type]


@dataclass(frozen=True)
class Contact:
    """Two parts, groups or sub-assemblies `a` and `b` whose outlines may touch and part, and never pass; `sides` are
    the parts that these are."""

    id: str
    a: str
    b: str
    sides: tuple[tuple[str, ...], tuple[str, ...]]
    suspended: bool = False
    note: str = ""

    @property
    def words(self) -> str:
        """What it keeps apart: ``arm and stop``."""
        return f"{self.a} and {self.b}"


@dataclass(frozen=True)
class Driver:
    """Moves a joint's coordinate from `start` (None: where it is placed) to `stop`, in coordinate units, by a standard
    law; or by a program; or as an expression of other drivers' coordinates says, which it `follows`.

    Speed is `rate` (units of the coordinate a second) or `duration` (s), or neither, which means one second. It begins
    at a time `at` (s), counted from the end of the driver that it comes `after`; goes `back` the same way; and does all
    that a number of `times`.
    """

    id: str
    joint: str
    start: float | None
    stop: float
    steps: int
    rate: float | None = None
    duration: float | None = None
    law: str = "uniform"
    program: "Program | None" = None
    follows: str = ""
    at: float = 0.0
    after: str = ""
    back: bool = False
    times: int = 1
    note: str = ""
    running: bool = False
    """Whether its motion is a piece of steady running, so that it neither starts nor ends with a jolt."""


@dataclass(frozen=True)
class Program:
    """A law of motion from 0 on, over time (s) or angle (rad), of a ``length``, an ``angle``, or, where nothing in it
    has a unit, of what it serves in document units (`lift` is empty)."""

    id: str
    over: str
    lift: str
    pieces: "tuple[LawPiece, ...]" = field(repr=False)
    note: str = ""
    marks: tuple[float, ...] = ()
    """Where its segments or rows begin, and where the last one ends."""

    @property
    def length(self) -> float:
        """Where it ends."""
        return self.pieces[-1].stop


@dataclass(frozen=True)
class Trace:
    """The path of a point, seen from the part `on` (None: the frame)."""

    id: str
    point: PointRef
    on: str | None = None


@dataclass(frozen=True)
class Measure:
    """What is measured: of which joint or which two parts, or between `a` and `b`: a point, a line through two points
    of a part, or, without the point's name, a part's x axis."""

    id: str
    kind: str
    a: tuple[PointRef, ...]
    b: tuple[PointRef, ...]
    joint: str = ""
    parts: tuple[str, str] | None = None
    note: str = ""
    trace: str = ""
    values: Mapping[str, Any] = field(default_factory=dict)
    """Its other keys: numbers (core units), words, names."""


@dataclass(frozen=True)
class Track:
    """A quantity that the strip shows."""

    id: str
    measured: Measure
    height: int | None = None


@dataclass(frozen=True)
class Span:
    """A part of the motion: while a driver's coordinate, or, without a `driver`, the time (s), is between `start` and
    `stop` (core units); where one is None there is no end on that side."""

    driver: str
    start: float | None
    stop: float | None


@dataclass(frozen=True)
class Check:
    """What the design must do: bounds of something that is measured."""

    id: str
    measured: Measure
    at_least: float | None
    at_most: float | None
    note: str = ""
    at: float | None = None
    """The first driver's coordinate at which it is judged; None: all along."""
    span: Span | None = None
    """The part of the motion over which it is judged; None: all along."""
    asked: Mapping[str, str] = field(default_factory=dict)
    """Bounds that are expressions of what other checks find, `at_least` and `at_most`; they are None above, until those
    are judged."""

    @property
    def all_along(self) -> bool:
        """Whether it is judged over the whole motion."""
        return self.at is None and self.span is None

    @property
    def measure(self) -> str:
        """The kind of measure."""
        return self.measured.kind

    @property
    def joint(self) -> str | None:
        """The joint of which it is one."""
        return self.measured.joint or None

    @property
    def parts(self) -> tuple[str, str] | None:
        """The two parts of which it is one."""
        return self.measured.parts


@dataclass(frozen=True)
class Position:
    """A named position: what the drivers, or the joints, stand at in it."""

    id: str
    drivers: Mapping[str, float]
    joints: Mapping[str, float]
    note: str = ""
    at_opening: bool = False
    """Whether the mechanism stands so when its file is opened."""


@dataclass(frozen=True)
class Picture:
    """A picture under the bench, to trace: its bytes as base64, where its lower left corner lies, how wide it is."""

    data: str = field(repr=False)
    at: Point
    width: float


@dataclass(frozen=True)
class Use:
    """A sub-assembly as it stands in the document, or what repeats a part: its parts are those whose names begin with
    ``id/``."""

    id: str
    assembly: str
    """The definition that it places."""
    pose: tuple[float, float, float] = (0.0, 0.0, 0.0)
    lift: float = 0.0
    mirror: bool = False
    frozen: bool = False
    fixed: bool = False
    label: str = ""
    note: str = ""
    parameters: Mapping[str, Quantity] = field(default_factory=dict)
    """What it says of the definition's parameters."""
    scope: Mapping[str, Quantity] = field(default_factory=dict)
    """What all the definition's own parameters are worth in it."""
    of: str = ""
    """The part beside it that it repeats; it then places no definition."""
    count: int = 0
    """How many of it there are, itself counted."""


@dataclass(frozen=True)
class Waived:
    """A finding that is known and left as it is, and why: its name, and the parts of which it is found."""

    id: str
    finding: str
    of: tuple[str, ...]
    reason: str


@dataclass(frozen=True)
class Group:
    """Parts that keep the placement that their poses give them against each other, and move as one body."""

    id: str
    parts: tuple[str, ...]
    label: str = ""
    note: str = ""


@dataclass(frozen=True)
class SaidOfPair:
    """What is said of two parts: why their clearance need not be watched."""

    id: str
    parts: tuple[str, str]
    ignore: str


@dataclass(frozen=True, eq=False)
class Document:
    """Everything the user made. Two documents are the same when their trees are."""

    tree: Tree
    title: str
    units: Units
    parameters: Mapping[str, Parameter]
    parts: Mapping[str, Part]
    joints: Mapping[str, Joint]
    couplings: Mapping[str, Coupling]
    """Gear pairs and the like; they stand among the joints of the tree."""
    contacts: Mapping[str, Contact]
    """They stand among the joints of the tree as well."""
    programs: Mapping[str, Program]
    drivers: Mapping[str, Driver]
    traces: Mapping[str, Trace]
    checks: Mapping[str, Check]
    pairs: Mapping[str, SaidOfPair]
    groups: Mapping[str, Group]
    uses: Mapping[str, Use]
    """The sub-assemblies that stand in it, those within others too."""
    measures: Mapping[str, Measure]
    tracks: Mapping[str, Track]
    """What the strip shows, from above; where there are none it shows what there is."""
    positions: Mapping[str, Position]
    picture: Picture | None
    waived: "Mapping[str, Waived]"
    """Findings that are known and left as they are."""
    materials: Mapping[str, float]
    """Densities (kg/m³) that the document gives, by the names of materials."""
    values: Mapping[str, Value] = field(repr=False)
    warnings: tuple[Fault, ...] = ()
    part_cache: Mapping[str, Any] = field(repr=False, default_factory=dict)
    """What reading found in each part, so that a part that an edit does not touch need not be read again."""
    joint_cache: Mapping[str, Any] = field(repr=False, default_factory=dict)
    """The same of each joint."""
    study_cache: Mapping[Any, Any] = field(repr=False, default_factory=dict)
    """The same of each entry that asks something of the mechanism."""
    definitions: Mapping[str, Any] = field(repr=False, default_factory=dict)
    """The same of each sub-assembly."""

    @property
    def quantities(self) -> dict[str, Quantity]:
        """What each parameter is worth, as expressions use it."""
        return {name: parameter.quantity for name, parameter in self.parameters.items()}

    def worth(self, text: str, dimension: str, where: str = "") -> float:
        """What an expression is worth here (core units), or `where` a part or a joint is: in a sub-assembly by the
        parameters of that use. Raises `ExpressionError`."""
        return coerce(evaluate(text, {**self.quantities, **self._scope(where)}, self.units), dimension, self.units)

    def worked_out(self, text: str, given: Mapping[str, tuple[float, str]], dimension: str) -> float:
        """What an expression of other quantities is worth (core units); `given` has the value and the dimension of each
        by name, a parameter comes first. Raises `ExpressionError`."""
        found = {name: unit_of(self.units.unit(counts)).times(value) for name, (value, counts) in given.items()}
        return coerce(evaluate(text, found | self.quantities, self.units), dimension, self.units)

    def _scope(self, where: str) -> Mapping[str, Quantity]:
        use = where.rpartition("/")[0]
        while use and self.uses[use].of:  # what repeats a part stands where that does
            use = use.rpartition("/")[0]
        return self.uses[use].scope if use else {}

    @property
    def assemblies(self) -> Mapping[str, Any]:
        """The definitions of sub-assemblies, as the tree says them."""
        found: Mapping[str, Any] = self.tree.get("assemblies", {})
        return found

    def home(self, section: str, name: str) -> tuple[str, ...]:
        """The place in the tree of a part, joint, group or trace: of one in a sub-assembly in its definition, of one
        that is repeated that of the part itself, of a pin of a strand that of the strand."""
        use, _, own = name.rpartition("/")
        if not use:
            return section, name
        if self.uses[use].of:
            above = use.rpartition("/")[0]
            return self.home("parts", f"{above}/{self.uses[use].of}".lstrip("/") if section == "parts" else use)
        return "assemblies", self.uses[use].assembly, section, own

    def repeat_of(self, name: str) -> str:
        """The repeat that made a part or a joint; empty where none did."""
        use = name.rpartition("/")[0]
        return use if use and self.uses[use].of else ""

    def is_mirrored(self, name: str) -> bool:
        """Whether what a name leads to stands turned over, by the sub-assemblies that it is in."""
        path = name.split("/")[:-1]
        return sum(self.uses["/".join(path[: k + 1])].mirror for k in range(len(path))) % 2 == 1

    def entry(self, section: str, name: str) -> Any:
        """What the tree says there."""
        tree: Any = self.tree
        for key in self.home(section, name):
            tree = tree[key]
        return tree

    @property
    def fixed_parts(self) -> list[str]:
        """The parts that stay at their pose."""
        return [part.id for part in self.parts.values() if part.fixed]

    @property
    def rigid(self) -> list[Sequence[str]]:
        """The parts that move as one body by themselves: what is fixed, each group, hardware with what
        carries it."""
        return [self.fixed_parts, *(group.parts for group in self.groups.values()), *self.carried.items()]

    @cached_property
    def carried(self) -> dict[str, str]:
        """The parts that have no body of their own, with those whose bodies they share: hardware."""
        return {part.id: part.hardware.at.part for part in self.parts.values() if part.hardware is not None}

    @property
    def ignored(self) -> dict[frozenset[str], SaidOfPair]:
        """The pairs whose clearance need not be watched."""
        return {frozenset(said.parts): said for said in self.pairs.values()}

    @property
    def active_joints(self) -> dict[str, Joint]:
        """The joints that are not suspended."""
        return {joint.id: joint for joint in self.joints.values() if not joint.suspended}

    @property
    def active_couplings(self) -> dict[str, Coupling]:
        """The couplings that are not suspended, nor either of their joints."""
        joints = self.active_joints
        return {
            coupling.id: coupling
            for coupling in self.couplings.values()
            if not coupling.suspended and coupling.a in joints and coupling.b in joints
        }

    @property
    def active_contacts(self) -> dict[str, Contact]:
        """The contacts that are not suspended."""
        return {contact.id: contact for contact in self.contacts.values() if not contact.suspended}
