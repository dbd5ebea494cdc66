"""Where all joints and bare skeletons stand, found for all at once: a frame asks for hundreds of them."""

from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF

from anakinema.document import Document
from anakinema.document.model import Joint, Part

from .viewport import Viewport

if TYPE_CHECKING:
    from .frame import Frame


class Spots:
    """The joints of a document in the order in which they are drawn, blocks before pins, and its skeletons."""

    def __init__(self, document: Document):
        self.document = document
        number = {name: k for k, name in enumerate(document.parts)}
        parts = document.parts
        self.names = list(number)
        self.joints: list[Joint] = sorted(document.joints.values(), key=lambda joint: joint.kind.pin)
        self.pins = np.array([joint.kind.pin for joint in self.joints], dtype=bool)
        self.grounded = [parts[joint.a.part].fixed or parts[joint.b.part].fixed for joint in self.joints]
        self._owner = np.array([number[joint.b.part] for joint in self.joints], dtype=int)
        places = [parts[joint.b.part].place(joint.b.point) for joint in self.joints]
        self._own = np.array([complex(*place) for place in places], dtype=complex)
        self.rods = np.array([k for k, joint in enumerate(self.joints) if joint.kind.rod], dtype=int)
        """Those that reach from one place to another."""
        far = [self.joints[k].a for k in self.rods.tolist()]
        self._far_owner = np.array([number[end.part] for end in far], dtype=int)
        self._far_own = np.array([complex(*parts[end.part].place(end.point)) for end in far], dtype=complex)
        self.at_edges = [k for k, joint in enumerate(self.joints) if joint.at_end]
        """Those that are drawn where their edges touch."""
        self.bare: list[Part] = [part for part in parts.values() if not part.shapes and not part.fixed]
        ends = [(number[part.id], one, two) for part in self.bare for one, two in _stretches(part)]
        self._bare = np.array([entry[0] for entry in ends], dtype=int)
        self._bare_one = np.array([entry[1] for entry in ends], dtype=complex)
        self._bare_two = np.array([entry[2] for entry in ends], dtype=complex)
        self.bare_names = [self.names[entry[0]] for entry in ends]

    def _placed(self, frame: "Frame") -> np.ndarray:
        poses = frame.poses
        return np.array([poses.get(name, (0.0, 0.0, 0.0)) for name in self.names], dtype=float).reshape(-1, 3)

    def pixels(self, frame: "Frame", view: Viewport) -> np.ndarray:
        """(J,) where the joints are drawn, as x + i y in pixels."""
        found = self._points(frame, self._owner, self._own)
        for k in self.at_edges:
            found[k] = frame.spot(self.joints[k])
        return view.pixels(found)

    def far_ends(self, frame: "Frame", view: Viewport) -> np.ndarray:
        """(R,) where the rods end that begin at their joints' `pixels`."""
        return view.pixels(self._points(frame, self._far_owner, self._far_own))

    def _points(self, frame: "Frame", owner: np.ndarray, own: np.ndarray) -> np.ndarray:
        x, y, angle = self._placed(frame)[owner].T
        found: np.ndarray = x + 1j * y + own * np.exp(1j * angle)
        return found

    def skeletons(self, frame: "Frame", view: Viewport) -> list[QLineF]:
        """The lines of the bare parts, a stretch each, in pixels; `bare_names` says whose."""
        placed = self._placed(frame)[self._bare]
        turn, base = np.exp(1j * placed[:, 2]), placed[:, 0] + 1j * placed[:, 1]
        one, two = (view.pixels(base + own * turn) for own in (self._bare_one, self._bare_two))
        ends = np.column_stack((one.real, one.imag, two.real, two.imag)).tolist()
        return [QLineF(*end) for end in ends]


def _stretches(part: Part) -> list[tuple[complex, complex]]:
    spots = [complex(*at) for at in part.points.values()]
    return list(pairwise(spots))

