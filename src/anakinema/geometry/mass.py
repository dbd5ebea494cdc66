"""Area, centre and second moment of outlines, exact for lines and arcs: by Green's theorem over the chords, and the
circular segments between chords and arcs (any text on mechanics; H. D. Eckhardt, "Kinematic Design of Machines and
Mechanisms", McGraw-Hill 1998, appendix, from memory)."""

from dataclasses import dataclass

import numpy as np

from .edges import Edges


@dataclass(frozen=True)
class AreaMoments:
    """Of a flat outline: its area, the first moment ∫ z dA and the polar second moment ∫ |z|² dA, both about the origin
    (document lengths)."""

    area: float
    first: complex
    polar: float

    def __add__(self, other: "AreaMoments") -> "AreaMoments":
        return AreaMoments(self.area + other.area, self.first + other.first, self.polar + other.polar)

    def times(self, factor: float) -> "AreaMoments":
        """So many of it."""
        return AreaMoments(self.area * factor, self.first * factor, self.polar * factor)


def moments(edges: Edges) -> AreaMoments:
    """Those of what closed rings enclose, counter-clockwise around what is solid, clockwise around holes.

    >>> from anakinema.geometry.edges import circle
    >>> found = moments(circle(3 + 0j, 2.0))
    >>> [round(value, 9) for value in (found.area, found.first.real, found.polar)]
    [12.566370614, 37.699111843, 138.230076758]
    """
    a, b = edges.start, edges.end
    cross = (a.conj() * b).imag
    area, first = cross.sum() / 2, (cross * (a + b)).sum() / 6
    polar = (cross * (np.abs(a) ** 2 + (a.conj() * b).real + np.abs(b) ** 2)).sum() / 12
    arcs = edges.pick(np.flatnonzero(edges.is_arc))
    r, turn = arcs.radius, arcs.sweep
    caps = r**2 * (turn - np.sin(turn)) / 2
    own = 2 / 3 * r**3 * np.sin(turn / 2) ** 3 * np.exp(1j * (arcs.angle + turn / 2))
    about = r**4 * (turn / 4 - np.sin(turn) * (2 + np.cos(turn)) / 12)
    away = np.abs(arcs.center) ** 2 * caps + 2 * (arcs.center.conj() * own).real
    return AreaMoments(float(area + caps.sum()), complex(first + (own + arcs.center * caps).sum()),
                       float(polar + (about + away).sum()))  # fmt: skip
