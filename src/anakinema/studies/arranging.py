"""Arranging layers: the fewest in which nothing collides through the whole motion.

Two parts whose outlines meet in plan at some moment may not share depth, and what sweeps over a pin may not lie between
the two that it joins, nor where its head or its nut is. Each part gets a layer so that this holds: a colouring with an
order, solved exactly by SciPy's MILP solver (HiGHS) for up to `EXACT` parts; else layers are filled one after another,
which is told as not proven least.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise, product
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Plane
from ..cancellation import CancellationToken
from ..clearance.pairs import rigid_bodies
from ..clearance.swept import outline_of, seen
from ..document.changes import Change, changed
from ..document.copies import extent
from ..document.lifting import nearer
from ..document.model import Document, Part
from ..errors import located
from ..geometry.areas import placed
from ..kinds import MM_IN
from ..kinematics.motion import Motion
from ..kinematics.simulation import simulate

if TYPE_CHECKING:
    import shapely

EXACT = 30
"""Parts up to which the fewest layers are proven."""
SECONDS = 20.0
"""How long the solver may take before its best is told as not proven."""
INFEASIBLE = 2
"""What the solver says where nothing is possible."""
FIRST, MOST = 65, 1025
"""Moments at which it is looked whether outlines meet, to begin with and at most."""
COARSE = 0.02
"""How far outlines may be off that this is looked at with (mm)."""
PIN = 2.0
"""Radius of a pin about which nothing is said (mm)."""


@dataclass(frozen=True)
class Clash:
    """Two parts that meet in plan: when (s), and the first driver's coordinate there (core units)."""

    parts: tuple[str, str]
    t: float
    driver: float | None


@dataclass(frozen=True)
class Move:
    """A part that goes to another depth."""

    part: str
    before: tuple[float, float]
    after: tuple[float, float]

    @property
    def by(self) -> float:
        """How far, to the front positive."""
        return self.after[0] - self.before[0]


@dataclass(frozen=True)
class Arrangement:
    """A proposal: the layers from back to front, what moves, and whether fewer layers are proven impossible. Where
    there is none, `clashes` are the parts in each other's way."""

    layers: tuple[tuple[str, ...], ...]
    moves: tuple[Move, ...]
    proven: bool
    clashes: tuple[Clash, ...] = ()
    document: Document | None = field(default=None, repr=False)
    """The document as it is proposed."""

    @property
    def possible(self) -> bool:
        """Whether there is one."""
        return not self.clashes


def arrange(
    document: Document, held: Sequence[str] = (), gap: float = 0.0, motion: Motion | None = None,
    work: CancellationToken | None = None,
) -> Arrangement:  # fmt: skip
    """The fewest layers for the parts of a document, those that are `held` and those that are fixed left where they
    are, thicknesses kept, a `gap` between layers (document lengths). Raises `DocumentError` for a part that is not
    there, and where nothing may be moved."""
    work = work or CancellationToken()
    for name in held:
        if name not in document.parts:
            raise located(f"parts.{name}", "there is no such part to hold")
    motion = motion or simulate(document, work=work.part(0.0, 0.3))
    parts = [part for part in document.parts.values() if part.slabs and part.hardware is None]
    still = [part for part in parts if part.fixed or part.id in set(held)] or parts[:1]
    free = [part for part in parts if part not in still]
    if not free:
        raise located("parts", "nothing may be moved: all parts are fixed, held, or have no outline")
    meet = _meetings(motion, parts, work.part(0.3, 0.8))
    fixed_clashes = tuple(
        meet[pair] for pair in meet if set(pair) <= {part.id for part in still} and _share(document, *pair)
    )
    if fixed_clashes:
        return Arrangement((), (), False, fixed_clashes)
    problem = _Problem(document, parts, still, free, meet, list(_pins(motion, parts)), gap)
    work.check()
    levels, proven = problem.solved()
    if levels is None:
        return Arrangement((), (), proven, problem.tangle(motion))
    return _proposal(document, problem, levels, proven)


def _share(document: Document, one: str, two: str) -> bool:
    return any(a.meets(b) for a in document.parts[one].slabs for b in document.parts[two].slabs)


# -- what meets ------------------------------------------------------------------------------------------------


def _meetings(motion: Motion, parts: Sequence[Part], work: CancellationToken) -> dict[tuple[str, str], Clash]:
    """The pairs whose outlines meet in plan, with when first; those of one rigid body that stand so are among them."""
    found: dict[tuple[str, str], Clash] = {}
    per = COARSE / MM_IN[motion.document.units.length]
    looks = _Looks(motion, {part.id: outline_of(part, per) for part in parts})
    bodies = rigid_bodies(motion.document)
    for k, one in enumerate(parts):
        work.done(k / max(len(parts), 1))
        work.check()
        for two in parts[k + 1 :]:
            alike = bodies[one.id] == bodies[two.id]
            t = looks.first_meeting(one, two, 1 if alike else FIRST)
            if t is not None:
                found[one.id, two.id] = Clash((one.id, two.id), t, motion.driver_value(t))
    return found


class _Looks:
    """A motion looked at: where parts and their outlines stand, found once for each count of moments."""

    def __init__(self, motion: Motion, outlines: "Mapping[str, shapely.Geometry]"):
        self.motion, self.outlines = motion, outlines
        self._positions: dict[int, tuple[Array, Array]] = {}
        self._placed: dict[tuple[str, int], np.ndarray] = {}

    def at(self, count: int) -> tuple[Array, Array]:
        """So many moments, and the positions (S, P, 3) there."""
        if count not in self._positions:
            end = self.motion.path.t1
            t = np.linspace(0.0, end, count) if end > 0 else np.zeros(1)
            self._positions[count] = t, self.motion.positions(t)
        return self._positions[count]

    def placed(self, part: Part, count: int) -> np.ndarray:
        """The outline of a part at these moments."""
        key = part.id, count
        if key not in self._placed:
            q = self.at(count)[1][:, self.motion.system.body(part.id)]
            self._placed[key] = placed(self.outlines[part.id], q[:, 0] + 1j * q[:, 1], np.exp(1j * q[:, 2]))
        return self._placed[key]

    def stand(self, name: str, on: str, own: Plane, count: int) -> Plane:
        """(S, N) where places of a part are, seen from another."""
        q, system = self.at(count)[1], self.motion.system
        at, turn = seen(q[:, system.body(name)], q[:, system.body(on)])
        found: Plane = at[:, None] + turn[:, None] * own[None]
        return found

    def first_meeting(self, one: Part, two: Part, count: int) -> float | None:
        """When two outlines first meet; None where they never do: between moments too, by how far they can come."""
        import shapely

        while True:
            t = self.at(count)[0]
            apart: Array = np.asarray(shapely.distance(self.placed(one, count), self.placed(two, count)), dtype=float)
            if (apart <= 0.0).any():
                return float(t[int(np.argmax(apart <= 0.0))])
            if t.size == 1:
                return None
            corners = shapely.get_coordinates(shapely.convex_hull(self.outlines[one.id]))
            stands = self.stand(one.id, two.id, corners[:, 0] + 1j * corners[:, 1], count)
            nearer = np.abs(np.diff(stands, axis=0)).max(axis=1)
            doubtful = np.minimum(apart[:-1], apart[1:]) <= nearer / 2 * 1.1
            if not doubtful.any():
                return None
            if count >= MOST:
                return float(t[int(np.argmax(doubtful))])  # nearly: it counts as meeting
            count = 2 * count - 1


def _pins(motion: Motion, parts: Sequence[Part]) -> Iterator[tuple[str, str, str]]:
    """Triples: two parts that a pin joins, and a third that sweeps over it at some moment."""
    document = motion.document
    names = {part.id for part in parts}
    per = 1.0 / MM_IN[document.units.length]
    import shapely

    looks = _Looks(motion, {part.id: outline_of(part, COARSE * per) for part in parts})
    for joint in document.active_joints.values():
        if not joint.kind.pin or not {joint.a.part, joint.b.part} <= names or joint.a.part == joint.b.part:
            continue
        here = complex(*document.parts[joint.b.part].place(joint.b.point))
        pieces = [piece for piece in document.parts.values()
                  if piece.hardware is not None and {joint.a, joint.b} & set(piece.hardware.axis)]  # fmt: skip
        radius = max([max((one.outer for one in piece.hardware.solids), default=0.0) / 2
                      for piece in pieces if piece.hardware is not None], default=PIN * per)  # fmt: skip
        for part in parts:
            if part.id in (joint.a.part, joint.b.part):
                continue
            at = looks.stand(joint.b.part, part.id, np.array([here]), 4 * FIRST)[:, 0]
            away = shapely.distance(shapely.points(at.real, at.imag), looks.outlines[part.id])
            if float(np.min(away)) <= radius:
                yield joint.a.part, joint.b.part, part.id


# -- the layers ------------------------------------------------------------------------------------------------


class _Problem:
    """Which part may lie in which layer. Layers of held parts are theirs; others are made in front, and behind."""

    def __init__(
        self, document: Document, parts: Sequence[Part], still: Sequence[Part], free: Sequence[Part],
        meet: Mapping[tuple[str, str], Clash], pins: Sequence[tuple[str, str, str]], gap: float,
    ):  # fmt: skip
        self.document, self.parts, self.still, self.free, self.gap = document, parts, still, free, gap
        self.meet = {frozenset(pair) for pair in meet}
        self.pins: Sequence[tuple[str, str, str]] = pins
        spans = sorted({extent([part]) for part in still})
        self.held: list[tuple[float, float]] = []
        for low, high in spans:  # those that overlap in depth are one layer
            if self.held and low < self.held[-1][1] - 1e-9:
                self.held[-1] = (self.held[-1][0], max(high, self.held[-1][1]))
            else:
                self.held.append((low, high))
        self.behind = len(free) if any(extent([part])[0] < self.held[0][0] for part in free) else 0

    def tangle(self, motion: Motion) -> tuple[Clash, ...]:
        """What lies between the parts of a pin where pins are not asked for: why there is no order."""
        pins, self.pins = self.pins, ()
        levels, _ = self.solved()
        whole = {part.id: self.layer_of(part) for part in self.still} | (levels or {})
        between = [triple for triple in pins if self._between(whole, *triple)] or pins
        return tuple(Clash((third, one), 0.0, motion.driver_value(0.0)) for one, _, third in between)

    def layer_of(self, part: Part) -> int:
        """The layer of a held part, those behind all of them counted first."""
        low, _ = extent([part])
        return self.behind + next(k for k, span in enumerate(self.held) if span[0] - 1e-9 <= low < span[1])

    def fits(self, part: Part, layer: int) -> bool:
        """Whether a part is thin enough for a layer of held parts, and may lie there."""
        k = layer - self.behind
        if not 0 <= k < len(self.held):
            return True
        low, high = extent([part])
        clear = all(frozenset((part.id, other.id)) not in self.meet
                    for other in self.still if self.layer_of(other) == layer)  # fmt: skip
        return high - low <= self.held[k][1] - self.held[k][0] + 1e-9 and clear

    def solved(self) -> tuple[dict[str, int] | None, bool]:
        """The layer of each free part, None where no order is found, and whether that, or how few they are, is proven.
        A greedy filling bounds how many."""
        greedy = self._filled()
        if len(self.free) > EXACT:
            return greedy, False
        return self._exact(greedy)

    def _filled(self) -> dict[str, int] | None:
        """Each part, those that stand in most ways first, in the first layer in which it may lie; None where one has
        none left."""
        degree = {part.id: sum(part.id in pair for pair in self.meet) for part in self.free}
        found = {part.id: self.layer_of(part) for part in self.still}
        own: dict[str, int] = {}
        order = sorted(self.free, key=lambda part: -degree[part.id])
        first = self.behind + len(self.held)
        for part in order:
            layers = [*range(self.behind, first), *range(first, first + 2 * len(self.free) + 2)]
            layer = next((layer for layer in layers if self._may(part, layer, found)), None)
            if layer is None:
                return None
            own[part.id] = found[part.id] = layer
        return own

    def _may(self, part: Part, layer: int, found: Mapping[str, int]) -> bool:
        trial = {**found, part.id: layer}
        return (
            self.fits(part, layer)
            and not any(frozenset((part.id, other)) in self.meet and at == layer for other, at in found.items())
            and all(not self._between(trial, *triple) for triple in self.pins if part.id in triple)
        )

    @staticmethod
    def _between(levels: Mapping[str, int], one: str, two: str, third: str) -> bool:
        """Whether a part lies between two that a pin joins."""
        if not {one, two, third} <= levels.keys():
            return False
        low, high = sorted((levels[one], levels[two]))
        return low < levels[third] < high

    def _exact(self, greedy: Mapping[str, int] | None) -> tuple[dict[str, int] | None, bool]:
        """The same by the solver; what the greedy filling found where it has no time."""
        from scipy.optimize import Bounds, LinearConstraint, milp
        from scipy.sparse import csr_array

        front = self.behind + len(self.held)
        most = front + len(self.free) if greedy is None else max(front, *(layer + 1 for layer in greedy.values()))
        layers = range(most)
        names = [part.id for part in self.free]
        number = {pair: k for k, pair in enumerate(product(names, layers))}
        used = {layer: len(number) + k for k, layer in enumerate(layers)}
        sides = {triple: len(number) + len(used) + k for k, triple in enumerate(self.pins)}
        width = len(number) + len(used) + len(sides)
        rows: list[tuple[dict[int, float], float, float]] = []
        upper = np.ones(width)
        fixed = {part.id: self.layer_of(part) for part in self.still}
        for part in self.free:
            rows.append(({number[part.id, layer]: 1.0 for layer in layers}, 1.0, 1.0))
            for layer in layers:
                if not self.fits(part, layer):
                    upper[number[part.id, layer]] = 0.0
                rows.append(({number[part.id, layer]: 1.0, used[layer]: -1.0}, -np.inf, 0.0))
        for one, two in (tuple(pair) for pair in self.meet if all(name in names for name in pair)):
            rows += [({number[one, layer]: 1.0, number[two, layer]: 1.0, used[layer]: -1.0}, -np.inf, 0.0)
                     for layer in layers]  # fmt: skip
        new = [layer for layer in layers if not self.behind <= layer < front]
        for below, above in pairwise(layer for layer in new if layer >= front):
            rows.append(({used[above]: 1.0, used[below]: -1.0}, -np.inf, 0.0))
        for below, above in pairwise(layer for layer in new if layer < self.behind):
            rows.append(({used[below]: 1.0, used[above]: -1.0}, -np.inf, 0.0))
        large = float(most + 1)

        def level(name: str, factor: float) -> tuple[dict[int, float], float]:
            if name in fixed:
                return {}, factor * fixed[name]
            return {number[name, layer]: factor * layer for layer in layers}, 0.0

        for triple, side in sides.items():
            one, two, third = triple
            for end in (one, two):  # the third lies below both, or above both
                a, a0 = level(third, 1.0)
                b, b0 = level(end, -1.0)
                rows.append(({**a, **b, side: -large}, -np.inf, -1.0 - a0 - b0))
                rows.append(({**a, **b, side: -large}, 1.0 - large - a0 - b0, np.inf))
        cost = np.zeros(width)
        for layer in new:
            cost[used[layer]] = 1000.0
        for name in names:
            now = extent([self.document.parts[name]])[0]
            for layer in layers:
                cost[number[name, layer]] = 1e-3 * abs(layer - self._near(now))
        data = [(k, column, value) for k, (row, _, _) in enumerate(rows) for column, value in row.items()]
        matrix = csr_array(([value for *_, value in data], ([k for k, *_ in data], [column for _, column, _ in data])),
                           shape=(len(rows), width))  # fmt: skip
        limits = LinearConstraint(matrix, [low for _, low, _ in rows], [high for *_, high in rows])
        result = milp(cost, constraints=limits, bounds=Bounds(np.zeros(width), upper), integrality=np.ones(width),
                      options={"time_limit": SECONDS})  # fmt: skip
        if result.x is None:
            return (None if greedy is None else dict(greedy)), result.status == INFEASIBLE
        chosen = {name: next(layer for layer in layers if result.x[number[name, layer]] > 0.5) for name in names}
        return chosen, result.status == 0

    def _near(self, low: float) -> int:
        """The layer that lies nearest to a depth as it is now."""
        inside = [k for k, span in enumerate(self.held) if span[0] - 1e-9 <= low < span[1]]
        if inside:
            return self.behind + inside[0]
        return self.behind + len(self.held) if low >= self.held[-1][1] - 1e-9 else max(self.behind - 1, 0)


def _proposal(document: Document, problem: _Problem, levels: Mapping[str, int], proven: bool) -> Arrangement:
    """Layers as depths: held ones where they are, others face to face in front of them, or behind."""
    front, behind = problem.held[-1][1], problem.held[0][0]
    spots: dict[int, float] = {problem.behind + k: span[0] for k, span in enumerate(problem.held)}
    thick = {layer: max(high - low for part in problem.free if levels[part.id] == layer
                        for low, high in [extent([part])]) for layer in set(levels.values())}  # fmt: skip
    for layer in sorted(layer for layer in thick if layer >= problem.behind + len(problem.held)):
        spots[layer] = front + problem.gap
        front = spots[layer] + thick[layer]
    for layer in sorted((layer for layer in thick if layer < problem.behind), reverse=True):
        spots[layer] = behind - problem.gap - thick[layer]
        behind = spots[layer]
    moves = []
    proposed = document
    for part in problem.free:
        before = extent([part])
        by = spots[levels[part.id]] - before[0]
        if abs(by) > 1e-9:
            moves.append(Move(part.id, before, (before[0] + by, before[1] + by)))
            proposed = changed(proposed, *nearer(proposed, part.id, by)[0])
    rows: dict[int, list[str]] = {}
    for part in problem.parts:
        layer = levels[part.id] if part.id in levels else problem.layer_of(part)
        rows.setdefault(layer, []).append(part.id)
    return Arrangement(tuple(tuple(rows[layer]) for layer in sorted(rows)), tuple(moves), proven, (), proposed)


def changes_of(document: Document, found: Arrangement) -> tuple[Change, ...]:
    """What makes a document as an arrangement proposes it."""
    changes: list[Change] = []
    for move in found.moves:
        changes += nearer(document, move.part, move.by)[0]
    return tuple(changes)
