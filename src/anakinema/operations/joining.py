"""Joining two parts by a feature of each: which joint fits, and the changes that make it."""

import cmath
import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from ..document.changes import Change, Set, changed, lookup
from ..document.model import Document, Part
from ..document.written import pose_of, tidy
from ..errors import DocumentError, Fault, located
from ..geometry.features import SAME, Feature, FeatureKind
from ..joints import JOINT_TYPES, Elsewhere, Guide, Meeting
from ..kinds import Dimension
from .building import Made, Size, add_hole, free_name, named_point, place_at, said_at
from .features import features

Pose = tuple[float, float, float]
LAYER = 1.0
"""How deep a part is of which nothing is said (document lengths), as it is for reading."""


@dataclass(frozen=True)
class Grab:
    """A feature of a part, as it was picked."""

    part: str
    feature: Feature


@dataclass(frozen=True)
class Proposal:
    """A joint to make: its type, the two sides, and whether the second part is brought to the first."""

    kind: str
    one: Grab
    two: Grab
    bring: bool = True
    flip: bool = False
    """Whether the part that is brought is turned half round."""
    swap: bool = False
    """Whether the second side comes first, so that the coordinate counts the other way."""
    offset: float = 0.0
    """Of a slide or a slot, how far aside of the first feature it runs: out of the part from a side, else to the left
    of its direction (document lengths)."""


def meeting(one: Grab, two: Grab) -> Meeting:
    """What two features are to each other."""
    if one.feature.edge is not None and two.feature.edge is not None and (one.feature.round or two.feature.round):
        return Meeting.RIM
    slotted = one.feature.kind.slotted or two.feature.kind.slotted
    directed = one.feature.direction is not None or two.feature.direction is not None
    if one.feature.about is not None or two.feature.about is not None:
        return Meeting.ROUND_SLOT
    if slotted and directed:
        return Meeting.SLOT
    if {one.feature.kind, two.feature.kind} <= {FeatureKind.SIDE, FeatureKind.CENTRE_LINE}:
        return Meeting.SIDES
    return Meeting.LINE if directed else Meeting.PLACES


def kinds_for(one: Grab, two: Grab) -> tuple[str, ...]:
    """The joint types that can be made of two features, the one that fits best first."""
    how = meeting(one, two)
    return tuple(sorted((name for name, kind in JOINT_TYPES.items() if how in kind.suits),
                        key=lambda name: JOINT_TYPES[name].suits[how]))  # fmt: skip


def proposed(one: Grab, two: Grab, bring: bool = True) -> Proposal:
    """The joint that fits two features best."""
    return Proposal(kinds_for(one, two)[0], one, two, bring)


def join(
    document: Document, wanted: Proposal, poses: Mapping[str, Pose], start: Mapping[str, Pose] | None = None
) -> Made:
    """The changes that make a joint; `poses` are where the parts stand, `start` where they do when the motion starts
    (where it is not said, there). The part that is brought is the second, or the first where the second is fixed.
    Raises `DocumentError` where both are one part or both are fixed."""
    start = start if start is not None else poses
    one, two, kind = wanted.one, wanted.two, JOINT_TYPES[wanted.kind]
    if kind.slotted and one.feature.direction is None and one.feature.about is None:
        one, two = two, one  # the slot's part comes first
    first, second = document.parts[one.part], document.parts[two.part]
    if one.part == two.part:
        raise DocumentError([Fault(f"parts.{one.part}", "both features are of one part; a joint needs two parts")])
    if first.fixed and second.fixed:
        text = f"'{one.part}' and '{two.part}' are both fixed; a joint between them could not move"
        raise DocumentError([Fault(f"parts.{two.part}", text)])
    if kind.of_edges:
        return _touching(document, wanted, one, two, start)
    way = one.feature.direction
    turn = poses[two.part][2] - poses[one.part][2]
    if kind.guide is Guide.STRAIGHT and wanted.bring and None not in (way, two.feature.direction):
        assert way is not None and two.feature.direction is not None
        turn += math.remainder(way - two.feature.direction - turn, math.pi)  # the sides become parallel
    turn += math.pi if wanted.flip else 0.0
    here, there = spot_at(poses[one.part], one.feature.at), spot_at(poses[two.part], two.feature.at)
    changes: list[Change] = []
    at_two = two.feature.at
    at_one = one.feature.at
    if wanted.offset and kind.straight:
        out = -1j if one.feature.edge is not None else 1j  # the part lies to the left of its sides
        at_one += out * cmath.rect(wanted.offset, way if way is not None else 0.0)
        one = replace(one, feature=replace(one.feature, at=at_one))
        here = spot_at(poses[one.part], at_one)
    if wanted.bring:
        changes += _brought(document, wanted, one, two, poses, turn, start)
    elif kind.slotted and one.feature.about is not None:
        pass  # about the slot's centre, wherever the pin stands
    elif kind.meets:  # joined where the second's feature stands now
        at_one = (there - _origin(poses[one.part])) * cmath.rect(1.0, -poses[one.part][2])
    elif way is None:
        way = cmath.phase(there - here) - poses[one.part][2] if abs(there - here) > SAME else 0.0
    else:  # the line of the slide runs through where the second's feature stands now
        across = 1j * cmath.rect(1.0, way)
        aside = (there - here) * cmath.rect(1.0, -poses[one.part][2])
        at_one += across * (across.conjugate() * aside).real
    flush = kind.rigid and None not in (one.feature.edge, two.feature.edge)  # side to side in one plane
    loose = next((pair for pair in ((second, first), (first, second)) if _is_loose(document, pair[0])), None)
    if loose is not None and not flush:
        changes.append(_before(document, loose[0].id, [loose[1]]))
    arc = one.feature.about if kind.slotted else None
    if arc is not None:
        at_one = arc
    a, named = named_point(document, first.id, at_one)
    b, named_too = named_point(document, second.id, at_two)
    changes += [*named, *named_too]
    entry: dict[str, Any] = {"type": wanted.kind, "a": f"{one.part}.{a}", "b": f"{two.part}.{b}"}
    per = Dimension.ANGLE.per_core(document.units)
    if arc is not None and one.feature.span is not None:
        entry["radius"] = tidy(abs(one.feature.at - arc))
        entry["limits"] = {"min": tidy(one.feature.span[0] * per), "max": tidy(one.feature.span[1] * per)}
    elif kind.straight:
        angle = math.remainder(way if way is not None else 0.0, math.pi)  # positive to the right, or upward
        entry["direction"] = tidy(angle * per)
        if one.feature.kind.slotted and one.feature.reach is not None:  # the pin, or the block, stays in its slot
            low, high = one.feature.reach
            if way is not None and abs(math.remainder(angle - way, math.tau)) > 1e-9:  # the other way is positive
                low, high = -high, -low
            entry["limits"] = {"min": tidy(low), "max": tidy(high)}
    if wanted.swap and kind.meets:
        entry["a"], entry["b"] = entry["b"], entry["a"]
    elif wanted.swap and "direction" in entry:  # the other way is positive
        entry["direction"] = tidy(math.remainder(float(entry["direction"]) / per + math.pi, math.tau) * per)
    name = free_name(document.tree.get("joints", {}), kind.word)
    return Made((*changes, Set(("joints", name), entry)), ("joints", name))


def pinned(
    document: Document, made: Made, poses: Mapping[str, Pose], holes: Mapping[str, Grab],
    start: Mapping[str, Pose] | None = None,
) -> Made:  # fmt: skip
    """A part that has just been made, with a pin through each of some of its points and the feature on which it was
    drawn. It lies before the parts that it is pinned to. A pin between two fixed parts is left out. `poses` are where
    the parts stand while it is drawn, `start` where they do when the motion starts (where it is not said, there)."""
    part, changes = str(made.place[1]), made.changes
    if holes:
        changes += (_before(document, part, [document.parts[grab.part] for grab in holes.values()]),)
    now = changed(document, *changes)
    for name, grab in holes.items():
        if grab.part == part or (now.parts[part].fixed and now.parts[grab.part].fixed):
            continue
        own = Grab(part, Feature(complex(*now.parts[part].points[name]), FeatureKind.END, name))
        joint = join(now, proposed(grab, own, bring=False), {**poses, part: now.parts[part].pose})
        changes, now = changes + joint.changes, changed(now, *joint.changes)
    start = start if start is not None else poses
    drawn = [now.parts[part].points[name] for name in holes]
    here = [spot_at(now.parts[part].pose, complex(*at)) for at in drawn]
    there = [spot_at(start[grab.part], (spot - _origin(poses[grab.part])) * cmath.rect(1.0, -poses[grab.part][2]))
             for grab, spot in zip(holes.values(), here, strict=True)]  # fmt: skip
    if max((abs(one - two) for one, two in zip(here, there, strict=True)), default=0.0) > SAME:
        pose = _hung(now.parts[part].pose, here, there)
        changes += (Set(("parts", part, "pose"), pose_of(document, _origin(pose), pose[2])),)
    return Made(changes, made.place)


def hole_pinned(
    document: Document, part: str, center: complex, diameter: Size, poses: Mapping[str, Pose],
    start: Mapping[str, Pose] | None = None,
) -> Made:  # fmt: skip
    """A hole in a part, about a place in its own axes, joined to the feature of another part that lies there: by a pin,
    or a pin in a slot. Raises `DocumentError` where there is none."""
    made = add_hole(document, part, center, diameter)
    grab = beneath(document, part, center, poses)
    if grab is None:
        raise located(f"parts.{part}", "there is no hole or point of another part here to pin it to")
    own = Grab(part, Feature(center, FeatureKind.HOLE))
    joint = join(changed(document, *made.changes), proposed(grab, own, bring=False), poses, start)
    return Made((*made.changes, *joint.changes), joint.place)


def beneath(document: Document, part: str, at: complex, poses: Mapping[str, Pose]) -> Grab | None:
    """The feature of another part that lies at a place of a part's own axes, of the part that is nearest in front of
    all; None where there is none."""
    spot = spot_at(poses[part], at)
    found = [Grab(other.id, feature) for other in document.parts.values() if other.id != part
             for feature in features(other)
             if not feature.by_line and abs(spot_at(poses[other.id], feature.at) - spot) < SAME]  # fmt: skip
    return max(found, key=lambda grab: max(_fronts(document.parts[grab.part])), default=None)


def _hung(pose: Pose, here: list[complex], there: list[complex]) -> Pose:
    """Where a part that hangs on places `here` may stand when these are `there`: turned by what two of them say, else
    as it was."""
    turn = 0.0
    if len(here) > 1 and min(abs(here[-1] - here[0]), abs(there[-1] - there[0])) > SAME:
        turn = cmath.phase((there[-1] - there[0]) / (here[-1] - here[0]))
    at = there[0] + (_origin(pose) - here[0]) * cmath.rect(1.0, turn)
    return at.real, at.imag, pose[2] + turn


def _is_loose(document: Document, part: Part) -> bool:
    """Whether nothing is said of the depth of a part that has outlines and is free to lie before another."""
    said = set(document.entry("parts", part.id))
    return bool(part.shapes) and not part.fixed and said.isdisjoint(("depth", "of"))


def _before(document: Document, part: str, others: list[Part]) -> Change:
    """Puts a part before others in depth."""
    front = max(high for other in others for high in _fronts(other))
    return Set((*document.home("parts", part), "depth"), [tidy(front), tidy(front + LAYER)])


def _fronts(part: Part) -> list[float]:
    """Where the slabs of a part end toward the viewer; its depth where it has no shapes."""
    return [slab.high for slab in part.slabs] or [part.depth[1]]


def _touching(document: Document, wanted: Proposal, one: Grab, two: Grab, poses: Mapping[str, Pose]) -> Made:
    """The changes that hold a side or a rim against a rim. The part that is brought touches the other from outside,
    where that stands by `poses`."""
    if not two.feature.round:
        one, two = two, one  # the rim that rolls or slides comes second
    changes: list[Change] = []
    names = []
    for grab in (one, two):
        name, named = edge_of(document, grab)
        names.append(f"{grab.part}.{name}")
        changes += named
    moved = two if not document.parts[two.part].fixed and not hangs(document, two.part) else one
    free = not document.parts[moved.part].fixed and not hangs(document, moved.part)
    if wanted.bring and free:
        still = one if moved is two else two
        assert still.feature.edge is not None and moved.feature.edge is not None
        x, y, angle = poses[moved.part]
        contact, out = spot_at(poses[still.part], still.feature.at), _outward(still, poses)
        reach = abs(moved.feature.at - moved.feature.edge[0]) if moved.feature.round else 0.0
        middle = moved.feature.edge[0] if moved.feature.round else moved.feature.at
        if not moved.feature.round:  # a side is turned to face what it is brought to
            angle = cmath.phase(out) + math.pi / 2 - _own_outward(moved)
        at = contact + out * reach - middle * cmath.rect(1.0, angle)
        changes.append(place_at(document, moved.part, (at.real, at.imag, angle), (x, y, poses[moved.part][2])))
    name = free_name(document.tree.get("joints", {}), JOINT_TYPES[wanted.kind].word)
    entry = {"type": wanted.kind, "a": names[0], "b": names[1]}
    return Made((*changes, Set(("joints", name), entry)), ("joints", name))


def edge_of(document: Document, grab: Grab) -> tuple[str, list[Change]]:
    """The name of the contact edge of a feature; a new one where there is none."""
    assert grab.feature.edge is not None
    part, place, _ = said_at(document, grab.part, 0j)
    ends = [said_at(document, grab.part, z)[2] for z in grab.feature.edge]
    if grab.feature.round:
        entry: dict[str, Any] = {"center": _pair(ends[0]), "radius": tidy(abs(ends[1] - ends[0]))}
        if grab.feature.span is not None:
            along = grab.feature.along
            assert along is not None
            one, two = (said_at(document, grab.part, z)[2] - ends[0] for z in (along.start, along.end))
            if said_at(document, grab.part, 1j)[2].imag < said_at(document, grab.part, 0j)[2].imag:
                one, two = two, one  # the definition is the mirror image
            per = Dimension.ANGLE.per_core(document.units)
            start, swept = cmath.phase(one), cmath.phase(two / one) % math.tau
            entry |= {"from": tidy(start * per), "to": tidy((start + swept) * per)}
    else:
        entry = {"from": _pair(ends[0]), "to": _pair(ends[1])}
    for name, known in lookup(document.tree, (*place, "edges"), {}).items():
        if known == entry:
            return name, []
    name = free_name({*part.points, *part.edges}, "rim" if grab.feature.round else "side")
    return name, [Set((*place, "edges", name), entry)]


def _pair(z: complex) -> list[float]:
    return [tidy(z.real), tidy(z.imag)]


def _outward(grab: Grab, poses: Mapping[str, Pose]) -> complex:
    """The unit vector out of a part at a side or a rim, in the plane."""
    edge = grab.feature.edge
    assert edge is not None
    own = grab.feature.at - edge[0] if grab.feature.round else -1j * (edge[1] - edge[0])  # rings run counter-clockwise
    return own / abs(own) * cmath.rect(1.0, poses[grab.part][2])


def _own_outward(grab: Grab) -> float:
    """The direction along a side in the part's own axes, from which outward is a quarter turn back."""
    assert grab.feature.edge is not None
    return cmath.phase(grab.feature.edge[1] - grab.feature.edge[0])


def _brought(
    document: Document, wanted: Proposal, one: Grab, two: Grab, poses: Mapping[str, Pose], turn: float,
    start: Mapping[str, Pose],
) -> list[Change]:  # fmt: skip
    """Puts the part that is brought so that the features meet when the motion starts, as they do now. One that hangs on
    others already stays where it is: the mechanism is put together from there, the nearest way."""
    moved = wanted.two if not document.parts[wanted.two.part].fixed else wanted.one
    if hangs(document, moved.part):
        return []
    other = two if moved is one else one
    angle = poses[other.part][2] + (turn if moved is two else -turn)
    then = spot_at(start[other.part], other.feature.at)
    if JOINT_TYPES[wanted.kind].elsewhere is Elsewhere.AS_PLACED:  # it keeps its direction to the other, else its own
        angle += start[other.part][2] - poses[other.part][2]
    origin = then - moved.feature.at * cmath.rect(1.0, angle)
    return [place_at(document, moved.part, (origin.real, origin.imag, angle), start[moved.part])]


def hangs(document: Document, part: str) -> bool:
    """Whether a part, or the sub-assembly that it is of, is joined to anything else."""
    unit = part.partition("/")[0]

    def within(name: str) -> bool:
        return name == part or name.startswith(f"{unit}/")

    return any(within(joint.a.part) != within(joint.b.part) for joint in document.active_joints.values())


def _origin(pose: Pose) -> complex:
    return complex(pose[0], pose[1])


def spot_at(pose: Pose, at: complex) -> complex:
    """Where a place in a part's own axes stands in the plane."""
    return _origin(pose) + at * cmath.rect(1.0, pose[2])
