"""Copies of a part: they follow what they are copies of, wherever they stand."""

import cmath
import copy
import math
import re
from collections.abc import Mapping
from typing import Any

from ..document.changes import Change, Place, Put, Take, lookup, replaced, with_key
from ..document.copies import lineage, said
from ..document.expressions import ExpressionError
from ..document.expressions import names as expression_names
from ..document.model import Document, Joint, PointRef
from ..document.references import references
from ..errors import DocumentError, Fault
from .building import Made, Pose, free_name, named_point, pose_of
from .joining import Grab

NEAR = 1e-6
"""How near two places must be to be one, as a share of their distance from the origin."""
MOST = 2000
"""Copies that are made at once."""


def _stem(part: str) -> str:
    return part.rstrip("0123456789") or part


def _checked(count: int) -> None:
    if not 1 <= count <= MOST:
        raise DocumentError([Fault("parts", f"from 1 to {MOST} copies can be made at once, not {count}")])


def _pose(document: Document, part: str) -> tuple[complex, float]:
    x, y, angle = document.parts[part].pose
    return complex(x, y), angle


def _names(document: Document, part: str, count: int) -> list[str]:
    """Free names for copies of a part."""
    names: list[str] = []
    taken = set(document.tree["parts"])
    number = 2
    while len(names) < count:
        name = f"{_stem(part)}{number}"
        if name not in taken:
            names.append(name)
        number += 1
    return names


def copy_row(document: Document, part: str, count: int, pitch: complex | str) -> Made:
    """So many more of a part in a row, each a pitch further on. A pitch that is an expression, along x, is kept: the
    copies follow it. Raises `DocumentError` for an expression that is no length."""
    _checked(count)
    at, angle = _pose(document, part)
    changes = []
    for k, name in enumerate(_names(document, part, count), 1):
        pose: list[Any] = pose_of(document, at if isinstance(pitch, str) else at + pitch * k, angle)
        if isinstance(pitch, str):
            pose[0] = f"{pose[0]} + {k}*({pitch})" if pose[0] else f"{k}*({pitch})"
        changes.append(Put(("parts", name), {"of": part, "pose": pose}))
    return Made(tuple(changes), changes[-1].place)


def copy_around(document: Document, part: str, count: int, center: complex, whole: float = math.tau) -> Made:
    """A part so many times around a center, itself counted: over the whole turn evenly, or from end to end of a part of
    one (`whole`, rad)."""
    _checked(count - 1)
    at, angle = _pose(document, part)
    full = abs(abs(whole) - math.tau) < 1e-9
    step = whole / (count if full else count - 1)
    changes = []
    for k, name in enumerate(_names(document, part, count - 1), 1):
        spot = center + (at - center) * cmath.rect(1.0, k * step)
        changes.append(Put(("parts", name), {"of": part, "pose": pose_of(document, spot, angle + k * step)}))
    return Made(tuple(changes), changes[-1].place)


ROW = re.compile(r"\s*(\S.*?)(?:\s+(at|over)\s+(\S.*?))?\s*")


def told_row(text: str) -> tuple[int | str, str, bool] | None:
    """What ``3 at 60 mm`` or ``n over 180 mm`` says: the count (a whole number, or the expression for one), the
    expression of the pitch (empty where there is none), and whether that is the whole; None for any other text.

    >>> told_row("3 over 2*rod"), told_row("n-1")
    ((3, '2*rod', True), ('n-1', '', False))
    """
    found = ROW.fullmatch(text)
    if found is None or (not found[1].isdecimal() and not _is_expression(found[1])):
        return None
    count: int | str = int(found[1][:9]) if found[1].isdecimal() else found[1]
    return count, found[3] or "", found[2] == "over"


def _is_expression(text: str) -> bool:
    try:
        return bool(expression_names(text))
    except ExpressionError:
        return False


def repeat(document: Document, part: str, count: str, how: Mapping[str, Any]) -> Made:
    """A part so often as an expression says, itself counted: `how` is in a row (``pitch``), around a ``center``, or as
    a ``strand``, as the document writes it. Raises `DocumentError` for a part of a sub-assembly."""
    if "/" in part:
        raise DocumentError([Fault(f"parts.{part}", "stands in a sub-assembly; repeat it in its definition")])
    name = free_name(document.tree["parts"], f"{_stem(part)}s")
    return Made((Put(("parts", name), {"repeat": part, "count": count, **how}),), ("uses", name))


def spelt_out(document: Document, name: str) -> Made:
    """Ends a repeat: what it makes are copies from then on, each with an entry of its own; what speaks of them
    follows. Raises `DocumentError` for one in a sub-assembly."""
    use = document.uses[name]
    if "/" in name:
        raise DocumentError([Fault(f"parts.{name}", "stands in a sub-assembly, whose uses it repeats the part for")])
    made = [part for part in document.parts if document.repeat_of(part) == name]
    new = dict(zip(made, _names(document, use.of, len(made)), strict=True))
    joints = dict(document.tree.get("joints", {}))
    pins: dict[str, str] = {}
    for pin in [joint for joint in document.joints if document.repeat_of(joint) == name]:
        pins[pin] = free_name({**joints, **dict.fromkeys(pins.values())}, f"{new[pin.removesuffix('-pin')]}-pin")
    renamed = {**new, **pins}
    tree: Any = document.tree
    for one in references(document):
        head, dot, point = one.text.partition(".")
        if head in renamed and one.how != "expression":
            text = f"{renamed[head]}{dot}{point}"
            tree = with_key(tree, one.place, text) if one.how == "key" else replaced(tree, one.place, text)
    changes: list[Change] = [Put((key,), value) for key, value in tree.items() if document.tree[key] is not value]
    for part, called in new.items():
        x, y, angle = document.parts[part].pose
        entry = {"of": use.of, "pose": pose_of(document, complex(x, y), angle)}
        changes.append(Put(("parts", called), entry))
    for pin, called in pins.items():
        joint = document.joints[pin]
        sides = {side: str(PointRef(renamed.get(ref.part, ref.part), ref.point))
                 for side, ref in (("a", joint.a), ("b", joint.b))}  # fmt: skip
        changes.append(Put(("joints", called), {"type": joint.type, **sides}))
    return Made((*changes, Take(("parts", name))), ("parts", next(iter(new.values()), use.of)))


def copy_mirrored(document: Document, part: str, over: complex) -> Made:
    """A part turned over, as in a mirror along its own x axis that is moved aside by `over`."""
    at, angle = _pose(document, part)
    name = free_name(document.tree["parts"], _stem(part))
    entry = {"of": part, "mirror": True, "pose": pose_of(document, at + over, angle)}
    return Made((Put(("parts", name), entry),), ("parts", name))


def strand(document: Document, part: str, count: int) -> Made:
    """A strand of so many links, the part counted: each copy is pinned by its first point to the second point of the
    link before. Raises `DocumentError` where the part has no two points."""
    _checked(count - 1)
    points = list(document.parts[part].points.items())
    if len(points) < 2:
        text = "a link needs two points: one to hang by and one to carry the next"
        raise DocumentError([Fault(f"parts.{part}", text)])
    at, angle = _pose(document, part)
    (first, one), (second, two) = points[:2]
    pitch = (complex(*two) - complex(*one)) * cmath.rect(1.0, angle)
    changes: list[Change] = []
    joints = set(document.tree.get("joints", {}))
    before, place = part, ("parts", part)
    for k, name in enumerate(_names(document, part, count - 1), 1):
        place = ("parts", name)
        changes.append(Put(place, {"of": part, "pose": pose_of(document, at + pitch * k, angle)}))
        pin = free_name(joints, f"{name}-pin")
        joints.add(pin)
        changes.append(Put(("joints", pin), {"type": "revolute", "a": f"{before}.{second}", "b": f"{name}.{first}"}))
        before = name
    return Made(tuple(changes), place)


def make_unique(document: Document, part: str) -> Made:
    """Ends that a copy follows what it is a copy of: it says itself what it took from there. Raises `DocumentError` for
    what is no copy, or is lifted or turned over."""
    *above, own = document.home("parts", part)
    trees = lookup(document.tree, above)
    line, _ = lineage(trees, own)
    place: Place = (*above, own)
    if len(line) == 1:
        raise DocumentError([Fault(f"parts.{part}", "is no copy")])
    if any(trees[each].get(word) for each in line[:-1] for word in ("lift", "mirror")):
        text = "is turned over or lifted; only a copy that is neither can be made a part of its own"
        raise DocumentError([Fault(f"parts.{part}", text)])
    kept = {key: value for key, value in trees[own].items() if key in ("pose", "fixed")}
    return Made((Put(place, {**copy.deepcopy(said(trees, line)), **kept}),), place)


def copy_onto(document: Document, part: str, target: Grab, poses: Mapping[str, Pose]) -> Made:
    """A copy of a part that arrives joined: it stands to a feature of another part as the part itself stands to what
    its first joint ties it to. Where another of its joints then meets a point of the part that the original is tied to
    there, it is joined there too. Raises `DocumentError` for a part that is joined to nothing, or to the target's own
    part."""
    joints = [joint for joint in document.joints.values() if part in (joint.a.part, joint.b.part) and not joint.at_end]
    joints = [joint for joint in joints if "/" not in joint.id]
    if not joints:
        text = "is joined to nothing; join it once, then copy it onto other holes"
        raise DocumentError([Fault(f"parts.{part}", text)])
    if target.part == part:
        text = "a copy can't be joined to the part that it copies; click another"
        raise DocumentError([Fault(f"parts.{part}", text)])
    own = document.parts[part].points
    name = _names(document, part, 1)[0]
    x, y, angle = poses[target.part]
    there = complex(x, y) + target.feature.at * cmath.rect(1.0, angle)
    turn = poses[part][2]
    first = joints[0]
    foot = complex(*own[_side(first, part).point])
    pose = (there - foot * cmath.rect(1.0, turn), turn)
    changes: list[Change] = [Put(("parts", name), {"of": part, "pose": pose_of(document, pose[0], turn)})]
    taken = set(document.tree.get("joints", {}))
    for joint in joints:
        mine, other = _side(joint, part), joint.b if _side(joint, part) is joint.a else joint.a
        at = pose[0] + complex(*own[mine.point]) * cmath.rect(1.0, turn)
        if joint is first:
            point, named = named_point(document, target.part, target.feature.at)
            changes += named
            onto = f"{target.part}.{point}"
        else:
            px, py, turned = poses[other.part]
            spots = {
                key: complex(px, py) + complex(*spot) * cmath.rect(1.0, turned)
                for key, spot in document.parts[other.part].points.items()
            }
            met = next((key for key, spot in spots.items() if abs(spot - at) < NEAR * max(abs(at), 1.0)), "")
            if not met:
                continue
            onto = f"{other.part}.{met}"
        key = free_name(taken, _stem(joint.id))
        taken.add(key)
        ends = (f"{name}.{mine.point}", onto) if mine is joint.a else (onto, f"{name}.{mine.point}")
        sides = dict(zip("ab", ends, strict=True))
        changes.append(Put(("joints", key), {**copy.deepcopy(document.tree["joints"][joint.id]), **sides}))
    return Made(tuple(changes), ("parts", name))


def _side(joint: Joint, part: str) -> PointRef:
    return joint.a if joint.a.part == part else joint.b
