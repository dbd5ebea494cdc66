"""Contacts: letting two parts touch and never pass, moving them apart, making one of a held edge, and stops."""

from collections.abc import Iterable, Mapping

import numpy as np

from ..clearance.pairs import share_depth
from ..clearance.parting import apart
from ..document.changes import Change, Set
from ..document.model import Document
from ..document.references import references
from ..document.written import pose_of, tidy
from ..errors import located
from ..joints import CONTACT, JOINT_TYPES
from ..kinematics.reaches import rigid_ties
from .building import Made, free_name

Pose = tuple[float, float, float]
PIN = 0.12
"""The radius of a stop's pin, as a share of the part's reach."""


def touch(document: Document, one: str, two: str) -> Made:
    """A contact of two parts. Raises `DocumentError` where they can't touch, or are one already."""
    why = _refused(document, one, two)
    if why:
        raise located(f"parts.{one}", why)
    name = contact_name(document.tree.get("joints", {}), one, two)
    return Made((Set(("joints", name), {"type": CONTACT.name, "a": one, "b": two}),), ("joints", name))


def contact_name(taken: Iterable[str], one: str, two: str) -> str:
    """What a new contact is called, by what it keeps apart: ``arm-and-stop``."""
    return free_name(taken, f"{one}-and-{two}".replace("/", "-"))


def touch_all(document: Document, part: str) -> Made:
    """Contacts of a part with all that it may meet: all parts that share depth with it, move against it, and are not
    joined to it. Raises `DocumentError` where there are none."""
    joined = {frozenset((joint.a.part, joint.b.part)) for joint in document.active_joints.values()}
    others = [other for other in document.parts if frozenset((part, other)) not in joined
              and not _refused(document, part, other)]  # fmt: skip
    if not others:
        raise located(f"parts.{part}", f"'{part}' meets no other part: none shares its depth that it is not joined to")
    entries = dict(document.tree.get("joints", {}))
    changes: list[Change] = []
    for other in others:
        name = contact_name(entries, part, other)
        entries[name] = {"type": CONTACT.name, "a": part, "b": other}
        changes.append(Set(("joints", name), entries[name]))
    return Made(tuple(changes), ("joints", name))


def _refused(document: Document, one: str, two: str) -> str:
    """Why two parts can't be let touch; empty where they can."""
    if one == two:
        return "a part can't touch itself; pick another"
    ties = rigid_ties(document)
    if ties.head(one) == ties.head(two):
        return f"'{one}' and '{two}' move as one body and never touch anew"
    if any(one in side and two in other for contact in document.contacts.values()
           for side, other in (contact.sides, contact.sides[::-1])):  # fmt: skip
        return f"'{one}' and '{two}' are a contact already"
    if not document.parts[one].slabs or not document.parts[two].slabs:
        bare = one if not document.parts[one].slabs else two
        return f"'{bare}' has no outline to touch with; draw one"
    if not share_depth(document, one, two):
        return f"'{one}' and '{two}' share no depth, so that they pass each other; move one along z"
    return ""


def lifted_off(document: Document, name: str) -> Made:
    """A joint that holds edges together made a contact of its parts, which may part again. Raises `DocumentError` where
    its coordinate is used."""
    joint = document.joints[name]
    if not JOINT_TYPES[joint.type].of_edges:
        raise located(f"joints.{name}", "holds no edges; a contact is made of a joint that does")
    place = document.home("joints", name)
    users = [".".join(map(str, reference.owner)) for reference in references(document) if reference.target == place]
    if users:
        raise located(f"joints.{name}", f"its coordinate is used by {users[0]}; remove that first")
    sides = {side: str(document.entry("joints", name)[side]).split(".")[0] for side in "ab"}
    return Made((Set(place, {"type": CONTACT.name, **sides}),), ("joints", name))


def move_apart(document: Document, poses: Mapping[str, Pose]) -> Made:
    """The least movement by which contacts that overlap where the parts stand do so no more, the joints holding. Raises
    `DocumentError` where there is no way, or nothing overlaps."""
    changes = apart(document, poses)
    return Made(changes, ("parts", str(changes[0].place[1])))


def stop_here(document: Document, part: str, poses: Mapping[str, Pose], way: complex) -> Made:
    """A stop where a part stands: a fixed pin that its outline touches on the side to which it goes (`way`, x + i y of
    no size), with the contact. Raises `DocumentError` where the part is fixed or has no outline."""
    held = document.parts[part]
    if held.fixed:
        raise located(f"parts.{part}", f"part '{part}' is fixed; a stop is for one that moves")
    if not held.slabs:
        raise located(f"parts.{part}", f"'{part}' has no outline to stop; draw one")
    x, y, angle = poses[part]
    spin, way = np.exp(1j * angle), way / abs(way)
    edges = held.slabs[-1].region.edges
    places = np.concatenate([edges.point(np.full(edges.count, share)) for share in np.linspace(0.0, 1.0, 17)])
    ways = np.concatenate([edges.direction(np.full(edges.count, share)) for share in np.linspace(0.0, 1.0, 17)])
    normals = -1j * ways
    ahead = (places * spin * np.conj(way)).real
    k = int(np.argmax(np.where((normals * spin * np.conj(way)).real > 0.5, ahead, -np.inf)))
    if (normals[k] * spin * np.conj(way)).real <= 0.5:
        k = int(np.argmax(ahead))
        normals[k] = way / spin
    reach = max(slab.region.reach for slab in held.slabs)
    radius = tidy(max(PIN * reach, 1e-6))
    center = complex(x, y) + (places[k] + radius * normals[k]) * spin
    name = free_name(document.tree.get("parts", {}), "stop")
    slab = held.slabs[-1]
    pin = {"fixed": True, "pose": pose_of(document, complex(center)), "points": {"P": [0, 0]},
           "shapes": [{"kind": "disc", "center": "P", "diameter": 2 * radius}],
           "depth": [tidy(slab.low), tidy(slab.high)]}  # fmt: skip
    contact = contact_name(document.tree.get("joints", {}), part, name)
    joint = {"type": CONTACT.name, "a": part, "b": name}
    return Made((Set(("parts", name), pin), Set(("joints", contact), joint)), ("parts", name))
