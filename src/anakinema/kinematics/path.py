"""One followed branch of the motion: positions and rates at any times at once, from the nodes that were found."""

from collections.abc import Callable, Sequence
from functools import cached_property, partial
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Mask
from .drive import Drive
from .equations import Equations
from .refining import by_a_dead_point
from .stretches import Course, DeadPoint, Law, Nodes, Stretch

if TYPE_CHECKING:
    from .led import Led
    from .minimum_norm import MinimumNorm
    from .unilateral import Event

BLURRED = 1e-3
"""How far rounding may put off, at most, a place from which there are two ways on."""
APART = 0.01
"""Distance between the positions from which one at a change point is interpolated, as motion of a driver."""


class Path:
    """A followed branch: the nodes of each law of the drive, up to `t1`."""

    def __init__(
        self,
        drive: Drive,
        stretches: Sequence[Stretch],
        dead: DeadPoint | None,
        dense: bool = False,
        end: float | None = None,
        events: "Sequence[Event]" = (),
        drops: Sequence[float] = (),
    ):
        """`dense` says that the nodes stand close enough to bracket every turning point by themselves; `end` is where
        it is cut, else it goes as far as its stretches; `events` are where rows that hold one way only took hold or let
        go, `drops` the times at which something fell: positions there are those after it."""
        self.drive, self.dense = drive, dense
        self.stretches = tuple(stretches)
        self.laws = [stretch.law for stretch in stretches]
        self.pieces = [stretch.nodes for stretch in stretches]
        self.dead = dead
        self.last_regular = float(self.pieces[-1].t[-1])
        self._folded: dict[tuple[int, int], bool] = {}
        whole = dead.t if dead else self.last_regular
        self.t1 = whole if end is None else end
        self.events = tuple(event for event in events if event.t <= self.t1)
        self.drops = tuple(sorted({t for t in drops if t <= self.t1}))

    @property
    def node_times(self) -> Array:
        """All node times, ascending; those just before a drop too."""
        just_before = np.nextafter(np.array(self.drops), -np.inf)
        return np.unique(np.concatenate([*(nodes.t for nodes in self.pieces), just_before[just_before > 0.0]]))

    def cut(self, t: float) -> "Path":
        """The same path, ended earlier."""
        return Path(self.drive, self.stretches, None, self.dense, t, self.events, self.drops)

    def targets(self, t: Array) -> Array:
        """(S, D) what the drivers command at times t."""
        count = min(len(law.table) for law in self.laws)  # some command limits that hold as well
        if len(self.laws) == 1:
            return self.laws[0].targets(t)
        piece = self._piece(t)
        found = np.empty((t.size, count))
        for i in np.unique(piece):
            found[piece == i] = self.laws[i].targets(t[piece == i])[:, :count]
        return found

    def _piece(self, t: Array) -> np.ndarray[tuple[int], np.dtype[np.intp]]:
        return np.searchsorted(self._ends, t, side="left")

    @cached_property
    def _ends(self) -> Array:
        """When each stretch ends; one that a drop ends, just before it."""
        ends = np.array([law.t1 for law in self.laws[:-1]])
        fell = np.isin(ends, self.drops)
        ends[fell] = np.nextafter(ends[fell], -np.inf)
        return ends

    def at(self, t: Array) -> tuple[Array, Array, Array]:
        """Positions, velocities and accelerations, each (S, P, 3), at times t (S,)."""
        return self._evaluated(t, True)

    def at_nodes(self, t: Array) -> tuple[Array, Array, Array] | None:
        """Positions, velocities and accelerations at all node times t (K,), as they were found; None where those are
        not all the nodes. Where two stretches meet, those of the first."""
        kept = [slice(1 if number else 0, None) for number in range(len(self.pieces))]
        times = np.concatenate([nodes.t[some] for nodes, some in zip(self.pieces, kept, strict=True)])
        if not np.array_equal(times, t):
            return None
        found = [np.concatenate([getattr(nodes, name)[some] for nodes, some in zip(self.pieces, kept, strict=True)])
                 for name in ("q", "v", "a")]  # fmt: skip
        return found[0], found[1], found[2]

    def positions(self, t: Array) -> Array:
        """Positions (S, P, 3) alone, in about half the time."""
        return self._evaluated(t, False)[0]

    def _evaluated(self, t: Array, wanted: bool) -> tuple[Array, Array, Array]:
        t = np.atleast_1d(np.asarray(t, dtype=float))
        within = np.minimum(t, self.last_regular)
        q = np.empty((t.size, *self.pieces[0].q.shape[1:]))
        v, a = (np.zeros(q.shape if wanted else (t.size, 0, 0)) for _ in range(2))
        if len(self.laws) == 1:
            self._at_piece(0, within, q, v, a, wanted)
            return self._ended(t, q), v, a
        piece = self._piece(within)
        for i in sorted(set(piece.tolist())):
            chosen = np.flatnonzero(piece == i)
            parts = q[chosen], v[chosen], a[chosen]
            self._at_piece(i, within[chosen], *parts, wanted)
            q[chosen], v[chosen], a[chosen] = parts
        return self._ended(t, q), v, a

    def _ended(self, t: Array, q: Array) -> Array:
        """Positions, with those of the dead point from its time on."""
        if self.dead is not None:
            q[t >= self.dead.t] = self.dead.q
        return q

    def _at_piece(self, piece: int, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> None:
        fill, stretch = self._fill(piece), self.stretches[piece]
        singular = fill(t, q, v, a, wanted)
        if singular.any() and stretch.law.moves:
            if stretch.solver is None and (stretch.among_contacts or self.drive.minimum_norm is None):
                self._leave_out_folds(piece, t, singular)
            self._across(stretch, fill, t, q, v, a, wanted, singular)

    def _leave_out_folds(self, piece: int, t: Array, singular: Mask) -> None:
        """Takes from the singular times those by a dead point, where rates are large, and told."""
        nodes = self.stretches[piece].nodes.t
        low = np.clip(np.searchsorted(nodes, t, side="right") - 1, 0, nodes.size - 1)
        for i in np.flatnonzero(singular).tolist():
            singular[i] = not (self._folds(piece, int(low[i])) or self._folds(piece, int(low[i]) + 1))

    def _folds(self, piece: int, number: int) -> bool:
        """Whether a node of a stretch lies by a dead point."""
        stretch = self.stretches[piece]
        number = min(number, len(stretch.nodes.t) - 1)
        if (piece, number) not in self._folded:
            t, q = float(stretch.nodes.t[number]), stretch.nodes.q[number]
            self._folded[piece, number] = by_a_dead_point(stretch.equations, stretch.law, t, q)
        return self._folded[piece, number]

    def _fill(self, piece: int) -> "Filled":
        """What fills positions and rates at times within a stretch."""
        stretch = self.stretches[piece]
        if stretch.among_contacts:
            return fill(stretch)
        minimum_norm = stretch.solver or self.drive.minimum_norm
        if minimum_norm is None:
            return partial(filled, stretch.equations, stretch.law, stretch.nodes)
        return partial(
            filled_underconstrained,
            minimum_norm,
            stretch.law,
            stretch.nodes,
            self._near_singular if stretch.law.moves else 0,
        )

    @cached_property
    def _near_singular(self) -> int:
        assert self.drive.minimum_norm is not None
        asked = [one for one in self.stretches if not one.is_led and not one.among_contacts]
        if not asked:
            return 0
        longest = max(asked, key=lambda one: (one.law.moves, one.nodes.t[-1] - one.nodes.t[0]))
        return near_singularity(longest.solver or self.drive.minimum_norm, longest.law, longest.nodes)

    def _across(
        self, stretch: Stretch, fill: "Filled", t: Array, q: Array, v: Array, a: Array, wanted: bool, singular: Mask
    ) -> None:
        """Positions and rates at a change point, where the Jacobian gives none. At a dead point, where rates grow
        without bound, nothing is changed."""
        course = Course(stretch.law, stretch.law.t0)
        low, high = course.way(stretch.nodes.t[[0, -1]])
        reach = min(APART, (high - low) / 12)
        for i in np.flatnonzero(singular):
            here = float(course.way(t[[i]])[0])
            if self.dead is not None and here > course.way(np.array([self.dead.t]))[0] - 6 * reach:
                continue
            place, along, bent = through(stretch.nodes, fill, course, here, reach, wanted)
            settled = np.abs(stretch.equations.residual(q[i], stretch.law.targets(t[[i]])[0])).max() < 1e-10
            if (settled and not np.abs(place - q[i]).max() < BLURRED) or not np.isfinite(place).all():
                # The end of a way on which rates grow without bound, a dead point at which the driver rests.
                for each in (v[i], a[i]) if wanted else ():
                    each[~np.isfinite(each)] = 0.0
                continue
            q[i] = place
            if along is not None and bent is not None:
                (pace,), (gain,) = course.paces(t[[i]])
                v[i], a[i] = pace * along, pace**2 * bent + gain * along


Filled = Callable[[Array, Array, Array, Array, bool], Mask]
"""Fills q, and v and a where wanted (S, P, 3), at times t (S,), and tells where they are not to be trusted (S,)."""


def fill(stretch: Stretch) -> Filled:
    """What fills positions and rates at times within a stretch among contacts."""
    if stretch.still:
        return partial(_still, stretch.nodes)
    if stretch.solver is None:
        return partial(filled, stretch.equations, stretch.law, stretch.nodes)
    never = 10**9  # a place with two ways on is none among contacts
    return partial(filled_underconstrained, stretch.solver, stretch.law, stretch.nodes, never)


def _still(nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> Mask:
    q[:] = nodes.q[0]
    if wanted:
        v[:] = a[:] = 0.0
    return np.zeros(t.size, dtype=np.bool_)


def through(
    nodes: Nodes, fill: Filled, course: Course, here: float, reach: float, rates: bool = True
) -> tuple[Array, Array | None, Array | None]:
    """Positions (P, 3) at a way of the drivers at which the Jacobian tells nothing, with what they change by a unit of
    it, once and twice, where that is wanted and drivers don't rest: interpolated from six places so far apart on both
    sides, or extrapolated where there is but one."""
    low, high = course.way(nodes.t[[0, -1]])
    steps = np.array([-3.0, -2.0, -1.0, 1.0, 2.0, 3.0])
    weights = np.array([1.0, -6.0, 15.0, 15.0, -6.0, 1.0]) / 20
    if not low + 3 * reach < here < high - 3 * reach:
        steps, weights = np.arange(1.0, 7.0), np.array([6.0, -15.0, 20.0, -15.0, 6.0, -1.0])
        steps = steps if here < (low + high) / 2 else -steps
    around = np.array([course.time(here + reach * step) for step in steps.tolist()])
    q, v, a = (np.zeros((6, *nodes.q.shape[1:])) for _ in range(3))
    fill(around, q, v, a, rates)
    place = np.tensordot(weights, q, 1)
    paces, gains = (each[:, None, None] for each in course.paces(around))
    if not rates or not (paces > course.slow).all():
        return place, None, None
    along = v / paces  # by the way of the drivers, which may rest just here
    bent = (a - along * gains) / paces**2
    return place, np.tensordot(weights, along, 1), np.tensordot(weights, bent, 1)


def ended(law: Law, nodes: Nodes, filler: Callable[[Nodes], Filled]) -> Nodes:
    """The nodes with the last one, at the end of the law, put where the way there leads: the motion could go on in two
    ways from it, and its own rows tell it to the root of the rounding only."""
    course = Course(law, law.t0)
    reach = min(APART, course.end / 12)
    if reach <= 0.0:
        return nodes
    near = course.end - float(course.way(nodes.t[-2:-1])[0]) < reach
    kept = slice(-1 if near else None)  # what was found at the end itself only where nothing else is near it
    before = Nodes(nodes.t[kept], nodes.q[kept], nodes.v[kept], nodes.a[kept])
    q, along, bent = through(before, filler(before), course, course.end, reach)
    if not np.abs(q - nodes.q[-1]).max() < BLURRED:  # a dead point at which the driver rests
        return nodes
    found = Nodes(nodes.t, nodes.q.copy(), nodes.v.copy(), nodes.a.copy())
    found.q[-1] = q
    if along is not None and bent is not None and np.isfinite(along).all() and np.isfinite(bent).all():
        (pace,), (gain,) = course.paces(np.array([law.t1]))
        found.v[-1], found.a[-1] = pace * along, pace**2 * bent + gain * along
    return found


def filled(
    equations: Equations, law: Law, nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool
) -> Mask:
    """Fills q, and v and a where wanted (S, P, 3), at times t (S,) between the nodes of a followed law; tells where the
    branches lie too near to tell them apart."""
    from .kernels import branch

    q[:] = nodes.q[0]
    singular = np.zeros(t.size, dtype=np.bool_)
    branch.evaluate(
        equations.table, equations.plan, equations.lent(len(law.table)), t, law.table, law.t0,
        nodes.t, nodes.q, nodes.v, nodes.a,
        q, v, a, wanted, singular,
    )
    return singular


def filled_underconstrained(
    minimum_norm: "MinimumNorm | Led",
    law: Law,
    nodes: Nodes,
    near_singular: int,
    t: Array,
    q: Array,
    v: Array,
    a: Array,
    wanted: bool,
) -> Mask:
    """The same where parts are left undriven; more rows than `near_singular` say nearly nothing at a change point."""
    if not law.moves:  # nor is there time between the nodes, perhaps, over which to take differences
        q[:], v[:], a[:] = nodes.q[0], 0.0, 0.0
        return np.zeros(t.size, dtype=np.bool_)
    singular: Mask = minimum_norm.evaluate(law, nodes, t, q, v, a, wanted) > near_singular
    return singular


def near_singularity(minimum_norm: "MinimumNorm | Led", law: Law, nodes: Nodes) -> int:
    """Of the rows of a mechanism with undriven parts, how many say nearly nothing beside the others in general."""
    t = nodes.t[0] + (nodes.t[-1] - nodes.t[0]) * np.array([0.381966, 0.618034, 0.7236])
    q, v, a = (np.zeros((t.size, *nodes.q.shape[1:])) for _ in range(3))
    return int(minimum_norm.evaluate(law, nodes, t, q, v, a, True).min())
