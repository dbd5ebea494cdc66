"""The closest approach of pairs of parts that share depth, over the whole motion, certified.

Motions are polynomials in time (`track`), outlines exact lines and arcs (`forms`). The least gap of each pair is
searched for by halving intervals of time until bounds prove that nothing smaller is left (`kernels.search`); where
outlines overlap, the deepest overlap likewise (`kernels.depth`).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import product

import numpy as np

from ..arrays import Array, Plane
from ..cancellation import CancellationToken
from ..kinematics.motion import Motion
from .forms import OutlineShape, shape_of
from .kernels import depth as deep
from .kernels import search as near
from .kernels import series
from .kernels.tables import ORDER, MotionTrack, Room
from .pairs import Pair, named_pairs, pairs_to_watch, tied_pairs, wanted_gaps
from .track import cut_to, track

PROVEN = 1e-6
"""How much less than the least that was found may be left for it to count as proven (document lengths)."""
ACCURACY = 2.5e-7
"""How much less than the least that was found may be left unfound (document lengths); of small things, `FINE`."""
FINE, COMMON = 1e-8, 1000.0
"""The same, relative to the reach of the parts; and the reach from which on all of these grow with it, so that metres
are proven as millimetres are."""
TOLERANCE = 1e-7
"""Overlaps below this are touching (document lengths); of small things, `FINE` of their reach."""
LOOKS = 3_000_000
"""Looks at two features that one pair may take: two to five seconds, for one takes half a microsecond to one and a
half. Two rings of 300 teeth take two million."""
VAIN, LEAST = 3_000_000, 20_000
"""Looks that all pairs together may take without being settled, and how many each may take when these are used up. A
pair of arms takes 1,400, two links of a strand 9,000."""
DEEP, MORE_LOOKS = 1e-6, 4
"""How deep outlines that a contact keeps apart, or a coupling ties, may be in each other, as a share of their reach,
and how many times more is looked at to prove it."""
DEPTHS = 8_000
"""Positions at which the depth of one pair may be found."""
A_DEPTH, AN_EDGE_PAIR, MOST_A_DEPTH = 150, 7, 100_000
"""What finding a depth costs, about, in looks: at least, more for each pair of edges, and more at most."""
FOLLOWED = 2_000_000
"""Looks that following all pairs for drawing may take, about; they are followed in coarser steps for that."""
A_PAIR, A_BODY = 1_500, 5
"""What a pair costs at least, in looks, and what knowing the place of a body at a moment does; each stretch is one."""
ALL_LOOKS, BLURRED = 17_500_000, 3_000_000
"""Looks that all pairs may take together, so that any file is answered in time: five to eight seconds. Fewer where the
motion is so long that its polynomials miss it by more than the accuracy: then looking more closely proves nothing."""
AT_ONCE = 20_000
"""Looks between two questions whether the work is still wanted."""
TRACKS = 24
"""Pairs, the closest first, whose distance is followed over the motion for drawing; those in checks come on top."""
SAMPLES, COARSEST = 145, 16
"""Moments at which a distance is followed, and which of them at least."""
MANY = 20_000
"""Edges of both outlines with which one position takes about as long as may pass between two questions."""


@dataclass(frozen=True)
class Approach:
    """The closest approach of two parts: signed distance (document lengths; below zero a penetration depth), the time
    and first driver's coordinate (core units) where it occurs, and the nearest point on each part (x, y) in the plane.

    `low` is what the distance is certainly not below; `proven` says that nothing smaller than `distance` can hide, to
    1e-6. A distance that was not found is None, and `reason` says why. `samples` holds times and signed distances
    along the motion, for drawing; empty where nobody asked.
    """

    parts: Pair
    distance: float | None
    t: float
    driver: float | None
    points: tuple[complex, complex]
    proven: bool
    samples: tuple[Array, Array] = field(repr=False)
    reason: str = ""
    """Why it is not proven, or was not found."""
    low: float = -np.inf
    short: tuple[tuple[float, float], ...] = ()
    """Spans of time (s) in which the distance is below what is wanted of it, for drawing."""


def closest_approaches(
    motion: Motion,
    pairs: Sequence[Pair] | None = None,
    work: CancellationToken | None = None,
    report: Callable[[list[Approach]], None] | None = None,
    windows: Array | None = None,
) -> list[Approach]:
    """The closest approach of each pair (default: `pairs_to_watch`), in the order of the pairs, over the motion or in
    windows of time (W, 2) alone.

    `told` is given what is known whenever more is: at first bounds alone. Pairs that checks name come first, then
    those whose bounds are lowest; what would take too long is left, and says so.
    """
    document = motion.document
    work = work or CancellationToken()
    pairs = pairs_to_watch(document) if pairs is None else list(pairs)
    if not pairs:
        return []
    watch = Watch(motion, pairs, work, windows)
    found = [watch.bound(k) for k in range(len(pairs))]
    if report is not None:
        report(list(found))
    named = {frozenset(pair) for pair in named_pairs(document)}
    wanted = {pair: check.at_least or 0.0 for pair, check in wanted_gaps(document).items()}
    order = sorted(range(len(pairs)), key=lambda k: (frozenset(pairs[k]) not in named, found[k].low))
    for done, k in enumerate(order):
        work.done(done / len(pairs))
        if watch.evaluations > watch.most or watch.vain > 1.5 * VAIN:
            break
        found[k] = watch.judged(k)
        if report is not None:
            report(found)
    if windows is not None:
        return found
    known = sorted((k for k in order if found[k].distance is not None), key=lambda k: found[k].distance or 0.0)
    drawn = dict.fromkeys([k for k in known if frozenset(pairs[k]) in named] + known[:TRACKS])
    for k in drawn:
        work.check()
        found[k] = watch.followed(k, found[k], wanted.get(frozenset(pairs[k]), 0.0), FOLLOWED // len(drawn))
    return found


class Watch:
    """Pairs of parts along one motion."""

    def __init__(
        self, motion: Motion, pairs: Sequence[Pair], work: CancellationToken, windows: Array | None = None
    ):
        self.motion, self.pairs, self.work = motion, pairs, work
        parts = motion.document.parts
        names = list(dict.fromkeys(name for pair in pairs for name in pair))
        reach = max(shape_of(parts[name].slabs, TOLERANCE).reach for name in names)
        self.grown = max(1.0, reach / COMMON)
        self.tolerance = min(TOLERANCE, FINE * reach)
        self.finest = self.accuracy = min(ACCURACY, FINE * reach)
        self.proven, self.limit, self.deeper = PROVEN, LOOKS, 1
        self.touching = tied_pairs(motion.document)
        self.touching.update(frozenset(pair) for contact in motion.document.active_contacts.values()
                             for pair in product(*contact.sides))  # fmt: skip
        self.shapes = {name: shape_of(parts[name].slabs, self.tolerance) for name in names}
        work.check()
        self.track = track(motion, reach, self.tolerance / 8)
        if windows is not None:
            self.track = cut_to(self.track, windows)
        self.start = float(self.track.times[0, 0])
        self.most = ALL_LOOKS if self.track.error.max() < self.proven - self.accuracy else BLURRED
        moving = motion.system.moving_parts
        one_place = np.array([[self.start, 1.0, 0.0]])
        self.still = MotionTrack(one_place, self.track.terms[:1], self.track.error[:1])
        self.evaluations = 0
        self.vain = 0
        """Those of the looks after which a pair was not settled."""
        self.rooms = room_for(len(self.track.times))
        self.moves = [one in moving or two in moving for one, two in pairs]
        share = self.track.times[:, 2] / 2
        terms = self.track.terms.reshape(len(share), -1, 3, 6)
        self.first = motion.positions(np.array([self.start]))[0]
        self.placed = {self.start: self.first}
        """Exact positions (P, 3) at times that were asked for; many pairs are closest at the same."""
        self.driven = {self.start: motion.driver_value(self.start)}
        """The first driver's coordinate at these times."""
        self.middles = np.einsum("sbck,sk->sbc", terms, share[:, None] ** np.arange(6))
        self.ends = np.empty((len(names), len(share), 2), dtype=complex)
        """The middles of the two ends of each part's capsule in each stretch of the motion."""
        self.girths = np.empty((len(names), len(share)))
        """The girths with which all of them stays within: no place of a rigid part strays further than the ends of its
        axis."""
        for number, name in enumerate(names):
            self._sweep(number, name)
        number_of = {name: number for number, name in enumerate(names)}
        self.capsules = np.array([(number_of[one], number_of[two]) for one, two in pairs])
        self._kept: tuple[int, Array] = -1, np.zeros(0)
        self.lowest = np.empty(len(pairs))
        """What the distance of each pair is not below, by the capsules that they stay within."""
        counts = np.where(self.moves, len(share), 1)
        for some in np.array_split(np.arange(len(pairs)), 1 + counts.sum() // AT_ONCE):
            work.check()
            part = np.empty(len(some))
            series.least_apart(self.ends, self.girths, self.capsules[some], counts[some], part)
            self.lowest[some] = part

    def _sweep(self, number: int, name: str) -> None:
        capsule, body = self.shapes[name].capsule, self.motion.system.body(name)
        middles, strayed = np.empty((2, len(self.track.times)), dtype=complex), np.empty((2, len(self.track.times)))
        for column, end in enumerate(capsule.ends):
            series.swept(self.track, body, complex(end), self.rooms, middles[column], strayed[column])
        self.ends[number], self.girths[number] = middles.T, strayed.max(axis=0) + capsule.girth

    def low(self, k: int) -> Array:
        """(S,) the same of a pair in each stretch. Only those of the last pair are kept: of all pairs they would fill
        the memory."""
        if self._kept[0] == k:
            return self._kept[1]
        apart = np.empty(len(self.track.times) if self.moves[k] else 1)
        one, two = self.capsules[k].tolist()
        series.capsules_apart(self.ends, self.girths, one, two, apart)
        self._kept = k, apart
        return apart

    def _ends(self, k: int) -> tuple[OutlineShape, OutlineShape, int, int, MotionTrack]:
        """Shapes and bodies of a pair, and the motion to look at."""
        one, two = self.pairs[k]
        body = self.motion.system.body
        return self.shapes[one], self.shapes[two], body(one), body(two), self.track if self.moves[k] else self.still

    def bound(self, k: int) -> Approach:
        """What the bounds of whole stretches tell of a pair."""
        reason = "not looked at closely: too many pairs; name those that matter in checks"
        low = float(self.lowest[k])
        return self._unfound(k, reason, low if low > 0 else -np.inf)

    def _unfound(self, k: int, reason: str, low: float) -> Approach:
        none = np.zeros(0)
        start = self.start
        return Approach(self.pairs[k], None, start, self.driven[start], (0j, 0j), False, (none, none), reason, low)

    def judged(self, k: int) -> Approach:
        """The closest approach of a pair: of large things first to an accuracy that grows with them, then as closely as
        of small ones where that takes little more."""
        if frozenset(self.pairs[k]) in self.touching:
            return self._held_apart(k)
        if self.grown == 1.0:
            return self._searched(k)
        before, vain = self.evaluations, self.vain
        self.accuracy, self.proven = self.finest * self.grown, PROVEN * self.grown
        coarse = self._searched(k)
        if coarse.proven:
            self.accuracy, self.proven, self.limit = self.finest, PROVEN, max(LEAST, 4 * (self.evaluations - before))
            fine = self._searched(k)
            coarse = fine if fine.proven else coarse
            self.vain = vain
        self.accuracy, self.proven, self.limit = self.finest, PROVEN, LOOKS
        return coarse

    def _held_apart(self, k: int) -> Approach:
        """The same of a pair that a contact keeps from passing: it touches for long, and how deep it may be is asked
        for as a share of its size."""
        size = max(self.shapes[name].reach for name in self.pairs[k])
        self.accuracy, self.proven, self.deeper = DEEP / 4 * size, DEEP * size, MORE_LOOKS
        found = self._searched(k)
        self.accuracy, self.proven, self.deeper = self.finest, PROVEN, 1
        return found

    def _searched(self, k: int) -> Approach:
        """The closest approach of a pair to the present accuracy."""
        one, two, a, b, way = self._ends(k)
        low = self.low(k)
        start = relative_places(self.first[a : a + 1], self.first[b : b + 1])
        lowest = int(np.argmin(low))
        close = np.append(np.flatnonzero(low <= 0), lowest)
        places, turns = relative_places(self.middles[close, a], self.middles[close, b])
        first_place, first_turn = complex(places[-1]), complex(turns[-1])
        places, turns = np.append(places, start[0]), np.append(turns, start[1])
        over = np.zeros(len(turns), dtype=np.bool_)
        self.evaluations += A_PAIR + len(low) + A_BODY * len(self.first) + 10 * len(turns)
        if near.overlaps(one.form, two.form, places, turns, self.rooms, over):
            return self._deepest(k)
        best = np.zeros(8)
        best[0], best[5], best[7] = np.inf, np.inf, 4 * self.tolerance
        for stretch, share, place, turn in (
            (lowest, way.times[lowest, 2] / 2, first_place, first_turn),
            (0, 0.0, complex(start[0][0]), complex(start[1][0])),
        ):
            gap, i, j = near.nearest_at(one.form, two.form, place, turn, self.tolerance, self.rooms)
            if gap < best[0]:
                best[:5] = gap, stretch, share, i, j
        count, allowed = self._laid_out(low, way, best[0] - self.accuracy), self._allowed()
        while count:
            ended, count = near.search(
                way, a, b, one.form, two.form, self.tolerance, self.accuracy, best, count, AT_ONCE, self.rooms
            )
            self.work.check()
            if ended == near.TOUCHES:
                break
            if best[6] > allowed:
                self.vain += int(best[6])
                left = {int(stretch) for stretch in self.rooms.marks[:count, 0]}
                best[5] = min([best[5], *(float(low[stretch]) for stretch in left)])
                break
        self.evaluations += int(best[6])
        if best[0] <= best[7]:
            return self._deepest(k, float(way.times[int(best[1]), 0] + best[2] * way.times[int(best[1]), 1]))
        t = float(way.times[int(best[1]), 0] + best[2] * way.times[int(best[1]), 1])
        certain = min(best[0] - self.accuracy, best[5])
        reason = "" if certain >= best[0] - self.proven else self._undecided(certain)
        return self._found(k, t, certain, reason)

    def _allowed(self) -> int:
        """How many looks a pair may take."""
        return min(self.limit * self.deeper, max(VAIN * self.deeper - self.vain, LEAST))

    def _laid_out(self, values: Array, way: MotionTrack, limit: float) -> int:
        """Puts the stretches whose values are below the limit on the stack, the lowest on top; returns how many."""
        order = np.flatnonzero(values < limit)
        order = order[np.argsort(values[order], kind="stable")[::-1]]
        count = len(order)
        self.rooms.stack[:count, 0], self.rooms.stack[:count, 1] = 0.0, way.times[order, 2]
        self.rooms.marks[:count] = np.stack((order, np.full(count, -1), np.zeros(count, dtype=np.int64)), axis=1)
        return count

    def _undecided(self, certain: float) -> str:
        return f"could not be settled within the looks allowed; it is certainly not below {certain:.6g}"

    def _deepest(self, k: int, touched: float | None = None) -> Approach:
        """The deepest overlap of a pair that touches or overlaps somewhere; where it only touches, that is told at the
        time when it was seen to."""
        one, two, a, b, way = self._ends(k)
        close = np.flatnonzero(self.low(k) <= 0)
        best, move = np.zeros(24), np.zeros(8)
        best[1], best[3], best[5] = -1, -np.inf, 1
        cost, allowed = self._a_depth(one, two), self._allowed()
        tried = close[:: 1 + len(close) * cost // (4 * allowed)]
        places, turns = relative_places(self.middles[tried, a], self.middles[tried, b])
        values = self._signed_at(one, two, places, turns)
        self.evaluations += len(tried) * cost
        if len(tried):
            worst = int(np.argmin(values))
            stretch = int(tried[worst])
            best[:3] = max(-values[worst], 0.0), stretch, way.times[stretch, 2] / 2
            move = self._shortest(one, two, places[worst : worst + 1], turns[worst : worst + 1])
        every = np.full(len(way.times), np.inf)
        every[close] = 0.0
        every[tried] = values
        count = self._laid_out(every, way, np.inf)
        edges = self._edges(one, two)
        most = self.deeper * max(24, min(DEPTHS, 20 * DEPTHS // edges, allowed // cost))
        at_once = max(0, min(AT_ONCE // cost // 4, MANY // edges // 2))
        while count:
            _, count = deep.deepest(
                way, a, b, one.form, two.form, self.accuracy, best, count, at_once, self.rooms, move
            )
            self.work.check()
            if best[4] > most:
                self.vain += int(best[4]) * cost
                best[3] = np.inf
                break
        self.evaluations += int(best[4]) * cost
        t = self.start if touched is None else touched
        if best[0] > 0:
            t = float(way.times[int(best[1]), 0] + best[2] * way.times[int(best[1]), 1])
        certain = -max(best[0] + self.accuracy, best[3])
        reason = ""
        if not best[5]:
            reason = "outlines of so many edges overlap that a shorter way apart may have been missed"
        elif best[3] > best[0] + self.proven:
            reason = "the overlap may be deeper between the moments looked at: its depth jumps there"
            if best[4] > most:
                reason = "the overlap may be deeper between the moments looked at: it took too many looks"
        return self._found(k, t, certain, reason)

    def _found(self, k: int, t: float, certain: float, reason: str) -> Approach:
        """The approach at a time, by the exact positions; at the start of the motion where that is as close."""
        distance, points = self.at(k, t)
        if t > self.start and self.low(k)[0] <= distance + self.accuracy:
            first, others = self.at(k, self.start)
            if first <= distance + self.accuracy:
                t, distance, points = self.start, first, others
        none = np.zeros(0)
        return Approach(self.pairs[k], distance, t, self.driven[t], points, not reason, (none, none), reason, certain)

    def at(self, k: int, t: float) -> tuple[float, tuple[complex, complex]]:
        """The signed distance of a pair at a time, and the nearest point on each part in the plane."""
        one, two, a, b, _ = self._ends(k)
        if t not in self.placed:
            self.placed[t] = self.motion.positions(np.array([t]))[0]
            self.driven[t] = self.motion.driver_value(t)
        q = self.placed[t]
        place, turn = (complex(each[0]) for each in relative_places(q[a : a + 1], q[b : b + 1]))
        spin, origin = np.exp(1j * q[b, 2]), complex(q[b, 0], q[b, 1])
        distance, p, r = self._nearest(one, two, place, turn)
        return distance, (complex(p * spin + origin), complex(r * spin + origin))

    def _nearest(
        self, one: OutlineShape, two: OutlineShape, place: complex, turn: complex
    ) -> tuple[float, complex, complex]:
        """The signed distance at a position, and the nearest points in the axes of the second part."""
        move = self._shortest(one, two, np.array([place]), np.array([turn]))
        if move[0] > 0:
            v, q = complex(move[1], move[2]), complex(two.form.spots[0, 0], two.form.spots[0, 1])
            if move[6] >= 0:
                _, q, _ = near.contact(one.form, int(move[6]), two.form, int(move[7]), place + v, turn)
            return -float(move[0]), q - v, q
        for tolerance in (self.tolerance, 1e3 * self.tolerance):  # a sharp corner is drawn in by more than a hair
            gap, i, j = near.nearest_at(one.form, two.form, place, turn, tolerance, self.rooms)
            if i >= 0:
                break
        else:
            q = complex(two.form.spots[0, 0], two.form.spots[0, 1])
            return 0.0, q, q
        p, q, _ = near.contact(one.form, i, two.form, j, place, turn)
        return max(float(gap), 0.0), p, q

    def _shortest(self, one: OutlineShape, two: OutlineShape, place: Plane, turn: Plane) -> Array:
        """(8,) the shortest move that parts the outlines at a position (1,), as the loops describe it."""
        move = np.zeros(8)
        deep.signed(one.form, two.form, place, turn, self.tolerance, self.rooms, move, np.empty(1))
        return move

    @staticmethod
    def _a_depth(one: OutlineShape, two: OutlineShape) -> int:
        """What finding a depth of two parts costs, in looks."""
        return A_DEPTH + min(AN_EDGE_PAIR * len(one.form.edges) * len(two.form.edges), MOST_A_DEPTH)

    @staticmethod
    def _edges(one: OutlineShape, two: OutlineShape) -> int:
        return len(one.form.edges) + len(two.form.edges)

    def signed(self, k: int, t: Array) -> Array:
        """(S,) the signed distance of a pair at times, by the exact positions."""
        return self._signed(k, self.motion.positions(t))

    def _signed(self, k: int, q: Array) -> Array:
        one, two, a, b, _ = self._ends(k)
        return self._signed_at(one, two, *relative_places(q[:, a], q[:, b]))

    def _signed_at(self, one: OutlineShape, two: OutlineShape, places: Plane, turns: Plane) -> Array:
        values, move = np.empty(len(places)), np.zeros(8)
        together = max(1, min(24, MANY // self._edges(one, two)))
        for some in np.array_split(np.arange(len(places)), max(1, len(places) // together)):
            self.work.check()
            part = np.empty(len(some))
            deep.signed(one.form, two.form, places[some], turns[some], self.tolerance, self.rooms, move, part)
            values[some] = part
        return values

    def followed(self, k: int, approach: Approach, wanted: float, evaluations: int) -> Approach:
        """The approach with the distance along the motion, and the spans in which that is below what is wanted. The
        steps are as fine as the looks allow that this may take."""
        assert approach.distance is not None
        one, two, _, _, _ = self._ends(k)
        step = 1 if self._edges(one, two) < MANY // 10 else 4
        if approach.distance < 0:
            step = max(step, min(COARSEST, SAMPLES * self._a_depth(one, two) // evaluations))
        some = slice(None, None, step)
        t, q = (self.times[some], self.positions[some]) if self.moves[k] else (np.zeros(1), self.first[None])
        values = np.maximum(self._signed(k, q), approach.distance)
        beside = np.searchsorted(t, approach.t)
        t, values = np.insert(t, beside, approach.t), np.insert(values, beside, approach.distance)
        return replace(approach, samples=(t, values), short=self._short(k, t, values, wanted))

    def _short(self, k: int, t: Array, values: Array, wanted: float) -> tuple[tuple[float, float], ...]:
        """Spans of time in which the distance is below what is wanted; their ends to 1e-4 of a sample's step."""
        below = values < wanted - self.accuracy
        if not below.any():
            return ()
        turns = np.flatnonzero(below[:-1] != below[1:])
        low, high, sign = t[turns], t[turns + 1], below[turns]
        for _ in range(14 if turns.size else 0):
            middle = (low + high) / 2
            same = (self.signed(k, middle) < wanted - self.accuracy) == sign
            low, high = np.where(same, middle, low), np.where(same, high, middle)
        ends = [t[0]] * bool(below[0]) + ((low + high) / 2).tolist() + [t[-1]] * bool(below[-1])
        return tuple((float(a), float(b)) for a, b in zip(ends[::2], ends[1::2], strict=True))

    @cached_property
    def times(self) -> Array:
        """The times at which distances are drawn."""
        last = self.track.times[-1]
        end = float(last[0] + last[1] * last[2])
        return np.linspace(0.0, end, SAMPLES) if end > 0 else np.zeros(1)

    @cached_property
    def positions(self) -> Array:
        """The positions at those times."""
        return self.motion.positions(self.times)


def relative_places(a: Array, b: Array) -> tuple[Plane, Plane]:
    """(S,) place and turn of bodies a (S, 3) in the axes of bodies b."""
    back = np.exp(-1j * b[:, 2])
    place: Plane = ((a[:, 0] - b[:, 0]) + 1j * (a[:, 1] - b[:, 1])) * back
    turn: Plane = np.exp(1j * (a[:, 2] - b[:, 2]))
    return place, turn


def room_for(stretches: int) -> Room:
    wide = ORDER + 1
    return Room(
        np.zeros((4, wide), dtype=complex), np.zeros((8, wide)), np.zeros((4, wide), dtype=complex),
        np.zeros((stretches + 256, 2)), np.zeros((stretches + 256, 3), dtype=np.int64),
        np.zeros((4096, 2), dtype=np.int64), np.zeros((1 << 15, 2), dtype=np.int64), np.zeros((6000, 8)),
        np.zeros((40_000, 8)),
    )
