"""Certified clearances of random outlines (cut, hollow, of many arcs) against a general geometry library.

The library (shapely) knows polygons only, so each arc is cut into many chords; what that may be off by is `SAG`.
`python tests/clearance/test_against_others.py 0 1000` looks at a thousand pairs and prints what was found.
"""

import math
import sys

import numpy as np
import pytest
import shapely

from anakinema.cancellation import CancellationToken
from anakinema.clearance.approach import Approach, Watch, closest_approaches
from anakinema.document import Document, read_document
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from outlines import placed, polygon, random_pair

CHORDS = 512
SAG = 40 * (1 - math.cos(math.pi / CHORDS)) + 1e-6
"""How far the polygons may lie within the outlines (of some 40)."""
PAIR = ("one", "two")


def polygons_at(motion: Motion, t: np.ndarray, chords: int = CHORDS) -> list[np.ndarray]:
    """Both parts as polygons in the plane at times t."""
    q, parts = motion.positions(t), motion.document.parts
    return [placed(polygon(parts[name].slabs[0].region, chords), q[:, motion.system.body(name)]) for name in PAIR]


def faults(document: Document, moments: int = 400) -> list[str]:
    """What the library says against the closest approach of a pair."""
    motion = simulate(document)
    found = closest_approaches(motion, [PAIR])[0]
    if found.distance is None or not found.proven:
        return [f"not proven: {found.reason}"]
    t = np.linspace(0, motion.path.t1, moments)
    one, two = polygons_at(motion, t)
    distances = shapely.distance(one, two)
    least = float(distances.min())
    if found.distance > least + 1e-6 > 2 * SAG:  # chords of a hollow arc lie outside: look again with finer ones
        again = polygons_at(motion, t[distances.argmin()][None], 40 * CHORDS)
        least = float(shapely.distance(*(shape[0] for shape in again))) + SAG / 1600
    if least > 2 * SAG:
        there = float(shapely.distance(*(shape[0] for shape in polygons_at(motion, np.array([found.t])))))
        message = [] if found.distance <= least + 1e-6 else [f"{found.distance} is above brute force, {least}"]
        return message + (
            [] if abs(there - found.distance) <= 2 * SAG else [f"{found.distance} is {there} at its place"]
        )
    if found.distance >= 0:
        common = float(shapely.area(shapely.intersection(one, two)).max())
        return [f"an overlap of {common} is missed"] if common > 1e-2 else []
    return _faults_of_depth(motion, found)


def _faults_of_depth(motion: Motion, found: Approach) -> list[str]:
    """Whether the move told parts the outlines, and shorter ones in many directions do not."""
    one, two = (shape[0] for shape in polygons_at(motion, np.array([found.t])))
    depth, move = -found.distance, found.points[1] - found.points[0]

    def common(moves: np.ndarray) -> np.ndarray:
        moved = np.array([shapely.transform(one, lambda xy, v=v: xy + np.array([v.real, v.imag])) for v in moves])
        return shapely.area(shapely.intersection(moved, two))

    message = []
    if (left := float(common(np.array([move]))[0])) > 0.02 * max(1, depth):
        message.append(f"after the move told they still share {left}")
    ways = np.exp(1j * np.linspace(0, math.tau, 120, endpoint=False))
    for share in (0.4, 0.8, 0.97):
        if depth * (1 - share) > 4 * SAG and common(depth * share * ways).min() < 1e-9:
            message.append(f"a move of {depth * share} parts them already, not only {depth}")
    return message


@pytest.mark.parametrize("block", range(4))
def test_random_outlines_agree(block):
    message = {seed: faults(read_document(random_pair(seed))) for seed in range(10 * block, 10 * block + 10)}
    assert {seed: fault for seed, fault in message.items() if fault} == {}


def test_a_hundred_thousand_looks_into_a_proven_motion_find_nothing_smaller():
    """Random moments by the exact positions, not by the polynomials on which the proof rests."""
    worst = []
    for seed in (3, 5, 6, 9):
        motion = simulate(read_document(random_pair(seed)))
        watch = Watch(motion, [PAIR], CancellationToken())
        found = watch.judged(0)
        t = np.random.default_rng(seed).uniform(0, motion.path.t1, 25_000)
        worst.append(watch.signed(0, t).min() - found.low)
    assert min(worst) >= 0


if __name__ == "__main__":
    first, last = (int(word) for word in sys.argv[1:3])
    wrong = 0
    for seed in range(first, last):
        for fault in faults(read_document(random_pair(seed)), 1500):
            wrong += 1
            print(f"pair {seed}: {fault}", flush=True)
    print(f"{last - first} random pairs, {wrong} faults")
