"""What is to be said of the cams of a document, and what would mend them."""

import math
from collections.abc import Mapping

import numpy as np

from ..cams import FollowerKind
from ..cams.judgement import CamJudgement, judged, largest_roller, least_base
from ..document.changes import Change, Remove, Set, lookup
from ..document.model import Coupling, Document
from ..document.written import tidy
from ..formatting import shown
from ..kinds import Dimension
from .advice import Advice

BINDS = {False: math.radians(30), True: math.radians(45)}
"""Pressure angle up to which a follower in a guide is held not to bind, and a swinging one (common practice, no
source)."""
BLUNT = 0.2
"""Share of a roller's radius that a profile's least radius of curvature is to keep."""
STEP = 1e-6
"""Jumps of a program's rate below this (of its greatest) are rounding."""


def cam_judgements(document: Document) -> dict[str, CamJudgement]:
    """What is to be said of each cam whose follower is known."""
    return {
        name: judged(coupling.cam) for name, coupling in document.active_couplings.items() if coupling.cam is not None
    }


def cam_advice(document: Document, judgements: Mapping[str, CamJudgement]) -> list[Advice]:
    """What of the cams calls for a hand, with what mends it."""
    found = []
    for name, found_of_it in judgements.items():
        coupling = document.couplings[name]
        found += _undercut(document, coupling, found_of_it)
        found += _face(document, coupling, found_of_it)
        found += _pressure(document, coupling, found_of_it)
    for coupling in document.active_couplings.values():
        found += _jumps(document, coupling)
    return found


def at_shaft(document: Document, coupling: Coupling, value: float) -> str:
    """A coordinate of a cam's shaft, in words."""
    return shown(value, _turns(document, coupling), document.units)


def _turns(document: Document, coupling: Coupling) -> Dimension:
    return Dimension.LENGTH if document.joints[coupling.a].kind.straight else Dimension.ANGLE


def _undercut(document: Document, coupling: Coupling, judgement: CamJudgement) -> list[Advice]:
    if not judgement.undercut or coupling.cam is None:
        return []
    (start, stop), more = judgement.undercut[0], len(judgement.undercut) - 1
    where = f"from {at_shaft(document, coupling, start)} to {at_shaft(document, coupling, stop)}"
    where += f", and {more} more" if more else ""
    text = f"The cam of '{coupling.id}' is undercut {where}: no profile moves its follower so there"
    mend = _larger(document, coupling, math.inf)
    way = [f"a least radius of {_length(document, mend[1])}"] if mend else []
    follower = coupling.cam.follower
    if follower.kind in (FollowerKind.ROLLER, FollowerKind.ARC):
        radius = largest_roller(coupling.cam)
        if math.isfinite(radius) and radius > 0:
            way.append(f"a radius of the follower below {_length(document, radius)}")
    text += f"; {' or '.join(way)} mends it" if way else ""
    return [Advice(text, f"joints.{coupling.id}", None, mend[0] if mend else ())]


def _face(document: Document, coupling: Coupling, judgement: CamJudgement) -> list[Advice]:
    assert coupling.follower is not None
    width, needed = coupling.follower.width, judgement.face_width
    if not width or needed is None or needed <= width * (1 + 1e-9):
        return []
    text = f"The face of '{coupling.id}' is {_length(document, width)} wide, {_length(document, needed)} are needed"
    wide = Set((*document.home("joints", coupling.id), "follower", "width"), tidy(math.ceil(needed)))
    return [Advice(text, f"joints.{coupling.id}", None, (wide,))]


def _pressure(document: Document, coupling: Coupling, judgement: CamJudgement) -> list[Advice]:
    if coupling.cam is None or judgement.undercut:
        return []
    swings = coupling.cam.guide.swings
    limit, value = BINDS[swings], judgement.pressure.value
    if value <= limit * (1 + 1e-9) or (coupling.cam.follower.kind.is_face and not swings):
        return []
    bound = shown(limit, Dimension.ANGLE, document.units)
    text = (f"The pressure angle of '{coupling.id}' reaches {shown(value, Dimension.ANGLE, document.units)} at "
            f"{at_shaft(document, coupling, judgement.pressure.at)}: above {bound} followers may bind")  # fmt: skip
    mend = _larger(document, coupling, limit)
    text += f"; a least radius of {_length(document, mend[1])} keeps it" if mend else ""
    return [Advice(text, f"joints.{coupling.id}", None, mend[0] if mend else ())]


def _larger(document: Document, coupling: Coupling, pressure: float) -> tuple[tuple[Change, ...], float] | None:
    """The smallest cam that keeps a pressure angle, and is not undercut: as changes, and its least radius; None where
    there is none."""
    assert coupling.cam is not None
    if coupling.cam.shaft.slides:
        return None
    try:
        radius = least_base(coupling.cam, pressure, BLUNT * coupling.cam.follower.radius).least_radius()
    except ValueError:
        return None
    step = 10.0 ** (math.floor(math.log10(radius)) - 2)
    radius = math.ceil(radius / step) * step
    return based(document, coupling.id, radius), radius


def based(document: Document, joint: str, radius: float) -> tuple[Change, ...]:
    """Gives a cam its least radius, in place of where its follower is lowest."""
    home = document.home("joints", joint)
    low = (Remove((*home, "low")),) if "low" in lookup(document.tree, home, {}) else ()
    return (*low, Set((*home, "base"), tidy(radius)))


def jumps(coupling: Coupling) -> list[tuple[int, float, float]]:
    """Where the law of a cam jumps: (1 for its rate, 2 for its acceleration; the shaft's coordinate; how high, for a
    rate of 1 of the shaft)."""
    law = coupling.law
    if law is None:
        return []
    inside = np.linspace(law.start, law.start + law.stop, 721)
    size = np.abs(law.lift(inside)).max(axis=1)
    found = []
    for joint in dict.fromkeys(law.joints()):
        hair = 1e-11 * max(1.0, abs(joint), law.period)
        before, after = law.lift(np.array([joint - hair, joint + hair])).T
        for order in (1, 2):
            high = float(after[order] - before[order])
            if abs(high) > STEP * size[order]:
                found.append((order, joint, high))
                break
    return found


def jumps_text(document: Document, coupling: Coupling) -> str:
    """The first jumps of velocity and of acceleration, in words."""
    found = jumps(coupling)
    told = []
    for order, name in ((1, "velocity"), (2, "acceleration")):
        some = [one for one in found if one[0] == order]
        if some:
            more = f", and {len(some) - 1} more" if len(some) > 1 else ""
            told.append(f"{name} {jump_text(document, coupling, some[0])}{more}")
    return "; ".join(told) or "nowhere"


def _jumps(document: Document, coupling: Coupling) -> list[Advice]:
    """A jump of the rate is a blow whatever the speed; one of the acceleration is told by the measures."""
    sharp = [one for one in jumps(coupling) if one[0] == 1]
    if not sharp or coupling.follower is None:
        return []
    text = (f"The follower of '{coupling.id}' changes its speed at once, {jump_text(document, coupling, sharp[0])}: a "
            "blow at any speed; choose a law that starts and ends gently")  # fmt: skip
    return [Advice(text, f"programs.{coupling.program}")]


def jump_text(document: Document, coupling: Coupling, jump: tuple[int, float, float]) -> str:
    """A jump of a law in words: where, and how high."""
    order, at, high = jump
    lifts = Dimension.ANGLE if document.joints[coupling.b].kind.pin else Dimension.LENGTH
    unit = document.units.length if lifts is Dimension.LENGTH else "rad"
    over = document.units.length if _turns(document, coupling) is Dimension.LENGTH else "rad"
    return f"at {at_shaft(document, coupling, at)} by {abs(high):.4g} {unit}/{over}{'²' if order == 2 else ''}"


def _length(document: Document, value: float) -> str:
    return shown(value, Dimension.LENGTH, document.units)
