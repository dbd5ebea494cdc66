"""The distinct ways in which the same parts can be put together (circuits and branches) at one driver position.

The mechanism is taken apart into blocks that can be solved one after the other, as for following. With all angles
given, a block's rows are linear in the places of its bodies. What then remains are conditions on its free angles
alone, trigonometric polynomials: of one angle, or of two where for each value of the first they are linear in cosine
and sine of the second (all dyads of pins and slides), or of the angle of a triad's middle link. Their coefficients
are found by sampling and Fourier transform, and all their roots at once as those of a polynomial on the unit circle
(companion matrix), so that no way is missed. A block of another kind is closed from many turned placements, and it is
told that there may be more ways.
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np

from ..arrays import Array, Index
from ..cancellation import CancellationToken
from ..document.assemblies import within
from ..document.changes import Set, changed
from ..document.model import Document
from .assembly import assemble
from .equations import Equations
from .mobility import independence
from .motion import Motion
from .primitives import Form
from .rows import RowSpec, Term
from .system import limits
from .triads import triad

STARTS = 60
"""Turned placements of a block whose ways can't be counted."""
APART = 1e-5
"""Least difference of two configurations (typical lengths or rad)."""
MOST = 64
"""Ways that are kept, the nearest of them."""
SAMPLES = 64
"""Values of an angle at which a condition is sampled: enough for polynomials of degree 24."""


@dataclass(frozen=True)
class Mode:
    """A configuration: positions (P, 3: document lengths, rad) at the start of the motion, and the joints whose limits
    it does not keep."""

    q: Array
    outside: tuple[str, ...] = ()


@dataclass(frozen=True)
class Modes:
    """The configurations, that of the motion first, the others by how far they lie from it; why there may be more,
    empty where these are all."""

    ways: tuple[Mode, ...]
    doubt: str = ""


def modes(motion: Motion, work: CancellationToken | None = None) -> Modes:
    """The configurations at the start of a motion, with its drivers where they begin and what is undriven held in
    place."""
    work = work or CancellationToken()
    drive, system = motion.drive, motion.system
    here = motion.path.positions(np.zeros(1))[0]
    equations = drive.equations
    targets = np.zeros(equations.targets)
    driven = equations.table.target >= 0
    targets[equations.table.target[driven]] = equations.values(here[None])[0][driven]
    specs = [
        replace(spec, offset=spec.offset + (targets[spec.target] if spec.target >= 0 else 0.0), target=-1)
        for spec in equations.specs
    ]
    bodies = len(system.body_ids)
    square = Equations(specs, system.moving, bodies)
    if square.rows > square.columns:  # rows that say nothing new would hide the blocks
        _, jac = square.linear(here[None], np.zeros((1, 1)))
        square = Equations([specs[i] for i in np.flatnonzero(independence(jac[0], work))], system.moving, bodies)
    found, doubts = [here], dict[str, None]()
    for number in range(len(square.plan.first) - 1):
        block = _Block(square, number, bodies)
        following: list[Array] = []
        for q in found:
            work.check()
            following += block.ways(q, here, doubts, work)
        found = _distinct(following, here)
        if len(found) > MOST:
            doubts[f"there are more than the {MOST} nearest"] = None
            found = found[:MOST]
    whole = Equations(specs, system.moving, bodies)
    closed = [q for q in found if np.abs(whole.residual(q, np.zeros(1))).max(initial=0.0) < 1e-8]
    ways = _distinct([here, *closed], here)
    return Modes(tuple(Mode(q * system.size, _outside(motion, q)) for q in ways), "; ".join(doubts))


def _outside(motion: Motion, q: Array) -> tuple[str, ...]:
    """The joints whose limits positions q don't keep, whatever whole turns they count."""
    coordinates = motion.system.coordinates
    low, high = limits(motion.document, coordinates)
    values = motion.posed(q * motion.system.size, motion.at(np.zeros(1)).coordinates[0])
    slack = 1e-6 * np.where(coordinates.is_length, motion.system.scale, 1.0)
    found = []
    for i, joint in enumerate(coordinates.ids):
        turns = (0.0,) if coordinates.is_length[i] else (0.0, 2 * math.pi, -2 * math.pi)
        if not any(low[i] - slack[i] <= values[i] + turn <= high[i] + slack[i] for turn in turns):
            found.append(joint)
    return tuple(found)


def _distinct(found: Iterable[Array], here: Array) -> list[Array]:
    """Configurations, each once, the nearest first."""
    kept: list[Array] = []
    for q in sorted(found, key=lambda q: _away(q, here)):
        if all(_away(q, other) > APART for other in kept):
            kept.append(q)
    return kept


def _away(one: Array, two: Array) -> float:
    gap = one - two
    gap[:, 2] = (gap[:, 2] + math.pi) % (2 * math.pi) - math.pi
    return float(np.abs(gap).max())


class _NoAlgebra(Exception):
    """Raised where a block's conditions are no polynomials that can be solved here."""


class _Block:
    """One block: its rows, its bodies, and all ways to close it."""

    def __init__(self, square: Equations, number: int, bodies: int):
        plan = square.plan
        (r0, b0), (r1, b1) = plan.first[number], plan.first[number + 1]
        self.members: Index = plan.bodies[b0:b1]
        self.specs = [square.specs[row] for row in plan.rows[r0:r1, 0]]
        self.equations = Equations(self.specs, self.members.tolist(), bodies)
        self.split = _replaced(self.specs, set(self.members.tolist()))

    def ways(self, q: Array, here: Array, doubts: dict[str, None], work: CancellationToken) -> list[Array]:
        """All ways to place the block's bodies, those before it standing as in q (P, 3)."""
        try:
            guesses = self._guesses(q, here)
        except _NoAlgebra:
            names = len(self.members)
            doubts[f"{names} parts close together in a way that can't be counted, so there may be more"] = None
            guesses = self._turned(q, here)
        found = []
        for guess in guesses:
            work.check()
            made = assemble(self.equations, guess, np.zeros(1), restarts=False, work=work)
            if not made.open:
                found.append(made.q)
        return found

    def _guesses(self, q: Array, here: Array) -> list[Array]:
        """All ways, nearly closed, by algebra."""
        made = triad(self.specs, self.members, q)
        if made is None:
            return _Angles(self.split, self.members, q, here).solved()
        found = [made.placed(q, here, angle) for angle in _roots(made.condition)]
        return [each for each in found if each is not None]

    def _turned(self, q: Array, here: Array) -> list[Array]:
        random = np.random.default_rng(2024)  # fixed: the same file always gives the same ways
        found = []
        for attempt in range(STARTS):
            start = q.copy()
            start[self.members] = here[self.members]
            if attempt:
                start[self.members, 2] += random.uniform(-math.pi, math.pi, len(self.members))
                start[self.members, :2] += random.uniform(-0.7, 0.7, (len(self.members), 2))
            found.append(start)
        return found


def _replaced(specs: list[RowSpec], members: set[int]) -> list[tuple[Term, RowSpec]] | None:
    """The rows, each with its one term; None where a row is a sum of other things than angles, or speaks of lengths
    that are no projections (a rod, a polar angle), or is seen through a law, between bodies of the block."""
    found = []
    for spec in specs:
        kinds = {term.kind for term in spec.terms}
        if any(term.law for term in spec.terms) or (
            kinds != {"angle"} and (len(spec.terms) > 1 or kinds & {"polar"})
        ):
            return None
        found.append((spec.terms[0], spec))
    return found


class _Angles:
    """A block's conditions on its free angles."""

    def __init__(self, rows: list[tuple[Term, RowSpec]] | None, members: Index, q: Array, here: Array):
        if rows is None:
            raise _NoAlgebra
        self.members, self.q, self.here = members.tolist(), q, here
        self.number = {body: i for i, body in enumerate(self.members)}
        self.rods = [(term, spec) for term, spec in rows if term.spec.form is Form.CIRCLE]
        self.lines = [(term, spec) for term, spec in rows if term.spec.form is Form.LINE]
        count = len(self.members) + len(self.rods)
        self.base, self.free = self._freed([spec for term, spec in rows if term.spec.form is Form.TURN], count)
        self.unknowns = 2 * len(self.members)
        self.conditions = len(self.lines) + 2 * len(self.rods) - self.unknowns
        if self.conditions != self.free.shape[1] or self.conditions > 2:
            raise _NoAlgebra
        matrix = self._linear(self._angles(np.full(self.conditions, 0.7)))[0]
        self.chosen = self._choose(matrix)

    def _freed(self, specs: list[RowSpec], count: int) -> tuple[Array, Array]:
        """All angles (bodies, then rods) as base + free @ t with whole numbers, from the rows of angles."""
        matrix, right = np.zeros((len(specs), count)), np.zeros(len(specs))
        for i, spec in enumerate(specs):
            right[i] = spec.offset
            for term in spec.terms:
                right[i] += term.coefficient * term.constant
                for body, sign in ((term.a, -1.0), (term.b, 1.0)):
                    if body in self.number:
                        matrix[i, self.number[body]] += sign * term.coefficient
                    else:
                        right[i] -= sign * term.coefficient * self.q[body, 2]
        base, free, fixed = np.zeros(count), list(range(count)), []
        work = np.concatenate((matrix, right[:, None]), axis=1)
        for i in range(len(specs)):
            sizes = np.abs(work[i, :-1])
            pivot = int(np.argmax(sizes))
            if sizes[pivot] < 1e-9:
                raise _NoAlgebra
            work[i] /= work[i, pivot]
            for k in range(len(specs)):
                if k != i:
                    work[k] -= work[k, pivot] * work[i]
            free.remove(pivot)
            fixed.append((pivot, i))
        ways = np.zeros((count, len(free)))
        ways[free, np.arange(len(free))] = 1.0
        for pivot, i in fixed:
            base[pivot] = work[i, -1]
            ways[pivot] = -work[i, free]
        if np.abs(ways - np.round(ways)).max(initial=0.0) > 1e-9 or np.abs(ways).max(initial=0.0) > 8:
            raise _NoAlgebra  # a ratio that is no whole number: its ways never end
        return base, np.round(ways)

    def _angles(self, t: Array) -> Array:
        angles: Array = self.base + self.free @ t
        return angles

    def _linear(self, angles: Array) -> tuple[Array, Array]:
        """(R, 2 m) and (R,): rows = matrix @ places + rest, at given angles."""
        size = len(self.lines) + 2 * len(self.rods)
        matrix, rest = np.zeros((size, self.unknowns)), np.zeros(size)

        def arm(body: int, point: tuple[float, float]) -> complex:
            angle = angles[self.number[body]] if body in self.number else self.q[body, 2]
            return complex(*point) * complex(math.cos(angle), math.sin(angle))

        def put(i: int, term: Term, u: complex, offset: float) -> None:
            gap = arm(term.b, term.pb) - arm(term.a, term.pa)
            for body, sign in ((term.a, -1.0), (term.b, 1.0)):
                if body in self.number:
                    k = 2 * self.number[body]
                    matrix[i, k] += sign * u.real
                    matrix[i, k + 1] += sign * u.imag
                else:
                    gap += sign * complex(self.q[body, 0], self.q[body, 1])
            rest[i] += (gap * u.conjugate()).real - offset

        for i, (term, spec) in enumerate(self.lines):
            u = term.spec.axis
            if u is None:
                turned = angles[self.number[term.a]] if term.a in self.number else self.q[term.a, 2]
                u = complex(math.cos(turned + term.constant), math.sin(turned + term.constant))
            put(i, term, u, spec.offset / term.coefficient)
        for k, (term, _) in enumerate(self.rods):
            angle = angles[len(self.members) + k]
            reach = term.constant * complex(math.cos(angle), math.sin(angle))
            for axis, u in ((0, 1 + 0j), (1, 1j)):
                put(len(self.lines) + 2 * k + axis, term, u, (reach * u.conjugate()).real)
        return matrix, rest

    def _choose(self, matrix: Array) -> tuple[list[int], list[int]]:
        """Rows that place the bodies, and those that remain as conditions."""
        adds = independence(matrix) > 0.0
        if adds.sum() != self.unknowns:
            raise _NoAlgebra
        return np.flatnonzero(adds).tolist(), np.flatnonzero(~adds).tolist()

    def _conditions(self, t: Array) -> Array:
        """(k,) the conditions at free angles t, each a determinant, so a polynomial in cosines and sines."""
        matrix, rest = self._linear(self._angles(t))
        placing, left = self.chosen
        whole = np.zeros((len(left), self.unknowns + 1, self.unknowns + 1))
        whole[:, :-1, :-1], whole[:, :-1, -1] = matrix[placing], rest[placing]
        whole[:, -1, :-1], whole[:, -1, -1] = matrix[left], rest[left]
        found: Array = np.linalg.det(whole)
        return found

    def solved(self) -> list[Array]:
        """Positions (P, 3), nearly closed, for all roots of the conditions."""
        if self.conditions == 0:
            return [self._placed(np.zeros(0))]
        if self.conditions == 1:
            return [self._placed(np.array([t])) for t in _roots(lambda t: float(self._conditions(np.array([t]))[0]))]
        found = []
        for t in _roots(lambda t: self._second(t)[2]):
            cosine, sine, _ = self._second(t)
            if math.hypot(cosine, sine) > 0.0:
                found.append(self._placed(np.array([t, math.atan2(sine, cosine)])))
        return found

    def _second(self, t: float) -> tuple[float, float, float]:
        """At a first angle t: cosine and sine of the second one (times a common size), and the condition that is
        left."""
        at = np.array([self._conditions(np.array([t, k * math.pi / 2])) for k in range(4)])
        middle = (at[0] + at[2]) / 2
        size = float(np.abs(at).max()) or 1.0
        if np.abs(middle - (at[1] + at[3]) / 2).max() > 1e-9 * size:
            raise _NoAlgebra
        by_cosine, by_sine = (at[0] - at[2]) / 2, (at[1] - at[3]) / 2
        probe = self._conditions(np.array([t, 0.6]))
        if np.abs(probe - middle - by_cosine * math.cos(0.6) - by_sine * math.sin(0.6)).max() > 1e-9 * size:
            raise _NoAlgebra
        whole = by_cosine[0] * by_sine[1] - by_cosine[1] * by_sine[0]
        cosine = -middle[0] * by_sine[1] + middle[1] * by_sine[0]
        sine = -by_cosine[0] * middle[1] + by_cosine[1] * middle[0]
        way = 1.0 if whole >= 0.0 else -1.0
        return way * cosine, way * sine, cosine * cosine + sine * sine - whole * whole

    def _placed(self, t: Array) -> Array:
        angles = self._angles(t)
        matrix, rest = self._linear(angles)
        places = np.linalg.lstsq(matrix, -rest, rcond=None)[0].reshape(-1, 2)
        q = self.q.copy()
        q[self.members, :2] = places
        near = self.here[self.members, 2]
        turned = angles[: len(self.members)]
        q[self.members, 2] = turned + 2 * math.pi * np.round((near - turned) / (2 * math.pi))
        return q


def _roots(condition: Callable[[float], float]) -> list[float]:
    """All roots in one turn of a trigonometric polynomial. Raises `_NoAlgebra` where it is none, or zero everywhere."""
    angles = 2 * math.pi * np.arange(SAMPLES) / SAMPLES
    values = np.array([condition(float(angle)) for angle in angles])
    size = float(np.abs(values).max())
    if not size > 1e-12:
        raise _NoAlgebra
    terms = np.fft.fft(values / size) / SAMPLES
    strong = np.flatnonzero(np.abs(terms[: SAMPLES // 2]) > 1e-11)
    degree = int(strong.max(initial=0))
    if degree > SAMPLES // 2 - 8:
        raise _NoAlgebra
    if degree == 0:
        return []
    polynomial = [*terms[degree:0:-1], *terms[[0]], *np.conj(terms[1 : degree + 1])]
    found = np.roots(polynomial)
    # A double root (links in line) splits by the root of the rounding.
    near = np.abs(np.abs(found) - 1.0) < 3e-4
    return [float(angle) for angle in np.angle(found[near])]


def placed(document: Document, motion: Motion, q: Array) -> Document:
    """The document with its moving parts roughly placed at positions q (P, 3: document lengths, rad): it then assembles
    into that configuration. Numbers are rounded to a millionth of a unit."""
    turn = math.degrees(1.0) if document.units.angle == "deg" else 1.0
    parts = dict(document.tree["parts"])

    def rounded(pose: tuple[float, float, float]) -> list[float]:
        x, y, angle = pose
        degrees = math.remainder(angle, 2 * math.pi) * turn
        return [round(number, 6) + 0.0 for number in (x, y, degrees)]  # no minus zero

    for part, pose in zip(motion.system.body_ids, map(tuple, q.tolist()), strict=True):
        if not part or document.parts[part].fixed:
            continue
        if document.repeat_of(part):  # stands where its repeat says
            continue
        use, _, own = part.partition("/")
        if own:  # where it stands in its sub-assembly, as that is used here
            poses = {**parts[use].get("poses", {}), own: rounded(within(pose, document.uses[use].pose))}
            parts[use] = {**parts[use], "poses": poses}
        else:
            parts[part] = {**parts[part], "pose": rounded(pose)}
    return changed(document, Set(["parts"], parts))
