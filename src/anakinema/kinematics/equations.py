"""Rows gathered into equations over the unknown coordinates: values, Jacobians and rates for many positions.

Nothing here knows of joints or names. All quantities are dimensionless: lengths are divided by the system's scale. The
compiled loops are loaded when they are first needed, so that a window opens without waiting for them.
"""

import threading
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Index, Mask
from .kernels.tables import Plan, Table, Workspace, room, work_for
from .rows import RowSpec, tabled

if TYPE_CHECKING:
    from scipy import sparse

    from .stretches import Law, Nodes

SHARES = np.array([0.2, 0.5, 0.8])
"""Where between two nodes it is looked how well they are interpolated."""
DENSE_UP_TO = 150
"""Unknowns up to which dense least squares beats a sparse factorisation."""


class Equations:
    """Rows over the unknown coordinates of the bodies `unknown`; all other bodies (of `bodies`) count as known."""

    def __init__(self, specs: Sequence[RowSpec], unknown: Sequence[int], bodies: int):
        self.specs = tuple(specs)
        self.owners = [spec.owner for spec in specs]
        self.rows = len(specs)
        self.unknown = np.array(unknown, dtype=np.int64)
        self.columns = 3 * len(unknown)
        self.place: Index = np.full(bodies, -1, dtype=np.int64)
        self.place[self.unknown] = 3 * np.arange(len(unknown))

    def __getstate__(self) -> dict[str, object]:
        return {name: value for name, value in self.__dict__.items() if name != "_rooms"}  # a thread's own

    @cached_property
    def table(self) -> Table:
        """The rows as the compiled loops read them."""
        return tabled(self.specs)

    @property
    def targets(self) -> int:
        """How many targets the rows speak of, at least 1."""
        return max(1, int(self.table.target.max(initial=-1)) + 1)

    @cached_property
    def plan(self) -> Plan:
        """The order in which to solve."""
        from .plan import pattern, planned

        return planned(pattern(self.specs), tuple(self.unknown.tolist()), len(self.place))

    def blocks(self) -> Iterator[tuple[list[int], list[int]]]:
        """Rows and bodies of the blocks of the plan, each of which needs only those before."""
        plan = self.plan
        for (row, body), (next_row, next_body) in zip(plan.first[:-1], plan.first[1:], strict=True):
            yield plan.rows[row:next_row, 0].tolist(), plan.bodies[body:next_body].tolist()

    def moved_by(self, targets: Mask) -> "Equations":
        """Those of the blocks that some of the targets (D,) move, by themselves or through others; all where all do."""
        rows: list[int] = []
        bodies: list[int] = []
        moved = np.zeros(len(self.place), dtype=bool)
        for chosen, own in self.blocks():
            specs = [self.specs[k] for k in chosen]
            driven = any(spec.target >= 0 and targets[spec.target] for spec in specs)
            if driven or any(moved[term.a] or moved[term.b] for spec in specs for term in spec.terms):
                moved[own] = True
                rows += chosen
                bodies += own
        if len(bodies) == len(self.unknown):
            return self
        return Equations([self.specs[k] for k in sorted(rows)], sorted(bodies), len(self.place))

    def work(self, targets: int) -> Workspace:
        """Room for the compiled loops; one for each caller, so that several threads may compute at once."""
        return work_for(*self._room, len(self.place), targets)

    def lent(self, targets: int) -> Workspace:
        """The same, lent for one call of a compiled loop: this thread's own, made once."""
        found: Workspace | None = getattr(self._rooms, "work", None)
        if found is None or len(found.targets) != targets:
            found = self._rooms.work = self.work(targets)
        return found

    @cached_property
    def _rooms(self) -> threading.local:
        return threading.local()

    @cached_property
    def _room(self) -> tuple[int, int, int]:
        return room(self.plan)

    def _turn(self) -> Array:
        return np.empty((len(self.place), 2))

    def values(self, q: Array) -> Array:
        """(S, rows) the row values at q (S, P, 3), targets not yet taken off; polar angles not unwrapped."""
        from .kernels import rows

        found = np.empty((len(q), self.rows))
        rows.values(self.table, q, self._turn(), found)
        return found

    def rates(self, q: Array, v: Array, a: Array) -> tuple[Array, Array]:
        """First and second time derivatives of the values, each (S, rows), for rates v, a (S, P, 3)."""
        from .kernels import rows

        first, second = np.empty((len(q), self.rows)), np.empty((len(q), self.rows))
        rows.rates(self.table, q, self._turn(), v, a, first, second)
        return first, second

    def linear(self, q: Array, targets: Array) -> tuple[Array, Array]:
        """Residuals (S, rows) and dense Jacobians (S, rows, columns) at q (S, P, 3) for targets (S, D)."""
        from .kernels import rows

        residual, dense = np.empty((len(q), self.rows)), np.empty((len(q), self.rows, self.columns))
        rows.jacobian(self.table, self.place, q, self._turn(), targets, residual, dense)
        return residual, dense

    def residual(self, q: Array, targets: Array) -> Array:
        """(rows,) at one position q (P, 3) for targets (D,)."""
        value = self.values(q[None])[0]
        driven = self.table.target >= 0
        value[driven] -= targets[self.table.target[driven]]
        period = self.table.sizes[:, 1]
        turns = np.round(value / np.where(period > 0, period, 1.0))
        wrapped: Array = value - np.where(period > 0, period * turns, 0.0)
        return wrapped

    def jacobian(self, q: Array, targets: Array) -> "tuple[Array, Array | sparse.csr_matrix]":
        """Residual (rows,) and Jacobian at one position q (P, 3), dense where there are few unknowns."""
        if self.columns > DENSE_UP_TO:
            return self.sparse(q, targets)
        residual, dense = self.linear(q[None], targets[None])
        return residual[0], dense[0]

    def sparse(self, q: Array, targets: Array) -> tuple[Array, "sparse.csr_matrix"]:
        """Residual (rows,) and sparse Jacobian at one position q (P, 3)."""
        from scipy import sparse

        from .kernels import rows

        table = self.table
        six = np.empty((len(table.bodies), 6))
        rows.slopes(table, q, self._turn(), six)
        row = np.repeat(np.arange(self.rows), np.diff(table.first))
        bodies = table.bodies[:, 1:]
        column = (self.place[bodies][:, :, None] + np.arange(3)).reshape(-1, 6)
        keep = np.repeat(self.place[bodies] >= 0, 3, axis=1)
        index = (np.broadcast_to(row[:, None], six.shape)[keep], column[keep])
        return self.residual(q, targets), sparse.csr_matrix((six[keep], index), shape=(self.rows, self.columns))

    def settle(self, q: Array, targets: Array, rates: Array, seconds: Array) -> tuple[float, Array, Array, Array]:
        """Brings a position q (P, 3) that is nearly there onto the rows, whose targets (D,) run at rates and gain
        speed by `seconds`, in place; gives how regular it is (near zero:
        singular), its velocities and accelerations (P, 3) and the signs (B,) of the blocks' determinants."""
        from .kernels import following

        v, a, signs = np.zeros_like(q), np.zeros_like(q), np.zeros(len(self.plan.first) - 1)
        work = self.lent(len(targets))
        spread = following.settle(self.table, self.plan, work, targets, rates, seconds, q, v, a, signs)
        return float(spread), v, a, signs

    def told_between(self, law: "Law", nodes: "Nodes") -> Array:
        """(K − 1,) how far off the interpolation of nodes (K, P, 3) is: see `kernels.following.between`."""
        from .kernels import following

        signs = np.zeros((len(nodes.t), len(self.plan.first) - 1))
        found = np.zeros(max(len(nodes.t) - 1, 0))
        following.between(
            self.table, self.plan, self.lent(len(law.table)), law.table, law.t0, SHARES,
            nodes.t, nodes.q, nodes.v, nodes.a, signs, np.empty_like(nodes.q[0]), found,
        )  # fmt: skip
        return found

    def targets_rate(self, rates: Array) -> Array:
        """(rows,) the rate of the targets, in the place of each row."""
        driven = self.table.target >= 0
        rate = np.zeros(self.rows)
        rate[driven] = rates[self.table.target[driven]]
        return rate

    def spread(self, q: Array, unknowns: Array) -> None:
        """Adds a change of the unknowns (columns,) to a position q (P, 3), in place."""
        q[self.unknown] += unknowns.reshape(-1, 3)
