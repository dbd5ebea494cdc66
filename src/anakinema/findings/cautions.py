"""Cautions: where a body part can be caught between what moves, and what energy is stored.

Minimum gaps after ISO 13854 (from memory): 25 mm for a finger, 100 for a hand, 120 for an arm, 180 for a leg, 300 for a
head, 500 for a body. A gap is a caution where it opens far enough to let one in, and closes below its minimum gap. Gaps
are looked at in plan, at `LOOKS` moments: this warns, it certifies nothing.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Mask
from ..clearance.pairs import rigid_bodies
from ..document.model import Document, Part
from ..formatting import shown
from ..geometry.areas import placed, polygon_of
from ..geometry.outline import Region
from ..kinds import MM_IN, Dimension
from ..kinematics.masses import GRAVITY, center_along, masses_in
from ..kinematics.motion import Motion

if TYPE_CHECKING:
    import shapely

FIRST, LOOKS = 25, 121
"""Moments of the motion at which gaps are looked at."""
COARSE = 0.05
"""How far outlines may be off that gaps are looked at with (mm)."""
MOST_PAIRS = 300
"""Pairs of rigid bodies that are looked at, those placed nearest to each other first."""
MOST_CORNERS = 200
"""Corners of an outline that is looked at."""
FINGER = 25.0
"""The least gap in depth between parts that pass each other, so that they don't shear (mm)."""
LITTLE = 0.1
"""Energy (J) below which a raised weight is not named."""
USUAL = (
    "Fit guards, or keep safe distances, wherever a gap closes; lock out drives, springs and raised weights before "
    "hands go in. This list is an aid: local codes and licensed practice decide."
)
"""What is said beside every list of cautions."""


@dataclass(frozen=True)
class Limb:
    """A part of a body: the least gap that does not crush it, and the opening that lets it in (mm)."""

    name: str
    gap: float
    enters: float


LIMBS = (
    Limb("finger", 25.0, 4.0), Limb("hand", 100.0, 30.0), Limb("arm", 120.0, 60.0), Limb("leg", 180.0, 120.0),
    Limb("head", 300.0, 200.0), Limb("body", 500.0, 300.0),
)  # fmt: skip
"""Minimum gaps after ISO 13854, openings for a finger after ISO 13857, both from memory; the other openings are common
practice, no source."""


@dataclass(frozen=True)
class Caution:
    """Something that can hurt: ``crush`` or ``shear`` between two parts, a ``nip`` of two, or stored ``energy``.

    `opens` and `closes` are the widest and the narrowest gap (document lengths), `speed` the fastest at which it closes
    while it is narrower than the minimum gap (lengths/s), `reach` how far from the outside of the mechanism the place
    `at` lies (x + i y), `t` the moment at which it is narrowest and `driver` the first driver's coordinate there."""

    kind: str
    parts: tuple[str, ...]
    text: str
    limbs: tuple[str, ...] = ()
    opens: float = 0.0
    closes: float = 0.0
    speed: float = 0.0
    reach: float = 0.0
    at: complex | None = None
    t: float | None = None
    driver: float | None = None
    place: str = ""
    spans: tuple[tuple[float, float], ...] = ()
    """When it closes and is narrower than the least of its minimum gaps (s), for drawing."""


def cautions(motion: Motion) -> tuple[Caution, ...]:
    """All of a motion: what catches most first, then what is stored."""
    caught = sorted(_closing(motion), key=lambda one: (-len(one.limbs), one.closes, -one.speed))
    return (*caught, *_nips(motion.document), *_stored(motion))


# -- gaps that close -------------------------------------------------------------------------------------------


def _closing(motion: Motion) -> Iterator[Caution]:
    document = motion.document
    if motion.path.t1 <= 0:
        return
    mm = MM_IN[document.units.length]
    first = _Bodies(motion, np.linspace(0.0, motion.path.t1, FIRST))
    near = [pair for pair in first.pairs() if _may_catch(first.gap(*pair) * mm)]
    bodies = _Bodies(motion, np.linspace(0.0, motion.path.t1, LOOKS))
    for one, two in near:
        gap = bodies.gap(one, two)
        k = int(np.argmin(gap))
        found = _caught(motion, bodies, (one, two), gap, bodies.nearest(one, two, k), mm)
        if found is not None:
            yield found
    yield from _at_ends(motion, bodies, mm)


def _at_ends(motion: Motion, bodies: "_Bodies", mm: float) -> Iterator[Caution]:
    """What slides in another, and closes on it along its way."""
    document = motion.document
    for joint in document.active_joints.values():
        a, b = (document.parts[ref.part] for ref in (joint.a, joint.b))
        if not joint.kind.straight or joint.kind.pin or not a.slabs or not b.slabs:
            continue
        if joint.id not in motion.system.coordinates or not any(x.meets(y) for x in a.slabs for y in b.slabs):
            continue
        column = motion.system.coordinates.index(joint.id)
        along = motion.coordinates(bodies.t)[:, column]
        turn = bodies.q[0, motion.system.body(a.id), 2] + joint.values.get("direction", 0.0)
        for sense in (1.0, -1.0):
            start, at = _ahead(bodies, a, b, sense * complex(np.exp(1j * turn)))
            if start is None:
                continue
            found = _caught(motion, bodies, (b, a), np.maximum(start - sense * (along - along[0]), 0.0), at, mm)
            if found is not None:
                yield found


def _ahead(bodies: "_Bodies", a: Part, b: Part, way: complex) -> tuple[float | None, complex]:
    """How far a part can go a way until it meets another, as both stand at the start, and where that is; None where it
    meets nothing."""
    import shapely

    still, slide = bodies.placed(a, b)[0], bodies.placed(b, a)[0]
    far = sum(abs(each) for each in (*still.bounds, *slide.bounds)) + 1.0
    best, place = np.inf, 0j
    for points, other, sense in ((slide, still, 1.0), (still, slide, -1.0)):
        spots = shapely.get_coordinates(shapely.segmentize(points, far / 400))
        z = spots[:, 0] + 1j * spots[:, 1]
        ends = z + sense * way * far
        lines = shapely.linestrings(np.stack((spots, np.stack((ends.real, ends.imag), axis=1)), axis=1))
        hits = shapely.intersection(lines, shapely.boundary(other))
        apart = shapely.distance(shapely.points(spots), hits)
        apart = np.where(np.isfinite(apart) & (apart > 1e-9), apart, np.inf)
        k = int(np.argmin(apart))
        if apart[k] < best:
            best, place = float(apart[k]), complex(z[k] + (sense > 0) * way * apart[k])
    return (best, place) if np.isfinite(best) else (None, 0j)


def _may_catch(gap: Array) -> bool:
    """Whether a gap (mm), looked at a few times, may let something in and close on it."""
    opens, closes = float(gap.max()) * 1.3 + 5.0, float(gap.min()) * 0.7 - 5.0
    return float(np.ptp(gap)) > 0.1 and any(opens >= limb.enters and closes < limb.gap for limb in LIMBS)


class _Bodies:
    """The parts of a motion with their outlines in plan, where they stand at moments."""

    def __init__(self, motion: Motion, t: Array):
        self.motion, self.document, self.t = motion, motion.document, t
        self.q = motion.positions(t)
        self.heads = rigid_bodies(self.document)
        self.parts: list[Part] = [part for part in self.document.parts.values()
                                  if part.slabs and part.hardware is None]  # fmt: skip
        self._placed: dict[tuple[str, tuple[int, ...]], np.ndarray] = {}

    def pairs(self) -> list[tuple[Part, Part]]:
        """Those that move against each other, and are not so far apart in depth that nothing is caught."""
        found = []
        far = FINGER / MM_IN[self.document.units.length]
        moving = self.motion.system.moving_parts
        known = {frozenset((joint.a.part, joint.b.part)) for joint in self.document.active_joints.values()}
        for k, one in enumerate(self.parts):
            for two in self.parts[k + 1 :]:
                apart = max(two.slabs[0].low - one.slabs[-1].high, one.slabs[0].low - two.slabs[-1].high)
                if self.heads[one.id] == self.heads[two.id] or not {one.id, two.id} & moving or apart >= far:
                    continue
                if frozenset((one.id, two.id)) not in known:
                    found.append((one, two))
        if len(found) > MOST_PAIRS:
            place = {part.id: complex(*part.pose[:2]) for part in self.parts}
            found.sort(key=lambda pair: abs(place[pair[0].id] - place[pair[1].id]))
        return found[:MOST_PAIRS]

    def nearest(self, one: Part, two: Part, k: int) -> complex:
        """The middle of the shortest way between two at a moment."""
        import shapely

        pair = [each[k] if len(each) > 1 else each[0] for each in (self.placed(one, two), self.placed(two, one))]
        line = shapely.get_coordinates(shapely.shortest_line(*pair))
        return complex(*line.mean(axis=0))

    def gap(self, one: Part, two: Part) -> Array:
        """(S,) the distance of two in plan at all moments."""
        import shapely

        found: Array = np.broadcast_to(shapely.distance(self.placed(one, two), self.placed(two, one)), self.t.shape)
        return found

    def placed(self, part: Part, other: Part | None = None) -> np.ndarray:
        """The outline of a part at all moments, of what stands still once: of what of it shares depth with another
        part, where anything does."""
        own, beside = range(len(part.slabs)), () if other is None else other.slabs
        facing = tuple(k for k in own if any(part.slabs[k].meets(each) for each in beside))
        key = part.id, facing or tuple(own)
        if key not in self._placed:
            at = self.q[:, self.motion.system.body(part.id)]
            if part.id not in self.motion.system.moving_parts:
                at = at[:1]
            outline = _outline(tuple(part.slabs[k].region for k in key[1]), COARSE / MM_IN[self.document.units.length])
            self._placed[key] = placed(outline, at[:, 0] + 1j * at[:, 1], np.exp(1j * at[:, 2]))
        found: np.ndarray = self._placed[key]
        return found


def _caught(
    motion: Motion, bodies: _Bodies, pair: tuple[Part, Part], gap: Array, at: complex, mm: float
) -> Caution | None:
    """What the gap of two parts (S,) does, if it can catch something; `at` is where it is narrowest."""
    (one, two), t = pair, bodies.t
    opens, closes = float(gap.max()), float(gap.min())
    limbs = tuple(limb for limb in LIMBS if opens * mm >= limb.enters and closes * mm < limb.gap)
    if not limbs or opens - closes < 0.5 / mm:
        return None
    least = limbs[-1].gap / mm
    rate = -np.gradient(gap, t)
    narrow = gap < least
    speed = float(rate[narrow].max(initial=0.0))
    if speed <= 0.0:
        return None
    spans = _spans(t, (gap < limbs[0].gap / mm) & (rate > 0))
    k = int(np.argmin(gap))
    share = any(a.meets(b) for a in one.slabs for b in two.slabs)
    kind = "crush" if share else "shear"
    document = motion.document
    driver = motion.driver_value(float(t[k]))
    where = f" at {shown(driver, motion.driver_dimension, document.units, 1)}" if driver is not None else ""
    lengths = [shown(each, Dimension.LENGTH, document.units, 1) for each in (opens, closes)]
    fast = shown(speed, Dimension.LENGTH.rate, document.units, 0)
    told = ", ".join(limb.name for limb in limbs)
    text = (f"{told} between '{one.id}' and '{two.id}': opens to {lengths[0]}, "
            f"closes to {lengths[1]}{where}, at up to {fast}")  # fmt: skip
    return Caution(
        kind, (one.id, two.id), text, tuple(limb.name for limb in limbs), opens, closes, speed,
        _reach(bodies, k, at), at, float(t[k]), driver, f"parts.{one.id}", spans,
    )  # fmt: skip


@lru_cache(maxsize=512)
def _outline(regions: tuple[Region, ...], tolerance: float) -> "shapely.Geometry":
    """Regions as one plain outline."""
    import shapely

    return _plain(shapely.union_all([polygon_of(region, tolerance) for region in regions]), tolerance)


def _plain(outline: "shapely.Geometry", tolerance: float) -> "shapely.Geometry":
    """An outline of few enough corners to be looked at often: teeth are cut off first."""
    import shapely

    for _ in range(7):
        if shapely.get_num_coordinates(outline) <= MOST_CORNERS:
            break
        tolerance *= 2
        outline = shapely.simplify(outline, tolerance)
    return outline


def _reach(bodies: _Bodies, k: int, at: complex) -> float:
    """How far from the outside of the whole mechanism a place lies at a moment."""
    import shapely

    every = [placed[k] if len(placed) > 1 else placed[0] for placed in map(bodies.placed, bodies.parts)]
    hull = shapely.convex_hull(shapely.union_all([shapely.convex_hull(each) for each in every]))
    return float(shapely.distance(shapely.Point(at.real, at.imag), shapely.boundary(hull)))


def _spans(t: Array, narrow: Mask) -> tuple[tuple[float, float], ...]:
    """The spans of time in which something holds."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], narrow.astype(int), [0]))))
    return tuple((float(t[low]), float(t[high - 1])) for low, high in edges.reshape(-1, 2).tolist())


def _nips(document: Document) -> Iterator[Caution]:
    """Where wheels, belts, cams and racks draw in what comes between them."""
    for coupling in document.active_couplings.values():
        if coupling.kind.meshes or coupling.follower is not None:
            parts = tuple(document.joints[name].b.part for name in (coupling.a, coupling.b))
            text = f"'{parts[0]}' and '{parts[1]}' draw in what comes between them, at '{coupling.id}'"
            yield Caution("nip", parts, text, ("finger",), place=f"joints.{coupling.id}")


# -- stored energy ---------------------------------------------------------------------------------------------


def _stored(motion: Motion) -> Iterator[Caution]:
    """Springs, as joints that go back to a rest by themselves, and raised weights."""
    document = motion.document
    for joint in document.active_joints.values():
        if joint.limits.rest is not None:
            dimension = joint.kind.coordinate_dimension(joint.values) or Dimension.NUMBER
            rest = shown(joint.limits.rest, dimension, document.units, 1)
            text = f"'{joint.id}' goes back to {rest} by itself: what does that stores energy, and moves with no drive"
            yield Caution("energy", (joint.a.part, joint.b.part), text, place=f"joints.{joint.id}")
    yield from _raised(motion, document)


def _raised(motion: Motion, document: Document) -> Iterator[Caution]:
    moving = motion.system.moving_parts
    weights = {name: one for name, one in masses_in(motion).items() if name in moving}
    if not weights or motion.path.t1 <= 0:
        return
    t = np.linspace(0.0, motion.path.t1, LOOKS)
    height = center_along(motion, weights, t).imag
    mass = sum(one.mass for one in weights.values())
    energy = mass * GRAVITY * float(np.ptp(height)) * MM_IN[document.units.length] / 1000.0
    if energy < LITTLE:
        return
    k = int(np.argmax(height))
    drop = shown(float(np.ptp(height)), Dimension.LENGTH, document.units, 1)
    text = (f"The moving parts ({mass:.3g} kg) are raised by {drop} over the motion: let go, they can fall with "
            f"{energy:.3g} J")  # fmt: skip
    driver = motion.driver_value(float(t[k]))
    yield Caution("energy", tuple(weights), text, t=float(t[k]), driver=driver, place="drivers")


