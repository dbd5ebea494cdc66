"""Motions that end a hair short of a dead point, and go back: against the closed form of the slider-crank, whose slider
drives it. Between the rows too, nothing lies on the mirror branch."""

import math
from typing import Any

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from anakinema.document import read_document
from anakinema.findings import analyse

LAWS = ("uniform", "parabolic", "harmonic", "cycloidal", "modified-sine", "345", "4567")


def slider_driven(throw: float, rod: float, offset: float, turned: float, driver: dict[str, Any]) -> dict[str, Any]:
    """A slider at a height `offset` above the crank's axle drives the crank; the whole turned in the plane."""
    start = driver["from"]
    crank = crank_angle(throw, rod, offset, start)
    pin = throw * complex(math.cos(crank), math.sin(crank))
    lean = math.atan2(offset - pin.imag, start - pin.real)
    spin = complex(math.cos(turned), math.sin(turned))
    placed = {"crank": (0j, crank), "rod": (pin, lean), "ram": (complex(start, offset), 0.0)}
    ends = {"crank": ("O", "P", throw), "rod": ("P", "Q", rod), "ram": ("Q", "R", 10.0)}
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0], "W": [0, offset]},
                                       "pose": [0, 0, math.degrees(turned)]}}  # fmt: skip
    for name, (at, angle) in placed.items():
        first, last, length = ends[name]
        where = at * spin
        parts[name] = {"points": {first: [0, 0], last: [length, 0]},
                       "pose": [where.real, where.imag, math.degrees(angle + turned)]}  # fmt: skip
    joint = {"type": "revolute"}
    return {
        "anakinema": 1, "parts": parts,
        "joints": {
            "main": {**joint, "a": "frame.O", "b": "crank.O"}, "big": {**joint, "a": "crank.P", "b": "rod.P"},
            "small": {**joint, "a": "rod.Q", "b": "ram.Q"},
            "slide": {"type": "prismatic", "a": "frame.W", "b": "ram.Q", "direction": 0},
        },
        "drivers": {"push": {"joint": "slide", "steps": 24, "duration": "1 s", **driver}},
    }  # fmt: skip


def crank_angle(throw: float, rod: float, offset: float, x: float | np.ndarray) -> Any:
    """The crank's angle (rad) that is above the line in which crank and rod lie at the outer dead point."""
    reach = np.hypot(x, offset)
    cosine = (throw**2 + reach**2 - rod**2) / (2 * throw * reach)
    return np.arctan2(offset, x) + np.arccos(np.clip(cosine, -1.0, 1.0))


def designs(count: int) -> list[tuple[float, float, float, float, float, str, bool]]:
    chance = np.random.default_rng(24)
    found = []
    for k in range(count):
        throw, rod = 10.0 * (1 + chance.random()), 40.0 * (1 + chance.random())
        size = 10.0 ** chance.integers(-1, 3)
        short = 10.0 ** -float(3 + k % 10)
        found.append((throw * size, rod * size, 6.0 * size * (2 * chance.random() - 1), 7 * chance.random(), short,
                      LAWS[k % len(LAWS)], bool(k % 3)))  # fmt: skip
    return found


@pytest.mark.parametrize(("throw", "rod", "offset", "turned", "short", "law", "back"), designs(40))
def test_a_hair_short_of_a_dead_point_the_drivers_own_way_is_told(throw, rod, offset, turned, short, law, back):
    """From 1e-3 to 1e-12 of a length short, of any size and turned any way, by every law."""
    dead = math.sqrt((throw + rod) ** 2 - offset**2)
    to = dead - short * rod
    driver = {"from": dead - 1.1 * throw, "to": to, "law": law, "back": back}
    found = analyse(read_document(slider_driven(throw, rod, offset, turned, driver)))
    motion = found.motion
    assert motion.stop is None
    main, slide = (motion.system.coordinates.index(name) for name in ("main", "slide"))
    t = np.unique(np.concatenate((np.linspace(0.0, motion.path.t1, 2003), motion.grid, motion.chebyshev)))
    values = motion.coordinates(t)
    # The angle follows from the slide but for rounding, which near the dead point counts by its root.
    expected = crank_angle(throw, rod, offset, values[:, slide])
    rounding = 4e-16 * rod / np.maximum(np.sqrt(2 * np.maximum(dead - values[:, slide], 1e-13 * rod) * throw), 1e-300)
    off = np.abs(values[:, main] - expected)
    assert (off <= 1e-9 + 60 * rounding).all(), float(off.max())
    least = crank_angle(throw, rod, offset, to)
    assert motion.extremes.low[main] == pytest.approx(least, abs=1e-6 * max(math.sqrt(1e-12 / short), 0.001) + 2e-8)
    assert motion.extremes.high[main] == pytest.approx(values[:, main].max(), abs=1e-9)


def with_an_arm(throw: float, rod: float, offset: float, turned: float, driver: dict[str, Any]) -> dict[str, Any]:
    """The same with an arm, half as long again as the crank, that hangs on the crank's pin and nothing drives."""
    tree = slider_driven(throw, rod, offset, turned, driver)
    where = tree["parts"]["rod"]["pose"]
    tree["parts"]["arm"] = {"points": {"A": [0, 0], "B": [1.5 * throw, 0]}, "pose": [*where[:2], 40.0]}
    tree["joints"]["hang"] = {"type": "revolute", "a": "crank.P", "b": "arm.A"}
    return tree


def arm_angle(throw: float, turned: float, crank: np.ndarray) -> np.ndarray:
    """The arm's angle along angles of the crank, by its least movement: with its middle half its length a away, and its
    reach as much, dφ = −(dP · n) / 2a, n across the arm (from the definition of the movement)."""
    reach = 0.75 * throw
    found = solve_ivp(
        lambda angle, arm: -throw / (2 * reach) * np.cos(angle + turned - arm), crank[[0, -1]],
        [math.radians(40.0)], t_eval=crank, rtol=1e-11, atol=1e-12,
    )  # fmt: skip
    return found.y[0]


@pytest.mark.parametrize(("throw", "rod", "offset", "turned", "short", "law", "back"), designs(20))
def test_an_undriven_part_follows_a_hair_short_of_a_dead_point(throw, rod, offset, turned, short, law, back):
    """What the drivers decide goes as it does without the arm, and the arm by its least movement along the crank's way,
    there and back."""
    dead = math.sqrt((throw + rod) ** 2 - offset**2)
    start, to = dead - 1.1 * throw, dead - short * rod
    driver = {"from": start, "to": to, "law": law, "back": back}
    motion = analyse(read_document(with_an_arm(throw, rod, offset, turned, driver))).motion
    assert motion.stop is None
    main, slide = (motion.system.coordinates.index(name) for name in ("main", "slide"))
    least = crank_angle(throw, rod, offset, to)
    assert motion.extremes.low[main] == pytest.approx(least, abs=1e-6 * max(math.sqrt(1e-12 / short), 0.001) + 2e-8)
    t = np.unique(np.concatenate((np.linspace(0.0, motion.path.t1, 1501), motion.grid)))
    values, arm = motion.coordinates(t), motion.positions(t)[:, motion.system.body("arm"), 2]
    expected = crank_angle(throw, rod, offset, values[:, slide])
    rounding = 4e-16 * rod / np.maximum(np.sqrt(2 * np.maximum(dead - values[:, slide], 1e-13 * rod) * throw), 1e-300)
    assert (np.abs(values[:, main] - expected) <= 1e-9 + 60 * rounding).all()
    way = np.linspace(values[0, main], least, 4001)  # forth, and then back along another curve: the arm has turned
    there = int(np.argmin(values[:, main])) + 1
    gone = np.interp(values[:there, main], way[::-1], arm_angle(throw, turned, way)[::-1])
    np.testing.assert_allclose(arm[:there], gone, atol=1e-6)


@pytest.mark.parametrize("beyond", [1e-9, 1e-3, 3.0])
def test_an_undriven_part_is_at_the_dead_point_where_the_driver_stops(beyond: float):
    throw, rod, offset = 20.0, 60.0, 8.0
    dead = math.sqrt((throw + rod) ** 2 - offset**2)
    driver = {"from": dead - 25, "to": dead + beyond, "law": "345"}
    motion = analyse(read_document(with_an_arm(throw, rod, offset, 0.3, driver))).motion
    assert motion.stop is not None and motion.stop.driver == pytest.approx(dead, abs=1e-8)
    assert "a dead point: 'crank' and 'rod' lie in line at joint 'big'" in motion.stop.text
    way = np.linspace(crank_angle(throw, rod, offset, dead - 25), math.atan2(offset, dead), 400)
    arm = motion.positions(np.array([motion.path.t1]))[0, motion.system.body("arm"), 2]
    assert arm == pytest.approx(arm_angle(throw, 0.3, way)[-1], abs=1e-6)
