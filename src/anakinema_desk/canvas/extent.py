"""How large what is shown is: a part where it stands, the whole mechanism through its motion."""

import cmath

import numpy as np
from PySide6.QtCore import QRectF

from .frame import Frame
from .picking import corners_of

LOOKS = 13
"""Moments of a motion at which its extent is looked at."""


def extent(frame: Frame, end: float) -> QRectF:
    """A box about the mechanism through its motion of so many seconds; its `top` is the least y. Null where there is
    nothing to see."""
    parts = list(frame.document.parts.values())
    if not parts or not frame.poses:
        return QRectF()
    if frame.motion is not None:
        q = frame.motion.positions(np.linspace(0.0, end, LOOKS))
        bodies = [frame.motion.system.body(part.id) for part in parts]
    else:
        q, bodies = np.array([[frame.poses[part.id] for part in parts]]), list(range(len(parts)))
    corners = [corners_of(part) for part in parts]
    owners = np.repeat(np.array(bodies, dtype=int), [spots.size for spots in corners])
    if not owners.size:
        return QRectF()
    base, turn = q[:, owners, 0] + 1j * q[:, owners, 1], np.exp(1j * q[:, owners, 2])
    placed = base + turn * np.concatenate(corners)
    low, high = complex(placed.real.min(), placed.imag.min()), complex(placed.real.max(), placed.imag.max())
    return QRectF(low.real, low.imag, max(high.real - low.real, 2e-6), max(high.imag - low.imag, 2e-6))


def size_of(frame: Frame, part: str) -> tuple[float, float]:
    """How far a part reaches along x and y where it stands (document lengths)."""
    corners = corners_of(frame.part(part)) * cmath.rect(1.0, frame.poses[part][2])
    return (float(np.ptp(corners.real)), float(np.ptp(corners.imag))) if corners.size else (0.0, 0.0)
