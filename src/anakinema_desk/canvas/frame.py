"""A frame: all that one picture of the mechanism shows, taken at one moment. What paints it asks nobody else."""

import cmath
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPolygonF, QTransform

from anakinema.arrays import Array
from anakinema.document.model import Document, Joint, Part, PointRef
from anakinema.findings import Findings
from anakinema.findings.measuring import value_now
from anakinema.geometry.outline import Slab
from anakinema.kinematics.contacts import touch
from anakinema.kinematics.motion import Motion
from anakinema.operations import Feature, Grab, features

from ..state.ghost import Ghost
from ..state.shown import Pose
from ..theme.tokens import Tokens
from .spots import Spots

if TYPE_CHECKING:
    from anakinema.clearance.swept import Swept
    from anakinema.kinematics.freedoms import Freedom
    from anakinema.kinematics.touches import Touch
    from anakinema.studies.travel import Travel

    from ..session import Session


class Drawn:
    """What of a document is the same in all its frames: its slabs from back to front, joints, skeletons, colours."""

    def __init__(self, document: Document):
        self.document = document
        stack = [(part, slab) for part in document.parts.values() for slab in part.slabs]
        self.stack: list[tuple[Part, Slab]] = sorted(stack, key=lambda entry: (entry[1].low, entry[1].high))
        self.spots = Spots(document)
        moving = (part.id for part in document.parts.values() if not part.fixed)
        self.numbers = {part: i for i, part in enumerate(moving)}
        """What moves, numbered: the colours go by it."""
        self._features: dict[str, tuple[Feature, ...]] = {}

    def features(self, part: str) -> tuple[Feature, ...]:
        """The features of a part; found when they are first asked for."""
        if part not in self._features:
            self._features[part] = features(self.document.parts[part])
        return self._features[part]


class Traced:
    """The paths that points of a motion leave: on which part (none: the frame), as a line and as places (S, 2)."""

    def __init__(self, motion: Motion | None):
        self.motion = motion
        self.paths: dict[str, tuple[str | None, QPolygonF, np.ndarray]] = {}
        for name, path in motion.traced.items() if motion is not None else ():
            line = QPolygonF([QPointF(x, y) for x, y in path])
            self.paths[name] = (motion.document.traces[name].on, line, path)  # type: ignore[union-attr]


@dataclass(frozen=True)
class Looks:
    """How a mechanism is shown."""

    hidden: frozenset[str] = frozenset()
    through: frozenset[str] = frozenset()
    by_part: bool = True
    symbols: bool = True
    traces: bool = True


@dataclass(frozen=True)
class Pulled:
    """What the hand pulls: a part at a point of its own axes, toward a place; why it does not follow."""

    part: str
    local: complex
    target: complex
    reason: str


@dataclass(frozen=True)
class Frame:
    """A mechanism at a moment: where its parts stand, what is chosen of it, what is tried or pulled, in which theme."""

    drawn: Drawn
    poses: Mapping[str, Pose]
    tokens: Tokens
    looks: Looks = field(default_factory=Looks)
    motion: Motion | None = None
    findings: Findings | None = None
    traced: Traced = field(default_factory=lambda: Traced(None))
    time: float = 0.0
    positions: Array | None = None
    """Where all bodies stand (P, 3), where there is a motion."""
    near: Array | None = None
    """The joint coordinates (C,) into which the hand has put it; None while it follows its motion."""
    playing: bool = False
    selection: str = ""
    others: tuple[str, ...] = ()
    chosen: tuple[str, str] = ("", "")
    """Kind and name of what is selected, empty where nothing is."""
    trial: "Frame | None" = None
    """The mechanism with what is tried, at the same share of its motion."""
    ghost: Ghost | None = None
    """A position that is kept in sight."""
    travel: "Travel | None" = None
    pulled: Pulled | None = None
    refused: tuple[QPointF, str] | None = None
    """Where the hand pulls in vain (pixels), and why."""
    band: QRectF | None = None
    """The rectangle in which parts are being selected (pixels)."""
    tool: bool = False
    """Whether the hand holds a tool."""
    swept: "Swept | None" = None
    """The area that something sweeps, shown as a ghost."""
    cut: tuple[complex, complex] | None = None
    """The line along which the stack is cut."""
    freedoms: "tuple[Freedom, ...]" = ()
    """The motions left to the part that is selected."""

    @property
    def document(self) -> Document:
        """What is shown."""
        return self.drawn.document

    @property
    def posed(self) -> bool:
        """Whether the hand has put it where it stands."""
        return self.near is not None

    def part(self, name: str) -> Part:
        """A part by its name."""
        return self.document.parts[name]

    def transform(self, part: str) -> QTransform:
        """From a part's own axes to the plane."""
        x, y, angle = self.poses[part]
        cos, sin = math.cos(angle), math.sin(angle)
        return QTransform(cos, sin, -sin, cos, x, y)

    def own(self, part: str, at: complex) -> complex:
        """A place of the plane in a part's own axes."""
        x, y, angle = self.poses[part]
        return (at - complex(x, y)) * cmath.rect(1.0, -angle)

    def stands(self, part: str, own: complex) -> complex:
        """Where a place of a part's own axes stands."""
        x, y, angle = self.poses[part]
        return complex(x, y) + own * cmath.rect(1.0, angle)

    def grabbed(self, grab: Grab) -> complex:
        """Where a feature stands."""
        return self.stands(grab.part, grab.feature.at)

    def world(self, ref: PointRef) -> complex:
        """Where a point of a part stands."""
        return self.stands(ref.part, complex(*self.part(ref.part).place(ref.point)))

    def spot(self, joint: Joint) -> complex:
        """Where a joint is drawn: at its point on part b, or where its edges touch."""
        motion = self.motion
        if joint.at_end and motion is not None and self.positions is not None and self.document is motion.document:
            return complex(touch(self.document, joint, self.positions[None], motion.system.body_ids)[0])
        return self.world(joint.b)

    @cached_property
    def coordinates(self) -> Array:
        """The joint coordinates (C,), in core units; only where there is a motion."""
        assert self.motion is not None
        return self.near if self.near is not None else self.motion.coordinates(np.array([self.time]))[0]

    @cached_property
    def touches(self) -> "list[Touch]":
        """Where contacts touch."""
        from anakinema.kinematics.touches import touches

        if self.motion is None or self.positions is None or self.motion.document is not self.document:
            return []
        return touches(self.motion, self.positions)

    def measured(self, name: str) -> float | None:
        """The value of a measure (core units); None where it can't be told."""
        motion = None if self.posed else self.motion
        return value_now(self.document.measures[name], self.document, motion, self.time, self.poses)


def cut_now(session: "Session", poses: Mapping[str, Pose]) -> tuple[complex, complex] | None:
    """The line along which the stack is cut, where what it goes with stands now."""
    cut, document = session.display_state.cut, session.document
    kind, _, name = session.display_state.cut_of.partition(".")
    if cut is None or document is None:
        return None
    ref = document.joints[name].b if kind == "joints" and name in document.joints else None
    part = ref.part if ref is not None else name
    if part not in poses or (ref is None and kind != "parts"):
        return cut
    x, y, angle = poses[part]
    own = complex(*document.parts[part].place(ref.point)) if ref is not None else 0j
    at = complex(x, y) + own * cmath.rect(1.0, angle)
    return at, at + cut[1] - cut[0]


def frame_of(
    session: "Session", drawn: Drawn, traced: Traced, tokens: Tokens, symbols: bool, traces: bool,
    pulled: Pulled | None = None, refused: tuple[QPointF, str] | None = None, band: QRectF | None = None,
    tool: bool = False, trial: Frame | None = None,
) -> Frame:  # fmt: skip
    """What a session shows now."""
    state, motion = session.display_state, session.motion
    chosen = session.selection.current()
    left = session.posing.motions_left(chosen[1]) if chosen[0] == "parts" else None
    return Frame(
        drawn, session.posing.poses(), tokens,
        Looks(state.hidden, state.through, state.by_part, symbols, traces),
        motion, session.findings, traced, session.time,
        session.posing.positions() if motion is not None else None,
        session.posing.coordinates() if motion is not None and session.posing.posed is not None else None,
        session.playing, session.selection.place, session.selection.others, chosen,
        trial,
        session.trying.ghost, session.trying.travel, pulled, refused, band, tool,
        state.swept, cut_now(session, session.posing.poses()), left or (),
    )  # fmt: skip


def frame_of_trial(motion: Motion, drawn: Drawn, traced: Traced, share: float, tokens: Tokens, looks: Looks) -> Frame:
    """A motion that is tried, at a share of its time."""
    t = np.array([min(share * motion.planned, motion.path.t1)])
    positions = motion.positions(t)[0]
    return Frame(drawn, motion.system.by_part(positions), tokens, looks, motion, None, traced, float(t[0]), positions)
