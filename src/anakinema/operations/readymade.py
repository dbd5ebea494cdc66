"""Made in one go of what is there: gears of two discs, a cover plate in front of a frame."""

import math
from collections.abc import Mapping
from typing import Any

from ..document.changes import Change, Place, Set, changed
from ..document.copies import extent
from ..document.model import Document, Joint
from ..document.written import pose_of, tidy
from ..errors import located
from ..geometry.shapes import Disc, GearTeeth
from ..joints import JOINT_TYPES
from ..joints.gear import Gear
from .building import Made, free_name, named_point, said_at
from .ready import MODULES

Pose = tuple[float, float, float]
TEETH = 24
"""Teeth that the smaller wheel has, about."""
LEAST = 12
"""Fewer teeth are undercut too much to be proposed."""


def gears_of(document: Document, one: str, two: str) -> Made:
    """Two discs made wheels that mesh. Their ratio is that of their sizes, to whole teeth of a module of the usual
    series; module and teeth are parameters named by the wheels, the axes come so far apart that they mesh. Raises
    `DocumentError` where one is no disc, or does not turn on what carries the other."""
    discs = [_disc(document, part) for part in (one, two)]
    joints = [_axis(document, one, two), _axis(document, two, one)]
    first, second = joints
    carrier = first.seen_from(one)[1]
    if second.seen_from(two)[1].part != carrier.part:
        text = f"'{one}' and '{two}' turn on different parts; pin both to what carries them"
        raise located(f"parts.{two}", text)
    least = min(disc.diameter for _, disc in discs)
    module = min(MODULES, key=lambda size: abs(math.log(size * TEETH / least)))
    teeth = [max(round(disc.diameter / module), LEAST) for _, disc in discs]
    taken = [name.rsplit("_", 1)[0] for name in document.parameters]
    prefix = free_name(taken, "gears")
    names = [f"{prefix}_{_word(part)}" for part in (one, two)]
    if names[0] == names[1]:
        names[1] += "2"
    changes: list[Change] = [
        Set(("parameters", f"{prefix}_module"), {"value": f"{module:g} {document.units.length}",
                                                  "note": "the pitch over π, the same of both"}),
        *(Set(("parameters", name), {"value": count, "note": f"teeth of {part}"})
          for name, count, part in zip(names, teeth, (one, two), strict=True)),
    ]  # fmt: skip
    for part, (number, _), name in zip((one, two), discs, names, strict=True):
        place: Place = (*said_at(document, part, 0j)[1], "shapes", number)
        entry = dict(document.entry("parts", said_at(document, part, 0j)[0].id)["shapes"][number])
        entry = {key: value for key, value in entry.items() if key in ("center", "depth")}
        wheel = {"kind": GearTeeth.kind, **entry, "module": f"{prefix}_module", "teeth": name}
        changes.append(Set(place, wheel))
    changes += _apart(document, first, second, one, two, f"{prefix}_module*({names[0]} + {names[1]})/2",
                      module * sum(teeth) / 2)  # fmt: skip
    key = free_name(document.tree.get("joints", {}), "mesh")
    changes.append(Set(("joints", key), {"type": Gear.name, "a": first.id, "b": second.id}))
    return Made(tuple(changes), ("joints", key))


def _word(part: str) -> str:
    """A part's name as that of a parameter may be."""
    return "".join(char if char.isalnum() else "_" for char in part)


def _disc(document: Document, part: str) -> tuple[int, Disc]:
    """The first disc of a part that is no hole, with its number."""
    for number, shape in enumerate(document.parts[part].shapes):
        if isinstance(shape, Disc) and not shape.cut:
            return number, shape
    raise located(f"parts.{part}", "is no disc: a wheel is made of a disc about its axis")


def _axis(document: Document, part: str, other: str) -> Joint:
    """The pin about which a part turns against what carries it."""
    for joint in document.active_joints.values():
        ends = (joint.a.part, joint.b.part)
        if joint.kind.pin and "/" not in joint.id and part in ends and other not in ends:
            return joint
    raise located(f"parts.{part}", "turns on nothing yet: pin its middle to what carries it")


def _apart(
    document: Document, first: Joint, second: Joint, one: str, two: str, text: str, far: float
) -> list[Change]:
    """Puts the second axis so far from the first, in the direction in which it lies."""
    here, there = first.seen_from(one)[1], second.seen_from(two)[1]
    carrier = document.parts[here.part]
    at, to = (complex(*carrier.place(end.point)) for end in (here, there))
    if at == to:
        raise located(f"joints.{second.id}", "both axes are one; wheels that mesh lie beside each other")
    unit = (to - at) / abs(to - at)
    written = [f"{tidy(base)!r} {document.units.length} + ({text})*{tidy(share)!r}" if abs(share) > 1e-9 else tidy(base)
               for base, share in ((at.real, unit.real), (at.imag, unit.imag))]  # fmt: skip
    place = said_at(document, here.part, 0j)[1]
    changes: list[Change] = [Set((*place, "points", there.point), written)]
    moved = at + unit * far - to
    pose = document.parts[two].pose
    turned = moved * complex(math.cos(carrier.pose[2]), math.sin(carrier.pose[2]))
    changes.append(Set((*document.home("parts", two), "pose"), pose_of(document, complex(*pose[:2]) + turned, pose[2])))
    return changes


def cover_plate(document: Document, part: str, start: Mapping[str, Pose]) -> Made:
    """A plate of a part's outline, without its holes, held rigidly to it, in front of all that lies in front of it.
    Raises `DocumentError` for a part without an outline."""
    there = said_at(document, part, 0j)[0]
    shapes: list[dict[str, Any]] = [
        {key: value for key, value in shape.items() if key != "depth"}
        for shape in document.entry("parts", there.id).get("shapes", []) if not shape.get("cut")
    ]  # fmt: skip
    if not shapes:
        raise located(f"parts.{part}", "has no outline to cover")
    low, high = document.parts[part].depth
    front = max(extent([one])[1] for one in document.parts.values() if one.slabs or one.id == part)
    x, y, angle = start[part]
    entry = {
        "points": dict(document.entry("parts", there.id).get("points", {})), "shapes": shapes,
        "pose": pose_of(document, complex(x, y), angle), "depth": [tidy(front), tidy(front + high - low)],
    }  # fmt: skip
    name = free_name(document.tree["parts"], f"{part.replace('/', '-')}-cover")
    changes: list[Change] = [Set(("parts", name), entry)]
    now = changed(document, *changes)
    point, named = named_point(now, part, 0j)
    changes += named
    now = changed(document, *changes)
    own, named = named_point(now, name, 0j)
    changes += named
    rigid = next(kind for kind, type_ in JOINT_TYPES.items() if type_.rigid)
    key = free_name(document.tree.get("joints", {}), JOINT_TYPES[rigid].word)
    changes.append(Set(("joints", key), {"type": rigid, "a": f"{part}.{point}", "b": f"{name}.{own}"}))
    return Made(tuple(changes), ("parts", name))
