"""The assembly as a kinematic chain, from the frame outward, with loops shown where they close."""

from collections import deque
from dataclasses import dataclass, field

from ..document.model import Document, Joint


@dataclass
class Link:
    """A part in the chain, the joint by which it hangs on the part above (empty for a root), and what follows.

    A joint that closes a loop is a link with `closes` set: it leads back to a part that stands elsewhere.
    """

    part: str
    joint: str
    closes: bool = False
    children: list["Link"] = field(default_factory=list)


def chain(document: Document) -> list[Link]:
    """The chain of a document: one root for each fixed part, then one for each loose piece.

    Parts are reached breadth first, so that each stands on its shortest way from the frame; every joint occurs once.
    Suspended joints hold nothing, and hang on the part they start from, leading back.
    """
    order = sorted(document.parts, key=lambda part: not document.parts[part].fixed)
    joints_of: dict[str, list[Joint]] = {part: [] for part in document.parts}
    for joint in document.joints.values():
        joints_of[joint.a.part].append(joint)
        joints_of[joint.b.part].append(joint)
    group_of = {part: group.parts for group in document.groups.values() for part in group.parts}
    found: dict[str, Link] = {}
    used: set[str] = set()
    roots = []
    fixed = [part for part in order if document.parts[part].fixed]
    starts = [fixed] if fixed else []
    starts += [[part] for part in order if part not in fixed]
    for start in starts:
        fresh = [part for part in start if part not in found]
        for part in fresh:
            found[part] = Link(part, "")
            roots.append(found[part])
        queue = deque(fresh)
        while queue:
            part = queue.popleft()
            for other in group_of.get(part, ()):  # what moves as one body hangs on it without a joint
                if other not in found:
                    found[other] = Link(other, "")
                    found[part].children.append(found[other])
                    queue.append(other)
            for joint in joints_of[part]:
                if joint.id in used:
                    continue
                other = joint.b.part if joint.a.part == part else joint.a.part
                used.add(joint.id)
                if joint.suspended or other in found:
                    found[part].children.append(Link(other, joint.id, closes=True))
                else:
                    found[other] = Link(other, joint.id)
                    found[part].children.append(found[other])
                    queue.append(other)
    return roots
