"""Reading cams: the law that a program gives, the follower, and, where one body carries shaft and follower, the profile
that parts wear."""

import math
from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from ..cams import CamGeometry, CamLaw, Follower, FollowerKind
from ..cams.outline import rings
from ..errors import suggestion
from ..geometry.shapes import CamOutline
from ..joints import CouplingType
from ..joints.cam import FOLLOWER_FIELDS, NEEDED, SUITS
from ..kinds import Dimension
from .model import Coupling, Part, Program
from .place_cams import cam_geometry
from .read_context import MISSING, NAN, ReadContext
from .read_couplings import tied
from .read_teeth import sound
from .sections import SECTIONS, keys_of

TURN = 2 * math.pi
YOKES = 1e-6
"""By how much the distance across a cam may change for a yoke (of that distance)."""
CLOSES = 1e-9
"""How far a program may be off its first value at the end of a turn (document lengths, rad)."""



# -- the joint ---------------------------------------------------------------------------------------------


def read_cam(
    context: ReadContext, key: str, kind: CouplingType, item: Mapping[str, Any], place: str
) -> Coupling:
    """A cam, which ties two joints by its program."""
    context.unknown_keys(item, ("type", "a", "b", *SECTIONS["joints"].keys, *keys_of(kind.fields)), place)
    a, turns = tied(context, item, "a", None, place)
    b, counts = tied(context, item, "b", None, place)
    if a and a == b:
        context.fault(place, f"ties joint '{a}' to itself")
    for side, name in (("a", a), ("b", b)):
        guide = context.joints[name].kind if name in context.joints and context.joints[name].type else None
        if guide is not None and not (guide.pin or guide.straight):
            context.fault(f"{place}.{side}", f"a revolute or a prismatic joint is wanted, '{name}' is neither")
    program = _program_of(context, item, turns, counts, place)
    start = context.optional(item, "start", turns or Dimension.ANGLE, place) or 0.0
    low = context.optional(item, "low", counts or Dimension.LENGTH, place)
    base = context.size(item["base"], f"{place}.base") if "base" in item else None
    if low is not None and base is not None:
        context.fault(place, "has both 'low' and 'base'; give one of them: each follows from the other")
    follower = _follower(context, item["follower"], b, f"{place}.follower") if "follower" in item else None
    if base is not None and "follower" not in item:
        context.fault(f"{place}.base", "there is no radius without a 'follower'; say what touches the cam")
    sound = not any(math.isnan(one) for one in (start, low or 0.0, base or 0.0))
    law = _law(context, program, turns, counts, start) if program is not None and sound else None
    return Coupling(
        id=key, type=kind.name, a=a, b=b, ratio=NAN, given=MappingProxyType({"program": _name(item)}),
        suspended=context.flag(item, "suspended", place), note=context.text(item, "note", place),
        program=_name(item), law=law, low=low, base=base, follower=follower,
    )  # fmt: skip


def _name(item: Mapping[str, Any]) -> str:
    return str(item.get("program", ""))


def _program_of(context: ReadContext, item: Mapping[str, Any], turns: str, counts: str, place: str) -> Program | None:
    """The program of a cam, if it is one for its joints."""
    if context.required(item, "program", place) is MISSING:
        return None
    name, where = _name(item), f"{place}.program"
    found = context.programs.get(name)
    if found is None:
        if not any(fault.place.startswith(f"programs.{name}") for fault in context.faults):
            context.fault(where, f"there is no program '{name}'{suggestion(name, list(context.programs))}")
        return None
    wanted = Dimension.ANGLE if turns != Dimension.LENGTH else Dimension.LENGTH
    before = len(context.faults)
    if turns and found.over != wanted:
        text = "its shaft turns: 'over' in deg" if wanted == Dimension.ANGLE else "its cam slides: 'over' in mm"
        context.fault(where, f"'{name}' runs over {_what(found.over)}; {text}")
    if counts and found.lift not in ("", counts):
        text = f"its follower '{item.get('b')}' counts {_what(counts)}"
        context.fault(where, f"'{name}' gives {_what(found.lift)}, {text}")
    first, last = found.pieces[0].at(0.0), found.pieces[-1].at(found.length)
    if found.over == Dimension.ANGLE and len(context.faults) == before:
        if found.length > TURN + 1e-9:
            over, much = (context.described(one, Dimension.ANGLE) for one in (found.length, found.length - TURN))
            context.fault(where, f"'{name}' runs over {over}, more than a turn; take {much} out")
        elif abs(last - first) > CLOSES:
            lift = found.lift or counts or Dimension.LENGTH
            ends = [context.described(value, lift) for value in (last, first)]
            text = "the follower would jump; add a segment that brings it back"
            context.fault(where, f"'{name}' ends at {ends[0]}, not at {ends[1]} where it begins: {text}")
    return found if len(context.faults) == before else None


def _law(context: ReadContext, program: Program, turns: str, counts: str, start: float) -> CamLaw:
    size = 1.0
    if not program.lift and counts == Dimension.ANGLE and context.units.angle == "deg":
        size = math.radians(1.0)
    pieces = [piece.scaled(1.0, size) for piece in program.pieces]
    return CamLaw.of(pieces, start, 0.0 if turns == Dimension.LENGTH else TURN)


def _follower(context: ReadContext, value: Any, b: str, place: str) -> Follower | None:
    """What touches the cam."""
    item = context.mapping(value, place)
    kind = context.text(item, "kind", place)
    words = FOLLOWER_FIELDS[0].words
    before = len(context.faults)
    if kind not in words:
        context.fault(f"{place}.kind", f"one of {', '.join(words)} is wanted{suggestion(kind, list(words))}")
        return None
    context.unknown_keys(item, ("kind", "at", *SUITS[kind]), place)
    for need in NEEDED.get(kind, ()):
        if need not in item:
            what = next(field.description for field in FOLLOWER_FIELDS if field.name == need)
            context.fault(place, f"'{need}' is missing: {what}")
    at = context.required(item, "at", place)
    part, _, point = str(at).rpartition(".") if at is not MISSING else ("", "", "")
    joint = context.joints.get(b)
    if at is not MISSING and joint is not None:
        if part not in (joint.a.part, joint.b.part):
            context.fault(f"{place}.at", f"'{part}' is not moved by '{b}'; name a point of '{joint.b.part}'")
        elif part in context.parts and point not in context.parts[part].points:
            near = suggestion(point, list(context.parts[part].points))
            context.fault(f"{place}.at", f"part '{part}' has no point '{point}'{near}")
    radius = context.size(item["radius"], f"{place}.radius") if "radius" in item else 0.0
    direction = context.optional(item, "direction", Dimension.ANGLE, place) or 0.0
    width = context.size(item["width"], f"{place}.width") if "width" in item else 0.0
    if len(context.faults) > before or part not in context.parts or any(map(math.isnan, (radius, direction, width))):
        return None
    where, yoke = complex(*context.parts[part].points[point]), context.flag(item, "yoke", place)
    return Follower(FollowerKind(kind), part, point, where, radius, direction, width, yoke)


# -- the cam -----------------------------------------------------------------------------------------------


def wear_cams(context: ReadContext) -> None:
    """Finds what cams there are, and gives parts that wear them their outlines."""
    worn: dict[str, list[str]] = {}
    for name, part in context.parts.items():
        for shape in part.shapes:
            if isinstance(shape, CamOutline):
                worn.setdefault(shape.joint, []).append(name)
    for key, coupling in context.couplings.items():
        if coupling.law is not None and coupling.follower is not None:
            wearers = [name for own in worn for name in worn[own] if _path(own, name) == key]
            context.couplings[key] = _with_geometry(context, coupling, wearers)
    for name in dict.fromkeys(one for names in worn.values() for one in names):
        part = context.parts[name]
        shapes = tuple(_worn(context, shape, part, k) if isinstance(shape, CamOutline) else shape
                       for k, shape in enumerate(part.shapes))  # fmt: skip
        context.parts[name] = replace(part, shapes=shapes)


def _path(joint: str, part: str) -> str:
    """The name of a joint that a part of a sub-assembly speaks of."""
    use = part.rpartition("/")[0]
    return f"{use}/{joint}" if use else joint


def _with_geometry(context: ReadContext, coupling: Coupling, wearers: list[str]) -> Coupling:
    """A cam with its geometry, where one body carries shaft and follower; its `low` where a radius is wanted."""
    place = f"{context.at}joints.{coupling.id}"
    if any(name not in context.joints or not sound(context, context.joints[name]) for name in (coupling.a, coupling.b)):
        return coupling  # told already
    shaft = context.joints[coupling.a]
    wearer = next((name for name in (shaft.b.part, shaft.a.part) if any(_is(context, name, one) for one in wearers)),
                  shaft.b.part)  # fmt: skip
    try:
        cam = cam_geometry(coupling, context.parts, context.joints, context.groups, wearer)
    except ValueError as error:
        if coupling.base is not None or wearers:
            context.fault(place, f"no profile can be made: {error}")
        return coupling
    if coupling.base is not None:
        try:
            cam = cam.with_least_radius(coupling.base)
        except ValueError as error:
            context.fault(f"{place}.base", str(error))
            return coupling
        coupling = replace(coupling, low=cam.low)
    _refuse_yoke(context, cam, f"{place}.follower.yoke")
    return replace(coupling, cam=cam)


def _refuse_yoke(context: ReadContext, cam: CamGeometry, place: str) -> None:
    """A yoke wants a law whose rise half a turn on is its return."""
    if not cam.follower.yoke:
        return
    low, high, at = cam.across()
    if math.isnan(low):
        context.fault(place, "a yoke slides on a line through the shaft; this one swings, or its way passes aside")
    elif high - low > YOKES * high:
        first, last = (context.described(one, Dimension.LENGTH) for one in (low, high))
        text = f"the law does not allow a yoke: across the cam there are {first} to {last}, most off at "
        text += f"{context.described(at, Dimension.ANGLE)}; let the return half a turn on mirror the rise"
        context.fault(place, text)


def _is(context: ReadContext, part: str, wearer: str) -> bool:
    """Whether a part is what wears an outline, or what that is a copy of."""
    while wearer and wearer != part:
        wearer = context.parts[wearer].of if wearer in context.parts else ""
    return wearer == part


def _worn(context: ReadContext, shape: CamOutline, part: Part, number: int) -> CamOutline:
    """The outline of a cam with what its joint gives."""
    if shape.rings:
        return shape
    place = f"{context.at}parts.{part.id}.shapes.{number}"
    key = _path(shape.joint, part.id)
    coupling = context.couplings.get(key)
    if coupling is None:
        if key not in context.tied:
            cams = [name for name, one in context.couplings.items() if one.kind.by_program]
            context.fault(f"{place}.joint", f"there is no cam joint '{shape.joint}'{suggestion(shape.joint, cams)}")
        return shape
    if not coupling.kind.by_program:
        context.fault(f"{place}.joint", f"'{shape.joint}' is a {coupling.type}; name a cam joint")
        return shape
    if coupling.law is not None and coupling.follower is None and "follower" not in _faulty(context, key):
        context.fault(f"{place}.joint", f"'{shape.joint}' has no 'follower', so that its cam has no shape yet")
    shaft = context.joints.get(coupling.a)
    if shaft is None or coupling.cam is None:
        return shape
    if not any(_is(context, side.part, part.id) for side in (shaft.a, shaft.b)):
        text = f"turns with '{shaft.b.part}'; only that, or a copy, wears it"
        context.fault(f"{place}.joint", f"the cam of '{shape.joint}' {text}")
        return shape
    try:
        return replace(shape, rings=rings(coupling.cam, shape.groove, shape.width, shape.back))
    except ValueError as error:
        context.fault(f"{place}.groove", str(error))
        return shape


def _faulty(context: ReadContext, key: str) -> str:
    """What of a joint has faults, as places."""
    start = f"{context.at}joints.{key}."
    return " ".join(fault.place.removeprefix(start) for fault in context.faults if fault.place.startswith(start))


_NAMES: dict[str, str] = {Dimension.ANGLE: "an angle", Dimension.LENGTH: "a length", Dimension.TIME: "time"}


def _what(dimension: str) -> str:
    return _NAMES.get(dimension, "numbers")
