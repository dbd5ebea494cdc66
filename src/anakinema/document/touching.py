"""Contacts that can't touch: those of one rigid body, and those that never share depth. They are told, not refused: the
next edit may give them what they lack."""

from collections.abc import Iterator, Mapping
from itertools import product

from ..disjoint_set import DisjointSet
from ..errors import Fault
from .model import Contact, Group, Joint, Part


def idle_contacts(
    parts: Mapping[str, Part], joints: Mapping[str, Joint], groups: Mapping[str, Group], contacts: Mapping[str, Contact]
) -> list[Fault]:
    """A warning for each contact that has nothing to hold apart."""
    if not contacts:
        return []
    fixed = [part.id for part in parts.values() if part.fixed]
    rigid = ((joint.a.part, joint.b.part) for joint in joints.values() if joint.kind.rigid and not joint.suspended)
    ties = DisjointSet([fixed, *(group.parts for group in groups.values()), *rigid])
    told = ((contact.id, _why(parts, ties, contact)) for contact in contacts.values())
    return [Fault(f"joints.{name}", text) for name, text in told if text]


def _why(parts: Mapping[str, Part], ties: DisjointSet, contact: Contact) -> str:
    for name, side in ((contact.a, contact.sides[0]), (contact.b, contact.sides[1])):
        if not any(True for part in side for _ in _depths(parts[part])):
            return f"'{name}' has no outline to touch with; draw one"
    pairs = [(one, two) for one, two in product(*contact.sides) if ties.head(one) != ties.head(two)]
    if not pairs:
        return f"'{contact.a}' and '{contact.b}' move as one body and never touch anew; the contact holds nothing"
    if not any(_meet(parts[one], parts[two]) for one, two in pairs):
        return f"'{contact.a}' and '{contact.b}' share no depth, so that they pass each other; move one along z"
    return ""


def _depths(part: Part) -> Iterator[tuple[float, float]]:
    return (shape.depth or part.depth for shape in part.shapes if not shape.cut)


def _meet(one: Part, two: Part) -> bool:
    return any(low < other_high and other_low < high
               for low, high in _depths(one) for other_low, other_high in _depths(two))  # fmt: skip
