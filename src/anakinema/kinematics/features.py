"""What of an outline can touch another: its straight edges, its arcs, and its corners, which are arcs without radius.

An outline that turns inward touches nothing there: at such a corner the edges beside it do. All lengths are over the
system's scale, in the axes of the part, places complex numbers x + i y.
"""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Index, Plane
from ..geometry.outline import Region
from .kernels.touching import CONCAVE, LINE, ROUND

SMOOTH = 1e-6
"""Turn (rad) between neighbours up to which they go on without a corner."""
WHOLE = 10.0
"""Half the angle of a full circle, which has no ends."""


@dataclass(frozen=True, eq=False)
class Features:
    """F features. `kind` (F,) LINE, ROUND or CONCAVE; `at` where a line starts or the middle of an arc; `along` the
    unit direction of a line (material to its left), or from an arc's middle to the middle of the arc; `size` length or
    radius; `half` half the angle (rad) that an arc spans; `corner` (F, 2) the corner at either end of a line or an arc,
    −1 where none is; `reach` how far the outline lies from `middle` at most."""

    kind: Index
    at: Plane
    along: Plane
    size: Array
    half: Array
    corner: Index
    middle: complex
    reach: float

    def __len__(self) -> int:
        return len(self.kind)

    @property
    def table(self) -> Array:
        """(F, 7) as the compiled loops read them."""
        return np.column_stack(
            (self.kind, self.at.real, self.at.imag, self.along.real, self.along.imag, self.size, self.half)
        ).astype(float)


def features_of(region: Region, scale: float) -> Features:
    """The features of a region, whose lengths are over a scale."""
    rows: list[tuple[int, complex, complex, float, float]] = []
    corners: list[list[int]] = []
    for loop in region.loops:
        ring = region.edges.pick(loop)
        first, count = len(rows), ring.count
        into, out = ring.direction(np.zeros(count)), ring.direction(np.ones(count))
        for k in range(count):
            corners.append([-1, -1])
            if ring.radius[k] > 0:
                middle = complex(np.exp(1j * (ring.angle[k] + ring.sweep[k] / 2)))
                kind = ROUND if ring.sweep[k] > 0 else CONCAVE
                rows.append((kind, complex(ring.center[k]) / scale, middle, float(ring.radius[k]) / scale,
                             WHOLE if count == 1 else float(abs(ring.sweep[k])) / 2))  # fmt: skip
            else:
                way = complex(ring.end[k] - ring.start[k])
                rows.append((LINE, complex(ring.start[k]) / scale, way / abs(way), abs(way) / scale, 0.0))
        for k in range(count):  # the corner at the start of each, where it turns outward
            before = (k - 1) % count
            turn = float(np.angle(into[k] / out[before]))
            if turn > SMOOTH or (count > 1 and turn < -np.pi + 1e-9):
                turn = turn if turn > 0 else turn + 2 * np.pi
                normal = -1j * complex(out[before]) * np.exp(0.5j * turn)
                corners[first + k][0] = corners[first + before][1] = len(rows)
                corners.append([-1, -1])
                rows.append((ROUND, complex(ring.start[k]) / scale, normal, 0.0, turn / 2))
    table = np.array(rows, dtype=complex)
    spots, along = table[:, 1], table[:, 2]
    kinds, size, half = table[:, 0].real.astype(np.int64), table[:, 3].real, table[:, 4].real
    ends = np.concatenate((spots, np.where(kinds == LINE, spots + along * size, spots)))
    middle = complex((ends.real.min() + ends.real.max()) / 2, (ends.imag.min() + ends.imag.max()) / 2)
    reach = float((np.abs(ends - middle) + np.tile(np.where(kinds == LINE, 0.0, size), 2)).max())
    return Features(
        kinds, spots, along, np.ascontiguousarray(size), np.ascontiguousarray(half),
        np.array(corners, dtype=np.int64), middle, reach,
    )  # fmt: skip
