"""How often rings wind around points: against the sum of the angles under which their edges are seen, on points that
are awkward for a count of crossings: at the height of corners, on the chords of arcs, beside gaps left by rounding."""

from dataclasses import replace

import numpy as np
import pytest

from anakinema.formats import project
from anakinema.geometry.edges import Edges, circle, joined, windings
from anakinema.geometry.rings import rings


def by_angles(ring: Edges, z: np.ndarray) -> np.ndarray:
    """The sum of the signed angles of all chords, and of the caps beyond them in which a point lies."""
    found = np.zeros(z.size)
    for k in range(ring.count):
        a, b = ring.start[k] - z, ring.end[k] - z
        found += np.angle(b / np.where(a == 0, 1, a)) / (2 * np.pi)
        if ring.radius[k] > 0:
            side = ((ring.end[k] - ring.start[k]).conjugate() * (z - ring.start[k])).imag
            whole = abs(ring.sweep[k]) > 2 * np.pi - 1e-9
            cap = (np.abs(z - ring.center[k]) < ring.radius[k]) & (whole | (side * np.sign(ring.sweep[k]) < 0))
            found += np.where(cap, np.sign(ring.sweep[k]), 0.0)
    return np.round(found)


def spun(ring: Edges, turn: float) -> Edges:
    """A ring turned about the origin."""
    spin = np.exp(1j * turn)
    return replace(ring, start=ring.start * spin, end=ring.end * spin, center=ring.center * spin,
                   angle=ring.angle + turn)  # fmt: skip


def awkward(ring: Edges, chance: np.random.Generator) -> np.ndarray:
    """Points at the very heights of corners and beside them, well off the ring."""
    corners = np.concatenate((ring.start, ring.end))
    wide = float(np.ptp(corners.real)) + float(ring.radius.max(initial=0.0)) + 1.0
    some = chance.choice(corners, 60)
    height = some.imag + chance.choice([0.0, 1e-14, -1e-14, 1e-9], 60)
    z = some.real + chance.uniform(-2, 2, 60) * wide + 1j * height
    near = np.array([np.abs(ring.point(np.clip(ring.share_of(np.full(ring.count, one)), 0, 1)) - one).min()
                     for one in z])  # fmt: skip
    return z[near > 1e-6 * wide]


@pytest.mark.parametrize("name", ["planetary-reel", "sewing-head", "indexing-reel", "cam-box"])
@pytest.mark.parametrize("turn", [0.0, 0.37])
def test_crossings_count_as_angles_do(name: str, turn: float) -> None:
    chance = np.random.default_rng(5)
    seen = 0
    for part in project.example(name)[0].parts.values():
        for shape in part.shapes:
            for ring in rings(shape):
                turned = spun(ring, turn)
                z = awkward(turned, chance)
                assert np.array_equal(windings(turned, z), by_angles(turned, z))
                seen += z.size
    assert seen > 100


def test_a_point_on_the_chord_of_an_arc_is_inside() -> None:
    """The chords of a circle cut in quarters are no edges, whichever way they run; nor are those of several rings."""
    for turn in np.linspace(0, 2 * np.pi, 17):
        ring = spun(circle(0j, 10.0), turn)
        middles = (ring.start + ring.end) / 2
        assert windings(ring, middles).tolist() == [1.0] * 4
        inner = replace(ring, start=ring.end / 2, end=ring.start / 2, radius=ring.radius / 2,
                        angle=ring.angle + ring.sweep, sweep=-ring.sweep)  # fmt: skip
        hole = joined([ring, inner])
        assert windings(hole, np.append(middles, 0j)).tolist() == [1.0] * 4 + [0.0]
