"""The transmission angle and the pressure angle: how squarely the output is pushed.

It is the angle between the coupler's line of force and the direction in which the output yields nothing: for a rocker
the angle between coupler and rocker, for a slider the angle between coupler and the normal of the slide. 90° is best;
at 0° the output can't be moved. Folded to (0, 90°]. (R. L. Norton, Design of Machinery, gives the rocker's; the
slider's follows from the same argument. Attribution from memory.)
"""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Plane
from ..errors import located
from ..joints import Guide, Press
from .between import in_plane
from .extremes import Fold

if TYPE_CHECKING:
    from ..document.model import Document, Joint, PointRef
    from ..kinematics.motion import Sampled

LINES = Fold(np.pi)
"""A line is itself again after half a turn, and the angle between two of them is at most 90°."""


class Transmission:
    """The angle (rad) at a revolute joint between coupler and output, as a function of time. Raises `DocumentError`
    where the joint does not lie between a coupler and an output that is joined to the frame."""

    def __init__(self, document: "Document", name: str):
        self.document, self.place = document, f"joints.{name}"
        joint = document.joints[name]
        if not joint.kind.pin:
            raise located(self.place, "a transmission angle is read at a revolute joint between coupler and output")
        if document.parts[joint.a.part].fixed or document.parts[joint.b.part].fixed:
            raise located(self.place, "lies on the frame; one part must be the output and the other the coupler")
        sides = [(joint.a, joint.b), (joint.b, joint.a)]
        grounded = [(output, coupler) for output, coupler in sides if _grounds(document, output.part)]
        if len(grounded) == 2 or not grounded:
            what = "both parts are" if grounded else "neither part is"
            raise located(self.place, f"{what} joined to the frame; one must be the output and the other the coupler")
        output, self.coupler = grounded[0]
        self.output = Output(document, output.part, self.place)
        self.far = self._far_end(joint)

    def _far_end(self, joint: "Joint") -> "PointRef":
        """The other pin of the coupler: the line between both is that of the force."""
        others = [
            (other, side)
            for other in self.document.active_joints.values()
            for side in (other.a, other.b)
            if other.id != joint.id and side.part == self.coupler.part and side.point != self.coupler.point
        ]
        pins = [side for other, side in others if other.kind.pin]
        if pins:
            return pins[0]
        if others:
            listed = ", ".join(f"'{other.id}' ({other.type})" for other, _ in others)
            text = f"the coupler '{self.coupler.part}' is driven through {listed}; its force has no line through pins"
            raise located(self.place, text)
        raise located(self.place, f"part '{self.coupler.part}' has no second joint, so it is no coupler")

    def __call__(self, motion: "Sampled", t: Array) -> Array:
        """(S,) unfolded: the angle from the coupler's line to the blind direction."""
        q = motion.positions(t)
        here = world(motion, q, self.coupler)
        return turned(here - world(motion, q, self.far), self.output.blind(motion, q, here))


class Pressure:
    """The pressure angle (rad, 0 to π/2) as a function of time: between the line of the force on a follower and the
    way that the follower can go. Where a part presses on another (a pin on its slot, an edge on an edge) the force runs
    along their common normal, friction left out; at a revolute joint of a coupler along the coupler, where it is what
    the transmission angle leaves of 90°. The follower is the part of the two that a joint which no driver commands
    guides on the frame. Raises `DocumentError` where there is none, or the joint presses on nothing."""

    def __init__(self, document: "Document", name: str):
        self.document, self.joint, self.place = document, document.joints[name], f"joints.{name}"
        self.across: Transmission | None = None
        if self.joint.kind.pin:
            self.across = Transmission(document, name)
            return
        if self.joint.kind.press is None:
            text = "a pressure angle is read where a part presses on another: at a pin in a slot, at a contact of edges"
            raise located(self.place, f"{text}, or at a revolute joint between coupler and output")
        parts = [self.joint.a.part, self.joint.b.part]
        driven = {driver.joint for driver in document.drivers.values()}
        led = [part for part in parts
               if (grounds := _grounds(document, part)) and driven.isdisjoint(one.id for one in grounds)]  # fmt: skip
        if len(led) != 1:
            what = f"both '{led[0]}' and '{led[1]}' are" if led else f"neither '{parts[0]}' nor '{parts[1]}' is"
            text = "joined to the frame without being driven there, so it is not told which is the follower"
            raise located(self.place, f"{what} {text}")
        self.output = Output(document, led[0], self.place)

    def __call__(self, motion: "Sampled", t: Array) -> Array:
        """(S,) unfolded: what the transmission angle leaves of 90°."""
        if self.across is not None:
            rest: Array = np.pi / 2 - self.across(motion, t)
            return rest
        q = motion.positions(t)
        here, force = self._pressed(motion, q)
        found: Array = np.pi / 2 - turned(force, self.output.blind(motion, q, here))
        return found

    def _pressed(self, motion: "Sampled", q: Array) -> tuple[Plane, Plane]:
        """(S,) twice: where the parts touch, and a direction along their common normal."""
        joint, values = self.joint, self.joint.values
        if joint.kind.press is Press.PIN:
            pin = world(motion, q, joint.b)
            if "radius" in values:
                return pin, pin - world(motion, q, joint.a)
            turned = q[:, motion.system.body(joint.a.part), 2] + values["direction"]
            return pin, 1j * np.exp(1j * turned)
        from ..kinematics.contacts import touch

        at = touch(self.document, joint, q, motion.system.body_ids)
        body = q[:, motion.system.body(joint.b.part)]
        arc = self.document.parts[joint.b.part].edges[joint.b.point]
        center = body[:, 0] + 1j * body[:, 1] + complex(*arc.start) * np.exp(1j * body[:, 2])
        return at, at - center


class Output:
    """A part that a joint to the frame leaves one motion. Raises `DocumentError` where none does."""

    def __init__(self, document: "Document", part: str, place: str):
        joints = _grounds(document, part)
        guides = [joint for joint in joints if joint.kind.guide is not None]
        if not guides:
            listed = ", ".join(f"'{joint.id}' ({joint.type})" for joint in joints)
            text = f"the output '{part}' is held on the frame by {listed}, which gives it no one direction"
            raise located(place, f"{text}; a transmission angle needs a pivot or a slide there")
        self.part, self.guide = part, guides[0]

    def blind(self, motion: "Sampled", q: Array, here: Plane) -> Plane:
        """(S,) the direction in which the part yields nothing at a place of it."""
        guide = self.guide
        if guide.kind.guide is Guide.STRAIGHT:
            base = q[:, motion.system.body(guide.a.part), 2]
            normal: Plane = 1j * np.exp(1j * (base + motion.joint_value(guide.id, "direction")))
            return normal
        if guide.kind.guide is Guide.ROUND:
            return here - world(motion, q, guide.a)  # it turns about the centre of the track
        return here - world(motion, q, guide.seen_from(self.part)[0])


def _grounds(document: "Document", part: str) -> "list[Joint]":
    """The joints of a moving part to fixed ones."""
    return [
        joint
        for joint in document.active_joints.values()
        for own, other in ((joint.a, joint.b), (joint.b, joint.a))
        if own.part == part and not document.parts[part].fixed and document.parts[other.part].fixed
    ]


def turned(one: Plane, two: Plane) -> Array:
    """(S,) the angle from one direction to another, −π to π."""
    found: Array = np.angle(one.conj() * two)
    return found


def world(motion: "Sampled", q: Array, ref: "PointRef") -> Plane:
    """(S,) a point of a part in the plane, as x + i y, at positions q (S, P, 3) in document lengths."""
    return in_plane(q[:, motion.system.body(ref.part)], motion.point(ref))
