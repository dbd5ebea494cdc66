"""Worked examples and exact properties from outside. Sources stand beside each check, quoted from memory."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from mechanisms import document, four_bar, slider_crank, turn


def moved(tree, steps=None) -> Motion:
    return simulate(read_document(tree), steps)


def part(motion: Motion, name: str, what: str, step: int = 0) -> float:
    """Angle, angular velocity or angular acceleration of a part at a step."""
    return float(getattr(motion.state, what)[step, motion.system.body(name), 2])


def test_four_bar_positions_velocities_accelerations():
    """R. L. Norton, Design of Machinery, the four-bar a = 40, b = 120, c = 80, d = 100 mm at θ2 = 40°, ω2 = 25 rad/s,
    α2 = 15 rad/s² (positions, velocities and accelerations of chapters 4, 6 and 7; attribution from memory): open
    circuit θ3 = 20.298°, θ4 = 57.325°; crossed θ3 = −60.98°, θ4 = −98.01°; ω3 = −4.121, ω4 = 6.998 rad/s;
    α3 = 296.09, α4 = 470.13 rad/s².

    A driver runs evenly here, so the accelerations are those for α2 = 0 plus α2 times the velocity ratios.
    """
    motion = moved(four_bar(40, 120, 80, 100, drivers=turn(40, 400, rate="25 rad/s")))
    assert math.degrees(part(motion, "coupler", "q")) == pytest.approx(20.298, abs=5e-4)
    assert math.degrees(part(motion, "rocker", "q")) == pytest.approx(57.325, abs=5e-4)
    w3, w4 = part(motion, "coupler", "v"), part(motion, "rocker", "v")
    assert (w3, w4) == pytest.approx((-4.121, 6.998), abs=5e-4)
    a3 = part(motion, "coupler", "a") + 15 * w3 / 25
    a4 = part(motion, "rocker", "a") + 15 * w4 / 25
    assert (a3, a4) == pytest.approx((296.09, 470.13), abs=0.01)
    crossed = moved(four_bar(40, 120, 80, 100, mode="crossed", drivers=turn(40, 400)))
    assert math.degrees(part(crossed, "coupler", "q")) == pytest.approx(-60.98, abs=1e-2)
    assert math.degrees(part(crossed, "rocker", "q")) == pytest.approx(-98.01, abs=1e-2)


def test_offset_slider_crank_position():
    """R. L. Norton, Design of Machinery, example of the offset slider-crank: crank 40, rod 120, offset −20 mm,
    θ2 = 60°. Norton counts θ3 at the slider's end: open θ3 = 152.91°, slider at 126.84 mm (from memory); as the rod's
    angle seen from the crank pin that is 152.91° − 180°."""
    motion = moved(slider_crank(40, 120, -20, start=60, drivers=turn(60, 420)))
    assert math.degrees(part(motion, "rod", "q")) == pytest.approx(152.91 - 180, abs=5e-3)
    ram = motion.state.coordinates[0, motion.system.coordinates.index("ram")]
    assert ram == pytest.approx(126.84, abs=5e-3)


def test_slider_crank_velocity_and_acceleration():
    """In-line slider-crank, exact differentiation of x = a cos θ + √(b² − a² sin² θ) (any textbook): at θ = 90° the
    velocity is −a ω and the acceleration a² ω² / √(b² − a²)."""
    a, b, w = 30.0, 100.0, 20.0
    motion = moved(slider_crank(a, b, 0, start=90, drivers=turn(90, 450, rate=f"{w} rad/s")))
    column = motion.system.coordinates.index("ram")
    assert motion.state.rates[0, column] == pytest.approx(-a * w, rel=1e-9)
    assert motion.state.accelerations[0, column] == pytest.approx(a * a * w * w / math.sqrt(b * b - a * a), rel=1e-9)


@pytest.mark.parametrize(("a", "b", "offset"), [(15, 62, 6), (40, 120, -20), (10, 30, 12), (25, 80, 0)])
def test_stroke_of_an_offset_slider_crank(a, b, offset):
    """Closed form (any textbook): √((a + b)² − e²) − √((b − a)² − e²), whatever the steps."""
    motion = moved(slider_crank(a, b, offset, drivers=turn(60, 420, 7)))
    column = motion.system.coordinates.index("ram")
    travel = motion.extremes.high[column] - motion.extremes.low[column]
    wanted = math.sqrt((a + b) ** 2 - offset**2) - math.sqrt((b - a) ** 2 - offset**2)
    assert travel == pytest.approx(wanted, abs=1e-9)


@pytest.mark.parametrize(
    ("lengths", "turns"),
    [
        ((20, 70, 55, 60), True),  # crank-rocker: the crank is the shortest
        ((70, 80, 60, 20), True),  # drag link: the ground is the shortest
        ((60, 20, 70, 55), False),  # double rocker of the first kind: the coupler is the shortest
        ((55, 60, 20, 70), False),  # rocker-crank driven at the rocker
        ((60, 45, 50, 70), False),  # no link turns fully: 45 + 70 > 60 + 50
    ],
)
def test_grashof_rule(lengths, turns):
    """F. Grashof, Theoretische Maschinenlehre (1883): where the shortest and the longest link together are shorter than
    the other two, the shortest turns fully against all others; else none does. From memory."""
    a, b, c, d = lengths
    motion = moved(four_bar(a, b, c, d, start=70, drivers=turn(70, 430)))
    assert (motion.stop is None) == turns
    if not turns:
        assert motion.stop.reason == "dead point"


def test_rocker_swing_of_a_crank_rocker():
    """Limit positions, coupler and crank in line (any textbook): ψ = acos((d² + c² − (b ± a)²) / 2cd)."""
    a, b, c, d = 40.0, 120.0, 80.0, 100.0
    motion = moved(four_bar(a, b, c, d, drivers=turn(40, 400, 36)))
    column = motion.system.coordinates.index("pivot")
    inner, outer = (math.acos((d * d + c * c - (b + way * a) ** 2) / (2 * c * d)) for way in (-1, 1))
    assert motion.extremes.high[column] - motion.extremes.low[column] == pytest.approx(outer - inner, abs=1e-9)


def test_cardan_circles():
    """A bar with both ends in crossed slides: its middle runs on a circle, every other point on an ellipse whose half
    axes are its distances from the ends (the trammel of Archimedes; facts of the trade, any textbook)."""
    length, pen = 60.0, 20.0
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "bar": {"points": {"X": [0, 0], "Y": [length, 0], "pen": [length + pen, 0]}, "pose": [-42, 0, 45]},
    }
    joints = {
        "along": {"type": "pin-slot", "a": "frame.O", "b": "bar.X", "direction": 0},
        "across": {"type": "pin-slot", "a": "frame.O", "b": "bar.Y", "direction": 90},
        "handle": {"type": "pin-slot", "a": "frame.O", "b": "bar.M", "radius": length / 2},
    }
    parts["bar"]["points"]["M"] = [length / 2, 0]
    motion = moved(document(parts, joints, drivers=turn(135, 495, 90, joint="handle")))
    assert motion.stop is None
    assert motion.mobility.dof == 1 and motion.mobility.redundant == ("handle",)
    bar = motion.state.q[:, motion.system.body("bar")]
    x = bar[:, 0] + (length + pen) * np.cos(bar[:, 2])
    y = bar[:, 1] + (length + pen) * np.sin(bar[:, 2])
    assert (x / pen) ** 2 + (y / (length + pen)) ** 2 == pytest.approx(np.ones(91), abs=1e-9)
