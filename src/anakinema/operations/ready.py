"""Ready shapes: parts that are laborious to draw, made as ordinary outlines whose numbers are expressions of a few
parameters. Each brings its own base, joints, rests and contacts, and moves when its first joint is driven.

The relations are those of the trade: a pawl holds by itself where the line of its push passes inside its pivot (common
practice, no source); the crank of an indexing wheel of n slots at distance a is a sin(π/n) long, the wheel's radius is
a cos(π/n), and so far out are the mouths of one that goes round its crank, so that the pin enters and leaves a slot
along it (any textbook of mechanisms, from memory).
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from ..document.changes import Change, Set
from ..document.model import Document
from ..document.written import tidy
from ..errors import located
from ..geometry.shapes import GearTeeth, RackTeeth
from ..joints import CONTACT, COUPLING_TYPES, PIN, SLIDE
from ..joints.gear import Gear
from ..joints.rack import Rack
from .building import Made, free_name

LEAST_TEETH, MOST_TEETH = 4, 180
MESH = Gear.name
MODULES = (0.3, 0.5, 0.8, 1, 1.25, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10, 12, 16, 20)
Numbers = Mapping[str, str | float]


@dataclass(frozen=True)
class Ready:
    """A ready shape: what it is called, what it is for, how many it has of what there can be several of, and what makes
    its parameters, parts and joints, from a prefix for names, that number, and a size (document lengths)."""

    title: str
    hint: str
    count: str
    usual: int
    least: int
    made: Callable[[str, int, float], tuple[dict[str, str], dict[str, Any], dict[str, Any]]]
    notes: Mapping[str, str]
    """What its parameters are."""


def make_ready(document: Document, kind: str, at: complex, size: float, count: int | None = None) -> Made:
    """A ready shape about a place in the plane, some `size` large (document lengths), of a number of teeth or slots.
    Raises `DocumentError` where that makes no sense."""
    ready = READY[kind]
    count = ready.usual if count is None else count
    if ready.count and not ready.least <= count <= MOST_TEETH:
        raise located("parts", f"a whole number of {ready.count} from {ready.least} to {MOST_TEETH} is wanted")
    tree = document.tree
    prefix = free_name(
        [name.split("_")[0] for name in tree.get("parameters", {})] + list(tree.get("parts", {})), kind
    )
    parameters, parts, joints = ready.made(prefix, count, float(f"{size:.2g}"))
    unit = document.units.length
    changes: list[Change] = []
    for name, text in parameters.items():
        value, note = text.replace("{mm}", unit), ready.notes.get(name, "")
        changes.append(Set(("parameters", f"{prefix}_{name}"), {"value": value, "note": note} if note else value))
    x, y = tidy(at.real), tidy(at.imag)
    for name, entry in parts.items():
        pose = entry.get("pose", [0, 0, 0])
        place = [f"{pose[0]} + {x} {unit}" if isinstance(pose[0], str) else tidy(pose[0] + x),
                 f"{pose[1]} + {y} {unit}" if isinstance(pose[1], str) else tidy(pose[1] + y), pose[2]]  # fmt: skip
        changes.append(Set(("parts", f"{prefix}-{name}"), {**entry, "pose": place}))
    names = {name: free_name(tree.get("joints", {}), f"{prefix}-{name}") for name in joints}
    for name, entry in joints.items():
        ties = entry["type"] in COUPLING_TYPES
        sides = {side: names[entry[side]] if ties else f"{prefix}-{entry[side]}" for side in "ab"}
        carrier = {"carrier": f"{prefix}-{entry['carrier']}"} if "carrier" in entry else {}
        changes.append(Set(("joints", names[name]), {**entry, **sides, **carrier}))
    return Made(tuple(changes), ("joints", names[next(iter(joints))]))


def _ratchet(p: str, teeth: int, size: float, way: int = 1) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A ratchet wheel that turns freely counter-clockwise (way 1) and a pawl whose tip stands in a tooth."""
    sign = "" if way > 0 else "-"

    def flip(x: str, y: str) -> list[str]:
        return [x, f"-({y})" if way < 0 else y]

    parameters = {
        "tip": f"{size:g} {{mm}}", "root": f"{p}_tip * {max(1.0 - 3.2 / teeth, 0.6):.3g}", "face": "0 deg",
        "pitch": f"360 deg / {teeth}",
        "slope": f"atan(({p}_tip*cos({p}_pitch) - {p}_root) / ({p}_tip*sin({p}_pitch)))",
        "lean": f"max({p}_slope, 0 deg) + 14 deg", "pawl": f"1.15 * {p}_tip", "width": f"{p}_tip / 6",
        "nose": f"0.9 * ({p}_tip - {p}_root)",
        "under": f"atan(({p}_tip - {p}_root)*tan({p}_face) / {p}_root)",
        "lay": f"atan({p}_root*sin({p}_under) / ({p}_tip - {p}_root*cos({p}_under)))",
        "holding": f"{p}_lean + {p}_lay",
    }  # fmt: skip
    vertices = []
    for k in range(teeth):
        root, tip = f"{k}*{p}_pitch + {p}_under", f"{k}*{p}_pitch"
        vertices += [flip(f"{p}_root*cos({root})", f"{p}_root*sin({root})"),
                     flip(f"{p}_tip*cos({tip})", f"{p}_tip*sin({tip})")]  # fmt: skip
    pawl = [flip(f"{p}_pawl", f"0 * {p}_pawl"), flip(f"-{p}_width/2", f"{p}_width/2"),
            flip(f"-{p}_width/2", f"-{p}_width/2"), flip(f"0.7*{p}_pawl", f"-{p}_width/2"),
            flip(f"{p}_pawl - {p}_nose*sin({p}_lean + {p}_lay)", f"-{p}_nose*cos({p}_lean + {p}_lay)")]  # fmt: skip
    at = flip(f"{p}_root*cos({p}_under) + {p}_pawl*sin({p}_lean)",
              f"{p}_root*sin({p}_under) - {p}_pawl*cos({p}_lean)")  # fmt: skip
    parts = {
        "base": {"fixed": True, "points": {"O": [0, 0], "P": at}},
        "wheel": {"points": {"O": [0, 0]}, "shapes": [{"kind": "polygon", "vertices": vertices}]},
        "pawl": {"points": {"P": [0, 0]}, "shapes": [{"kind": "polygon", "vertices": pawl}],
                 "pose": [*at, f"{sign}(90 deg + {p}_lean)"]},
    }  # fmt: skip
    joints = {
        "turn": {"type": PIN, "a": "base.O", "b": "wheel.O"},
        "swing": {"type": PIN, "a": "base.P", "b": "pawl.P", "limits": {"rest": f"{sign}(120 deg + {p}_lean)"}},
        "hold": {"type": CONTACT.name, "a": "pawl", "b": "wheel"},
    }
    return parameters, parts, joints


def _detent(p: str, seats: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A wheel with round seats, and an arm whose roller is pushed into them."""
    parameters = {
        "radius": f"{size:g} {{mm}}", "roller": f"{p}_radius * {min(0.9 / seats, 0.18):.3g}",
        "seat": f"1.3 * {p}_roller", "depth": f"0.6 * {p}_roller", "out": f"{p}_radius - {p}_depth + {p}_seat",
        "at": f"{p}_radius - {p}_depth + {p}_roller", "arm": f"1.1 * {p}_radius",
    }  # fmt: skip
    shapes: list[dict[str, Any]] = [{"kind": "disc", "center": [0, 0], "diameter": f"2*{p}_radius"}]
    for k in range(seats):
        turn = f"{k}*360 deg/{seats}"
        shapes.append({"kind": "disc", "center": [f"{p}_out*cos({turn})", f"{p}_out*sin({turn})"],
                       "diameter": f"2*{p}_seat", "cut": True})  # fmt: skip
    parts = {
        "base": {"fixed": True, "points": {"O": [0, 0], "P": [f"{p}_at", f"-{p}_arm"]}},
        "wheel": {"points": {"O": [0, 0]}, "shapes": shapes, "depth": [0, 4]},
        "arm": {"points": {"P": [0, 0], "R": [f"{p}_arm", 0]}, "pose": [f"{p}_at", f"-{p}_arm", "90 deg"],
                "shapes": [{"kind": "disc", "center": "R", "diameter": f"2*{p}_roller", "depth": [0, 4]},
                           {"kind": "bar", "through": ["P", "R"], "width": f"{p}_roller", "depth": [4, 8]}]},
    }  # fmt: skip
    joints = {
        "turn": {"type": PIN, "a": "base.O", "b": "wheel.O"},
        "swing": {"type": PIN, "a": "base.P", "b": "arm.P", "limits": {"rest": "115 deg", "pushes": True}},
        "seat": {"type": CONTACT.name, "a": "arm", "b": "wheel"},
    }
    return parameters, parts, joints


def _snail(p: str, _: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A cam that rises evenly over a turn and ends in an overhang, with a roller that drops off it."""
    places = 36
    parameters = {"least": f"{size / 2:g} {{mm}}", "rise": f"{size / 2:g} {{mm}}", "roller": f"{p}_least / 4"}
    vertices = [[f"({p}_least + {p}_rise*{k}/{places})*cos({k}*359 deg/{places})",
                 f"({p}_least + {p}_rise*{k}/{places})*sin({k}*359 deg/{places})"]
                for k in range(places + 1)]  # fmt: skip
    vertices.append([f"0.95*{p}_least*cos(-30 deg)", f"0.95*{p}_least*sin(-30 deg)"])
    parts = {
        "base": {"fixed": True, "points": {"O": [0, 0]}},
        "cam": {"points": {"O": [0, 0]}, "shapes": [{"kind": "polygon", "vertices": vertices}]},
        "foot": {"points": {"R": [0, 0]}, "pose": [0, f"{p}_least + {p}_rise + {p}_roller", 0],
                 "shapes": [{"kind": "disc", "center": "R", "diameter": f"2*{p}_roller"}]},
    }  # fmt: skip
    joints = {
        "turn": {"type": PIN, "a": "base.O", "b": "cam.O"},
        "lift": {"type": SLIDE, "a": "base.O", "b": "foot.R", "direction": "90 deg", "limits": {"rest": 0}},
        "ride": {"type": CONTACT.name, "a": "cam", "b": "foot"},
    }
    return parameters, parts, joints


def _indexing(p: str, slots: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """An indexing wheel with its crank: the pin turns it by one slot, then the locking disc holds it."""
    parameters = {
        "apart": f"{size:g} {{mm}}", "half": f"180 deg / {slots}", "crank": f"{p}_apart * sin({p}_half)",
        "wheel": f"{p}_apart * cos({p}_half)", "pin": f"{p}_crank / 8", "play": f"{p}_apart / 1000",
        "lock": f"{p}_crank - 1.8*{p}_pin", "hub": f"{p}_apart - {p}_wheel - {p}_play",
        "bottom": f"{p}_apart - {p}_crank - 0.2*{p}_pin",
    }  # fmt: skip
    shapes: list[dict[str, Any]] = [{"kind": "disc", "center": [0, 0], "diameter": f"2*{p}_wheel"}]
    for k in range(slots):
        turn = f"180 deg + {p}_half + {2 * k}*{p}_half"
        shapes.append({"kind": "slot", "cut": True, "width": f"2*({p}_pin + {p}_play)",
                       "through": [[f"{p}_bottom*cos({turn})", f"{p}_bottom*sin({turn})"],
                                   [f"1.3*{p}_wheel*cos({turn})", f"1.3*{p}_wheel*sin({turn})"]]})  # fmt: skip
    for k in range(slots):
        turn = f"180 deg + {2 * k}*{p}_half"
        shapes.append({"kind": "disc", "cut": True, "diameter": f"2*({p}_lock + {p}_play)",
                       "center": [f"{p}_apart*cos({turn})", f"{p}_apart*sin({turn})"]})  # fmt: skip
    # Where the wheel passes while the pin drives it the locking disc is open: 90° − 180°/n to either side of the pin.
    inner = [[f"{p}_hub*cos({k}/3*(90 deg - {p}_half))", f"{p}_hub*sin({k}/3*(90 deg - {p}_half))"]
             for k in (-3, -2, -1, 0, 1, 2, 3)]  # fmt: skip
    outer = [[f"2*{p}_apart*cos({k}*(90 deg - {p}_half))", f"2*{p}_apart*sin({k}*(90 deg - {p}_half))"]
             for k in (1, 0, -1)]  # fmt: skip
    relief = [*inner, *outer]
    parts, joints = _stepping(p, shapes, [{"kind": "polygon", "vertices": relief, "cut": True, "depth": [4, 8]}])
    parts["crank"]["pose"] = [0, 0, "180 deg"]
    return parameters, parts, joints


def _stepping(
    p: str, wheel: list[dict[str, Any]], crank: list[dict[str, Any]]
) -> tuple[dict[str, Any], dict[str, Any]]:
    """Parts and joints of a wheel that a pin on a crank turns step by step, with what its locking disc has besides."""
    parts: dict[str, Any] = {
        "base": {"fixed": True, "points": {"O": [0, 0], "W": [f"{p}_apart", 0]}},
        "crank": {"points": {"O": [0, 0], "P": [f"{p}_crank", 0]},
                  "shapes": [{"kind": "disc", "center": "P", "diameter": f"2*{p}_pin", "depth": [0, 4]},
                             {"kind": "disc", "center": "O", "diameter": f"2*{p}_lock", "depth": [4, 8]}, *crank,
                             {"kind": "bar", "through": ["O", "P"], "width": f"2*{p}_pin", "depth": [8, 12]}]},
        "wheel": {"points": {"W": [0, 0]}, "pose": [f"{p}_apart", 0, 0], "depth": [0, 8], "shapes": wheel},
    }  # fmt: skip
    joints = {
        "turn": {"type": PIN, "a": "base.O", "b": "crank.O"},
        "index": {"type": PIN, "a": "base.W", "b": "wheel.W"},
        "step": {"type": CONTACT.name, "a": "crank", "b": "wheel"},
    }
    return parts, joints


def _inner(p: str, slots: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """An indexing wheel that goes round its crank: the pin drives it while it is farther from the wheel's middle."""
    parameters = {
        "apart": f"{size / 2:g} {{mm}}", "half": f"180 deg / {slots}", "crank": f"{p}_apart * sin({p}_half)",
        "mouth": f"{p}_apart * cos({p}_half)", "pin": f"{p}_crank / 8", "play": f"{p}_apart / 1000",
        "lock": f"{p}_crank - 1.8*{p}_pin", "rim": f"{p}_apart + {p}_crank + 4*{p}_pin",
        "inside": f"({p}_lock + {p}_apart - {p}_mouth)/2",
    }  # fmt: skip
    inside = f"2*sqrt({p}_mouth^2 + ({p}_pin + {p}_play)^2)"  # walls of slots begin where the pin is straight on
    shapes: list[dict[str, Any]] = [{"kind": "disc", "center": [0, 0], "diameter": f"2*{p}_rim"},
                                    {"kind": "disc", "center": [0, 0], "diameter": inside, "cut": True}]  # fmt: skip
    for k in range(slots):
        turn = f"180 deg + {2 * k + 1}*{p}_half"
        far = f"({p}_apart + {p}_crank + {p}_play)"
        shapes.append({"kind": "slot", "cut": True, "width": f"2*({p}_pin + {p}_play)",
                       "through": [[f"0.7*{p}_mouth*cos({turn})", f"0.7*{p}_mouth*sin({turn})"],
                                   [f"{far}*cos({turn})", f"{far}*sin({turn})"]]})  # fmt: skip
    for k in range(slots):
        turn = f"180 deg + {2 * k}*{p}_half"
        shapes.append({"kind": "disc", "cut": True, "diameter": f"2*({p}_lock + {p}_play)",
                       "center": [f"{p}_apart*cos({turn})", f"{p}_apart*sin({turn})"]})  # fmt: skip
    # Of the locking disc only that is left which stands in a seat while the pin is out, 90° − 180°/n to either side of
    # what lies opposite to the pin; what is nearer to its middle would be in the way of the wheel.
    away = [[f"2*{p}_lock*cos({k}/4*(90 deg + {p}_half))", f"2*{p}_lock*sin({k}/4*(90 deg + {p}_half))"]
            for k in range(-4, 5)]  # fmt: skip
    parts, joints = _stepping(p, shapes, [
        {"kind": "polygon", "vertices": [[0, 0], *away], "cut": True, "depth": [4, 8]},
        {"kind": "disc", "center": "O", "diameter": f"2*{p}_inside", "cut": True, "depth": [4, 8]},
        {"kind": "disc", "center": "O", "diameter": f"2*{p}_lock", "depth": [8, 12]},
    ])  # fmt: skip
    return parameters, parts, joints


def _eccentric(p: str, _: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A disc that turns about a place beside its middle, under a flat foot."""
    parameters = {"radius": f"{size / 2:g} {{mm}}", "throw": f"{p}_radius / 3", "face": f"2.4 * {p}_radius"}
    parts = {
        "base": {"fixed": True, "points": {"O": [0, 0]}},
        "disc": {"points": {"O": [0, 0], "C": [f"{p}_throw", 0]},
                 "shapes": [{"kind": "disc", "center": "C", "diameter": f"2*{p}_radius"}]},
        "foot": {"points": {"F": [0, 0]}, "pose": [0, f"{p}_radius + {p}_throw", 0],
                 "shapes": [{"kind": "rectangle", "center": [0, f"{p}_radius/6"],
                             "size": [f"{p}_face", f"{p}_radius/3"]}]},
    }  # fmt: skip
    joints = {
        "turn": {"type": PIN, "a": "base.O", "b": "disc.O"},
        "lift": {"type": SLIDE, "a": "base.O", "b": "foot.F", "direction": "90 deg", "limits": {"rest": 0}},
        "ride": {"type": CONTACT.name, "a": "disc", "b": "foot"},
    }
    return parameters, parts, joints


def _clockwise(p: str, teeth: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    return _ratchet(p, teeth, size, -1)


OF_TEETH = {
    "tip": "radius over the teeth", "root": "radius between them", "face": "by which the teeth are undercut",
    "holding": "between the push on the pawl and the line to its pivot: above zero it holds by itself",
}  # fmt: skip
def _toothed(center: str, p: str, teeth: str, **more: Any) -> dict[str, Any]:
    return {"kind": GearTeeth.kind, "center": center, "module": f"{p}_module", "teeth": teeth, **more}


def _pair(p: str, teeth: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A pinion that drives a wheel of twice its teeth."""
    parameters = {"module": f"{_module(size, teeth):g} {{mm}}", "pinion": f"{teeth}", "wheel": f"2 * {p}_pinion",
                  "apart": f"{p}_module * ({p}_pinion + {p}_wheel) / 2"}  # fmt: skip
    parts = {
        "base": {"fixed": True, "points": {"O": [0, 0], "Q": [f"{p}_apart", f"0 * {p}_apart"]}},
        "pinion": {"points": {"O": [0, 0]}, "shapes": [_toothed("O", p, f"{p}_pinion")]},
        "wheel": {"points": {"O": [0, 0]}, "pose": [f"{p}_apart", f"0 * {p}_apart", 0],
                  "shapes": [_toothed("O", p, f"{p}_wheel")]},
    }  # fmt: skip
    joints = {"drive": {"type": PIN, "a": "base.O", "b": "pinion.O"},
              "turn": {"type": PIN, "a": "base.Q", "b": "wheel.O"},
              "mesh": {"type": MESH, "a": "drive", "b": "turn"}}  # fmt: skip
    return parameters, parts, joints


def _rack(p: str, teeth: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A pinion that moves a rack below it."""
    parameters = {"module": f"{_module(size, teeth):g} {{mm}}", "pinion": f"{teeth}", "rack": f"{p}_pinion",
                  "apart": f"{p}_module * {p}_pinion / 2"}  # fmt: skip
    start = [f"-180 deg / 1 rad * {p}_module * {p}_rack / 2", f"0 * {p}_apart"]
    teeth_of = {"kind": RackTeeth.kind, "start": start, "direction": 0, "module": f"{p}_module", "teeth": f"{p}_rack"}
    parts = {
        "base": {"fixed": True, "points": {"O": [0, 0], "G": [f"0 * {p}_apart", f"-{p}_apart"]}},
        "pinion": {"points": {"O": [0, 0]}, "shapes": [_toothed("O", p, f"{p}_pinion")]},
        "rack": {"points": {"G": [0, 0]}, "pose": [f"0 * {p}_apart", f"-{p}_apart", 0], "shapes": [teeth_of]},
    }  # fmt: skip
    joints = {"drive": {"type": PIN, "a": "base.O", "b": "pinion.O"},
              "slide": {"type": SLIDE, "a": "base.G", "b": "rack.G", "direction": 0},
              "mesh": {"type": Rack.name, "a": "drive", "b": "slide"}}  # fmt: skip
    return parameters, parts, joints


def _planets(p: str, teeth: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A sun that drives three planets inside a ring that stands; the arm is what goes out."""
    count = 3
    teeth += (-teeth) % count  # so that they can be put in at even places: sun + ring = 2 (sun + planet)
    parameters = {
        "module": f"{_module(size, 4 * teeth):g} {{mm}}", "sun": f"{teeth}", "planet": f"{teeth}",
        "ring": f"{p}_sun + 2 * {p}_planet", "far": f"{p}_module * ({p}_sun + {p}_planet) / 2",
    }  # fmt: skip
    spots = {f"P{k}": [f"{p}_far * cos({k} * 120 deg)", f"{p}_far * sin({k} * 120 deg)"] for k in range(count)}
    inside = _toothed("O", p, f"{p}_ring", internal=True, addendum=0.8)
    parts: dict[str, Any] = {
        "ring": {"fixed": True, "points": {"O": [0, 0]}, "shapes": [inside]},
        "sun": {"points": {"O": [0, 0]}, "shapes": [_toothed("O", p, f"{p}_sun")]},
        "arm": {"points": {"O": [0, 0], **spots}, "depth": [11, 15],
                "shapes": [{"kind": "bar", "through": ["O", name], "width": f"3 * {p}_module"} for name in spots]},
    }  # fmt: skip
    joints = {"sun": {"type": PIN, "a": "ring.O", "b": "sun.O"}, "arm": {"type": PIN, "a": "ring.O", "b": "arm.O"},
              "around": {"type": PIN, "a": "arm.O", "b": "ring.O"}}  # fmt: skip
    for k, name in enumerate(spots):
        parts[f"planet{k + 1}"] = {"points": {"O": [0, 0]}, "pose": [*spots[name], 0],
                                   "shapes": [_toothed("O", p, f"{p}_planet")]}  # fmt: skip
        joints[f"p{k + 1}"] = {"type": PIN, "a": f"arm.{name}", "b": f"planet{k + 1}.O"}
        joints[f"in{k + 1}"] = {"type": MESH, "a": "sun", "b": f"p{k + 1}", "carrier": "arm"}
        joints[f"out{k + 1}"] = {"type": MESH, "a": f"p{k + 1}", "b": "around", "carrier": "arm"}
    return parameters, parts, joints


def _module(size: float, teeth: int) -> float:
    """A module of the usual series (ISO 54, from memory) near to that with which a wheel is so large."""
    return min(MODULES, key=lambda one: abs(math.log(one * teeth / (2 * size))))


def _cylinder(p: str, _: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """A tube with an eye at its base and a rod with an eye at its end, which slides out by its stroke."""
    parameters = {"stroke": f"{size:g} {{mm}}", "bore": f"{p}_stroke / 4", "rod": f"{p}_bore / 2",
                  "wall": f"{p}_bore / 6", "piston": f"{p}_bore / 2",
                  "room": f"{p}_stroke + {p}_piston", "body": f"{p}_room + {p}_bore"}  # fmt: skip
    outside = f"{p}_bore + 2*{p}_wall"
    eye = {"kind": "disc", "diameter": f"{p}_bore"}
    hole = {"kind": "disc", "diameter": f"{p}_bore/2", "cut": True}
    tube = [
        {"kind": "rectangle", "center": [f"{p}_bore/2 + {p}_body/2", 0], "size": [f"{p}_body", outside]},
        {**eye, "center": "E"},
        {"kind": "rectangle", "center": [f"{p}_bore + {p}_room/2", 0], "size": [f"{p}_room", f"{p}_bore"], "cut": True},
        {"kind": "rectangle", "center": [f"{p}_bore + {p}_room + {p}_bore/4", 0],
         "size": [f"{p}_bore/2", f"{p}_rod"], "cut": True},
        {**hole, "center": "E"},
    ]  # fmt: skip
    far = f"{p}_room + 1.5*{p}_bore"
    rod = [
        {"kind": "rectangle", "center": [f"{p}_piston/2", 0], "size": [f"{p}_piston", f"{p}_bore"]},
        {"kind": "rectangle", "center": [f"{p}_piston/2 + ({far})/2", 0], "size": [f"{far} - {p}_piston", f"{p}_rod"]},
        {**eye, "center": "R"}, {**hole, "center": "R"},
    ]  # fmt: skip
    parts = {
        "tube": {"points": {"E": [0, 0], "G": [f"{p}_bore", 0]}, "shapes": tube},
        "rod": {"points": {"G": [0, 0], "R": [far, 0]}, "pose": [f"{p}_bore", f"0 * {p}_bore", 0], "shapes": rod},
    }
    joints = {"stroke": {"type": SLIDE, "a": "tube.G", "b": "rod.G", "direction": 0,
                         "limits": {"min": 0, "max": f"{p}_stroke"}}}  # fmt: skip
    return parameters, parts, joints


def _slideway(p: str, _: int, size: float) -> tuple[dict[str, str], dict[str, Any], dict[str, Any]]:
    """Two rails on a base, and a block that slides between them from end to end."""
    parameters = {"length": f"{2 * size:g} {{mm}}", "block": f"{p}_length / 3", "wide": f"{p}_length / 6",
                  "rail": f"{p}_wide / 2", "way": f"{p}_length - {p}_block"}  # fmt: skip
    rail = {"kind": "rectangle", "size": [f"{p}_length", f"{p}_rail"]}
    rails = [{**rail, "center": [0, f"{sign}({p}_wide + {p}_rail)/2"]} for sign in ("", "-")]
    parts = {
        "base": {"fixed": True, "points": {"S": [f"-{p}_way/2", 0]}, "shapes": rails},
        "block": {"points": {"M": [0, 0]}, "pose": [f"-{p}_way/2", f"0 * {p}_way", 0],
                  "shapes": [{"kind": "rectangle", "center": "M", "size": [f"{p}_block", f"{p}_wide"]}]},
    }  # fmt: skip
    joints = {"slide": {"type": SLIDE, "a": "base.S", "b": "block.M", "direction": 0,
                        "limits": {"min": 0, "max": f"{p}_way"}}}  # fmt: skip
    return parameters, parts, joints


OF_WHEELS = {"module": "the pitch over π, the same of all that mesh", "pinion": "teeth", "wheel": "teeth",
             "rack": "teeth", "sun": "teeth", "planet": "teeth of each", "ring": "teeth, so that all fit"}  # fmt: skip
READY: dict[str, Ready] = {
    "ratchet": Ready("Ratchet wheel and pawl", "Turns freely counter-clockwise; the pawl holds it the other way",
                     "teeth", 15, LEAST_TEETH, _ratchet, OF_TEETH),
    "ratchetcw": Ready("Ratchet wheel and pawl, clockwise", "Turns freely clockwise; the pawl holds it the other way",
                       "teeth", 15, LEAST_TEETH, _clockwise, OF_TEETH),
    "detent": Ready("Detent wheel and roller", "A roller on an arm is pushed into round seats", "seats", 6, 3, _detent,
                    {"radius": "of the wheel", "depth": "of the seats"}),
    "snail": Ready("Snail with overhang", "A cam that rises over a turn and lets its roller drop", "", 1, 1, _snail,
                   {"least": "radius where it begins", "rise": "over a turn"}),
    "eccentric": Ready("Eccentric and flat foot", "A disc off its middle lifts a flat foot", "", 1, 1, _eccentric,
                       {"throw": "of the disc's middle from where it turns", "face": "length of the foot"}),
    "indexing": Ready("Indexing wheel and crank", "A pin turns the wheel by one slot, a locking disc holds it between",
                      "slots", 4, 3, _indexing,
                      {"apart": "crank to wheel", "play": "between pin and slot, and of the locking disc"}),
    "inner": Ready("Indexing wheel around its crank", "An internal wheel: it moves evenly, for over half a turn",
                   "slots", 4, 3, _inner,
                   {"apart": "crank to wheel", "play": "between pin and slot, and of the locking disc"}),
    "gears": Ready("Pinion and wheel", "Involute teeth of one module; the wheel has twice as many", "teeth", 20, 8,
                   _pair, OF_WHEELS),
    "rack": Ready("Pinion and rack", "A toothed wheel that moves a rack", "teeth", 18, 8, _rack, OF_WHEELS),
    "cylinder": Ready("Cylinder", "Tube and rod with an eye each; the stroke is the slide's limits", "", 1, 1,
                      _cylinder, {"stroke": "how far the rod goes out", "rod": "its diameter"}),
    "slideway": Ready("Guides with their slide", "Two rails, and a block between them from end to end", "", 1, 1,
                      _slideway, {"length": "of the rails", "block": "length of the slide", "way": "how far it goes"}),
    "planets": Ready("Planet train", "A sun drives three planets within a ring; the arm goes out", "teeth", 24, 12,
                     _planets, OF_WHEELS),
}  # fmt: skip
"""The ready shapes by name."""
