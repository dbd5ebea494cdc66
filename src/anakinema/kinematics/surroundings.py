"""What may touch in a document: its pairings, what of them touches at a place, and what first comes to touch on a way.
Whoever follows (`pushing`) or drags (`dragging`) asks here."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from ..arrays import Array, Mask, Plane
from ..document.model import Document
from .pairing import pairings
from .reaches import reaches
from .system import System
from .unilateral import Unilateral, Unilaterals

BEYOND = 1e-9
"""Gap below which features would pass each other, and a limit is passed (typical lengths, rad)."""
BESIDE = 1e-7
"""How far beside its ends a feature still counts where several meet (typical lengths, rad)."""
ALIKE = 1e-3
"""How far the normals of two features that touch at one place may differ (rad) that go on into each other there."""
PLACED = 1e-6
"""Overlap of outlines up to which they count as touching where they are placed (typical lengths)."""
Key = tuple[int, int, int]
"""A pairing with two of its features; of a limit −1, its number and 0."""


@dataclass(frozen=True)
class Hold:
    """A row that may hold."""

    key: Key
    row: Unilateral

    @property
    def is_contact(self) -> bool:
        """Whether it is of two outlines."""
        return self.key[0] >= 0


@dataclass(frozen=True)
class Standing:
    """Two features that touch: where, along which normal, and which corners of both lie there if two do."""

    hold: Hold
    spot: complex
    normal: complex
    corners: tuple[int, int] | None


class Surroundings:
    """What may be touched and reached: the pairings of all contacts, and the limits of what no driver moves."""

    def __init__(self, document: Document, system: System, limits: Unilaterals, q: Array):
        self.document, self.limits = document, limits
        self.reaches = reaches(document, system, q)
        self.pairs = pairings(document, system)
        self.of_limits = [Hold((-1, number, 0), row) for number, row in enumerate(limits.rows)]
        self.bodies = np.array([(pair.a, pair.b) for pair in self.pairs], dtype=np.intp).reshape(-1, 2)
        self.middles = np.array([(pair.one.middle, pair.two.middle) for pair in self.pairs]).reshape(-1, 2)
        self.reach = np.array([pair.one.reach + pair.two.reach for pair in self.pairs])
        self.known: dict[int, tuple[complex, complex, bool, list[Standing]]] = {}
        """What stood in touch last of each pairing, and where that was."""
        self.kept: dict[Key, Unilateral] = {}
        """The rows of features that have touched."""


    def relative(self, q: Array) -> tuple[Plane, Plane]:
        """(S, N) twice: where the second outline of each pairing lies, and its axes point, as the first has it, at
        positions q (S, P, 3)."""
        a, b = q[:, self.bodies[:, 0]], q[:, self.bodies[:, 1]]
        back = np.exp(-1j * a[..., 2])
        return ((b[..., 0] - a[..., 0]) + 1j * (b[..., 1] - a[..., 1])) * back, np.exp(1j * b[..., 2]) * back

    def apart(self, place: Plane, turn: Plane) -> Array:
        """(S, N) what outlines are certainly apart, by the circles about them; below zero: perhaps not."""
        found: Array = np.abs(place + turn * self.middles[:, 1] - self.middles[:, 0]) - self.reach
        return found

    def stirs(self, q: Array) -> Mask:
        """(N,) which pairings' outlines move against each other along positions q (S, P, 3)."""
        moved: Mask = np.zeros(len(self.pairs), dtype=np.bool_)
        for each in self.relative(q) if self.pairs else ():
            moved |= np.abs(each - each[0]).max(axis=0) > 1e-12
        return moved

    def stand(
        self, q: Array, placed: bool = False, held: Sequence[Key] = ()
    ) -> tuple[list[Hold], list[list[int]]]:
        """What touches at positions q (P, 3), and the groups of which one is enough: where a corner stands on a corner,
        whichever side lets them by. What was `held` until now is known to the rounding of its motion only."""
        found: list[Hold] = []
        groups: dict[tuple[int, ...], list[int]] = {}
        if not self.pairs:
            return found, []
        places, turns = (each[0] for each in self.relative(q[None]))
        for number in np.flatnonzero(self.apart(places, turns) <= PLACED).tolist():
            seen: list[tuple[complex, complex, int]] = []
            standing = self.standing(number, q, complex(places[number]), complex(turns[number]), placed)
            known = {one.hold.key for one in standing}
            standing = [*standing, *(one for key in held if key[0] == number and key not in known
                                     and (one := self._still(key, q)) is not None)]  # fmt: skip
            for one in standing:
                if one.corners is not None:
                    groups.setdefault((number, *one.corners), []).append(len(found))
                else:
                    same = next((k for spot, way, k in seen if abs(spot - one.spot) < 10 * BESIDE
                                 and abs(way - one.normal) < ALIKE), None)  # fmt: skip
                    if same is not None:
                        groups.setdefault((number, same), [same]).append(len(found))
                seen.append((one.spot, one.normal, len(found)))
                found.append(one.hold)
        return found, list(groups.values())

    def _still(self, key: Key, q: Array) -> "Standing | None":
        """What held until now, if it is there still but for rounding."""
        number, i, j = key
        pair = self.pairs[number]
        gap, slack = (float(each[0]) for each in pair.measure(i, j, q[None]))
        if abs(gap) > PLACED or slack < -10 * BESIDE:
            return None
        return Standing(Hold(key, self.kept[key]), *pair.spot(i, j, q), pair.corners(i, j, q, 10 * BESIDE))

    def standing(self, number: int, q: Array, place: complex, turn: complex, placed: bool) -> list["Standing"]:
        """What of a pairing touches at positions q (P, 3)."""
        before = self.known.get(number)
        if before is not None and before[2] == placed and max(abs(before[0] - place), abs(before[1] - turn)) < 1e-13:
            return before[3]
        pair, found = self.pairs[number], []
        for i, j, gap, _ in pair.near(q, PLACED if placed else 3 * BEYOND, BESIDE):
            key = number, i, j
            row = self.kept.get(key) or pair.row(i, j)
            if placed and abs(gap) > BEYOND:  # it is taken as it is placed
                row = replace(row, bound=row.sense * gap)
            self.kept[key] = row
            found.append(Standing(Hold(key, row), *pair.spot(i, j, q), pair.corners(i, j, q, 10 * BESIDE)))
        self.known[number] = place, turn, placed, found
        return found

    def first_touch(
        self, t: Array, q: Array, at: Callable[[Array], Array], held: Sequence[Key], stood: frozenset[Key],
        excused: frozenset[Key], stirs: Mask,
    ) -> float | None:  # fmt: skip
        """When something first comes to touch that does not hold yet, on the way along positions q (S, P, 3) at times t
        (S,), that are had `at` others too. What `stood` touches at first, and what is `excused` is passed by then."""
        best, reached = np.inf, None
        if not self.pairs:
            return None
        places, turns = self.relative(q)
        apart = self.apart(places, turns)
        steps = np.abs(np.diff(apart, axis=0)).max(axis=0, initial=0.0)
        for number in np.flatnonzero(stirs & (apart <= steps).any(axis=0)).tolist():
            pair = self.pairs[number]
            skip = np.zeros((len(pair.one), len(pair.two)), dtype=np.bool_)
            for key in held:
                if key[0] == number:
                    skip[key[1], key[2]] = True
            for s, i, j in sorted(map(tuple, pair.scan(t, q, skip, BEYOND).tolist())):
                if t[s - 1] > best:
                    break
                if best < t[s] and reached is not None and pair.measure(i, j, reached)[0][0] >= -BEYOND / 4:
                    continue  # what touched first did so before
                if s == 1 and (number, i, j) in excused:
                    continue
                before = s == 1 and (number, i, j) in stood
                when = _crossing(partial(pair.measure, i, j), at, float(t[s - 1]), float(t[s]), before)
                if when is not None and when < best:
                    best, reached = when, at(np.array([when]))
        return best if best < np.inf else None

    def first_off(
        self, t: Array, q: Array, at: Callable[[Array], Array], holds: Sequence[Hold], stirs: Mask
    ) -> float | None:
        """When a contact that holds has run off its features, along positions q (S, P, 3) at times t (S,)."""
        best = np.inf
        for hold in holds:
            number, i, j = hold.key
            if not hold.is_contact or not stirs[number]:
                continue
            slack = self.pairs[number].measure(i, j, q)[1]
            off = np.flatnonzero(slack < -BESIDE)  # where faces lie on each other rounding leaves them by less
            if off.size and t[max(off[0] - 1, 0)] < best:
                k = max(int(off[0]), 1)
                floor = 0.0 if slack[k - 1] > BESIDE else BESIDE / 2
                measure = partial(self.pairs[number].measure, i, j)
                best = min(best, root(partial(_slack, measure, at), float(t[k - 1]), float(t[k]), floor))
        return best if best < np.inf else None


def root(f: Callable[[float], float], low: float, high: float, floor: float = 0.0) -> float:
    """The time between two at which something falls below zero (or −floor), just before it does."""
    from scipy.optimize import brentq

    at_low = f(low)
    if at_low <= -floor or high <= low:
        return low
    if f(high) > -floor:
        return high
    return float(brentq(lambda x: f(x) + floor, low, high, xtol=1e-15 * max(1.0, abs(high)), rtol=1e-15))


def _slack(measure: Callable[[Array], tuple[Array, Array]], at: Callable[[Array], Array], x: float) -> float:
    return float(measure(at(np.array([x])))[1][0])


def _crossing(
    measure: Callable[[Array], tuple[Array, Array]], at: Callable[[Array], Array], low: float, high: float, stood: bool
) -> float | None:
    """The time between two at which two features come to touch; None where they pass each other beside their ends.
    Those that touched at the beginning already, and were let go, must have passed by something to count."""

    def gap(x: float) -> float:
        return float(measure(at(np.array([x])))[0][0])

    if gap(low) < -BEYOND:  # it came between its ends since
        low = root(lambda x: -float(measure(at(np.array([x])))[1][0]), low, high)
        if gap(low) < -BEYOND:
            return None
    end = gap(high)
    if end >= -BEYOND:  # it may dip between
        from scipy.optimize import minimize_scalar

        found = minimize_scalar(gap, bounds=(low, high), method="bounded", options={"xatol": 1e-9 * (high - low)})
        if not found.fun < -BEYOND:
            return None
        high = float(found.x)
    when = root(gap, low, high, BEYOND / 2 if stood else 0.0)
    slack = float(measure(at(np.array([when])))[1][0])
    return when if slack >= (-0.05 if stood else -3.0) * BEYOND else None
