"""Joined parts that fill the same depth: none can be made so, unless a pin lies in a hole, a block in a guide."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..arrays import Plane
from ..document.model import Document, Joint, Part
from ..geometry.outline import Slab, slabs
from ..geometry.shapes import Disc
from ..joints import Guide
from ..kinematics.motion import Motion
from .approach import FINE, TOLERANCE, relative_places, room_for
from .forms import shape_of
from .pairs import rigid_bodies, share_depth

LOOKS = 9
"""Moments of the motion at which it is looked."""


@dataclass(frozen=True)
class SameDepth:
    """Two joined parts whose outlines overlap in the depth that they share: `front` is the one to be put before the
    other."""

    parts: tuple[str, str]
    joint: str
    front: str

    @property
    def behind(self) -> str:
        """The other one."""
        return self.parts[1] if self.front == self.parts[0] else self.parts[0]


def same_depth(motion: Motion) -> tuple[SameDepth, ...]:
    """The joined parts that fill the same depth where their outlines overlap beyond what the joint itself makes: a pin
    (a disc about the joint's point), a slide in the bore of a guide that is deeper on both sides; and what fits only
    touches. Parts of one rigid body, and contacts of edges, are left out."""
    document = motion.document
    joints = _candidates(document)
    if not joints:
        return ()
    places = motion.positions(np.linspace(0.0, motion.path.t1, LOOKS if motion.path.t1 > 0 else 1))
    found = []
    for joint in joints:
        a, b = (motion.system.body(side.part) for side in (joint.a, joint.b))
        at, turned = relative_places(places[:, a], places[:, b])
        if any(_overlap(one, two, at, turned) for one, two in _pairs(document, joint)):
            parts = (joint.a.part, joint.b.part)
            front = parts[0] if document.parts[parts[1]].fixed else parts[1]
            found.append(SameDepth(parts, joint.id, front))
    return tuple(found)


def _candidates(document: Document) -> list[Joint]:
    """The first joint of each pair of parts that share depth, and are not one body."""
    bodies = rigid_bodies(document)
    found: dict[frozenset[str], Joint] = {}
    for joint in document.active_joints.values():
        one, two = joint.a.part, joint.b.part
        if bodies[one] == bodies[two] or joint.kind.of_edges:
            continue
        if document.parts[one].shapes and document.parts[two].shapes and share_depth(document, one, two):
            found.setdefault(frozenset((one, two)), joint)
    return list(found.values())


def _pairs(document: Document, joint: Joint) -> Iterator[tuple[Slab, Slab]]:
    """The slabs of two joined parts, without pins, that must not overlap."""
    ones, twos = (_without_pin(document.parts[side.part], side.point) for side in (joint.a, joint.b))
    guided = joint.kind.guide in (Guide.STRAIGHT, Guide.ROUND)  # its guide may lie about what slides in it
    for one in ones:
        for two in twos:
            if one.meets(two) and not (guided and (_encloses(one, two) or _encloses(two, one))):
                yield one, two


def _without_pin(part: Part, point: str) -> tuple[Slab, ...]:
    here = part.place(point)
    kept = [shape for shape in part.shapes if shape.cut or not (
        isinstance(shape, Disc) and np.hypot(*np.subtract(shape.center, here)) <= TOLERANCE
    )]  # fmt: skip
    return part.slabs if len(kept) == len(part.shapes) else slabs(kept, part.depth)


def _encloses(one: Slab, two: Slab) -> bool:
    """Whether a slab is deeper than another on both sides, as a guide about its slide."""
    return one.low < two.low and two.high < one.high


def _overlap(one: Slab, two: Slab, places: Plane, turns: Plane) -> bool:
    from .kernels import search

    reach = max(shape_of((each,), TOLERANCE).reach for each in (one, two))
    first, second = (shape_of((each,), min(TOLERANCE, FINE * reach)) for each in (one, two))
    over = np.zeros(len(places), dtype=np.bool_)
    return bool(search.overlaps(first.form, second.form, places, turns, room_for(1), over))
