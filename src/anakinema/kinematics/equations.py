"""Rows gathered into equations over the unknown coordinates: values, Jacobians and rates for many positions.

Nothing here knows of joints or names. All quantities are dimensionless: lengths are divided by the system's scale. The
compiled loops are loaded when they are first needed, so that a window opens without waiting for them.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Literal

import numpy as np

from ..arrays import Array, Index, Mask
from . import tables
from .tables import Plan, Table, Work, work_for

if TYPE_CHECKING:
    from scipy import sparse

    from .drive import Law
    from .path import Nodes

TermKind = Literal["x", "y", "angle", "projection", "distance", "polar"]
CODES: dict[str, int] = {
    "x": tables.X,
    "y": tables.Y,
    "angle": tables.ANGLE,
    "projection": tables.PROJECTION,
    "distance": tables.DISTANCE,
    "polar": tables.POLAR,
}


@dataclass(frozen=True)
class Term:
    """A primitive function of the positions of bodies `a` and `b`; see `anakinema.kinematics.tables`."""

    kind: TermKind
    a: int
    b: int
    pa: tuple[float, float] = (0.0, 0.0)
    pb: tuple[float, float] = (0.0, 0.0)
    constant: float = 0.0
    coefficient: float = 1.0


@dataclass(frozen=True)
class RowSpec:
    """One row: the sum of its terms times their coefficients, less `offset`. `owner` names what made it; `target` is
    the column of the target vector that its value must equal, or −1 for zero."""

    terms: tuple[Term, ...]
    owner: str
    offset: float = 0.0
    target: int = -1


def tabled(specs: Sequence[RowSpec]) -> Table:
    """The specs as the arrays that the compiled loops read."""
    terms = [term for spec in specs for term in spec.terms]
    turns = [[abs(term.coefficient) for term in spec.terms if term.kind == "polar"] for spec in specs]
    return Table(
        bodies=np.array([(CODES[term.kind], term.a, term.b) for term in terms], dtype=np.int64).reshape(-1, 3),
        numbers=np.array(
            [
                (*term.pa, *term.pb, term.constant, math.cos(term.constant), math.sin(term.constant), term.coefficient)
                for term in terms
            ],
            dtype=float,
        ).reshape(-1, 8),
        first=np.cumsum([0, *(len(spec.terms) for spec in specs)], dtype=np.int64),
        target=np.array([spec.target for spec in specs], dtype=np.int64),
        sizes=np.array(
            [(spec.offset, 2 * math.pi * min(turn, default=0.0)) for spec, turn in zip(specs, turns, strict=True)],
            dtype=float,
        ).reshape(-1, 2),
    )


class Equations:
    """Rows over the unknown coordinates of the bodies `unknown`; all other bodies (of `bodies`) count as known."""

    def __init__(self, specs: Sequence[RowSpec], unknown: Sequence[int], bodies: int):
        self.specs = tuple(specs)
        self.owners = [spec.owner for spec in specs]
        self.table = tabled(specs)
        self.rows = len(specs)
        self.unknown = np.array(unknown, dtype=np.int64)
        self.columns = 3 * len(unknown)
        self.place: Index = np.full(bodies, -1, dtype=np.int64)
        self.place[self.unknown] = 3 * np.arange(len(unknown))

    @cached_property
    def plan(self) -> Plan:
        """The order in which to solve."""
        from .plan import planned

        return planned(self)

    def work(self, targets: int) -> Work:
        """Room for the compiled loops; one for each caller, so that several threads may compute at once."""
        return work_for(self.plan, len(self.place), targets)

    def _turn(self) -> Array:
        return np.empty((len(self.place), 2))

    def values(self, q: Array) -> Array:
        """(S, rows) the row values at q (S, P, 3), targets not yet taken off; polar angles not unwrapped."""
        from . import kernels

        found = np.empty((len(q), self.rows))
        kernels.values(self.table, q, self._turn(), found)
        return found

    def rates(self, q: Array, v: Array, a: Array) -> tuple[Array, Array]:
        """First and second time derivatives of the values, each (S, rows), for rates v, a (S, P, 3)."""
        from . import kernels

        first, second = np.empty((len(q), self.rows)), np.empty((len(q), self.rows))
        kernels.rates(self.table, q, self._turn(), v, a, first, second)
        return first, second

    def linear(self, q: Array, targets: Array) -> tuple[Array, Array]:
        """Residuals (S, rows) and dense Jacobians (S, rows, columns) at q (S, P, 3) for targets (S, D)."""
        from . import kernels

        residual, dense = np.empty((len(q), self.rows)), np.empty((len(q), self.rows, self.columns))
        kernels.jacobian(self.table, self.place, q, self._turn(), targets, residual, dense)
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

    def sparse(self, q: Array, targets: Array) -> tuple[Array, "sparse.csr_matrix"]:
        """Residual (rows,) and sparse Jacobian at one position q (P, 3)."""
        from scipy import sparse

        from . import kernels

        table = self.table
        six = np.empty((len(table.bodies), 6))
        kernels.slopes(table, q, self._turn(), six)
        row = np.repeat(np.arange(self.rows), np.diff(table.first))
        bodies = table.bodies[:, 1:]
        column = (self.place[bodies][:, :, None] + np.arange(3)).reshape(-1, 6)
        keep = np.repeat(self.place[bodies] >= 0, 3, axis=1)
        index = (np.broadcast_to(row[:, None], six.shape)[keep], column[keep])
        return self.residual(q, targets), sparse.csr_matrix((six[keep], index), shape=(self.rows, self.columns))

    def evaluate(
        self, t: Array, law: "Law", nodes: "Nodes", q: Array, v: Array, a: Array, wanted: bool, singular: Mask
    ) -> None:
        """Fills q, and v and a where wanted (S, P, 3), at times t (S,) between the nodes of a followed law; `singular`
        (S,) is set where the branches lie too near to tell them apart."""
        from . import kernels

        kernels.evaluate(
            self.table, self.plan, self.work(len(law.start)), t, law.start, law.slope, law.t0,
            nodes.t, nodes.q, nodes.v, nodes.a, q, v, a, wanted, singular,
        )

    def settle(self, q: Array, targets: Array, slope: Array) -> tuple[float, Array, Array, Array]:
        """Brings a position q (P, 3) that is nearly there onto the rows, in place; gives how regular it is (near zero:
        singular), its velocities and accelerations (P, 3) and the signs (B,) of the blocks' determinants."""
        from . import kernels

        v, a, signs = np.zeros_like(q), np.zeros_like(q), np.zeros(len(self.plan.first) - 1)
        work = self.work(len(targets))
        spread = kernels.settle(self.table, self.plan, work, targets, slope, q, v, a, signs)
        return float(spread), v, a, signs

    def targets_rate(self, slope: Array) -> Array:
        """(rows,) the rate of the targets, in the place of each row."""
        driven = self.table.target >= 0
        rate = np.zeros(self.rows)
        rate[driven] = slope[self.table.target[driven]]
        return rate

    def spread(self, q: Array, unknowns: Array) -> None:
        """Adds a change of the unknowns (columns,) to a position q (P, 3), in place."""
        q[self.unknown] += unknowns.reshape(-1, 3)
