"""What next: what is missing or wrong, in the order in which to mend it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..disjoint_set import DisjointSet
from ..document.changes import Change, Set, lookup
from ..document.model import Document
from ..document.written import tidy
from ..errors import DocumentError
from ..formatting import describe_measure, digits_apart, shown
from ..kinematics.equations import DENSE_UP_TO, Equations
from ..kinematics.mobility import generic_position, mobility
from ..kinematics.motion import Motion
from .checks import Outcome, Verdict

if TYPE_CHECKING:
    from ..clearance.joined import SameDepth


@dataclass(frozen=True)
class Advice:
    """One thing to look at: a sentence, and the place in the document it speaks of (``joints.ram``)."""

    text: str
    place: str
    t: float | None = None
    """The time of the motion to go to, where there is one."""
    mend: tuple[Change, ...] = ()
    """What mends it at once, where that is known."""


def advise_document(document: Document) -> list[Advice]:
    """What can be said without a motion."""
    found = []
    if not document.parts:
        found.append(Advice("There are no parts yet", "parts"))
        return found
    if not document.fixed_parts:
        found.append(Advice("No part is fixed: choose the frame", f"parts.{next(iter(document.parts))}"))
    elif len(document.parts) == 1:
        found.append(Advice("Nothing can move yet: draw the next part, and join it", "parts"))
    for part, joints in zero_lengths(document):
        text = f"Joints {' and '.join(joints)} hold '{part}' at one and the same point: that link has no length"
        found.append(Advice(text, f"parts.{part}"))
    loose = unjoined_parts(document)
    if loose:
        verb = "is" if len(loose) == 1 else "are"
        listed = ", ".join(loose[:3]) + ("…" if len(loose) > 3 else "")
        text = f"{len(loose)} part{'s' * (len(loose) > 1)} {verb} not joined: {listed}"
        found.append(Advice(text, f"parts.{loose[0]}"))
    return found


def advise(
    motion: Motion, verdicts: Mapping[str, Verdict], more: int = 0, same_depth: "Sequence[SameDepth]" = ()
) -> list[Advice]:
    """What to look at next, first things first; `more` pairs are not watched, for there are too many; joined parts may
    fill the same depth."""
    document = motion.document
    found = advise_document(document)
    stop = motion.stop
    beyond = stop if stop is not None and stop.reason in ("limit", "contact") and stop.t == 0.0 else None
    if beyond is not None:  # before all else: there is no other way to put it together
        text = beyond.text[0].upper() + beyond.text[1:]
        mend = _apart(motion) if motion.path.dead is not None and motion.path.dead.overlap is not None else ()
        found.append(Advice(text, f"joints.{beyond.joint}", 0.0, mend))
    grouped = {part for group in document.groups.values() for part in group.parts}
    still = [part for part in document.fixed_parts if part not in grouped]
    if motion.mobility.dof == 0 and len(still) > 1 and document.joints:
        named = ", ".join(still[:3])
        text = f"Nothing is left to move, and {len(still)} parts are fixed: {named}; set one of them free"
        found.append(Advice(text, f"parts.{still[-1]}"))
    elif motion.mobility.dof == 0 and not document.drivers and motion.system.moving and (lock := locked(motion)):
        found.append(Advice(lock[1], f"joints.{lock[0]}"))
    suspended = [joint.id for joint in document.joints.values() if joint.suspended]
    if suspended:
        found.append(Advice(f"Joint {', '.join(suspended)} suspended", f"joints.{suspended[0]}"))
    if not document.drivers and motion.mobility.dof > 0:
        found.append(Advice("Nothing is driven: add a driver", "drivers"))
    elif left := [name for name in motion.drive.held if not pushed(document, name)]:
        held = [name for name in left if name in document.joints]
        names = ", ".join(left[:3])
        count = len(left)
        place = f"joints.{held[0]}" if held else f"parts.{left[0].split('.')[0]}"
        found.append(Advice(f"{count} motion{'s' * (count > 1)} left undriven, moves least: {names}", place))
    if motion.stop is not None and beyond is None:
        text = motion.stop.text[0].upper() + motion.stop.text[1:]
        found.append(Advice(text, f"joints.{motion.stop.joint}", motion.stop.t))
    for lost in motion.lost:
        joint = document.joints[lost.joint]
        text = f"Contact '{joint.id}' of '{joint.a}' and '{joint.b}' is lost at the end of '{lost.edge}'"
        found.append(Advice(text, f"joints.{joint.id}", lost.t))
    for pair in same_depth:
        text = f"{pair.front} and {pair.behind} fill the same depth: put {pair.front} in front"
        found.append(Advice(text, f"parts.{pair.front}", mend=in_front(document, pair.front, pair.behind)))
    for outcome in (Outcome.FAIL, Outcome.NOT_JUDGED, Outcome.UNPROVEN):
        for verdict in verdicts.values():
            if verdict.outcome is outcome:
                text = _failing(verdict, document) if outcome is Outcome.FAIL else _unjudged(verdict)
                found.append(Advice(text, f"checks.{verdict.check.id}", verdict.t))
    if text := unwatched(more):
        found.append(Advice(text, f"parts.{next(iter(document.parts))}"))
    if document.drivers and not document.checks:
        found.append(Advice("No checks yet: write down what the design must do", "checks"))
    for stretch in motion.path.stretches:
        if stretch.turned_least:
            text = chosen_way(motion, stretch.turned_least, stretch.law.t0)
            found.append(Advice(text, f"parts.{motion.system.body_ids[stretch.turned_least[0]]}", stretch.law.t0))
    return found


def _apart(motion: Motion) -> tuple[Change, ...]:
    """What moves apart the parts that overlap where they are placed; none where the joints leave no way."""
    from ..clearance.parting import apart

    q, document = motion.positions(np.zeros(1))[0], motion.document
    try:
        return apart(document, {part: tuple(q[motion.system.body(part)].tolist()) for part in document.parts})
    except DocumentError:
        return ()


def _failing(verdict: Verdict, document: Document) -> str:
    check, units = verdict.check, document.units
    subject = describe_measure(check.measured)
    assert verdict.value is not None
    low = check.at_least is not None and verdict.value < check.at_least
    bound = check.at_least if low else check.at_most
    assert bound is not None
    digits = digits_apart(verdict.value, (bound,), verdict.dimension, units, 3)
    value, wanted = (shown(each, verdict.dimension, units, digits) for each in (verdict.value, bound))
    measure = check.measure.replace("_", " ").capitalize()
    why = f" ({verdict.reason.partition(': ')[2] or verdict.reason})" if verdict.reason else ""
    return f"{measure} of {subject} is {value}{why}, wanted {'≥' if low else '≤'} {wanted}"


def _unjudged(verdict: Verdict) -> str:
    return f"Check '{verdict.check.id}' is {verdict.outcome}: {verdict.reason}"


def chosen_way(motion: Motion, bodies: Sequence[int], t: float) -> str:
    """Which way was taken from a start at which links lie in line, in words."""
    rates = motion.at(np.array([t])).v[0]
    fastest = float(np.abs(rates[:, 2]).max()) or 1.0
    told = [f"'{motion.system.body_ids[body]}' {'turns' if abs(rates[body, 2]) > 1e-6 * fastest else 'does not turn'}"
            for body in bodies[:3]]  # fmt: skip
    when = "The motion starts" if t == 0.0 else f"At {shown(t, 'time', motion.document.units)} it sets out"
    return (
        f"{when} where links lie in line and could go on in two ways: it takes the one on which {', '.join(told)}; "
        "place the parts a little further on to choose"
    )


def locked(motion: Motion) -> tuple[str, str] | None:
    """Of a mechanism in which nothing can move: the newest joint without which something could, and what locks it, in
    words; None where no single joint does."""
    document, system = motion.document, motion.system
    constraints = system.constraints
    if constraints.columns > DENSE_UP_TO:
        return None
    q = motion.path.positions(np.zeros(1))
    for name in reversed(list(document.active_joints)):
        kept = [spec for spec in constraints.specs if spec.owner != name]
        if len(kept) == constraints.rows:
            continue
        without = Equations(kept, system.moving, len(system.body_ids))
        if mobility(without, np.concatenate((q, generic_position(without, q[0])[None]))).dof == 0:
            continue
        joint = document.joints[name]
        _, jac = constraints.linear(q, np.zeros((1, constraints.targets)))
        others = _holding(constraints.owners, jac[0], name)
        listed = ", ".join(f"'{other}'" for other in others[:4]) or "the other joints"
        text = f"Nothing can move: joint '{name}' of '{joint.a}' and '{joint.b}' and {listed} lock each other; "
        way = "suspend it, or make it a pin in a slot" if joint.kind.pin else "suspend it"
        return name, text + f"'{name}' is the newest: {way}"
    return None


def _holding(owners: Sequence[str], jac: Array, name: str) -> list[str]:
    """The joints that hold what would move without one: along the motion that opens then, those that turn or slide."""
    kept = np.array([owner != name for owner in owners])
    _, size, right = np.linalg.svd(jac[kept])
    rank = int((size > 1e-7 * size.max(initial=1.0)).sum())
    opened = right[rank:].T  # what moves without it
    bodies = np.abs(opened).reshape(-1, 3, opened.shape[1]).max(axis=(1, 2)) > 1e-6
    moved = np.abs(jac).reshape(len(jac), -1, 3).max(axis=2)[:, bodies].max(axis=1, initial=0.0) > 0.0
    return [owner for owner in dict.fromkeys(np.array(owners)[moved].tolist()) if owner != name]


def in_front(document: Document, part: str, behind: str) -> tuple[Change, ...]:
    """Puts a part before another in depth, as thick as it is; nothing where it is a copy, or has depths of its own for
    its shapes, so that more is to be decided."""
    one, home = document.parts[part], document.home("parts", part)
    if one.of or any(shape.depth is not None for shape in one.shapes) or "of" in lookup(document.tree, home, {}):
        return ()
    front = max(slab.high for slab in document.parts[behind].slabs)
    return (Set((*home, "depth"), [tidy(front), tidy(front + one.depth[1] - one.depth[0])]),)


def unwatched(more: int) -> str:
    """What to do where there are so many more pairs than are watched; empty where there are none."""
    if not more:
        return ""
    message = f"{more:,} pairs of parts are not watched, those placed furthest apart: there are too many; "
    return message + "give what never meets depths of its own, or name in checks the pairs that matter"


def zero_lengths(document: Document) -> list[tuple[str, tuple[str, str]]]:
    """Moving parts that two joints hold at differently named points in one place: (part, the joints)."""
    found = []
    held: dict[str, dict[tuple[float, float], tuple[str, str]]] = {}
    for joint in document.active_joints.values():
        for side in (joint.a, joint.b):
            part = document.parts[side.part]
            if part.fixed or not joint.kind.pivots:
                continue
            spots, point = held.setdefault(part.id, {}), part.place(side.point)
            before = spots.setdefault(point, (joint.id, side.point))
            if before[1] != side.point:
                found.append((part.id, (before[0], joint.id)))
    return found


def pushed(document: Document, freedom: str) -> bool:
    """Whether a freedom that no driver moves is one of a part that contacts push."""
    touching = {part for contact in document.active_contacts.values() for side in contact.sides for part in side}
    joint = document.joints.get(freedom)
    sides = {freedom.rpartition(".")[0]} if joint is None else {joint.a.part, joint.b.part}
    return any(part in touching and not document.parts[part].fixed for part in sides)


def unjoined_parts(document: Document) -> list[str]:
    """Parts that no chain of joints and groups ties to a fixed part (to the first part where none is fixed)."""
    roots = document.fixed_parts or list(document.parts)[:1]
    joined = ((joint.a.part, joint.b.part) for joint in document.active_joints.values())
    touching = ((side[0], other[0]) for side, other in (one.sides for one in document.active_contacts.values()))
    ties = DisjointSet([*document.rigid, *joined, *touching])
    return [part for part in document.parts if ties.head(part) != ties.head(roots[0])]
