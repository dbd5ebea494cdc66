"""What of a thing can be followed along the motion, as a track of the strip or as a check."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..document.changes import Change, Set
from ..document.model import Document, Measure
from ..document.segments import segments_of
from ..errors import located
from ..findings.measuring import dimension_of
from ..formatting import in_document_units
from ..joints import JOINT_TYPES
from ..measures import MEASURE_TYPES
from ..measures.camming import CamTiming
from .building import Made, free_name


@dataclass(frozen=True)
class Offer:
    """A measure that can be taken of what is selected: its words, and its entry in the document."""

    words: str
    entry: Mapping[str, Any]

    @property
    def whole(self) -> bool:
        """Whether it is one number for the whole motion."""
        return MEASURE_TYPES[self.entry["measure"]].whole


def offers(document: Document, chosen: Mapping[str, Sequence[str]]) -> list[Offer]:
    """The measures of the joints, traces, measures and parts that are chosen."""
    found: list[Offer] = []
    joints = [name for name in chosen.get("joints", ()) if _counts(document, name)]
    for name in joints[:1]:
        joint = document.joints[name]
        for kind in MEASURE_TYPES.values():
            if kind.of_joint and kind.suits(joint):
                found.append(Offer(kind.title, {"measure": kind.name, "joint": name}))
    for name in chosen.get("couplings", ())[:1]:
        if document.couplings[name].kind.by_program:
            found += [Offer(kind.title, {"measure": kind.name, "cam": name}) for kind in MEASURE_TYPES.values()
                      if [field.name for field in kind.fields if field.required] == ["cam"]]  # fmt: skip
            found += _timings(document, name)
    if len(joints) == 2:
        found.insert(0, Offer("Out of ratio", {"measure": "out_of_ratio", "joint": joints[1], "against": joints[0]}))
    for name in chosen.get("traces", ())[:1]:
        one = document.traces[name]
        on = {"on": one.on} if one.on is not None else {}
        point = {"point": str(one.point), **on}
        found += [Offer("Place along x", {"measure": "place", **point}),
                  Offer("Place along y", {"measure": "place", "axis": "y", **point}),
                  Offer("Speed", {"measure": "speed", **point}),
                  Offer("Acceleration", {"measure": "point_acceleration", **point}),
                  *(Offer(f"{what} along {axis}", {"measure": measure, "axis": axis, **point})
                    for what, measure in (("Velocity", "velocity_along"), ("Acceleration", "acceleration_along"))
                    for axis in ("x", "y")),
                  Offer("Jerk", {"measure": "point_jerk", **point}),
                  Offer("Length of the path", {"measure": "path_length", "trace": name}),
                  Offer("Straightness", {"measure": "straightness", "trace": name})]  # fmt: skip
    for name in chosen.get("tracks", ())[:1]:
        entry = {key: value for key, value in document.tree["tracks"][name].items() if key not in ("height", "note")}
        found.append(Offer(MEASURE_TYPES[entry["measure"]].title, entry))
    found += [Offer(name, {"measure": "measured", "of": name}) for name in chosen.get("measures", ())[:1]]
    parts = list(chosen.get("parts", ()))
    if len(parts) == 1 and not document.parts[parts[0]].fixed:
        found.append(Offer("Angular rate", {"measure": "part_rate", "part": parts[0]}))
    if len(parts) == 2:
        found.append(Offer("Clearance", {"measure": "clearance", "parts": parts}))
    return found


def _timings(document: Document, cam: str) -> list[Offer]:
    """How long the other cams of its shaft wait after each of its moves, by the moves of both."""
    found = []
    for other, coupling in document.couplings.items():
        if other == cam or not coupling.kind.by_program or coupling.a != document.couplings[cam].a:
            continue
        own, next_ones = (segments_of(document, name) or [] for name in (cam, other))
        for i, one in enumerate(own, 1):
            for k, two in enumerate(next_ones, 1):
                if one.to is not None and two.to is not None:
                    words = f"From the end of segment {i} to segment {k} of {other}"
                    found.append(Offer(words, {"measure": CamTiming.name, "cam": cam, "segment": i, "next": other,
                                               "next_segment": k}))  # fmt: skip
    return found


def _counts(document: Document, name: str) -> bool:
    joint = document.joints.get(name)
    return joint is not None and JOINT_TYPES[joint.type].coordinate_dimension(joint.values) is not None


def add_track(document: Document, entry: Mapping[str, Any], shown: Sequence[Mapping[str, Any]] = ()) -> Made:
    """A track of the strip. Where the document says no tracks yet, those that are `shown` come first, so that none goes
    from sight. Raises `DocumentError` where it is there already."""
    changes: list[Change] = []
    names = dict(document.tree.get("tracks", {}))
    if not names:
        for one in shown:
            name = free_name(names, _stem(one))
            names[name] = dict(one)
            changes.append(Set(("tracks", name), dict(one)))
    if any({key: value for key, value in one.items() if key not in ("height", "note")} == dict(entry)
           for one in names.values()):  # fmt: skip
        raise located("tracks", "this track is there already")
    name = free_name(names, _stem(entry))
    changes.append(Set(("tracks", name), dict(entry)))
    return Made(tuple(changes), ("tracks", name))


def _stem(entry: Mapping[str, Any]) -> str:
    named = (entry[key] for key in ("joint", "cam", "of", "trace", "point") if entry.get(key))
    about = next(named, "-".join(entry.get("parts", ["track"])))
    kind = entry["measure"]
    stem = str(about) if kind in ("coordinate", "measured") else f"{about}-{kind.replace('_', '-')}"
    return stem.replace(".", "-").replace("/", "-")


def moved_track(document: Document, name: str, by: int) -> Set:
    """The tracks with one of them further up (−1) or down (1)."""
    names = list(document.tree["tracks"])
    at = names.index(name)
    to = min(max(at + by, 0), len(names) - 1)
    names.insert(to, names.pop(at))
    return Set(("tracks",), {each: document.tree["tracks"][each] for each in names})


def rounded(value: float, down: bool) -> float:
    """A bound as a hand would write it, to three decimals, or to as many more as set it apart from the value; on the
    side on which the value keeps it.

    >>> rounded(80.3147, True), rounded(80.3147, False), rounded(-0.00012345, True), rounded(28.0, True)
    (80.314, 80.315, -0.0001235, 28.0)
    """
    if value == 0.0 or not math.isfinite(value):
        return value
    digits = max(3, 3 - math.floor(math.log10(abs(value))))
    whole = value * 10**digits
    near = round(whole)
    if abs(whole - near) > 1e-6:  # but for rounding it is there
        near = math.floor(whole) if down else math.ceil(whole)
    return float(near / 10**digits)


def add_check(document: Document, entry: Mapping[str, Any], value: float | None, measure: Measure | None) -> Made:
    """A check of a measure, its bound what is found now (core units), to be changed on its card."""
    kind = entry["measure"]
    bound = 0.0
    first = MEASURE_TYPES[kind].first_bound
    if value is not None and measure is not None:
        bound = rounded(in_document_units(value, dimension_of(measure, document), document.units), first == "at_least")
    name = free_name(document.checks, _stem(entry) if kind != "measured" else f"{entry['of']}-kept")
    bounds = {"at_least": -bound, "at_most": bound} if first == "both" else {first: bound}
    return Made((Set(("checks", name), {**entry, **bounds}),), ("checks", name))


def add_measure(document: Document, entry: Mapping[str, Any]) -> Made:
    """A quantity as a measure of the document, to be named in checks and expressions."""
    name = free_name(document.measures, _named_like_a_word(_stem(entry)))
    return Made((Set(("measures", name), dict(entry)),), ("measures", name))


def add_expression(document: Document) -> Made:
    """A measure that is an expression of others, at first of the first. Raises `DocumentError` where none can be
    named in one."""
    named = [name for name, one in document.measures.items() if name.isidentifier() and one.kind != "clearance"
             and name not in document.quantities]  # fmt: skip
    if not named:
        raise located("measures", "an expression names measures, and there is none whose name it can speak of: give "
                                  "one a name of letters, digits and _")  # fmt: skip
    name = free_name(document.measures, "expression")
    return Made((Set(("measures", name), {"measure": "expression", "expression": named[0]}),), ("measures", name))


def _named_like_a_word(stem: str) -> str:
    """A name that an expression can speak of."""
    return stem.replace("-", "_")
