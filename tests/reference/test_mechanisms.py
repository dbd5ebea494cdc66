"""Published mechanisms by their exact properties, and a second opinion from a general library. Sources from memory."""

import math

import numpy as np
import pytest
from scipy.optimize import root

from anakinema.document import read_document
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from mechanisms import document, four_bar, slider_crank, turn

PIN = {"type": "revolute"}


def moved(tree) -> Motion:
    return simulate(read_document(tree))


def place(motion: Motion, part: str, x: float = 0.0, y: float = 0.0) -> np.ndarray:
    q = motion.state.q[:, motion.system.body(part)]
    return q[:, 0] + 1j * q[:, 1] + complex(x, y) * np.exp(1j * q[:, 2])


def framed(points: dict[str, complex], bars: list[tuple[str, str]], pins: dict[str, list[str]], **more):
    """A linkage of bars between named points of the plane, joined where `pins` says: point → bars that meet there.
    Points in `more['ground']` are on the frame."""
    ground = more.pop("ground")
    parts = {"frame": {"points": {name: [points[name].real, points[name].imag] for name in ground}}}
    for one, two in bars:
        gap = points[two] - points[one]
        parts[one + two] = {
            "points": {one: [0, 0], two: [abs(gap), 0]},
            "pose": [points[one].real, points[one].imag, math.degrees(math.atan2(gap.imag, gap.real))],
        }
    joints = {}
    for point, meeting in pins.items():
        first = "frame" if point in ground else meeting[0]
        for k, other in enumerate(meeting if point in ground else meeting[1:]):
            joints[f"{point}{k}"] = {**PIN, "a": f"{first}.{point}", "b": f"{other}.{point}"}
    return document(parts, joints, **more)


def test_peaucellier_draws_a_straight_line():
    """C.-N. Peaucellier (1864): a rhombus on two long arms inverts the circle through the pivot into a line."""
    long, short, crank = 50.0, 20.0, 22.0
    start = crank + crank * np.exp(1j * math.radians(20))  # P on the circle through O
    out = start / abs(start)
    middle = (long**2 - short**2 + abs(start) ** 2) / (2 * abs(start))
    lift = math.sqrt(long**2 - middle**2)
    points = {
        "O": 0j,
        "G": complex(crank),
        "P": start,
        "A": out * (middle + 1j * lift),
        "B": out * (middle - 1j * lift),
        "Q": out * (2 * middle - abs(start)),
    }
    bars = [("O", "A"), ("O", "B"), ("P", "A"), ("P", "B"), ("A", "Q"), ("B", "Q"), ("G", "P")]
    pins = {
        "O": ["OA", "OB"],
        "G": ["GP"],
        "P": ["GP", "PA", "PB"],
        "A": ["OA", "PA", "AQ"],
        "B": ["OB", "PB", "BQ"],
        "Q": ["AQ", "BQ"],
    }
    tree = framed(points, bars, pins, ground=("O", "G"))
    tree["joints"]["G0"]["zero"] = 0
    tree["drivers"] = turn(20, -70, 45, joint="G0")
    motion = moved(tree)
    assert motion.stop is None and motion.mobility.dof == 1
    pen = place(motion, "AQ", short)
    assert pen.real == pytest.approx(np.full(46, (long**2 - short**2) / (2 * crank)), abs=1e-8)
    assert np.ptp(pen.imag) > 20


def test_hart_antiparallelogram_keeps_its_product():
    """H. Hart (1874): in a crossed parallelogram with sides a, b the lines through opposite pins are parallel and the
    product of their lengths is a² − b²."""
    a, b = 60.0, 26.0
    motion = moved(four_bar(b, a, b, a, start=50, mode="crossed", drivers=turn(50, 310, 52)))
    assert motion.stop is None
    one, two = place(motion, "rocker", b), a - place(motion, "crank", b)  # O to the rocker's end, crank's end to D
    assert np.abs(one) * np.abs(two) == pytest.approx(np.full(53, a * a - b * b), abs=1e-6)
    assert (one * two.conj()).imag == pytest.approx(np.zeros(53), abs=1e-6)


def test_watt_line_is_straight_in_its_middle():
    """J. Watt (1784): with equal arms the coupler's middle leaves the line by only the third power of the travel."""
    arm, link = 100.0, 40.0
    height = complex(0, link)
    points = {"L": 0j - 0, "A": complex(arm, 0), "B": complex(arm, 0) + height, "R": complex(2 * arm, 0) + height}
    tree = framed(
        points,
        [("L", "A"), ("A", "B"), ("R", "B")],
        {"L": ["LA"], "A": ["LA", "AB"], "B": ["AB", "RB"], "R": ["RB"]},
        ground=("L", "R"),
    )
    tree["drivers"] = turn(-12, 12, 48, joint="L0")
    motion = moved(tree)
    middle = place(motion, "AB", link / 2)
    travel = np.abs(middle.imag - link / 2)
    assert np.abs(middle.real - arm).max() < 0.02 * travel.max()
    assert np.abs(middle.real - arm)[20:29].max() < 1e-3


def test_an_oldham_disc_turns_both_shafts_alike_and_its_centre_runs_twice_as_fast():
    """J. Oldham (1821): the floating disc's centre goes round the circle over the offset twice in each turn."""
    offset = 6.0
    parts = {
        "frame": {"points": {"A": [0, 0], "B": [offset, 0]}},
        "one": {"points": {"O": [0, 0]}},
        "two": {"points": {"O": [0, 0]}, "pose": [offset, 0, 0]},
        "disc": {"points": {"C": [0, 0]}, "pose": [offset, 0, 0]},
    }
    joints = {
        "main": {**PIN, "a": "frame.A", "b": "one.O"},
        "out": {**PIN, "a": "frame.B", "b": "two.O"},
        "groove1": {"type": "prismatic", "a": "one.O", "b": "disc.C", "direction": 0},
        "groove2": {"type": "prismatic", "a": "two.O", "b": "disc.C", "direction": 90},
    }
    motion = moved(document(parts, joints, drivers=turn(0, 360, 72)))
    assert motion.stop is None and motion.mobility.dof == 1
    ids = motion.system.coordinates.ids
    turns = motion.state.coordinates
    assert turns[:, ids.index("out")] == pytest.approx(turns[:, ids.index("main")], abs=1e-8)
    centre = place(motion, "disc") - offset / 2
    assert np.abs(centre) == pytest.approx(np.full(73, offset / 2), abs=1e-8)
    assert np.unwrap(np.angle(centre))[-1] - np.angle(centre[0]) == pytest.approx(4 * math.pi, abs=1e-6)


def test_crank_slotted_lever_quick_return():
    """Any textbook: a pin of radius r on a crank at distance d from the lever's pivot swings it by 2 asin(r/d); time
    ratio (180° + swing) / (180° − swing)."""
    r, d = 20.0, 50.0
    parts = {
        "frame": {"points": {"O": [0, 0], "L": [0, -d]}},
        "crank": {"points": {"O": [0, 0], "P": [r, 0]}},
        "lever": {"points": {"L": [0, 0]}, "pose": [0, -d, 70]},
    }
    joints = {
        "main": {**PIN, "a": "frame.O", "b": "crank.O"},
        "rock": {**PIN, "a": "frame.L", "b": "lever.L"},
        "slot": {"type": "pin-slot", "a": "lever.L", "b": "crank.P", "direction": 0},
    }
    motion = moved(document(parts, joints, drivers=turn(0, 360, 36)))
    column = motion.system.coordinates.index("rock")
    swing = float(motion.extremes.high[column] - motion.extremes.low[column])
    assert swing == pytest.approx(2 * math.asin(r / d), abs=1e-9)
    from anakinema.measures.base import column
    from anakinema.measures.strokes import time_ratio

    assert time_ratio(motion, column(motion, "rock")) == pytest.approx((math.pi + swing) / (math.pi - swing), rel=1e-6)


def test_jansen_leg_walks_level():
    """T. Jansen's leg with its published thirteen numbers (a = 38 … m = 15, from memory): one degree of freedom, the
    foot flat within a few units over more than a third of the turn."""
    a, b, c, d, e, f, g, h, i, j, k, m_, lift = 38, 41.5, 39.3, 40.1, 55.8, 39.4, 36.7, 65.7, 49, 50, 61.9, 15, 7.8

    def meet(one: complex, two: complex, r1: float, r2: float, side: float) -> complex:
        gap = two - one
        along = (r1**2 - r2**2 + abs(gap) ** 2) / (2 * abs(gap))
        return one + gap / abs(gap) * complex(along, side * math.sqrt(r1**2 - along**2))

    crank, pivot = 0j, complex(-a, -lift)
    tip = crank + m_ * np.exp(1j * 0.3)
    upper, lower = meet(pivot, tip, b, j, 1), meet(pivot, tip, c, k, -1)
    left = meet(pivot, upper, d, e, 1)
    knee = meet(left, lower, f, g, -1)
    foot = meet(lower, knee, i, h, 1)
    points = {"O": crank, "T": tip, "P": pivot, "U": upper, "W": left, "L": lower, "K": knee, "F": foot}
    bars = [tuple(pair) for pair in ["OT", "TU", "TL", "PU", "UW", "PW", "PL", "WK", "LK", "LF", "KF"]]
    pins = {point: ["".join(bar) for bar in bars if point in bar] for point in points}
    tree = framed(points, bars, pins, ground=("O", "P"))
    tree["drivers"] = turn(math.degrees(0.3), math.degrees(0.3) + 360, 120, joint="O0")
    motion = moved(tree)
    assert motion.stop is None and motion.mobility.dof == 1
    path = place(motion, "LF", i)
    low = path.imag < path.imag.min() + 4
    assert low.mean() > 1 / 3
    assert np.ptp(path.real[low]) > 0.6 * np.ptp(path.real)


SECOND = {
    "four-bar": (four_bar(40, 120, 80, 100, drivers=turn(40, 400, 24)), 24),
    "drag link": (four_bar(70, 80, 60, 20, start=70, drivers=turn(70, 430, 24)), 24),
    "double rocker": (four_bar(70, 40, 60, 80, drivers=turn(40, 80, 24)), 24),
    "crossed": (four_bar(40, 120, 80, 100, mode="crossed", drivers=turn(40, 400, 24)), 24),
    "slider-crank": (slider_crank(30, 100, 12, drivers=turn(60, 420, 24)), 24),
    "driven slider": (slider_crank(30, 100, 12, drivers=turn(110, 90, 24, joint="ram")), 24),
}


@pytest.mark.parametrize("name", SECOND)
def test_a_general_root_finder_agrees(name):
    """Second opinion: SciPy's root on loop equations of its own, written with complex numbers and nothing of ours."""
    tree, steps = SECOND[name]
    motion = moved(tree)
    assert motion.stop is None
    slides = "ram" in tree["joints"]
    state = motion.state
    bodies = [motion.system.body(part) for part in tree["parts"]]
    if slides:
        a, b, e = 30.0, 100.0, 12.0
        start = [state.q[0, bodies[1], 2], state.q[0, bodies[2], 2], state.q[0, bodies[3], 0]]
    else:
        a = tree["parts"]["crank"]["points"]["A"][0]
        b = tree["parts"]["coupler"]["points"]["B"][0]
        c, d = tree["parts"]["rocker"]["points"]["B"][0], tree["parts"]["frame"]["points"]["D"][0]
        start = [state.q[0, body, 2] for body in bodies[1:]]
    driven = motion.drive.drivers[0].joint
    values = state.coordinates[:, motion.system.coordinates.index(driven)]

    def loop(u, value):
        one, two, three = u
        if slides:
            z = a * np.exp(1j * one) + b * np.exp(1j * two) - (three + 1j * e)
            return [z.real, z.imag, (three if driven == "ram" else one) - value]
        z = a * np.exp(1j * one) + b * np.exp(1j * two) - d - c * np.exp(1j * three)
        return [z.real, z.imag, one - value]

    for step in range(steps + 1):
        solved = root(loop, start, args=(values[step],), tol=1e-12)
        start = solved.x
        ours = [state.q[step, body, 2] for body in bodies[1:]]
        if slides:
            ours[2] = state.q[step, bodies[3], 0]
        assert solved.x == pytest.approx(ours, abs=1e-7)
