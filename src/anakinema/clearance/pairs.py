"""Which pairs of parts are watched: those that share depth and move against each other."""

from typing import NamedTuple

import numpy as np

from ..arrays import Index
from ..document.model import Check, Document, PointRef
from ..geometry.shapes import CamOutline
from ..kinematics.reaches import rigid_ties

Pair = tuple[str, str]
MOST_PAIRS = 70_000
"""Pairs that are watched at most, besides those that checks name: all of some 370 parts of one depth."""


class Watched(NamedTuple):
    """The pairs that are watched, and how many more there are that are not, those that are placed furthest apart."""

    pairs: list[Pair]
    more: int


def share_depth(document: Document, one: str, two: str) -> bool:
    """Whether slabs of two parts overlap in depth; those that only touch in a plane don't."""
    return any(
        a.meets(b) for a in document.parts[one].slabs for b in document.parts[two].slabs
    )


def rigid_bodies(document: Document) -> dict[str, str]:
    """For every part the first part of the rigid body that it belongs to."""
    ties = rigid_ties(document)
    return {part: ties.head(part) for part in document.parts}


def tied_pairs(document: Document) -> set[frozenset[str]]:
    """The pairs that touch all along because a coupling ties them: wheels in mesh, a cam and its follower."""
    found = set()
    for coupling in document.active_couplings.values():
        if coupling.kind.meshes:
            found.add(frozenset(document.joints[name].b.part for name in (coupling.a, coupling.b)))
        elif coupling.follower is not None:
            shaft = document.joints[coupling.a]
            for part in (shaft.a.part, shaft.b.part):
                if any(isinstance(shape, CamOutline) for shape in document.parts[part].shapes):
                    found.add(frozenset((part, coupling.follower.part)))
    return found


def stacked_pairs(document: Document) -> set[frozenset[str]]:
    """The pairs that one axis runs through: a piece of hardware with each part about it, and with what else lies on
    that axis. They are judged as a stack."""
    on: dict[PointRef, list[str]] = {}
    found = set()
    for name in document.carried:
        piece = document.parts[name].hardware
        for ref in piece.axis if piece is not None else ():
            found.add(frozenset((name, ref.part)))
            found.update(frozenset((name, other)) for other in on.get(ref, ()))
            on.setdefault(ref, []).append(name)
    return found


def named_pairs(document: Document) -> list[Pair]:
    """The pairs that checks and measures name."""
    named = [check.parts for check in document.checks.values()] + [one.parts for one in document.measures.values()]
    return list(dict.fromkeys(pair for pair in named if pair is not None))


def wanted_gaps(document: Document) -> dict[frozenset[str], Check]:
    """The first check of each pair that wants a gap."""
    found: dict[frozenset[str], Check] = {}
    for check in document.checks.values():
        if check.parts is not None and check.at_least is not None and check.all_along:
            found.setdefault(frozenset(check.parts), check)
    return found


def pairs_to_watch(document: Document) -> list[Pair]:
    """The pairs that are watched."""
    return watched(document).pairs


def watched(document: Document) -> Watched:
    """Pairs of parts that share depth, move against each other, are not joined directly and not said to be ignored; and
    those that a check names, whatever they are, as long as they share depth. Of too many only the nearest."""
    named = [pair for pair in named_pairs(document) if share_depth(document, *pair)]
    taken = {frozenset(pair) for pair in named}
    near, more = _candidates(document)
    return Watched(named + [pair for pair in near if frozenset(pair) not in taken], more)


def _candidates(document: Document) -> Watched:
    """The pairs that are worth watching, in the order of the parts, and how many more there are.

    Where these are more than `MOST_PAIRS`, each part is watched against as many of those after it as keep them below
    that: the nearest by the circles about them, as they are placed."""
    joined = {frozenset((joint.a.part, joint.b.part)) for joint in document.active_joints.values()}
    known = joined | tied_pairs(document) | stacked_pairs(document) | set(document.ignored)
    body = rigid_bodies(document)
    shaped = [part for part in document.parts.values() if part.slabs]
    heads = {head: number for number, head in enumerate(dict.fromkeys(body.values()))}
    bodies = np.array([heads[body[part.id]] for part in shaped], dtype=int)
    low, high = np.array([part.slabs[0].low for part in shaped]), np.array([part.slabs[-1].high for part in shaped])
    places = np.array([complex(*part.pose[:2]) for part in shaped], dtype=complex)
    reach = np.array([max(slab.region.reach for slab in part.slabs) for part in shaped])

    def beside(i: int) -> Index:
        """The parts after one that may share depth with it and belong to other bodies."""
        after = slice(i + 1, None)
        return i + 1 + np.flatnonzero((bodies[after] != bodies[i]) & (low[after] < high[i]) & (low[i] < high[after]))

    total = sum(beside(i).size for i in range(len(shaped)))
    most = total if total <= MOST_PAIRS else max(1, MOST_PAIRS // len(shaped))
    numbers = {part.id: i for i, part in enumerate(shaped)}
    spoken: dict[int, set[int]] = {}
    for pair in known | {frozenset(pair) for pair in named_pairs(document)}:
        i, *rest = sorted(numbers[part] for part in pair if part in numbers) or [-1]
        spoken.setdefault(i, set()).update(rest)
    found: list[Pair] = []
    more = 0
    for i, part in enumerate(shaped):
        others = beside(i)
        if others.size > most:
            order = np.argsort(np.abs(places[others] - places[i]) - reach[others], kind="stable")
            more += others.size - most - len(spoken.get(i, set()).intersection(others[order[most:]].tolist()))
            others = np.sort(others[order[:most]])
        pairs = [(part.id, shaped[k].id) for k in others.tolist()]
        found += [pair for pair in pairs if frozenset(pair) not in known and share_depth(document, *pair)]
    return Watched(found, more)
