"""Repeats: one part so many times, in a row, around a center, or as a strand of links, by expressions. What they make
stands in the flat form of the document as if it were in a sub-assembly of the repeat's name: ``links/2``, ``links/3``…;
the part itself is the first."""

import cmath
import math
from dataclasses import dataclass, replace

from ..joints import PIN
from .assemblies import Content
from .model import Joint, Part, PointRef, Use

FULL = 1e-9
"""How near an angle must be to a full turn to be one (rad)."""


@dataclass(frozen=True)
class Repeat:
    """How a part is repeated: `count` in all. Each is a `pitch` on from the last, or stands around a `center` over an
    angle (rad), or hangs by its first point on the second point of the last (`strand`)."""

    part: str
    count: int
    pitch: complex = 0j
    center: complex | None = None
    over: float = math.tau
    strand: bool = False

    def poses(self, base: Part) -> list[tuple[float, float, float]]:
        """Where the second and all others stand."""
        x, y, angle = base.pose
        at, step = complex(x, y), self.pitch
        if self.center is not None:
            full = abs(abs(self.over) - math.tau) < FULL
            turn = self.over / (self.count if full else max(self.count - 1, 1))
            spots = [(self.center + (at - self.center) * cmath.rect(1.0, k * turn), angle + k * turn)
                     for k in range(1, self.count)]  # fmt: skip
            return [(spot.real, spot.imag, turned) for spot, turned in spots]
        if self.strand:
            one, two = list(base.points.values())[:2]
            step = (complex(*two) - complex(*one)) * cmath.rect(1.0, angle)
        return [((at + k * step).real, (at + k * step).imag, angle) for k in range(1, self.count)]


def repeated(base: Part, use: Use, repeat: Repeat) -> Content:
    """What a repeat puts into the document. A strand needs two points of the part."""
    parts, joints = {}, {}
    before, ends = base.id, list(base.points)[:2]
    for number, pose in enumerate(repeat.poses(base), 2):
        name = f"{use.id}/{number}"
        parts[name] = replace(base, id=name, of=base.of or base.id, fixed=False, pose=pose)
        if repeat.strand:
            pin = f"{name}-pin"
            joints[pin] = Joint(pin, PIN, PointRef(before, ends[1]), PointRef(name, ends[0]), {})
            before = name
    return Content(parts=parts, joints=joints, uses={use.id: use})
