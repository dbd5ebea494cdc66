"""What would make a cam better: a smaller or larger least radius, an offset, a roller, gentler laws; each with what it
changes, to be seen before it is taken."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from ..cams import CamGeometry, CamLaw, FollowerKind
from ..cams.judgement import CamJudgement, best_offset, judged, largest_roller, least_base, roughly
from ..cancellation import CancellationToken
from ..document.changes import Change, Set
from ..document.model import Document
from ..document.segments import pieces_of, segments_of, tried, with_segments
from ..document.written import tidy
from ..findings.cams import BINDS, BLUNT, based
from ..formatting import shown
from ..geometry.shapes import Disc
from ..kinds import Dimension

LAWS = ("cycloidal", "modified-sine", "modified-trapezoid", "345", "4567")
"""Laws without a jump of velocity or acceleration."""
WORTH = 0.02
"""A share by which something must get better to be worth a word."""
FLAT = 0.02
"""A pressure angle (rad) below which it is none."""
SPARE = 0.8
"""Share of the largest roller that is proposed: what is left is the least radius of curvature."""


@dataclass(frozen=True)
class Told:
    """One number before and after, in words."""

    what: str
    before: str
    after: str


@dataclass(frozen=True)
class CamProposal:
    """What is proposed, what it would change, and the changes that take it."""

    title: str
    told: tuple[Told, ...]
    changes: tuple[Change, ...]


def proposals(document: Document, joint: str, work: CancellationToken | None = None) -> list[CamProposal]:
    """What would make a cam better, the most telling first."""
    work = work or CancellationToken()
    coupling = document.couplings[joint]
    if coupling.cam is None:
        return []
    found: list[CamProposal] = []
    for make in (_least_radius, _roller, _offset, _laws, _largest_lift):
        work.check()
        found += make(document, joint, coupling.cam)
    return found


def compared(document: Document, one: CamJudgement, two: CamJudgement) -> tuple[Told, ...]:
    """What differs between two cams, in words."""
    units = document.units
    rows = (
        ("pressure angle", one.pressure.value, two.pressure.value, Dimension.ANGLE),
        ("least radius", one.base, two.base, Dimension.LENGTH),
        ("bulges with", one.convex.value, two.convex.value, Dimension.LENGTH),
        ("hollow with", one.hollow.value, two.hollow.value, Dimension.LENGTH),
    )
    told = [Told(what, shown(a, kind, units, 2), shown(b, kind, units, 2)) for what, a, b, kind in rows
            if abs(a - b) > 1e-3 * max(abs(a), abs(b)) or (math.isinf(a) != math.isinf(b))]  # fmt: skip
    if bool(one.undercut) != bool(two.undercut):
        told.insert(0, Told("undercut", "yes" if one.undercut else "no", "yes" if two.undercut else "no"))
    return tuple(told)


def _least_radius(document: Document, joint: str, cam: CamGeometry) -> Iterator[CamProposal]:
    """The least radius that keeps the usual pressure angle, larger or smaller than it is."""
    if cam.shaft.slides or (cam.follower.kind.is_face and not cam.guide.swings):
        limit = math.inf
    else:
        limit = BINDS[cam.guide.swings]
    if cam.shaft.slides:
        return
    before = judged(cam)
    try:
        blunt = 0.25 * before.base if math.isinf(limit) else BLUNT * cam.follower.radius
        smallest = least_base(cam, limit, blunt).least_radius()
    except ValueError:
        return
    step = 10.0 ** (math.floor(math.log10(smallest)) - 1) / 2
    radius = math.ceil(smallest / step - 1e-9) * step
    if abs(radius - before.base) < WORTH * before.base:
        return
    after = judged(cam.with_least_radius(radius))
    word = "Larger" if radius > before.base else "Smaller"
    yield CamProposal(f"{word}: least radius {shown(radius, Dimension.LENGTH, document.units, 2)}",
                      compared(document, before, after), based(document, joint, radius))  # fmt: skip


def _roller(document: Document, joint: str, cam: CamGeometry) -> Iterator[CamProposal]:
    """A smaller roller where this one undercuts; its disc with it."""
    before = judged(cam)
    if cam.follower.kind not in (FollowerKind.ROLLER, FollowerKind.ARC) or not before.undercut:
        return
    largest = largest_roller(cam) * SPARE
    if not 0 < largest < cam.follower.radius:
        return
    step = 10.0 ** (math.floor(math.log10(largest)) - 1)
    radius = math.floor(largest / step) * step
    place = document.home("joints", joint)
    changes: list[Change] = [Set((*place, "follower", "radius"), tidy(radius))]
    part, point = document.parts[cam.follower.part], cam.follower.point
    home = document.home("parts", part.id)
    for number, shape in enumerate(part.shapes):
        centred = isinstance(shape, Disc) and abs(complex(*shape.center) - complex(*part.points[point])) < 1e-9
        if centred and isinstance(shape, Disc) and abs(shape.diameter - 2 * cam.follower.radius) < 1e-9:
            changes.append(Set((*home, "shapes", number, "diameter"), tidy(2 * radius)))
    # The path of the roller's centre stays: the least radius grows by what the roller loses.
    if document.couplings[joint].base is not None:
        changes += based(document, joint, before.base + cam.follower.radius - radius)
    after = judged(replace(cam, follower=replace(cam.follower, radius=radius)))
    yield CamProposal(f"A roller of radius {shown(radius, Dimension.LENGTH, document.units, 2)}",
                      compared(document, before, after), tuple(changes))  # fmt: skip


def _offset(document: Document, joint: str, cam: CamGeometry) -> Iterator[CamProposal]:
    """The offset of a translating follower with which its greatest pressure angle is least."""
    if cam.guide.swings or cam.shaft.slides or cam.follower.kind.is_face:
        return
    before, better = judged(cam), best_offset(cam)
    offset = ((better.guide.start - cam.guide.start) / cam.guide.way).imag
    coupling = document.couplings[joint]
    if coupling.base is not None:
        better = better.with_least_radius(coupling.base)
    after = judged(better)
    if after.undercut or after.pressure.value > before.pressure.value * (1 - WORTH):
        return
    guide = document.joints[coupling.b]
    held, moved = (guide.b, guide.a) if cam.follower.part == guide.a.part else (guide.a, guide.b)
    if held.point not in document.parts[held.part].points:
        return
    x, y = document.parts[held.part].points[held.point]
    way = 1j * cam.guide.way * offset  # in the axes of what carries the shaft; of the guide's part where it is the same
    if held.part not in {ref.part for ref in (document.joints[coupling.a].a, document.joints[coupling.a].b)}:
        return
    changes: list[Change] = [
        Set((*document.home("parts", held.part), "points", held.point),
            [tidy(round(x + way.real, 6)), tidy(round(y + way.imag, 6))])
    ]  # fmt: skip
    pose = document.parts[moved.part].pose
    turn = document.parts[held.part].pose[2]
    shift = way * complex(math.cos(turn), math.sin(turn))
    entry = document.entry("parts", moved.part).get("pose")
    if isinstance(entry, list):
        new = [tidy(round(pose[0] + shift.real, 6)), tidy(round(pose[1] + shift.imag, 6)), *entry[2:]]
        changes.append(Set((*document.home("parts", moved.part), "pose"), new))
    if coupling.base is None:
        changes.append(Set((*document.home("joints", joint), "low"), tidy(round(better.low, 9))))
    yield CamProposal(f"Guide it {shown(abs(offset), Dimension.LENGTH, document.units, 2)} aside",
                      compared(document, before, after), tuple(changes))  # fmt: skip


def _laws(document: Document, joint: str, cam: CamGeometry) -> Iterator[CamProposal]:
    """One law for all rises and returns: that with the least pressure angle, and that with the least acceleration."""
    segments = segments_of(document, joint)
    if segments is None or any(one.fixed for one in segments):
        return
    before, hard = judged(cam), acceleration(cam)
    best: dict[str, tuple[float, CamProposal]] = {}
    for law in LAWS:
        other = [replace(one, law=law) if one.to is not None else one for one in segments]
        if other == segments:
            continue
        made = replace(cam, law=CamLaw.of(pieces_of(other), cam.law.start, cam.law.period))
        base = document.couplings[joint].base
        if base is not None:
            made = made.with_least_radius(base)
        after, peak = judged(made), acceleration(made)
        if after.undercut and not before.undercut:
            continue
        told = (Told("acceleration", "1" if hard else "0", f"{peak / hard:.2f}" if hard else "–"),
                *compared(document, before, after))  # fmt: skip
        one = CamProposal(f"All by {law}", told, tuple(with_segments(document, joint, other)))
        eased = (before.pressure.value - after.pressure.value) / max(before.pressure.value, FLAT)
        for what, gain in (("pressure", eased),
                           ("hard", 1 - peak / hard if hard else 0.0)):  # fmt: skip
            if gain > max(WORTH, best[what][0] if what in best else 0.0):
                best[what] = gain, one
    yield from {one.title: one for _, one in best.values()}.values()


def _largest_lift(document: Document, joint: str, cam: CamGeometry) -> Iterator[CamProposal]:
    """How far it could rise with the same least radius, at the usual pressure angle and without undercut."""
    segments = segments_of(document, joint)
    if segments is None or any(one.fixed for one in segments) or cam.shaft.slides:
        return
    before, base = judged(cam), cam.least_radius()
    limit = BINDS[cam.guide.swings] if not (cam.follower.kind.is_face and not cam.guide.swings) else math.inf

    def with_lift(by: float) -> CamGeometry | None:
        other = [replace(one, to=None if one.to is None else one.to * by) for one in segments]
        try:
            return tried(cam, other, base)
        except ValueError:
            return None

    def fits(by: float) -> bool:
        made = with_lift(by)
        if made is None:
            return False
        found = roughly(made)
        return found.sound and found.pressure <= limit

    if not fits(1.0):
        return
    good, bad = 1.0, 8.0
    for _ in range(12):
        middle = (good + bad) / 2
        good, bad = (middle, bad) if fits(middle) else (good, middle)
    by = math.floor(good * 50) / 50
    made = with_lift(by)
    if by < 1 + 2 * WORTH or made is None:
        return
    other = [replace(one, to=None if one.to is None else one.to * by) for one in segments]
    lift = Dimension.ANGLE if cam.guide.swings else Dimension.LENGTH
    after = judged(made)
    told = (Told("rises by", shown(before.lift, lift, document.units, 2), shown(after.lift, lift, document.units, 2)),
            *compared(document, before, after))  # fmt: skip
    changes = with_segments(document, joint, other)
    if document.couplings[joint].base is None:
        changes = [*changes, *based(document, joint, round(base, 6))]
    yield CamProposal(f"It could rise by {shown(after.lift, lift, document.units, 2)}", told, tuple(changes))


def acceleration(cam: CamGeometry) -> float:
    """The greatest acceleration of the follower, for a rate of 1 of the shaft; infinite where its velocity jumps."""
    import numpy as np

    from ..cams.judgement import PLACES
    from ..cams.profile import spread

    a = spread(cam, PLACES)
    lift = cam.law.lift(a)
    joints = np.array(cam.law.joints())
    hair = 1e-11 * max(1.0, cam.law.period)
    jump = np.abs(cam.law.lift(joints + hair)[1] - cam.law.lift(joints - hair)[1])
    if jump.size and float(jump.max()) > 1e-6 * float(np.abs(lift[1]).max(initial=1e-300)):
        return math.inf
    return float(np.abs(lift[2]).max(initial=0.0))


def told_lines(proposal: CamProposal) -> Sequence[str]:
    """What it changes, a line each."""
    return [f"{one.what}: {one.before} → {one.after}" for one in proposal.told]
