"""The segments of a cam's program: read as numbers, tried while a hand drags them, and written."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..cams import CamGeometry, CamLaw
from ..errors import located
from ..kinds import Dimension
from ..laws import LawPiece, risen
from .changes import Change, Set
from .model import Document
from .units import ANGLE_UNITS, LENGTH_UNITS
from .written import tidy

SHORTEST = 1e-3
"""The least that a segment may last (rad, document lengths)."""

@dataclass(frozen=True)
class Segment:
    """How long it lasts, by the shaft's coordinate, where it goes to, by the follower's (None: it dwells), and its law;
    core units. `fixed` says that an expression gives one of these, which a hand does not overwrite."""

    over: float
    to: float | None
    law: str
    fixed: bool = False


def segments_of(document: Document, joint: str) -> list[Segment] | None:
    """The segments of a cam's program; None where it is none by segments."""
    coupling = document.couplings.get(joint)
    entry = document.tree.get("programs", {}).get(coupling.program) if coupling is not None else None
    if coupling is None or not isinstance(entry, dict) or "segments" not in entry or coupling.law is None:
        return None
    turns, counts = _counts(document, joint)
    found = []
    for one in entry["segments"]:
        over = _worth(document, one["over"], turns)
        to = _worth(document, one["to"], counts) if "to" in one else None
        fixed = not (_plain(one["over"]) and _plain(one.get("to", 0)))
        found.append(Segment(over, to, str(one.get("law", "uniform")), fixed))
    return found


def _counts(document: Document, joint: str) -> tuple[Dimension, Dimension]:
    coupling = document.couplings[joint]
    shaft, guide = document.joints[coupling.a], document.joints[coupling.b]
    return (Dimension.LENGTH if shaft.kind.straight else Dimension.ANGLE,
            Dimension.ANGLE if guide.kind.pin else Dimension.LENGTH)  # fmt: skip


def _worth(document: Document, value: Any, dimension: Dimension) -> float:
    return document.worth(str(value), dimension)


def _plain(value: Any) -> bool:
    """Whether a value is a number, with a unit or without."""
    if not isinstance(value, str):
        return True
    return all(word in (*LENGTH_UNITS, *ANGLE_UNITS) or word.replace(".", "").replace("-", "").isdigit()
               for word in value.split())  # fmt: skip


def pieces_of(segments: Sequence[Segment]) -> list[LawPiece]:
    """The law that they make, from 0 on."""
    found: list[LawPiece] = []
    x = value = 0.0
    for one in segments:
        to = value if one.to is None else one.to
        found += risen(one.law, x, x + one.over, value, to)
        x, value = x + one.over, to
    return found


def tried(cam: CamGeometry, segments: Sequence[Segment], base: float | None) -> CamGeometry:
    """A cam with other segments, its least radius about as the document says, if it says it. Raises ValueError where
    that can't be had."""
    law = CamLaw.of(pieces_of(segments), cam.law.start, cam.law.period)
    made = replace(cam, law=law)
    return made.with_least_radius(base, fine=False) if base is not None else made


def moved_end(
    segments: Sequence[Segment], number: int, by: float, height: float | None, period: float
) -> list[Segment]:
    """The segments with the end of one of them elsewhere: the next gives or takes what it gains, the last one what is
    left of the turn; with a `height` it goes there, and so do the dwells that follow."""
    found = list(segments)
    one = found[number]
    if number + 1 < len(found):
        by = min(max(by, SHORTEST - one.over), found[number + 1].over - SHORTEST)
        found[number + 1] = replace(found[number + 1], over=found[number + 1].over - by)
    else:
        left = (period - sum(each.over for each in found)) if period else float("inf")
        by = min(max(by, SHORTEST - one.over), left)
    found[number] = replace(one, over=one.over + by)
    if height is not None and one.to is not None:
        found[number] = replace(found[number], to=height)
    return found


def with_segments(document: Document, joint: str, segments: Sequence[Segment]) -> list[Change]:
    """Writes those segments that are new or not as they were."""
    before = segments_of(document, joint)
    if before is None:
        raise located(f"joints.{joint}", "its program is not by segments")
    program = document.couplings[joint].program
    entries = document.tree["programs"][program]["segments"]
    units, (turns, counts) = document.units, _counts(document, joint)

    def written(value: float, dimension: Dimension) -> str:
        return f"{tidy(round(value * dimension.per_core(units), 9)):g} {dimension.written(units)}".strip()

    found: list[Any] = []
    for number, one in enumerate(segments):
        known = dict(entries[number]) if number < len(entries) else {}
        was = before[number] if number < len(before) else None
        if was is None or was.over != one.over:
            known["over"] = written(one.over, turns)
        if one.to is None:
            known.pop("to", None)
            known.pop("law", None)
        else:
            if was is None or was.to != one.to:
                known["to"] = written(one.to, counts) if one.to else 0
            if was is None or was.law != one.law or was.to is None:
                known["law"] = one.law
        found.append(known)
    return [Set(("programs", program, "segments"), found)]


def rest_of_turn(segments: Sequence[Segment], period: float) -> float:
    """What the segments leave of a turn."""
    return period - sum(one.over for one in segments) if period else 0.0


def split(segments: Sequence[Segment], number: int) -> list[Segment]:
    """Cuts a segment in the middle: of a rise half, then the other half; of a dwell one that may be changed."""
    found = list(segments)
    one = found[number]
    half = replace(one, over=one.over / 2)
    if one.to is None:
        return [*found[:number], half, half, *found[number + 1 :]]
    start = next((each.to for each in reversed(found[:number]) if each.to is not None), 0.0)
    middle = replace(half, to=(start + one.to) / 2)
    return [*found[:number], middle, half, *found[number + 1 :]]


def merged(segments: Sequence[Segment], number: int) -> list[Segment]:
    """Without one segment: its neighbour lasts as long as both did."""
    found = list(segments)
    gone = found.pop(number)
    if found:
        near = min(number, len(found) - 1)
        found[near] = replace(found[near], over=found[near].over + gone.over)
    return found


def table_program(document: Document, joint: str, rows: Sequence[Sequence[float]]) -> list[Change]:
    """A table of the shaft's coordinate and of the follower's (document units) as the program of a cam."""
    units, (turns, counts) = document.units, _counts(document, joint)
    points = [[f"{tidy(a)} {turns.written(units)}", f"{tidy(b)} {counts.written(units)}"] for a, b in rows]
    return [Set(("programs", document.couplings[joint].program), {"points": points})]
