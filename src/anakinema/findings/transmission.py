"""The transmission angle: how squarely the coupler pushes the output.

It is the angle between the coupler's line of force and the direction in which the output yields nothing: for a rocker
the angle between coupler and rocker, for a slider the angle between coupler and the normal of the slide. 90° is best;
at 0° the output can't be moved. Folded to (0, 90°]. (R. L. Norton, Design of Machinery, gives the rocker's; the
slider's follows from the same argument. Attribution from memory.)
"""

import numpy as np

from ..arrays import Array, Plane
from ..document.model import Document, Joint, PointRef
from ..errors import located
from ..kinematics.motion import Motion

GUIDES = ("revolute", "prismatic", "slide-arc")
"""Joint types that leave an output on the frame one motion, so that there is a direction in which it yields nothing."""


class Transmission:
    """The angle (rad) at a revolute joint between coupler and output, as a function of time. Raises `DocumentError`
    where the joint does not lie between a coupler and an output that is joined to the frame."""

    def __init__(self, document: Document, name: str):
        self.document, self.place = document, f"joints.{name}"
        joint = document.joints[name]
        if joint.type != "revolute":
            raise located(self.place, "a transmission angle is read at a revolute joint between coupler and output")
        if document.parts[joint.a.part].fixed or document.parts[joint.b.part].fixed:
            raise located(self.place, "lies on the frame; one part must be the output and the other the coupler")
        sides = [(joint.a, joint.b), (joint.b, joint.a)]
        grounded = [(output, coupler) for output, coupler in sides if self._grounds(output.part)]
        if len(grounded) == 2 or not grounded:
            what = "both parts are" if grounded else "neither part is"
            raise located(self.place, f"{what} joined to the frame; one must be the output and the other the coupler")
        self.output, self.coupler = grounded[0]
        self.guide = self._guide()
        self.far = self._far_end(joint)

    def _grounds(self, part: str) -> list[Joint]:
        """The joints of a moving part to fixed ones."""
        return [
            joint
            for joint in self.document.active_joints.values()
            for own, other in ((joint.a, joint.b), (joint.b, joint.a))
            if own.part == part and self.document.parts[other.part].fixed
        ]

    def _guide(self) -> Joint:
        """The joint that guides the output on the frame. Raises where none leaves it just one motion."""
        joints = self._grounds(self.output.part)
        guides = [joint for joint in joints if joint.type in GUIDES]
        if not guides:
            listed = ", ".join(f"'{joint.id}' ({joint.type})" for joint in joints)
            text = f"the output '{self.output.part}' is held on the frame by {listed}, which gives it no one direction"
            raise located(self.place, f"{text}; a transmission angle needs a pivot or a slide there")
        return guides[0]

    def _far_end(self, joint: Joint) -> PointRef:
        """The other pin of the coupler: the line between both is that of the force."""
        others = [
            (other, side)
            for other in self.document.active_joints.values()
            for side in (other.a, other.b)
            if other.id != joint.id and side.part == self.coupler.part and side.point != self.coupler.point
        ]
        pins = [side for other, side in others if other.type == "revolute"]
        if pins:
            return pins[0]
        if others:
            listed = ", ".join(f"'{other.id}' ({other.type})" for other, _ in others)
            text = f"the coupler '{self.coupler.part}' is driven through {listed}; its force has no line through pins"
            raise located(self.place, text)
        raise located(self.place, f"part '{self.coupler.part}' has no second joint, so it is no coupler")

    def __call__(self, motion: Motion, t: Array) -> Array:
        q = motion.positions(t)
        here = world(motion, q, self.coupler)
        force = here - world(motion, q, self.far)
        guide = self.guide
        if guide.type == "prismatic":
            base = q[:, motion.system.body(guide.a.part), 2]
            blind = 1j * np.exp(1j * (base + guide.values["direction"]))  # the normal of the slide
        elif guide.type == "slide-arc":
            blind = here - world(motion, q, guide.a)  # it turns about the centre of the track
        else:
            blind = here - world(motion, q, guide.a if guide.a.part == self.output.part else guide.b)
        cross, dot = (force.conj() * blind).imag, (force.conj() * blind).real
        folded: Array = np.arctan2(np.abs(cross), np.abs(dot))
        return folded


def world(motion: Motion, q: Array, ref: PointRef) -> Plane:
    """(S,) a point of a part in the plane, as x + i y, at positions q (S, P, 3) in document lengths."""
    at = q[:, motion.system.body(ref.part)]
    x, y = motion.document.parts[ref.part].place(ref.point)
    place: Plane = at[:, 0] + 1j * at[:, 1] + complex(x, y) * np.exp(1j * at[:, 2])
    return place
