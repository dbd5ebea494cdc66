"""Many copies at once: in a row, around a center, as a strand; a fixed number of them, or so many as an expression
says.

Copies in a row or around a center arrive joined as the part itself is: each of its joints to another part is there for
each copy too, at a point as much further on or around as the copy is.
"""

import cmath
import copy
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..document.changes import Change, Remove, Set, redirected
from ..document.expressions import ExpressionError
from ..document.expressions import names as expression_names
from ..document.model import Document, Joint, PointRef
from ..document.references import references
from ..document.repeats import Repeat
from ..document.written import pose_of, tidy
from ..errors import DocumentError, Fault
from ..joints import PIN, Elsewhere
from .building import Made, Pose, free_name, said_at
from .copying import NEAR, copy_names, stem

MOST = 2000
"""Copies that are made at once."""


def _checked(count: int) -> None:
    if not 1 <= count <= MOST:
        raise DocumentError([Fault("parts", f"from 1 to {MOST} copies can be made at once, not {count}")])


def copy_row(
    document: Document, part: str, count: int, pitch: complex | str, stand: Mapping[str, Pose] | None = None
) -> Made:
    """So many more of a part in a row, each a pitch further on; joined as the part is, where it is told how the parts
    `stand`. A pitch that is an expression, along x, is kept: copies and their points follow it. Raises `DocumentError`
    for an expression that is no length."""
    _checked(count)
    step = pitch if not isinstance(pitch, str) else complex(_length(document, pitch))
    base = document.parts[part]
    poses = Repeat(part, count + 1, step).poses(base)
    expressions = None if not isinstance(pitch, str) else [f"{k}*({pitch})" for k in range(1, count + 1)]
    names, changes = copy_names(document, part, count), []
    for k, (name, (x, y, angle)) in enumerate(zip(names, poses, strict=True)):
        pose: list[Any] = pose_of(document, complex(x, y), angle)
        if expressions is not None:
            first = pose_of(document, complex(*base.pose[:2]))[0]
            pose[0] = f"{first} + {expressions[k]}" if first else expressions[k]
        changes.append(Set(("parts", name), {"of": part, "pose": pose}))
    if stand is None:
        return Made(tuple(changes), tuple(changes[-1].place))
    moves = [
        _Move(name, complex(x, y) - complex(*base.pose[:2]), 0.0, expressions[k] if expressions else "")
        for k, (name, (x, y, _)) in enumerate(zip(names, poses, strict=True))
    ]
    return _with_joints(document, part, changes, moves, stand)


def copy_around(
    document: Document, part: str, count: int, center: complex, whole: float = math.tau,
    stand: Mapping[str, Pose] | None = None,
) -> Made:  # fmt: skip
    """A part so many times around a center, itself counted: over the whole turn evenly, or from end to end of a part of
    one (`whole`, rad); joined as the part is, where it is told how the parts `stand`."""
    _checked(count - 1)
    poses = Repeat(part, count, center=center, over=whole).poses(document.parts[part])
    names = copy_names(document, part, count - 1)
    changes = [
        Set(("parts", name), {"of": part, "pose": pose_of(document, complex(x, y), angle)})
        for name, (x, y, angle) in zip(names, poses, strict=True)
    ]
    if stand is None:
        return Made(tuple(changes), tuple(changes[-1].place))
    turns = [angle - document.parts[part].pose[2] for *_, angle in poses]
    moves = [
        _Move(name, center - center * cmath.rect(1.0, turn), turn) for name, turn in zip(names, turns, strict=True)
    ]
    return _with_joints(document, part, changes, moves, stand)


def strand(document: Document, part: str, count: int) -> Made:
    """A strand of so many links, the part counted: each copy is pinned by its first point to the second point of the
    link before. Raises `DocumentError` where the part has no two points."""
    _checked(count - 1)
    points = list(document.parts[part].points)
    if len(points) < 2:
        text = "a link needs two points: one to hang by and one to carry the next"
        raise DocumentError([Fault(f"parts.{part}", text)])
    poses = Repeat(part, count, strand=True).poses(document.parts[part])
    changes: list[Set] = []
    joints = set(document.tree.get("joints", {}))
    before = part
    for name, (x, y, angle) in zip(copy_names(document, part, count - 1), poses, strict=True):
        changes.append(Set(("parts", name), {"of": part, "pose": pose_of(document, complex(x, y), angle)}))
        pin = free_name(joints, f"{name}-pin")
        joints.add(pin)
        ends = {"a": f"{before}.{points[1]}", "b": f"{name}.{points[0]}"}
        changes.append(Set(("joints", pin), {"type": PIN, **ends}))
        before = name
    return Made(tuple(changes), ("parts", before))


def _length(document: Document, text: str) -> float:
    try:
        return document.worth(text, "length")
    except ExpressionError as error:
        raise DocumentError([Fault("parts", f"the pitch '{text}': {error}")]) from error


@dataclass(frozen=True)
class _Move:
    """How a copy lies to the part: turned (rad) about the plane's origin, then shifted; `expression` says
    how far along x that is."""

    name: str
    shift: complex
    turn: float
    expression: str = ""


def _with_joints(
    document: Document, part: str, copies: Sequence[Set], moves: Sequence[_Move], stand: Mapping[str, Pose]
) -> Made:
    """Copies with the joints that the part has to others."""
    turned = any(abs(move.turn) > NEAR for move in moves)
    wanted = Elsewhere.HOWEVER_TURNED if turned else Elsewhere.AS_PLACED
    mine = [joint for joint in document.joints.values() if (joint.a.part == part) != (joint.b.part == part)]
    points = _Points(document, stand)
    taken, joints, left = set(document.tree.get("joints", {})), [], []
    for joint in mine:
        _, other = joint.seen_from(part)
        if joint.kind.elsewhere.value < wanted.value or "/" in other.part or "/" in joint.id:
            left.append(joint.id)
            continue
        for move in moves:
            point = points.like(other, move)
            sides = {side: f"{move.name}.{ref.point}" if ref.part == part else f"{other.part}.{point}"
                     for side, ref in (("a", joint.a), ("b", joint.b))}  # fmt: skip
            key = free_name(taken, stem(joint.id))
            taken.add(key)
            entry = {**copy.deepcopy(document.tree["joints"][joint.id]), **sides}
            if turned and joint.kind.has_zero:
                entry["zero"] = _zero(document, joint, part, move.turn)
            joints.append(Set(("joints", key), entry))
    return Made((*points.changes, *copies, *joints), tuple(copies[-1].place), tuple(left))


def _zero(document: Document, joint: Joint, part: str, turn: float) -> float | str:
    """Where the angle of a copy's joint is zero, so that it counts as that of the part does (its limits hold)."""
    turn = turn if joint.b.part == part else -turn
    shift = tidy(math.degrees(turn) if document.units.angle == "deg" else turn)
    zero = document.tree["joints"][joint.id].get("zero", 0)
    return f"{zero} + {shift!r} {document.units.angle}" if isinstance(zero, str) else tidy(zero + shift)


class _Points:
    """The points that other parts get for copies to be joined to."""

    def __init__(self, document: Document, stand: Mapping[str, Pose]):
        self.document, self.stand = document, stand
        self.changes: list[Set] = []
        self._known: dict[str, dict[str, complex]] = {}

    def like(self, ref: PointRef, move: _Move) -> str:
        """The name of the point that lies to a copy as a point lies to the part; one that is there already where
        nothing is told of how far that is."""
        document, part, expression = self.document, self.document.parts[ref.part], move.expression
        x, y, angle = self.stand[ref.part]
        turn, origin = cmath.rect(1.0, angle), complex(x, y)
        spot = origin + turn * complex(*part.place(ref.point))
        at = (spot * cmath.rect(1.0, move.turn) + move.shift - origin) * turn.conjugate()
        known = self._known.setdefault(part.id, {name: complex(*each) for name, each in part.points.items()})
        if not expression:
            for name, each in known.items():
                if abs(each - at) < NEAR * max(abs(at), 1.0):
                    return name
        there, place, own = said_at(document, part.id, at)
        name = free_name({*known, *there.points, *there.edges}, stem(ref.point))
        known[name] = at
        written: list[Any] = [tidy(own.real), tidy(own.imag)]
        if expression:
            _, _, first = said_at(document, part.id, complex(*part.place(ref.point)))
            share = turn.conjugate() if own == at else turn  # how the plane's x axis lies in the part's own
            written = [_further(first.real, share.real, expression), _further(first.imag, share.imag, expression)]
        self.changes.append(Set((*place, "points", name), written))
        return name


def _further(start: float, share: float, expression: str) -> float | str:
    """A coordinate that lies a share of what is told further on."""
    if abs(share) < NEAR:
        return tidy(start)
    factor = "" if abs(share) > 1.0 - NEAR else f"{abs(share)!r}*"
    if not start and share > 0:
        return f"{factor}{expression}"
    return f"{tidy(start)} {'+' if share > 0 else '-'} {factor}{expression}"


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
    name = free_name(document.tree["parts"], f"{stem(part)}s")
    joints = [joint.id for joint in document.joints.values() if part in (joint.a.part, joint.b.part)]
    left = () if "strand" in how else tuple(joints)
    return Made((Set(("parts", name), {"repeat": part, "count": count, **how}),), ("uses", name), left)


def spelt_out(document: Document, name: str) -> Made:
    """Ends a repeat: what it makes are copies from then on, each with an entry of its own; what speaks of them
    follows. Raises `DocumentError` for one in a sub-assembly."""
    use = document.uses[name]
    if "/" in name:
        raise DocumentError([Fault(f"parts.{name}", "stands in a sub-assembly, whose uses it repeats the part for")])
    made = [part for part in document.parts if document.repeat_of(part) == name]
    new = dict(zip(made, copy_names(document, use.of, len(made)), strict=True))
    joints = dict(document.tree.get("joints", {}))
    pins: dict[str, str] = {}
    for pin in [joint for joint in document.joints if document.repeat_of(joint) == name]:
        pins[pin] = free_name({**joints, **dict.fromkeys(pins.values())}, f"{new[pin.removesuffix('-pin')]}-pin")
    renamed = {**new, **pins}
    tree: Any = document.tree
    for one in references(document):
        head, dot, point = one.text.partition(".")
        if head in renamed and one.how != "expression":
            tree = redirected(tree, one, f"{renamed[head]}{dot}{point}")
    changes: list[Change] = [Set((key,), value) for key, value in tree.items() if document.tree[key] is not value]
    for part, called in new.items():
        x, y, angle = document.parts[part].pose
        entry = {"of": use.of, "pose": pose_of(document, complex(x, y), angle)}
        changes.append(Set(("parts", called), entry))
    for pin, called in pins.items():
        joint = document.joints[pin]
        sides = {side: str(PointRef(renamed.get(ref.part, ref.part), ref.point))
                 for side, ref in (("a", joint.a), ("b", joint.b))}  # fmt: skip
        changes.append(Set(("joints", called), {"type": joint.type, **sides}))
    return Made((*changes, Remove(("parts", name))), ("parts", next(iter(new.values()), use.of)))
