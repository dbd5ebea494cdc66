"""Following drivers where outlines touch: what holds one way only is held as long as it has to push, and every touch,
parting and fall is located where it happens.

Between two events the same rows hold. What they and the joints decide alone is followed as exactly as any mechanism
(`follow.Walk`), the rest with the least movement (`underconstrained`). Along the way every pair of features near each
other is asked whether it comes to touch; at an event `yielding` decides what holds from there on.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

import numpy as np

from ..arrays import Array, Mask
from ..cancellation import CancellationToken
from ..document.model import Driver
from ..errors import located
from .along import cut, looked_at, positions, rates, resting
from .equations import Equations
from .follow import Walk
from .minimum_norm import MinimumNorm
from .pairing import ON
from .refining import refined
from .rows import RowSpec
from .stretches import DeadPoint, Law, Nodes, Overlap, Stretch
from .surroundings import BESIDE, BEYOND, PLACED, Hold, Key, Surroundings, root
from .underconstrained import follow_underconstrained
from .unilateral import Event
from .yielding import Decision, Yielding

FIRST, LONGEST = 0.3, 1.2
"""How far drivers go in one go at first, and at most (rad, typical lengths)."""
MOST = 20_000
"""Events of one motion."""
SHOWN = 12
"""Places of a fall that are kept, to show it."""
LOST = 1e-7
"""Gap from which a contact that is to hold does not (typical lengths)."""
PRESSES = 1e-6
"""What a rest presses beside what a free part weighs."""
AT_ONCE = 40
"""Events at one moment."""


@dataclass(frozen=True)
class Happening:
    """Something that ends a stretch: when, and the hold that is left, or None where something new touches."""

    t: float
    left: Hold | None = None
    pulls: bool = False
    """Whether it would have to pull; else it has run off its features."""


class Pusher:
    """Follows the laws of a drive among contacts, and knows what touches."""

    def __init__(self, around: Surroundings, yielding: Yielding, rests: Array, work: CancellationToken, depth: int = 0):
        """`rests` are what the rows of the drive's rests have at rest; `depth` tells how many falls it is within."""
        self.around, self.yielding, self.rests, self.work, self.depth = around, yielding, rests, work, depth
        self.document, self.drive, self.pairs = around.document, yielding.drive, around.pairs
        self.limit_rows = around.limits
        self.held: list[Hold] = []
        self.loaded: frozenset[Key] = frozenset()
        """Those of what holds on which free parts weigh; on all others only rests press."""
        self.stubborn: frozenset[Key] = frozenset()
        """Rows that seemed to pull at this moment, but are passed without: several hold the same."""
        self.stood: frozenset[Key] = frozenset()
        """What stood at its bound when it was last decided what holds."""
        self.excused: frozenset[Key] = frozenset()
        """Those of which one was enough: the others are just passed by."""
        self.at_rest: frozenset[int] = frozenset()
        self.touching: frozenset[str] = frozenset()
        self.events: list[Event] = []
        self.passed: frozenset[Key] = frozenset()
        """Corners that had just slid off each other when this fall began: they let each other pass."""
        self.slid_off: frozenset[Key] = frozenset()
        """The same of the fall that is to come."""
        self.pushes = True
        """Whether rests that push do."""
        self.waiting: frozenset[int] = frozenset()
        """Rests that don't have their way just now."""
        self.way: list[Array] = []
        """Places of the last fall."""
        self.drops: list[float] = []
        """Times at which something falls: positions there are those after it."""
        self._solvers: dict[tuple[object, ...], tuple[Equations, MinimumNorm | None]] = {}

    # -- what touches ------------------------------------------------------------------------------------------

    def _standing(self, q: Array, placed: bool = False) -> tuple[list[Hold], list[list[int]]]:
        """What stands at its bound at positions q (P, 3), and the groups of which one is enough: where a corner stands
        on a corner, whichever side lets them by."""
        near = PLACED if placed else 3 * BEYOND
        found = [hold for hold, gap in zip(self.around.of_limits, self._limit_gaps(q), strict=True) if abs(gap) <= near]
        contacts, groups = self.around.stand(q, placed, [hold.key for hold in self.held if hold.is_contact])
        return [*found, *contacts], [[len(found) + k for k in group] for group in groups]

    def _limit_gaps(self, q: Array) -> Array:
        return self.limit_rows.gaps(q[None])[0] if len(self.limit_rows) else np.zeros(0)

    def overlapping(self, q: Array) -> "Overlap | None":
        """The parts that overlap most at positions q (P, 3) though a contact keeps them apart; None where none do."""
        from .overlap import overlap

        if not self.pairs:
            return None
        places, turns = (each[0] for each in self.around.relative(q[None]))
        scale, found = self.drive.system.scale, []
        for number in np.flatnonzero(self.around.apart(places, turns) < 0.0).tolist():
            pair = self.pairs[number]
            depth = overlap(*pair.regions, complex(places[number]) * scale, complex(turns[number]))
            if depth > PLACED * scale:
                parts = self.drive.system.body_ids[pair.a], self.drive.system.body_ids[pair.b]
                found.append(Overlap(pair.owner, parts, depth))
        return max(found, key=lambda each: each.depth, default=None)

    # -- what holds --------------------------------------------------------------------------------------------

    def _toward(self, q: Array) -> list[int]:
        """Which way each rest lies from where its joint stands."""
        if not len(self.rests):
            return []
        off = self.rests - self.yielding.at_rests(q)
        off[list(self.waiting)] = 0.0
        return [int(np.sign(each)) if abs(each) > ON else 0 for each in off.tolist()]

    def _rates(self, law: Law, t: float) -> Array:
        """(D,) the drivers' rates, for a pace of 1; where they begin, as they will."""
        count = len(self.drive.drivers)
        found = np.zeros(max(count, 1))
        if not law.moves or not count:
            return found
        rates = law.rates(t)[:count]
        if float(np.linalg.norm(rates)) <= 1e-6 * law.fastest:
            rates = law.rates(t + 1e-3 * (law.t1 - t))[:count]
        found[:count] = rates / max(float(np.linalg.norm(rates)), 1e-300)
        return found

    def _decide(self, law: Law, t: float, q: Array, placed: bool = False, pulled: Hold | None = None) -> Decision:
        """What holds from here on, which is kept, and what falls. A row that has just come to pull is let go, unless it
        is passed then."""
        if pulled is not None:
            found = self._decided(law, t, q, placed, pulled)
            if found is not None:
                return found
        found = self._decided(law, t, q, placed, None)
        assert found is not None
        return found

    def _decided(self, law: Law, t: float, q: Array, placed: bool, pulled: Hold | None) -> Decision | None:
        toward = self._toward(q)
        standing, groups = self._standing(q, placed)
        if self.passed:
            kept = [number for number, hold in enumerate(standing) if hold.key not in self.passed]
            groups = [[kept.index(number) for number in group if number in kept] for group in groups]
            standing, groups = [standing[number] for number in kept], [group for group in groups if group]
        rates = self._rates(law, t)
        dropped = {k for k, hold in enumerate(standing) if pulled is not None and hold.key == pulled.key}
        before, needed = {hold.key for hold in self.held}, set[int]()
        for _ in range(3 * len(standing) + 1):
            kept = [number for number in range(len(standing)) if number not in dropped]
            number_of = {number: k for k, number in enumerate(kept)}
            some = [[number_of[each] for each in group if each in number_of] for group in groups]
            first = [number_of[k] for k in kept if standing[k].key in before]
            rows, some = [standing[k].row for k in kept], [each for each in some if each]
            found = self.yielding.decide(q, rates, rows, some, toward, first)
            if pulled is not None and (found.jam or any(
                speed < -1e-7 for speed in self.yielding.speeds(q, found.v, [standing[k].row for k in dropped]))):
                return None
            if found.jam or found.falls is not None:
                break
            wrong = self._left_at_once(q, found, standing, kept, groups)
            if wrong is not None and wrong not in needed:
                dropped.add(wrong)
                continue
            back = self._needed(q, found, standing, dropped - needed)
            if back is None:
                break
            needed.add(back)
            dropped.discard(back)
        names = [standing[kept[k]] for k in (found.jam or found.held)]
        owners = {hold.row.owner for hold in (standing if found.jam else names) if hold.is_contact}
        if found.falls is not None:
            self.slid_off = frozenset(standing[number].key for number in dropped)
            return found
        if not found.jam:
            speeds = self.yielding.speeds(q, found.v, [hold.row for hold in standing])
            owners |= {hold.row.owner for hold, speed in zip(standing, speeds.tolist(), strict=True)
                       if hold.is_contact and speed <= 1e-7}  # fmt: skip
        self.held, self.at_rest = names, found.at_rest - self.waiting
        self.loaded = frozenset(standing[kept[k]].key for k in found.loaded)
        self.stood = frozenset(hold.key for hold in standing)
        self.excused = frozenset(standing[k].key for group in groups for k in group) | self.passed
        self._tell(t, "part", self.touching - owners)
        self._tell(t, "touch", owners - self.touching)
        self.touching = frozenset(owners)
        return found

    def _tell(self, t: float, kind: Literal["touch", "part", "drop"], owners: Iterable[str]) -> None:
        order = list(self.document.contacts)
        self.events += [Event(t, kind, owner) for owner in sorted(owners, key=order.index)]

    def _left_at_once(
        self, q: Array, found: Decision, standing: Sequence[Hold], kept: Sequence[int], groups: Sequence[Sequence[int]]
    ) -> int | None:
        """A row that holds but is beside its features at once, where another of its group would not be."""
        size = float(np.abs(found.v).max(initial=0.0))
        if not size:
            return None
        ahead = q + found.v * (1e-4 / size)
        stirs = self.around.stirs(np.array([q, ahead]))
        for number in (kept[k] for k in found.held):
            if not standing[number].is_contact or not stirs[standing[number].key[0]]:
                continue
            group = next((group for group in groups if number in group), None)
            if group is None:
                continue
            slacks = {each: self._slack(standing[each], ahead) for each in group if each in kept}
            best = max(slacks, key=lambda each: slacks[each])
            if slacks[number] < 0.0 and (slacks[best] < -1e-9 or slacks[number] < slacks[best] - 1e-9):
                return number  # where none is left a corner has slid off
        return None

    def _needed(self, q: Array, found: Decision, standing: Sequence[Hold], dropped: Iterable[int]) -> int | None:
        """A row that was let go beside which nothing else keeps its parts apart: what moves goes into it."""
        size = float(np.abs(found.v).max(initial=0.0))
        if not size:
            return None
        ahead = q + found.v * (1e-4 / size)
        for each in sorted(dropped):
            number, i, j = standing[each].key
            if standing[each].is_contact:
                gap, slack = (float(value[0]) for value in self.pairs[number].measure(i, j, ahead[None]))
                if gap < -1e-7 and slack > 1e-7:  # not just as far beside its end as the way is bent
                    return each
        return None

    def _slack(self, hold: Hold, q: Array) -> float:
        number, i, j = hold.key
        return float(self.pairs[number].measure(i, j, q[None])[1][0])

    # -- following ---------------------------------------------------------------------------------------------

    def follow(self, law: Law, q: Array) -> tuple[list[Stretch], DeadPoint | None]:
        """The stretches from positions q (P, 3) along a law, and where it ended if that is before its end."""
        found: list[Stretch] = []
        count = len(self.drive.drivers)
        law = replace(law, table=law.table[: count + len(self.rests)].copy())
        law.table[count : count + len(self.rests)] = 0.0  # rests are gone to at once, whenever nothing holds
        law.table[count : count + len(self.rests), 0] = self.rests
        t, last, often = law.t0, -np.inf, 0
        far, pulled, asked_to_wait = FIRST, None, self.waiting
        placed = not self.events and not self.depth
        if placed and (overlap := self.overlapping(q)) is not None:
            found.append(resting(law, q[None], np.array([t]), self.drive.equations))
            return found, DeadPoint(t, q.copy(), contacts=(overlap.owner,), overlap=overlap)
        while True:
            self.work.check()
            often = often + 1 if t <= last + 1e-12 * (law.t1 - law.t0) else 0
            if not often:
                self.stubborn, self.waiting = frozenset(), asked_to_wait
            last = t
            if often > AT_ONCE or len(self.events) > MOST:
                raise located("drivers", self._restless(law, t))
            decision = self._decide(law, t, q, placed, pulled)
            if pulled is not None and pulled.key in {hold.key for hold in self.held}:
                self.stubborn |= {pulled.key}
            placed, pulled = False, None
            if decision.jam:
                return found, self._jammed(t, q, found, law)
            if decision.falls is not None:
                before, q = q, self._fall(decision.falls, t, q)
                if np.abs(q - before).max() <= 1e-12:  # it is held all the same, by what is known too roughly
                    self.waiting |= {decision.falls}
                    continue
                self.drops.append(t)
                continue
            if not law.moves:
                found.append(resting(law, np.array([q, q]), np.array([t, law.t1]), self.drive.equations))
                return found, None
            rest = law.part(t)
            while t < law.t1:
                end = min(law.t1, t + far / law.fastest)
                end = law.t1 if end > law.t1 - 1e-9 * (law.t1 - law.t0) else end
                stretch, dead = self._stretch(rest.part(t, end), q, found)
                happened = self._happening(stretch)
                if happened is not None:
                    stretch = cut(stretch, happened.t)
                    dead = None
                    if self._off(stretch.nodes.q[-1]) and len(stretch.nodes.t) > 1:
                        # So near to where nothing goes on that positions between nodes are not known.
                        stretch = cut(stretch, float(stretch.nodes.t[-2]))
                        dead, happened = DeadPoint(float(stretch.nodes.t[-1]), stretch.nodes.q[-1].copy()), None
                nodes = stretch.nodes
                if nodes.t[-1] > nodes.t[0]:
                    found.append(stretch)
                far = min(LONGEST, 1.7 * far) if happened is None else max(
                    min(far, 2.0 * float(nodes.t[-1] - nodes.t[0]) * law.fastest), FIRST / 8)
                t, q = float(nodes.t[-1]), nodes.q[-1]
                if dead is not None:
                    if self._held_fast(law, dead, found):
                        return found, self._jammed(dead.t, dead.q, found, law)
                    t, q = dead.t, dead.q
                    break
                if happened is not None:
                    pulled = happened.left if happened.pulls else None
                    break
                self.work.done((t - law.t0) / (law.t1 - law.t0))
            else:
                return found, None

    def _held_fast(self, law: Law, dead: DeadPoint, found: list[Stretch]) -> bool:
        """Whether what holds at a dead point still does there, so that nothing goes on; else what held so far has just
        lost its hold, and the last stretch is brought there."""
        before, touching, told = self.held, self.touching, len(self.events)
        decision = self._decide(law, dead.t, dead.q)
        same = {hold.key for hold in self.held} == {hold.key for hold in before}
        self.held, self.touching = before, touching
        del self.events[told:]
        if decision.jam or (decision.falls is None and same):
            return True
        if found:
            nodes, kept = found[-1].nodes, found[-1].nodes.t < dead.t
            last = int(kept.sum()) - 1
            ended = Nodes(np.append(nodes.t[kept], dead.t), *(np.concatenate((each[kept], end[None])) for each, end in (
                (nodes.q, dead.q), (nodes.v, nodes.v[last]), (nodes.a, nodes.a[last]))))  # fmt: skip
            found[-1] = replace(found[-1], nodes=ended, law=replace(found[-1].law, t1=dead.t), folds=True)
        return False

    def _off(self, q: Array) -> bool:
        """Whether what holds does not, at positions q (P, 3)."""
        gaps = [self.pairs[number].measure(i, j, q[None])[0][0] for number, i, j in (hold.key for hold in self.held)
                if number >= 0]  # fmt: skip
        return max(map(abs, gaps), default=0.0) > LOST

    def _restless(self, law: Law, t: float) -> str:
        names = ", ".join(f"'{hold.row.owner}'" for hold in self.held)
        return f"at {t:.6g} s contacts and limits take hold and let go without end ({names}); look at the shapes there"

    def _jammed(self, t: float, q: Array, found: list[Stretch], law: Law) -> DeadPoint:
        if not found:
            found.append(resting(law, q[None], np.array([t]), self.drive.equations))
        contacts = tuple(dict.fromkeys(hold.row.owner for hold in self.held if hold.is_contact))
        limits = tuple(dict.fromkeys(hold.row.owner for hold in self.held if not hold.is_contact))
        return DeadPoint(t, q.copy(), limits, contacts)

    def _equations(self, law: Law, q: Array) -> tuple[Equations, MinimumNorm | None]:
        """The rows that hold over the bodies that may move, and what moves them least where that is not decided."""
        key = (*(hold.key for hold in self.held), self.at_rest)
        if key in self._solvers and len(self._solvers) < 300:
            return self._solvers[key]
        bodies = self.yielding.stirred(q, [hold.row for hold in self.held], sorted(self.at_rest))
        count = len(self.drive.drivers)
        specs: list[RowSpec] = list(self.yielding.base)
        specs += [replace(self.yielding.rests[k], owner=f"rest.{self.drive.rests[k]}", target=count + k)
                  for k in sorted(self.at_rest)]  # fmt: skip
        for hold in self.held:
            spec = hold.row.spec
            owner = hold.row.owner if hold.is_contact else f"limits.{hold.row.owner}"
            specs.append(replace(spec, owner=owner, offset=spec.offset + hold.row.bound))
        moving = set(bodies)
        specs = [spec for spec in specs if any(side in moving for term in spec.terms for side in (term.a, term.b))]
        equations = Equations(specs, bodies, self.yielding.bodies)
        solver = None
        if not self.yielding.decides(equations, q):
            solver = MinimumNorm(equations, self._sprung_reaches)
        self._solvers[key] = equations, solver
        return equations, solver

    @property
    def _sprung_reaches(self) -> Array:
        found = self.around.reaches.copy()
        found[list(self.yielding.sprung), 3] *= 1e4
        return found

    def _stretch(self, law: Law, q: Array, before: Sequence[Stretch]) -> tuple[Stretch, DeadPoint | None]:
        """What is followed along a law with the rows that hold now, on the way that carries on what was before."""
        equations, solver = self._equations(law, q)
        if solver is not None:
            drive = replace(self.drive, minimum_norm=solver)
            nodes, dead = follow_underconstrained(drive, law, q, CancellationToken(), 0.05)
            least = self.yielding.undecided(equations, nodes.q[0], nodes.q[-1])
            return Stretch(law, nodes, self.drive.equations, solver, among_contacts=True, turned_least=least), dead
        walk = Walk(equations, law, q, before)
        dead = walk.to_the_end(CancellationToken())
        nodes = refined(walk.equations, law, walk.nodes())
        return Stretch(law, nodes, walk.equations, among_contacts=True, turned_least=walk.turned_least), dead

    # -- what happens on the way -------------------------------------------------------------------------------

    def _happening(self, stretch: Stretch) -> Happening | None:
        """The first event on a stretch."""
        at = partial(positions, stretch)
        t = looked_at(stretch)
        if t.size < 2:
            return None
        q = at(t)
        stirs = self.around.stirs(q)
        found = [*self._leaves(t, q, at, stirs), *self._limits_reached(t, q, at), *self._rests_reached(t, q, at)]
        found += list(self._comes_off(t, q, at))
        end = min((each.t for each in found), default=np.inf)
        stop = int(np.searchsorted(t, end)) + 1
        held = [hold.key for hold in self.held]
        touched = self.around.first_touch(t[:stop], q[:stop], at, held, self.stood, self.excused, stirs)
        if touched is not None:
            found.append(Happening(touched))
        found += self._let_go(stretch, t, q, min((each.t for each in found), default=np.inf))
        return min(found, key=lambda each: each.t, default=None)

    def _slack_at(self, at: Callable[[Array], Array], hold: Hold, x: float) -> float:
        return self._slack(hold, at(np.array([x]))[0])

    def _leaves(self, t: Array, q: Array, at: Callable[[Array], Array], stirs: Mask) -> Iterable[Happening]:
        """Where contacts that hold run off their features."""
        for hold in self.held:
            number, i, j = hold.key
            if not hold.is_contact or not stirs[number]:
                continue
            slack = self.pairs[number].measure(i, j, q)[1]
            off = np.flatnonzero(slack < -BESIDE)  # where faces lie on each other rounding leaves them by less
            if off.size:
                k = int(off[0])
                low, floor = float(t[max(k - 1, 0)]), 0.0 if slack[max(k - 1, 0)] > BESIDE else BESIDE / 2
                when = root(partial(self._slack_at, at, hold), low, float(t[k]), floor)
                yield Happening(when, hold)

    def _gap_at(self, at: Callable[[Array], Array], keys: Sequence[Key], x: float) -> float:
        """By how much what touched without pressing falls short of having come off."""
        q = at(np.array([x]))
        return 3.0 * BEYOND - min(float(self.pairs[k].measure(i, j, q)[0][0]) for k, i, j in keys)

    def _comes_off(self, t: Array, q: Array, at: Callable[[Array], Array]) -> Iterable[Happening]:
        """Where contacts that touch, but don't hold, come off."""
        held = {hold.row.owner for hold in self.held}
        for owner in self.touching - held:
            keys = [key for key in self.stood if key[0] >= 0 and self.pairs[key[0]].owner == owner]
            if not keys:
                continue
            gaps = np.min([self.pairs[number].measure(i, j, q)[0] for number, i, j in keys], axis=0)
            off = np.flatnonzero(gaps > 6.0 * BEYOND)
            if off.size:
                k = int(off[0])
                low, high = float(t[max(k - 1, 0)]), float(t[k])
                when = root(partial(self._gap_at, at, keys), low, high)
                yield Happening(max(when, float(np.nextafter(low, np.inf))))

    def _limit_at(self, at: Callable[[Array], Array], number: int, x: float) -> float:
        return float(self.limit_rows.gaps(at(np.array([x])))[0, number])

    def _limits_reached(self, t: Array, q: Array, at: Callable[[Array], Array]) -> Iterable[Happening]:
        if not len(self.limit_rows):
            return
        gaps = self.limit_rows.gaps(q)
        held = {hold.key[1] for hold in self.held if not hold.is_contact}
        for number in range(gaps.shape[1]):
            off = np.flatnonzero(gaps[:, number] < -BEYOND)
            if number in held or not off.size or not off[0]:
                continue
            k = int(off[0])
            when = root(partial(self._limit_at, at, number), float(t[k - 1]), float(t[k]))
            yield Happening(when)

    def _rest_at(self, at: Callable[[Array], Array], number: int, way: float, x: float) -> float:
        return way * float(self.yielding.at_rests(at(np.array([x]))[0])[number] - self.rests[number])

    def _rests_reached(self, t: Array, q: Array, at: Callable[[Array], Array]) -> Iterable[Happening]:
        """Where joints that something keeps from their rest come to it."""
        if not len(self.rests):
            return
        off = self.yielding.rest_rows.values(q) - self.rests
        for k in range(len(self.rests)):
            if k in self.at_rest:
                continue
            side = np.where(np.abs(off[:, k]) > ON, np.sign(off[:, k]), 0.0)
            start = next((each for each in side.tolist() if each), 0.0)
            turned = np.flatnonzero(side == -start)
            if start and turned.size and turned[0]:
                n = int(turned[0])
                when = root(partial(self._rest_at, at, k, start), float(t[n - 1]), float(t[n]))
                yield Happening(when)

    def _let_go(self, stretch: Stretch, t: Array, q: Array, end: float) -> list[Happening]:
        """Where a row that holds would have to pull."""
        if not self.held:
            return []
        equations, _ = self._equations(stretch.law, q[0])
        first, senses = equations.rows - len(self.held), np.array([hold.row.sense for hold in self.held], dtype=float)
        loaded = np.array([hold.key in self.loaded for hold in self.held])
        stubborn = np.array([hold.key in self.stubborn for hold in self.held])
        looks = [0, *range(4, len(t) - 1, 4), len(t) - 1]
        worst: Happening | None = None

        def firm(x: float) -> Array:
            place, v, _ = rates(stretch, x)
            if isinstance(stretch.solver, MinimumNorm):  # what lies between nodes is not quite the least
                v = stretch.solver.rate(place, stretch.law.rates(x))[0]
            pace = float(np.linalg.norm(stretch.law.rates(x)[: len(self.drive.drivers)]))
            v = v / max(pace, 1e-6 * stretch.law.fastest)
            weight, press = self.yielding.forces(place, v, equations, first, self._toward(place))
            firmness: Array = senses * np.where(loaded, weight + PRESSES * press, PRESSES * press)
            return firmness

        before = float(t[0])
        for k in looks:
            x = float(t[k])
            if k == 0:
                continue
            if before >= end:
                break
            force = firm(min(x, end))
            force[stubborn] = 0.0
            pulls = np.flatnonzero(force < -1e-8)
            if pulls.size:
                number = int(pulls[0])
                when = root(partial(_entry, firm, number), before, min(x, end), 1e-12)
                worst = Happening(when, self.held[number], pulls=True)
                break
            before = x
        return [worst] if worst is not None else []

    def fall_once(self, law: Law, q: Array) -> list[Array] | None:
        """Where all go when one rest has its way from positions q (P, 3), a few places of it; None where none has."""
        decision = self._decide(law, law.t0, q)
        if decision.falls is None:
            return None
        self._fall(decision.falls, law.t0, q)
        return self.way

    # -- falling -----------------------------------------------------------------------------------------------

    def _fall(self, number: int, t: float, q: Array) -> Array:
        """Where a joint comes to that falls to its rest, at one value of all drivers; what is looked along is its way,
        on which nothing is fallen through."""
        if self.depth > 5:
            raise located(f"joints.{self.drive.rests[number]}", "what falls sets free what falls again, without end")
        inner, law = falling(self, number, q)
        inner.touching, inner.passed = self.touching, self.slid_off
        stretches, dead = inner.follow(law, q)
        bodies = self.yielding.hanging(number)
        lost = {hold.row.owner for hold in self.held if hold.is_contact
                and any(side in bodies for term in hold.row.spec.terms for side in (term.a, term.b))}  # fmt: skip
        lost |= {event.owner for event in inner.events if event.kind != "touch"} & self.touching
        self._tell(t, "drop", lost)
        self._tell(t, "part", self.touching - lost - inner.touching)
        self._tell(t, "touch", inner.touching - (self.touching - lost))
        self.touching = inner.touching
        places = np.concatenate([stretch.nodes.q for stretch in stretches])
        end: Array = dead.q if dead is not None else places[-1]
        self.way = [*places[:: max(1, len(places) // SHOWN)], end]
        return end


def falling(pusher: Pusher, number: int, q: Array) -> tuple[Pusher, Law]:
    """What drives a rest from where its joint stands at positions q (P, 3), all drivers held; with its law. Free parts
    don't give way, unless it pushes them."""
    outer, drive, system = pusher.yielding, pusher.drive, pusher.drive.system
    joint, count = drive.rests[number], len(drive.drivers)
    specs = [*outer.base, replace(outer.rests[number], owner=f"rest.{joint}", target=count)]
    if not (outer.pushes[number] and pusher.pushes):
        still = {body for cluster in outer.clusters if not set(cluster) & outer.sprung for body in cluster}
        moving = tuple(body for body in system.moving if body not in still)
        system = replace(system, moving=moving)
        specs = [spec for spec in specs
                 if any(side in set(moving) for term in spec.terms for side in (term.a, term.b))]  # fmt: skip
    others = [k for k in range(len(drive.rests)) if k != number]
    inner = replace(
        drive, system=system, drivers=(*drive.drivers, Driver(joint, joint, None, 0.0, 1)),
        equations=Equations(specs, system.moving, len(system.body_ids)), rests=tuple(drive.rests[k] for k in others),
    )  # fmt: skip
    yielding = Yielding(pusher.document, inner, pusher.around.reaches, len(specs))
    yielding.sprung = outer.sprung
    table = np.zeros((count + 1 + len(others), 11))
    target = outer.equations.table.target
    for row, value in enumerate(outer.equations.values(q[None])[0].tolist()):
        if target[row] >= 0:
            table[target[row], 0] = value
    now = float(outer.at_rests(q)[number])
    table[count, :2] = now, float(pusher.rests[number]) - now
    table[count + 1 :, 0] = pusher.rests[others]
    return Pusher(pusher.around, yielding, pusher.rests[others], pusher.work, pusher.depth + 1), Law(0.0, 1.0, table)


def _entry(found: Callable[[float], Array], number: int, x: float) -> float:
    return float(found(x)[number])
