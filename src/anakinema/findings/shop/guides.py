"""Slides in their guides."""

import cmath
from collections.abc import Iterator

import numpy as np

from ...clearance.pairs import share_depth
from ...document.model import Joint, Part
from ...geometry.edges import boxes
from ...geometry.rotated import turned
from ...joints import Guide
from ...kinematics.motion import Motion
from .finding import PRACTICE, ShopFinding
from .stacks import Shop

LONG = 1.5
"""Widths of a slide that must lie in its guide, so that it doesn't jam (common practice, no source)."""
LOOKS = 65
"""Moments of the motion at which it is looked how far a slide lies in its guide."""


def of_guides(shop: Shop, motion: Motion) -> Iterator[ShopFinding]:
    """Slides that lie too short in their guides."""
    for joint in shop.document.active_joints.values():
        a, b = (shop.document.parts[ref.part] for ref in (joint.a, joint.b))
        if joint.kind.guide is Guide.STRAIGHT and not joint.kind.pin and share_depth(shop.document, a.id, b.id):
            yield from _of_guide(shop, motion, joint, a, b)


def _of_guide(shop: Shop, motion: Motion, joint: Joint, a: Part, b: Part) -> Iterator[ShopFinding]:
    t = np.linspace(0.0, motion.path.t1, LOOKS if motion.path.t1 > 0 else 1)
    column = motion.system.coordinates.index(joint.id)
    along = motion.coordinates(t)[:, column]
    direction = joint.values.get("direction", 0.0)
    angle = float(motion.positions(t[:1])[0, motion.system.body(b.id), 2] - motion.positions(t[:1])[
        0, motion.system.body(a.id), 2])  # fmt: skip
    guide = _extent(a, joint.a.point, direction)
    slide = _extent(b, joint.b.point, direction - angle)
    low, high = slide[0] + along, slide[1] + along
    held = np.minimum(high, guide[1]) - np.maximum(low, guide[0])
    worst = int(np.argmin(held))
    wide = slide[3] - slide[2]
    if held[worst] < LONG * wide - 1e-9 and slide[1] - slide[0] > wide:
        text = (f"'{b.id}' lies only {shop.length(max(float(held[worst]), 0.0))} in the guide of '{a.id}' and may jam: "
                f"{shop.length(LONG * wide)} is wanted ({LONG:g} times its width)")  # fmt: skip
        yield ShopFinding("short guide", (b.id, a.id), text, PRACTICE, t=float(t[worst]))


def _extent(part: Part, point: str, direction: float) -> tuple[float, float, float, float]:
    """From where to where a part lies along a direction and across it, from one of its points on (its own axes)."""
    at, back = complex(*part.place(point)), cmath.rect(1.0, -direction)
    corners = [boxes(turned(slab.region.edges, at, back)) for slab in part.slabs]
    low = np.array([complex(one.real.min(), one.imag.min()) for one, _ in corners])
    high = np.array([complex(two.real.max(), two.imag.max()) for _, two in corners])
    return float(low.real.min()), float(high.real.max()), float(low.imag.min()), float(high.imag.max())
