"""Mechanisms that the benchmarks step, as document trees."""

import math
import random
from typing import Any

CRANK, COUPLER, ROCKER, GROUND, START = 40.0, 120.0, 80.0, 100.0, 40.0


def four_bar(turn: float = 360.0, steps: int = 360) -> dict[str, Any]:
    """One crank-rocker (a = 40, b = 120, c = 80, d = 100), driven from 40°."""
    return four_bars(1, turn, steps)


def four_bars(count: int, turn: float = 20.0, steps: int = 360) -> dict[str, Any]:
    """Crank-rockers in a row: each crank is tied to the rocker before by a rod as long as it happens to be."""
    crank_end = _polar(CRANK, START)
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {}}}
    joints: dict[str, Any] = {}
    rod = math.dist(_rocker_end(), (150 + crank_end[0], crank_end[1]))
    for k in range(count):
        x = 150.0 * k
        parts["frame"]["points"] |= {f"O{k}": [x, 0], f"D{k}": [x + GROUND, 0]}
        parts[f"crank{k}"] = {"points": {"A": [0, 0], "B": [CRANK, 0]}, "pose": [x, 0, START]}
        parts[f"coupler{k}"] = {
            "points": {"B": [0, 0], "C": [COUPLER, 0]},
            "pose": [x + crank_end[0], crank_end[1], 20.3],
        }
        parts[f"rocker{k}"] = {"points": {"D": [0, 0], "C": [ROCKER, 0]}, "pose": [x + GROUND, 0, 57.3]}
        joints[f"a{k}"] = {"type": "revolute", "a": f"frame.O{k}", "b": f"crank{k}.A"}
        joints[f"b{k}"] = {"type": "revolute", "a": f"crank{k}.B", "b": f"coupler{k}.B"}
        joints[f"c{k}"] = {"type": "revolute", "a": f"coupler{k}.C", "b": f"rocker{k}.C"}
        joints[f"d{k}"] = {"type": "revolute", "a": f"frame.D{k}", "b": f"rocker{k}.D"}
        if k:
            joints[f"rod{k}"] = {"type": "distance", "a": f"rocker{k - 1}.C", "b": f"crank{k}.B", "length": rod}
    drivers = {"turn": {"joint": "a0", "from": START, "to": START + turn, "steps": steps}}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}


def strand(links: int, length: float = 12.7, lean: float = 60.0) -> tuple[dict[str, Any], tuple[float, float]]:
    """A zigzag strand of links from a fixed pin, and where its free end is."""
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0]}}}
    joints: dict[str, Any] = {}
    x, y = 0.0, 0.0
    for k in range(links):
        angle = lean if k % 2 else -lean
        parts[f"link{k}"] = {"points": {"A": [0, 0], "B": [length, 0]}, "pose": [x, y, angle]}
        joints[f"pin{k}"] = {"type": "revolute", "a": f"link{k - 1}.B" if k else "frame.O", "b": f"link{k}.A"}
        dx, dy = _polar(length, angle)
        x, y = x + dx, y + dy
    return {"anakinema": 1, "parts": parts, "joints": joints}, (x, y)


def pulled(tree: dict[str, Any], x: float, links: int) -> dict[str, Any]:
    """A strand whose end hangs on a block, which a driver pulls along x beyond where the strand reaches."""
    frame = tree["parts"]["frame"]
    frame["points"]["way"] = [0, 0]
    tree["parts"]["block"] = {"points": {"P": [0, 0]}, "pose": [x, 0, 0]}
    tree["joints"]["tail"] = {"type": "revolute", "a": f"link{links - 1}.B", "b": "block.P"}
    tree["joints"]["way"] = {"type": "prismatic", "a": "frame.way", "b": "block.P", "direction": 0}
    tree["drivers"] = {"pull": {"joint": "way", "to": 1.05 * links * 12.7, "steps": 100}}
    return tree


def chain(count: int, reach: float = 10.0, shapes: bool = False) -> dict[str, Any]:
    """A chain of parts from a fixed pin, one after the other, undriven."""
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"P": [0, 0]}}}
    joints: dict[str, Any] = {}
    for k in range(count):
        parts[f"k{k}"] = {"points": {"A": [0, 0], "B": [reach, 0]}, "pose": [reach * k, 0, 0]}
        if shapes:
            parts[f"k{k}"]["shapes"] = [{"kind": "bar", "through": ["A", "B"], "width": 3}]
        joints[f"j{k}"] = {"type": "revolute", "a": f"k{k - 1}.B" if k else "frame.P", "b": f"k{k}.A"}
    return {"anakinema": 1, "parts": parts, "joints": joints}


def hard() -> dict[str, dict[str, Any]]:
    """Documents that ask for much, or for nonsense, by what they are."""
    frame = {"fixed": True, "points": {"O": [0, 0]}}
    holes = [
        {"kind": "disc", "center": [20 * (k % 5) - 40, 20 * (k // 5) - 40], "diameter": 12, "cut": True}
        for k in range(25)
    ]
    plate = {"shapes": [{"kind": "rectangle", "center": [0, 0], "size": [120, 120]}, *holes], "points": {"O": [0, 0]}}
    block = {"shapes": [{"kind": "rectangle", "center": [0, 0], "size": [90, 40]}], "points": {"O": [0, 0]}}
    round_ = [[math.cos(math.tau * k / 3600) * 50, math.sin(math.tau * k / 3600) * 50] for k in range(3600)]
    gon = [{"kind": "polygon", "vertices": round_}, {"kind": "disc", "center": [0, 0], "diameter": 20, "cut": True}]
    disc = {"shapes": [{"kind": "disc", "center": [0, 0], "diameter": 8}]}
    turn = {"turn": {"joint": "pin", "to": 360, "steps": 360}}

    def with_parts(parts: dict[str, Any], **more: Any) -> dict[str, Any]:
        return {"anakinema": 1, "parts": {"frame": frame, **parts}, **more}

    pin = {"pin": {"type": "revolute", "a": "frame.O", "b": "plate.O"}}
    clear = {"gap": {"measure": "clearance", "parts": ["plate", "block"], "at_least": 1}}
    misspelt = {f"p{k}": {"points": {"P": [f"lenght{k}", 0]}} for k in range(1000)}
    return {
        "a plate with 25 holes that overlaps a block": with_parts(
            {"plate": plate, "block": {**block, "fixed": True}}, joints=pin, drivers=turn, checks=clear
        ),
        "a 3,600-gon with a hole over a block": with_parts(
            {"plate": {"shapes": gon, "points": {"O": [0, 0]}}, "block": {**block, "fixed": True, "pose": [70, 0, 0]}},
            joints=pin, drivers=turn, checks=clear,
        ),
        "1,000 misspelt references": with_parts(
            misspelt, parameters={f"length{k}": {"value": k} for k in range(1000)}
        ),
        "500 free discs": with_parts({f"d{k}": {**disc, "pose": [10 * k, 0, 0]} for k in range(500)}),
        "a chain of 200 links": chain(200, shapes=True),
        "a chain of 300 links without shapes": chain(300),
        "a plate with 1,000 holes over a block": with_parts(
            {"plate": {**plate_with(1000), "points": {"O": [0, 0]}}, "block": {**block, "fixed": True}},
            joints=pin, drivers=turn, checks=clear,
        ),
        "450 discs on each other in one part": with_parts({"plate": {**heap(450), "points": {"O": [0, 0]}}}),
        "3,000 discs on each other in one part": with_parts({"plate": {**heap(3000), "points": {"O": [0, 0]}}}),
        "100 parts of 25 discs on each other": with_parts(
            {"plate": {**heap(25), "points": {"O": [0, 0]}}, **{f"h{k}": heap(25, k + 1) for k in range(100)}},
            joints=pin, drivers=turn,
        ),
        "eight loose links on a crank of 343 turns": {
            **chain(8), "drivers": {"turn": {"joint": "j7", "to": 123_480, "steps": 10}},
        },
        "a strand of 200 links with outlines": strand_with_outlines(200),
        "a row of 100 loops with a part left loose": with_a_tail(100),
        "a row of 300 loops that ends at a dead point": four_bars(300, 360),
        "a row of 300 loops with a doubled pin": with_a_doubled_pin(300),
        "a row of 50 loops in 33,000 steps": four_bars(50, steps=33_000),
    }


def with_a_tail(count: int) -> dict[str, Any]:
    """Crank-rockers in a row, and a part on the last coupler that nothing drives."""
    tree = four_bars(count)
    tree["parts"]["tail"] = {"points": {"P": [0, 0]}, "pose": [*tree["parts"][f"coupler{count - 1}"]["pose"][:2], 0]}
    tree["joints"]["tail"] = {"type": "revolute", "a": f"coupler{count - 1}.B", "b": "tail.P"}
    return tree


def with_a_doubled_pin(count: int) -> dict[str, Any]:
    """Crank-rockers in a row, the first on two pins in one place: one joint is redundant."""
    tree = four_bars(count)
    tree["joints"]["again"] = {"type": "revolute", "a": "frame.O0", "b": "crank0.A"}
    return tree


def plate_with(holes: int) -> dict[str, Any]:
    """A square plate with a grid of holes."""
    side = math.isqrt(holes - 1) + 1
    spots = [[14 * (k % side) - 7 * side, 14 * (k // side) - 7 * side] for k in range(holes)]
    cuts = [{"kind": "disc", "center": spot, "diameter": 8, "cut": True} for spot in spots]
    return {"shapes": [{"kind": "rectangle", "center": [0, 0], "size": [15 * side + 20, 15 * side + 20]}, *cuts]}


def heap(count: int, seed: int = 0) -> dict[str, Any]:
    """Discs that lie on each other."""
    chance = random.Random(seed)
    at = lambda: round(chance.uniform(-50, 50), 3)  # noqa: E731
    return {"shapes": [{"kind": "disc", "center": [at(), at()], "diameter": round(chance.uniform(50, 90), 3)}
                       for _ in range(count)]}  # fmt: skip


def _polar(length: float, degrees: float) -> tuple[float, float]:
    return length * math.cos(math.radians(degrees)), length * math.sin(math.radians(degrees))


def _rocker_end() -> tuple[float, float]:
    x, y = _polar(ROCKER, 57.325)
    return GROUND + x, y


def loops_with_outlines(count: int, turn: float = 20.0) -> dict[str, Any]:
    """Crank-rockers in a row with bars for links: cranks and rockers in one layer, couplers in another."""
    tree = four_bars(count, turn)
    for name, part in tree["parts"].items():
        if name != "frame":
            part["shapes"] = [{"kind": "bar", "through": list(part["points"]), "width": 10}]
            part["depth"] = [4, 8] if name.startswith("coupler") else [0, 4]
    return tree


def arms(count: int) -> dict[str, Any]:
    """Arms on pivots in a square, tied to the first so that they turn once, twice or back: all in one layer."""
    side = math.ceil(math.sqrt(count))
    frame: dict[str, Any] = {"fixed": True, "points": {}}
    parts: dict[str, Any] = {"frame": frame}
    joints: dict[str, Any] = {}
    for k in range(count):
        x, y = 60.0 * (k % side), 60.0 * (k // side)
        frame["points"][f"O{k}"] = [x, y]
        shapes = [
            {"kind": "bar", "through": ["O", [23, 0]], "width": 8},
            {"kind": "disc", "center": [10, 4], "diameter": 9},
        ]
        parts[f"arm{k}"] = {"points": {"O": [0, 0]}, "pose": [x, y, 37 * k % 360], "shapes": shapes}
        joints[f"pin{k}"] = {"type": "revolute", "a": f"frame.O{k}", "b": f"arm{k}.O"}
        if k:
            joints[f"tie{k}"] = {"type": "ratio", "a": "pin0", "b": f"pin{k}", "ratio": (1, -1, 2)[k % 3]}
    drivers = {"turn": {"joint": "pin0", "from": 0, "to": 360, "steps": 360}}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}


def rings(teeth: int = 300, gap: float = 0.05) -> dict[str, Any]:
    """Two wheels of pointed teeth that mesh without touching, over a turn."""

    def wheel(offset: float) -> dict[str, Any]:
        corners = []
        for k in range(teeth):
            for share, radius in ((-0.23, -1.2), (-0.08, 1.0), (0.08, 1.0), (0.23, -1.2)):
                x, y = _polar(teeth / 2 + radius, 360.0 / teeth * (k + offset + share))
                corners.append([x, y])
        return {"points": {"O": [0, 0]}, "shapes": [{"kind": "polygon", "vertices": corners}]}

    far = teeth + gap
    frame = {"fixed": True, "points": {"O": [0, 0], "D": [far, 0]}}
    parts = {
        "frame": frame,
        "one": wheel(0.0),
        "two": {**wheel(teeth / 2 + 0.5), "pose": [far, 0, 0]},
    }
    joints = {
        "left": {"type": "revolute", "a": "frame.O", "b": "one.O"},
        "right": {"type": "revolute", "a": "frame.D", "b": "two.O"},
        "mesh": {"type": "ratio", "a": "left", "b": "right", "ratio": -1},
    }
    drivers = {"turn": {"joint": "left", "from": 0, "to": 360, "steps": 360}}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}


def strand_with_outlines(links: int) -> dict[str, Any]:
    """A strand of bars, pulled until it is taut."""
    tree, (x, _) = strand(links)
    for part in tree["parts"].values():
        if not part.get("fixed"):
            part["shapes"] = [{"kind": "bar", "through": ["A", "B"], "width": 4}]
    return pulled(tree, x, links)


def plate_of_holes(holes: int = 50) -> dict[str, Any]:
    """A plate with holes that turns over a fixed block in the same layer."""
    cuts = [
        {"kind": "disc", "center": [14 * (k % 10) - 63, 14 * (k // 10) - 28], "diameter": 8, "cut": True}
        for k in range(holes)
    ]
    plate = {"shapes": [{"kind": "rectangle", "center": [0, 0], "size": [150, 80]}, *cuts], "points": {"O": [0, 0]}}
    block = {"shapes": [{"kind": "rectangle", "center": [0, 0], "size": [30, 20]}], "fixed": True, "pose": [70, 30, 10]}
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "plate": plate, "block": block},
        "joints": {"pin": {"type": "revolute", "a": "frame.O", "b": "plate.O"}},
        "drivers": {"turn": {"joint": "pin", "to": 90, "steps": 90}},
    }
