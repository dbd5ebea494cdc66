"""The assembly as a kinematic chain, from the frame outward, with loops shown where they close."""

from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass, field

from ..document.model import Document, Joint


@dataclass
class Link:
    """What moves as one line in the chain: a part, a sub-assembly or a rigid group (`place`, such as ``parts.rod``),
    the joint by which it hangs on the link above (empty for a root), and what follows.

    A joint that closes a loop is a link with `closes` set: it leads back to a link that stands elsewhere. `inside` are
    the parts and joints of a sub-assembly or a group.
    """

    place: str
    joint: str
    closes: bool = False
    inside: tuple[str, ...] = ()
    children: list["Link"] = field(default_factory=list)


def units(document: Document) -> dict[str, str]:
    """The line of the chain in which each part stands: the outermost sub-assembly, the group, or its own."""
    grouped = {part: f"groups.{group.id}" for group in document.groups.values() for part in group.parts}
    return {
        part: f"uses.{part.partition('/')[0]}" if "/" in part else grouped.get(part, f"parts.{part}")
        for part in document.parts
    }


def chain(document: Document) -> list[Link]:
    """The chain of a document: a root for each fixed link, then one for each loose piece.

    Links are reached breadth first, so that each stands on its shortest way from the frame; every joint occurs once.
    Suspended joints hold nothing, and hang on the link they start from, leading back.
    """
    unit_of = units(document)
    members: dict[str, list[str]] = {}
    for part, unit in unit_of.items():
        members.setdefault(unit, []).append(part)
    still = {unit for unit, parts in members.items() if any(document.parts[part].fixed for part in parts)}
    joints_of: dict[str, list[Joint]] = {unit: [] for unit in members}
    inner: dict[str, list[str]] = {unit: [] for unit in members}
    for joint in document.joints.values():
        a, b = unit_of[joint.a.part], unit_of[joint.b.part]
        if a == b and not a.startswith("parts."):
            inner[a].append(joint.id)
            continue
        joints_of[a].append(joint)
        joints_of[b].append(joint)

    def link(unit: str, joint: str = "") -> Link:
        named: Iterable[str] = ()
        if not unit.startswith("parts."):
            named = (*(f"parts.{part}" for part in members[unit]), *(f"joints.{name}" for name in inner[unit]))
        return Link(unit, joint, inside=tuple(named))

    found: dict[str, Link] = {}
    used: set[str] = set()
    roots = []
    fixed = [unit for unit in members if unit in still]
    starts = [fixed] if fixed else []
    starts += [[unit] for unit in members if unit not in still]
    for start in starts:
        fresh = [unit for unit in start if unit not in found]
        for unit in fresh:
            found[unit] = link(unit)
            roots.append(found[unit])
        queue = deque(fresh)
        while queue:
            unit = queue.popleft()
            for joint in joints_of[unit]:
                if joint.id in used:
                    continue
                a, b = unit_of[joint.a.part], unit_of[joint.b.part]
                other = b if a == unit else a
                used.add(joint.id)
                if joint.suspended or other in found:
                    found[unit].children.append(Link(other, joint.id, closes=True))
                else:
                    found[other] = link(other, joint.id)
                    found[unit].children.append(found[other])
                    queue.append(other)
    return roots
