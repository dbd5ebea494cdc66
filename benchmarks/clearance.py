"""Clearance: whole commands with every pair certified, and the demo against brute force by a geometry library."""

import json
import tempfile
import time
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import shapely

from anakinema.clearance.approach import closest_approaches
from anakinema.clearance.pairs import pairs_to_watch
from anakinema.document import Document, Set, changed, read_document
from anakinema.findings import analyse
from anakinema.formats import project
from anakinema.geometry.outline import Region
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate

from . import mechanisms
from .commands import timed
from .measure import best

POSITIONS = 3600
CHORDS = 64
"""Chords of the library's circles: its error is then some 1e-3 of their radius."""
CASES: dict[str, tuple[Callable[[], dict[str, Any]], float]] = {
    "seven crank-rockers, two layers": (lambda: mechanisms.loops_with_outlines(7), 1.0),
    "33 crank-rockers, two layers": (lambda: mechanisms.loops_with_outlines(33), 15.0),
    "45 arms over a turn": (lambda: mechanisms.arms(45), 5.0),
    "two rings of 300 teeth": (mechanisms.rings, 2.0),
    "a strand of 100 links": (lambda: mechanisms.strand_with_outlines(100), 20.0),
    "a plate with 50 holes": (mechanisms.plate_of_holes, 1.0),
}


def whole_commands() -> None:
    """`anakinema run` with findings written, a process of its own for each, imports and all."""
    print("\nClearance: the whole command, and within it assembly and motion, outlines and pairs, closest approaches")
    print("  mechanism                         pairs  proven  command    wanted     memory   motion  pairs  approaches")
    for name, (made, wanted) in CASES.items():
        tree = made()
        with tempfile.TemporaryDirectory() as folder:
            file, out = Path(folder, "m.anakinema"), Path(folder, "m.json")
            file.write_text(json.dumps(tree), encoding="utf-8")
            whole, memory, _ = timed(["-m", "anakinema.cli", "run", str(file), "--json", str(out)])
            message = json.loads(out.read_text(encoding="utf-8"))["clearance"]
        document = read_document(tree)
        times = [time.perf_counter()]
        motion = simulate(document)
        times.append(time.perf_counter())
        pairs_to_watch(document)
        times.append(time.perf_counter())
        closest_approaches(motion)
        times.append(time.perf_counter())
        parts = " ".join(f"{late - early:6.2f} s" for early, late in pairwise(times))
        proven = sum(each["proven"] for each in message)
        print(
            f"  {name:33s} {len(message):5d}  {proven:6d}   {whole:6.2f} s   {wanted:6.1f} s   {memory:5.0f} MB {parts}"
        )


def against_brute_force() -> None:
    """The demo after an edit, against a library that looks at polygons at many positions and proves nothing."""
    print(f"\nThe demo: all clearances certified, against shapely at {POSITIONS} positions of the same pairs")
    document, _ = project.demo()
    lengths = iter(range(1_000_000))

    def edit() -> Document:
        guide = f"rod + throw + {8 + 1e-4 * next(lengths)} mm"
        return changed(document, Set(["parameters", "guide", "value"], guide))

    whole = best(lambda: analyse(edit()), 10)
    motion = simulate(document)
    pairs = pairs_to_watch(document)
    ours, theirs = best(lambda: closest_approaches(motion, pairs), 10), best(lambda: _brute(motion, pairs), 2)
    off = max(
        abs(float(found.distance or 0.0) - least)
        for found, least in zip(closest_approaches(motion, pairs), _brute(motion, pairs), strict=True)
    )
    print(f"  from an edit to all findings {whole * 1e3:.0f} ms (wanted: 60), of it {ours * 1e3:.1f} ms for approaches")
    print(f"  brute force {theirs * 1e3:.0f} ms: {theirs / ours:.1f} times as long (wanted: 5), off by {off:.1e} mm")


def _brute(motion: Motion, pairs: list[tuple[str, str]]) -> list[float]:
    q = motion.positions(np.linspace(0.0, motion.path.t1, POSITIONS))
    found = []
    for pair in pairs:
        parts = [motion.document.parts[name] for name in pair]
        least = np.inf
        for a in parts[0].slabs:
            for b in parts[1].slabs:
                if a.low < b.high and b.low < a.high:
                    shapes = [
                        _placed(_polygon(slab.region), q[:, motion.system.body(name)])
                        for slab, name in zip((a, b), pair, strict=True)
                    ]
                    least = min(least, float(shapely.distance(*shapes).min()))
        found.append(least)
    return found


def _polygon(region: Region) -> shapely.Geometry:
    rings = []
    for loop in region.loops:
        points = []
        for i in loop:
            edge = region.edges.pick(np.array([i]))
            count = max(1, int(np.ceil(abs(edge.sweep[0]) / (2 * np.pi) * CHORDS))) if edge.radius[0] > 0 else 1
            points.append(edge.pick(np.zeros(count, dtype=int)).point(np.arange(count) / count))
        z = np.concatenate(points)
        rings.append(((z.conj() * np.roll(z, -1)).imag.sum(), np.stack((z.real, z.imag), axis=1)))
    solid = shapely.union_all([shapely.Polygon(xy) for area, xy in rings if area > 0])
    return shapely.difference(solid, shapely.union_all([shapely.Polygon(xy) for area, xy in rings if area < 0]))


def _placed(shape: shapely.Geometry, pose: np.ndarray) -> np.ndarray:
    copies = np.repeat(shape, len(pose))
    xy, which = shapely.get_coordinates(copies, return_index=True)
    z = (xy[:, 0] + 1j * xy[:, 1]) * np.exp(1j * pose[which, 2]) + pose[which, 0] + 1j * pose[which, 1]
    return shapely.set_coordinates(copies, np.stack((z.real, z.imag), axis=1))


ALL = (against_brute_force, whole_commands)
