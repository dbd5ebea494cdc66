"""What rings cover together, each added or cut."""

from collections.abc import Callable, Sequence

import numpy as np

from ..arrays import Index, Mask, Plane
from .edges import Edges, boxes, windings

MOST_AT_ONCE = 400_000
"""Points times edges looked at in one go, so that memory stays bounded."""


class Layer:
    """Rings, each added or cut, and what they cover together."""

    def __init__(self, marked: Sequence[tuple[Edges, bool]]):
        self.marked = marked
        corners = [boxes(ring) for ring, _ in marked]
        self.low = np.array([complex(low.real.min(), low.imag.min()) for low, _ in corners])
        self.high = np.array([complex(high.real.max(), high.imag.max()) for _, high in corners])

    def inside(self, z: Plane) -> Mask:
        """(N,) whether points lie in an added ring and in no cut one."""
        _, within = self.covered(z)
        return within

    def covered(self, z: Plane, but: Index | None = None) -> tuple[Mask, Mask]:
        """(N,) twice: whether points lie in a cut ring, and of those that don't whether in an added one; `but` (N,) are
        rings that are left out, one for each point."""
        removed, within = np.zeros(z.size, dtype=bool), np.zeros(z.size, dtype=bool)
        boxed = self._finder(z)
        for k in np.argsort([not cut for _, cut in self.marked], kind="stable").tolist():
            ring, cut = self.marked[k]
            near = boxed(k)
            near = near[~(removed[near] | within[near])]
            if but is not None:
                near = near[but[near] != k]
            for some in np.array_split(near, 1 + near.size * ring.count // MOST_AT_ONCE) if near.size else ():
                (removed if cut else within)[some[windings(ring, z[some]) != 0]] = True
        return removed, within

    def _finder(self, z: Plane) -> Callable[[int], Index]:
        """What gives the points that lie in a ring's box."""
        low, high = self.low, self.high
        if z.size * low.size <= MOST_AT_ONCE:
            return lambda k: np.flatnonzero(
                (z.real >= low[k].real) & (z.real <= high[k].real) & (z.imag >= low[k].imag) & (z.imag <= high[k].imag)
            )
        import shapely

        tree = shapely.STRtree(shapely.points(z.real, z.imag))
        around = shapely.box(low.real, low.imag, high.real, high.imag)
        return lambda k: tree.query(around[k])
