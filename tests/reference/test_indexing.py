"""Indexing wheels (of 3 to 8 slots) against the motion that textbooks publish for them.

With the crank's radius r = a sin(π/n) and θ its angle from the line of centers the wheel stands at β,
tan β = λ sin θ / (1 − λ cos θ) with λ = sin(π/n). J. E. Shigley, J. J. Uicker, "Theory of Machines and Mechanisms"
(intermittent motion), and the table of greatest velocities and accelerations of such wheels in handbooks of machine
design; both from memory.
"""

import math

import numpy as np
import pytest

from anakinema.document import changed, read_document
from anakinema.document.changes import Set
from anakinema.findings import analyse
from anakinema.operations.ready import make_ready

GREATEST = {3: (6.46, 31.4), 4: (2.41, 5.41), 5: (1.43, 2.30), 6: (1.00, 1.35), 8: (0.620, 0.700)}
"""Greatest velocity and acceleration of the wheel, the crank turning by 1 rad/s."""


INNER = {3: (0.464, 1.732), 4: (0.414, 1.000), 5: (0.370, 0.727), 6: (0.333, 0.577), 8: (0.277, 0.414)}
"""The same of a wheel that goes round its crank: λ/(1 + λ) in the middle, tan(π/n) where the pin enters."""


@pytest.mark.parametrize("slots", [3, 4, 5, 6, 7, 8])
def test_an_indexing_wheel_around_its_crank_moves_as_published(slots: int):
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "inner", 0j, 80.0, slots).changes)
    driver = {"joint": "inner-turn", "from": 0, "to": 360, "rate": "1 rad/s", "steps": 36, "running": True}
    document = changed(made, Set(("drivers", "d"), driver), Set(("parameters", "inner_play"), "inner_apart / 1e7"))
    motion = analyse(document).motion
    assert motion.stop is None
    columns = [motion.system.coordinates.index(name) for name in ("inner-turn", "inner-index")]
    half = math.pi / 2 + math.pi / slots
    state = motion.at(np.linspace(0.0, motion.path.t1, 4001))
    theta = state.coordinates[:, columns[0]] - math.pi
    drives = np.abs(theta) < 0.985 * half
    share = math.sin(math.pi / slots)
    beta = np.arctan2(share * np.sin(theta), 1 + share * np.cos(theta))
    published = share * (share**2 - 1) * np.sin(theta) / (1 + share**2 + 2 * share * np.cos(theta)) ** 2
    published[np.abs(theta) > half] = 0.0
    turned = state.coordinates[:, columns[1]] - np.interp(0.0, theta, state.coordinates[:, columns[1]])
    assert np.abs(turned - beta)[drives].max() < 1e-5  # the wheel turns with its crank
    for way in (-1, 1):
        assert np.ptp(state.coordinates[way * theta > 1.01 * half, columns[1]]) < 1e-4
    if slots in INNER:
        velocity, acceleration = INNER[slots]
        assert np.abs(state.rates[drives, columns[1]]).max() == pytest.approx(velocity, rel=5e-3)
        assert np.abs(state.accelerations[drives, columns[1]] - published[drives]).max() < 1e-3
        assert np.abs(published).max() == pytest.approx(acceleration, rel=1e-2)
    ends = state.coordinates[[0, -1], columns[1]]
    assert abs(ends[1] - ends[0]) == pytest.approx(2 * math.pi / slots, abs=1e-4)


@pytest.mark.parametrize("slots", [3, 4, 5, 6, 7, 8])
def test_an_indexing_wheel_moves_as_published(slots: int):
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "indexing", 0j, 60.0, slots).changes)
    driver = {"joint": "indexing-turn", "from": 180, "to": 540, "rate": "1 rad/s", "steps": 36, "running": True}
    play = Set(("parameters", "indexing_play"), "indexing_apart / 1e7")
    document = changed(made, Set(("drivers", "d"), driver), play)
    motion = analyse(document).motion
    assert motion.stop is None
    columns = [motion.system.coordinates.index(name) for name in ("indexing-turn", "indexing-index")]
    half = math.pi / 2 - math.pi / slots
    t = np.linspace(0.0, motion.path.t1, 4001)
    state = motion.at(t)
    theta = state.coordinates[:, columns[0]] - 2 * math.pi
    drives = np.abs(theta) < 0.97 * half
    share = math.sin(math.pi / slots)
    beta = np.arctan2(share * np.sin(theta), 1 - share * np.cos(theta))
    turned = state.coordinates[:, columns[1]] - np.interp(0.0, theta, state.coordinates[:, columns[1]])
    assert np.abs(turned + beta)[drives].max() < 1e-5  # the wheel turns the other way
    for way in (-1, 1):  # the locking disc holds it
        assert np.ptp(state.coordinates[way * theta > 1.01 * half, columns[1]]) < 1e-4
    if slots in GREATEST:
        velocity, acceleration = GREATEST[slots]
        assert np.abs(state.rates[drives, columns[1]]).max() == pytest.approx(velocity, rel=5e-3)
        assert np.abs(state.accelerations[drives, columns[1]]).max() == pytest.approx(acceleration, rel=1e-2)
    ends = state.coordinates[[0, -1], columns[1]]
    assert abs(ends[1] - ends[0]) == pytest.approx(2 * math.pi / slots, abs=1e-4)


def test_the_locking_disc_really_locks():
    """With the crank held the wheel gives way by no more than the play allows."""
    from anakinema.kinematics.dragging import Grip
    from anakinema.kinematics.simulation import simulate

    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "indexing", 0j, 60.0, 6).changes)
    held = changed(made, Set(("parts", "indexing-crank", "fixed"), True))
    motion = simulate(held)
    start = motion.at(np.zeros(1))
    grip = Grip(held, motion.system, start.q[0], start.coordinates[0], "indexing-wheel", (40.0, 0.0))
    for y in (80.0, -80.0):
        found = grip.pull(60.0, y)
        assert abs(found.q[motion.system.body("indexing-wheel"), 2]) < math.radians(1.0)
        assert "'indexing-crank'" in found.reason
