"""Which pairs of parts are watched: those that share depth and move against each other."""

from itertools import combinations

from ..document.model import Check, Document
from ..joints import COUPLING_TYPES
from ..ties import Ties

Pair = tuple[str, str]


def share_depth(document: Document, one: str, two: str) -> bool:
    """Whether slabs of two parts overlap in depth; those that only touch in a plane don't."""
    return any(
        a.low < b.high and b.low < a.high for a in document.parts[one].slabs for b in document.parts[two].slabs
    )


def rigid_bodies(document: Document) -> dict[str, str]:
    """For every part the first part of the rigid body that it belongs to: what is fixed is one body, and so is a group,
    and what fixed joints tie together along any path."""
    welds = [joint for joint in document.active_joints.values() if joint.type == "fixed"]
    ties = Ties([*document.rigid, *((joint.a.part, joint.b.part) for joint in welds)])
    return {part: ties.head(part) for part in document.parts}


def named_pairs(document: Document) -> list[Pair]:
    """The pairs that checks name."""
    return list(dict.fromkeys(check.parts for check in document.checks.values() if check.parts is not None))


def wanted_gaps(document: Document) -> dict[frozenset[str], Check]:
    """The first check of each pair that wants a gap."""
    found: dict[frozenset[str], Check] = {}
    for check in document.checks.values():
        if check.parts is not None and check.at_least is not None:
            found.setdefault(frozenset(check.parts), check)
    return found


def pairs_to_watch(document: Document) -> list[Pair]:
    """Pairs of parts that share depth, move against each other, are not joined directly and not said to be ignored; and
    those that a check names, whatever they are, as long as they share depth."""
    named = named_pairs(document)
    joined = {frozenset((joint.a.part, joint.b.part)) for joint in document.active_joints.values()}
    for coupling in document.active_couplings.values():
        if COUPLING_TYPES[coupling.type].meshes:
            joined.add(frozenset(document.joints[name].b.part for name in (coupling.a, coupling.b)))
    known = joined | {frozenset(pair) for pair in named} | set(document.ignored)
    body = rigid_bodies(document)
    shaped = [part.id for part in document.parts.values() if part.slabs]
    moving = [pair for pair in combinations(shaped, 2) if body[pair[0]] != body[pair[1]]]
    found = dict.fromkeys(pair for pair in moving if frozenset(pair) not in known)
    return [pair for pair in (*named, *found) if share_depth(document, *pair)]
