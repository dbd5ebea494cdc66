"""Contacts: a ratchet and a row of pushed blocks as whole commands, and parts that push each other under the hand."""

import math
import tempfile
import time
from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np

from anakinema.document import changed, read_document
from anakinema.document.changes import Set
from anakinema.kinematics.dragging import Grip
from anakinema.kinematics.simulation import simulate
from anakinema.operations.ready import make_ready

from . import mechanisms
from .commands import run
from .measure import growth

STEPS = 6
"""Steps of a pull between two frames, as the window takes them."""


def box(width: float, height: float) -> list[dict[str, Any]]:
    return [{"kind": "rectangle", "center": [0, 0], "size": [width, height]}]


def blocks(count: int) -> dict[str, Any]:
    """Blocks in a row on one slideway, 10 apart, pushed together by the first."""
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0]}}}
    joints: dict[str, Any] = {}
    for k in range(count):
        parts[f"b{k}"] = {"pose": [30 * k, 0, 0], "points": {"A": [0, 0]}, "shapes": box(20, 20)}
        joints[f"s{k}"] = {"type": "prismatic", "a": "frame.O", "b": f"b{k}.A", "direction": 0}
        if k:
            joints[f"c{k}"] = {"type": "contact", "a": f"b{k - 1}", "b": f"b{k}"}
    return {"anakinema": 1, "parts": parts, "joints": joints,
            "drivers": {"d": {"joint": "s0", "from": 0, "to": 10 * count + 20, "steps": 360}}}  # fmt: skip


def ratchet(teeth: int, steps: int) -> dict[str, Any]:
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "ratchet", 0j, 40.0, teeth).changes)
    driver = {"joint": "ratchet-turn", "from": 0, "to": 360, "steps": steps}
    return dict(changed(made, Set(("drivers", "d"), driver)).tree)


def commands() -> None:
    print("\nanakinema run FILE --csv OUT --json OUT with contacts, as a whole, the shortest of 3")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        plain = run(mechanisms.four_bar(steps=3600), folder, 3)[0]
        seconds = run(ratchet(30, 3600), folder, 3)[0]
        print(f"  ratchet of 30 teeth, a turn in 3,600 steps   {seconds:5.2f} s   {seconds / plain:4.1f} times a "
              f"four-bar in as many ({plain:.2f} s)   (wanted: 2 s)")  # fmt: skip
        before: tuple[int, float] | None = None
        for count in (25, 50, 100):
            seconds = run(blocks(count), folder, 3)[0]
            print(f"  {count:4d} blocks pushed in a row   {seconds:5.2f} s   {growth(count, seconds, before)}")
            before = (count, seconds)
    print("  (wanted: 100 blocks 3 s, growth at most n^1.3)")


def heap() -> dict[str, Any]:
    """Seven free plates about a place, every two of them but one a contact: 20 pairs."""
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0]}}}
    names = [f"p{k}" for k in range(7)]
    for k, name in enumerate(names):
        at = 0j if k == 0 else 40 * np.exp(2j * math.pi * k / 6)
        parts[name] = {"pose": [float(at.real), float(at.imag), 17 * k], "shapes": box(24, 16)}
    pairs = list(combinations(names, 2))[:20]
    joints = {f"c{k}": {"type": "contact", "a": one, "b": two} for k, (one, two) in enumerate(pairs)}
    return {"anakinema": 1, "parts": parts, "joints": joints}


def hands() -> None:
    print("\nA frame of a drag among contacts: what a pull of the hand takes until the new positions")
    of_pairs = ("a heap of free plates", heap(), "p0"), ("blocks in a row", blocks(21), "b0")
    for words, tree, part in of_pairs:
        document = read_document(tree)
        motion = simulate(document)
        start = motion.at(np.zeros(1))
        grip = Grip(document, motion.system, start.q[0], start.coordinates[0], part, (0.0, 0.0))
        times = []
        for k in range(240):
            angle = 2 * math.pi * k / 120
            begin = time.perf_counter()
            grip.pull(60 * math.sin(angle) + 40, 25 * math.sin(2 * angle), STEPS)
            times.append(time.perf_counter() - begin)
        middle, most = float(np.median(times)), float(np.quantile(times, 0.95))
        print(f"  20 pairs, {words:24s} median {1e3 * middle:5.1f} ms, of 20 the slowest {1e3 * most:5.1f} ms   "
              f"(wanted: 33 ms)")  # fmt: skip


ALL = (commands, hands)
