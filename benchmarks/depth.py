"""Depth: layers arranged, areas swept, hardware judged, the side and the lifted view painted."""

import json
import statistics
import time
from functools import partial
from typing import Any

from anakinema.clearance.swept import swept
from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.formats import project
from anakinema.kinematics.simulation import simulate
from anakinema.studies.arranging import arrange

from . import mechanisms
from .measure import best

LAYERED = 30


def arms(count: int) -> dict[str, Any]:
    """Arms on one plate that sweep over each other in groups of five, all in one depth."""
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {}, "depth": [0, 3], "shapes": [
        {"kind": "rectangle", "center": [0, 0], "size": [4000, 60]}]}}  # fmt: skip
    joints, drivers = {}, {}
    for k in range(count):
        x, length = 300.0 * (k // 5) + 14.0 * (k % 5), 30.0 + 22.0 * (k % 5)
        parts["frame"]["points"][f"O{k}"] = [x, 0]
        parts[f"arm{k}"] = {"points": {"O": [0, 0], "P": [0, length]}, "pose": [x, 0, 0], "depth": [3, 6],
                            "shapes": [{"kind": "bar", "through": ["O", "P"], "width": 8}]}  # fmt: skip
        joints[f"j{k}"] = {"type": "revolute", "a": f"frame.O{k}", "b": f"arm{k}.O"}
        drivers[f"d{k}"] = {"joint": f"j{k}", "from": 0, "to": 40 if k % 2 else -40, "steps": 20}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}


def layers() -> None:
    """Arranging 30 parts, against finding their motion."""
    document = read_document(arms(LAYERED))
    begun = time.perf_counter()
    motion = simulate(document)
    moved = time.perf_counter() - begun
    begun = time.perf_counter()
    found = arrange(document, motion=motion)
    taken = time.perf_counter() - begun
    word = "proven least" if found.proven else "not proven least"
    print(f"arranging {LAYERED} parts: {taken:.2f} s ({taken / moved:.1f} times their motion), "
          f"{len(found.layers)} layers, {word} (wanted: 2 s)", flush=True)  # fmt: skip


def areas() -> None:
    """The swept outlines of a six-bar's parts, against its whole judgement."""
    document, _ = project.example("sewing-head")
    begun = time.perf_counter()
    findings = analyse(document)
    judged = time.perf_counter() - begun
    total, worst = 0.0, 0.0
    for part in document.parts.values():
        if part.slabs and not part.fixed:
            begun = time.perf_counter()
            found = swept(simulate(document), [part.id])
            total += time.perf_counter() - begun
            worst = max(worst, found.error)
    print(f"swept outlines of the links of a six-bar: {total:.2f} s, {total / judged:.1f} times judging it, off by "
          f"{worst:.2f} mm at most (wanted: 1 s)", flush=True)  # fmt: skip
    del findings


def with_hardware(count: int) -> dict[str, Any]:
    """Loops with outlines, a pin and a ring at so many places."""
    tree = mechanisms.loops_with_outlines(20)
    pinned = [joint for joint in tree["joints"].values() if joint["type"] == "revolute"]
    for k in range(count // 2):
        joint = pinned[k % len(pinned)]
        about = {"at": joint["a"], "through": [joint["b"]]}
        one, two = joint["a"].split(".")[0], joint["b"].split(".")[0]
        tree["parts"][f"ring{k}"] = {"hardware": {"standard": "DIN 471", "size": "4", **about, "behind": one}}
        tree["parts"][f"pin{k}"] = {"hardware": {"standard": "ISO 2341", "size": "4", **about, "front_of": two,
                                                 "length": 30}}  # fmt: skip
    return tree


def hardware() -> None:
    """A document judged with 200 pieces of hardware and without."""
    bare, full = (read_document(json.loads(json.dumps(with_hardware(count)))) for count in (0, 200))
    times = [best(partial(analyse, each), 3) for each in (bare, full)]
    pairs = [len(analyse(each).approaches) for each in (bare, full)]
    print(f"judging {len(bare.parts)} parts: {times[0]:.2f} s, with 200 pieces of hardware {times[1]:.2f} s, "
          f"{times[1] / times[0]:.2f} times ({pairs[0]} and {pairs[1]} pairs; wanted: 1.30)", flush=True)  # fmt: skip


def views() -> None:
    """Frames of the side and the lifted view, of the demo and of 300 parts, against the plan."""
    from .window import Watched

    watched = Watched()
    for what, tree, wanted in (("demo", project.demo()[0].tree, 16),
                               ("301 parts", mechanisms.loops_with_outlines(100), 33)):  # fmt: skip
        watched.open(json.loads(json.dumps(tree)))
        window, session = watched.window, watched.session
        told = []
        for name, view in (("plan", window.canvas), ("depth", window.side), ("lifted", window.lifted)):
            window.look_from(view)
            watched.settle()
            frames = []
            for k in range(30):
                session.go(session.end * k / 30)
                begun = time.perf_counter()
                view.repaint()
                frames.append(time.perf_counter() - begun)
            told.append(f"{name} {1000 * statistics.median(frames):.1f}/{1000 * sorted(frames)[-2]:.1f} ms")
        window.look_from(window.canvas)
        print(f"a frame of the {what}, middle/slow: {', '.join(told)} (wanted: {wanted} ms)", flush=True)
    watched.close()


ALL = (layers, areas, hardware, views)
