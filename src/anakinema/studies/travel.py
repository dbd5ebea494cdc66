"""Free travel: how far a joint can go from where it stands, both ways, and what stops it at each end."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document.changes import Remove, Set, changed
from ..document.model import Document
from ..errors import located
from ..formatting import in_document_units, shown
from ..kinds import Dimension
from ..kinematics.modes import placed
from ..kinematics.motion import Motion
from ..kinematics.positions import fixing
from ..kinematics.simulation import simulate

STEPS = 240
FAR = 3.0
"""How far a slide is looked along before it is free without end, in sizes of the whole mechanism."""
TOUCHING = 1e-6
"""Distance below which two parts touch (document lengths)."""
Reason = Literal["limit", "contact", "dead point", "full turn", "no end"]


@dataclass(frozen=True)
class End:
    """An end of the free travel: the joint's coordinate (core units), what stops it there in words, the positions
    (P, 3: document lengths, rad), where it happens (x, y) for a contact, and the ids of what ends it: a joint, or the
    two parts that touch."""

    value: float
    reason: Reason
    text: str
    q: Array
    at: complex | None = None
    what: tuple[str, ...] = ()


@dataclass(frozen=True)
class Travel:
    """The free travel of a joint from where it stands."""

    joint: str
    here: float
    low: End
    high: End

    @property
    def whole(self) -> float:
        """How far it is from end to end (core units)."""
        return self.high.value - self.low.value


def free_travel(motion: Motion, q: Array, joint: str, work: CancellationToken | None = None) -> Travel:
    """How far a joint goes either way from positions q (P, 3: document lengths, rad), its own limits left out, until
    the limit of another joint, a contact of two parts that were apart, a dead point, or a full turn.

    Where the joint is a freedom of its own, the others are held where they stand; else they move least. A contact is
    found between the steps: a pair is looked at closely where the certified search finds that it overlaps.
    Raises `DocumentError` where the joint has no coordinate or is suspended.
    """
    work = work or CancellationToken()
    document, coordinates = motion.document, motion.system.coordinates
    if joint not in coordinates:
        raise located(f"joints.{joint}", "has no coordinate, or is suspended; there is nothing to travel")
    column = coordinates.index(joint)
    turns = coordinates.dimension(column) == Dimension.ANGLE
    near = motion.at(np.zeros(1)).coordinates[0]
    here = float(motion.posed(q, near)[column])
    reach = math.tau if turns else _far(motion, q)
    ends = [
        _end(document, motion, q, joint, here, here + sign * reach, work.part(k / 2, (k + 1) / 2))
        for k, sign in enumerate((-1.0, 1.0))
    ]
    return Travel(joint, here, ends[0], ends[1])


def _far(motion: Motion, q: Array) -> float:
    from ..clearance.approach import TOLERANCE
    from ..clearance.forms import shape_of

    reaches = [motion.system.scale]
    for part in motion.document.parts.values():
        place = complex(*q[motion.system.body(part.id), :2])
        points = [abs(complex(*point)) for point in part.points.values()]
        around = shape_of(part.slabs, TOLERANCE).reach if part.shapes else 0.0
        reaches.append(abs(place) + max([around, *points]))
    return FAR * max(reaches)


def _end(
    document: Document, motion: Motion, q: Array, joint: str, here: float, to: float, work: CancellationToken
) -> End:
    coordinates = motion.system.coordinates
    dimension = coordinates.dimension(coordinates.index(joint))
    base = placed(document, motion, q)
    own = document.home("joints", joint)
    held = [each for each in fixing(motion) if each != joint] if joint in fixing(motion) else []
    stands = motion.posed(q, motion.at(np.zeros(1)).coordinates[0])
    still = {}
    for number, other in enumerate(held):
        place = coordinates.index(other)
        value = in_document_units(float(stands[place]), coordinates.dimension(place), document.units)
        still[f"held-{number}"] = {"joint": other, "from": value, "to": value, "duration": "1 s", "steps": STEPS}
    changes: list[Set | Remove] = [
        Set(("drivers",), {"way": {"joint": joint, "from": in_document_units(here, dimension, document.units),
                                   "to": in_document_units(to, dimension, document.units),
                                   "duration": "1 s", "steps": STEPS}, **still}),
        *(Set((section,), {}) for section in ("checks", "positions", "tracks") if section in document.tree),
    ]  # fmt: skip
    if document.joints[joint].limits.min is not None or document.joints[joint].limits.max is not None:
        changes.append(Remove((*own, "limits")))
    way = simulate(changed(base, *changes), work=work.part(0.0, 0.3))
    column = way.system.coordinates.index(joint)
    end, reason, text = way.path.t1, "no end", "nothing stops it as far as was looked"
    at: complex | None = None
    if dimension == Dimension.ANGLE:
        reason, text = "full turn", "it can turn all around"
    what: tuple[str, ...] = ()
    if way.stop is not None:
        what = (way.stop.joint,)
        end, text = way.stop.t, way.stop.text.replace("driver 'way'", f"joint '{joint}'")
        reason = "limit" if way.stop.reason == "limit" else "dead point"
        if way.stop.reason == "contact":
            reason, text = "contact", _where_it_touches(way) or text
            held_by = document.contacts.get(way.stop.joint)
            what = (held_by.a, held_by.b) if held_by is not None else what
    touched = _first_touch(way, end, work.part(0.3, 1.0))
    if touched is not None:
        end, what, at = touched
        reason, text = "contact", f"'{what[0]}' and '{what[1]}' touch"
    value = float(way.coordinates(np.array([end]))[0, column])
    where = shown(value, dimension, document.units)
    positions = way.positions(np.array([end]))[0]
    return End(value, reason, f"at {where}: {text}", positions, at, what)  # type: ignore[arg-type]


def _where_it_touches(way: Motion) -> str:
    """What the contact does that stops a motion, in words: of several that hold there the one that came last."""
    holding = way.path.dead.contacts if way.path.dead is not None else ()
    last = next((event.owner for event in reversed(way.path.events) if event.owner in holding), None)
    if last is None:
        return ""
    contact = way.document.contacts[last]
    return f"where '{contact.a}' touches '{contact.b}'"


def _first_touch(way: Motion, end: float, work: CancellationToken) -> tuple[float, tuple[str, str], complex] | None:
    """The first time before the end at which two parts meet that were apart: time, pair, place."""
    from ..clearance.approach import Watch, closest_approaches
    from ..clearance.pairs import pairs_to_watch, share_depth

    document = way.document
    pairs = [pair for pair in pairs_to_watch(document) if frozenset(pair) not in document.ignored]
    joined = {frozenset((joint.a.part, joint.b.part)) for joint in document.active_joints.values()}
    pairs += [(one, two) for one, two in map(sorted, joined - {frozenset(pair) for pair in pairs})
              if share_depth(document, one, two)]  # a pin meets the ends of its slot
    if not pairs or end <= 0.0:
        return None
    found = closest_approaches(way, pairs, work.part(0.0, 0.8))
    near = [each for each in found if each.distance is not None and each.distance < -TOUCHING]
    if not near:
        return None
    watch = Watch(way, [each.parts for each in near], work)
    best: tuple[float, tuple[str, str], complex] | None = None
    for k, each in enumerate(near):
        work.check()
        t = np.unique(np.append(np.linspace(0.0, end, STEPS + 1), each.t))
        t = t[t <= (end if best is None else best[0])]
        gaps = watch.signed(k, t)
        beyond = np.flatnonzero(gaps < -TOUCHING)
        if not beyond.size or beyond[0] == 0:
            continue  # it never meets before, or overlaps where it stands: no travel opens or closes that
        low, high = float(t[beyond[0] - 1]), float(t[beyond[0]])
        for _ in range(50):
            middle = (low + high) / 2
            if float(watch.signed(k, np.array([middle]))[0]) < 0.0:
                high = middle
            else:
                low = middle
        if best is None or low < best[0]:
            points = watch.at(k, low)[1]
            best = (low, each.parts, (points[0] + points[1]) / 2)
    return best


def limits_change(document: Document, travel: Travel, margin: float = 0.0) -> Set:
    """The free travel as the joint's limits, less a margin (core units) at both ends; a rest stays. What a full turn or
    nothing ends is not limited. Raises `DocumentError` where no room is left between the margins."""
    joint = document.joints[travel.joint]
    if travel.whole <= 2 * margin:
        raise located(f"joints.{travel.joint}.limits", "the margins leave no room between the ends")
    from ..joints import JOINT_TYPES

    dimension = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) or Dimension.LENGTH
    given = dict(document.entry("joints", travel.joint).get("limits", {}))
    given.pop("min", None)
    given.pop("max", None)
    for key, end, sign in (("min", travel.low, 1.0), ("max", travel.high, -1.0)):
        if end.reason not in ("full turn", "no end"):
            given[key] = round(in_document_units(end.value + sign * margin, dimension, document.units), 9)
    order = [key for key in ("min", "max", "rest") if key in given]
    return Set((*document.home("joints", travel.joint), "limits"), {key: given[key] for key in order})
