"""Motion: one branch, never the mirror one; dead points, change points, limits, redundancy, what is not driven."""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from mechanisms import document, four_bar, slider_crank, turn


def moved(tree, steps=None) -> Motion:
    return simulate(read_document(tree), steps)


def angles(motion: Motion, joint: str) -> np.ndarray:
    return motion.state.coordinates[:, motion.system.coordinates.index(joint)]


def test_a_crank_rocker_keeps_its_circuit_over_many_turns():
    motion = moved(four_bar(40, 120, 80, 100, drivers=turn(40, 40 + 3600, 900)))
    assert motion.stop is None and len(motion.state.t) == 901
    rocker = angles(motion, "pivot")
    assert rocker[-1] == pytest.approx(rocker[0], abs=1e-9)
    crank = motion.state.q[:, motion.system.body("crank"), 2]
    coupler = motion.state.q[:, motion.system.body("coupler"), 2]
    # The side of the coupler's end on which the diagonal lies never changes in one circuit.
    across = 120 * np.sin(coupler) * (100 - 40 * np.cos(crank)) + 120 * np.cos(coupler) * 40 * np.sin(crank)
    assert (across > 0).all()


@settings(max_examples=40, deadline=None)
@given(
    st.floats(0.2, 3),
    st.floats(0.2, 3),
    st.floats(0.2, 3),
    st.floats(0.2, 3),
    st.floats(5, 175),
    st.sampled_from(["open", "crossed"]),
    st.floats(0.1, 100),
)
def test_random_four_bars_return_scale_and_do_not_care_for_order(a, b, c, d, start, mode, size):
    far = math.hypot(d - a * math.cos(math.radians(start)), a * math.sin(math.radians(start)))
    assume(abs(b - c) + 0.05 < far < b + c - 0.05)
    there = moved(four_bar(a, b, c, d, start, mode, drivers=turn(start, start + 50, 25)))
    end = there.state.coordinates[-1]
    if there.stop is None:
        tree = four_bar(a, b, c, d, start, mode, drivers=turn(start + 50, start, 25))
        for part, pose in zip(tree["parts"], there.state.q[-1], strict=False):
            tree["parts"][part]["pose"] = [*pose[:2], math.degrees(pose[2])]
        back = moved(tree)
        if there.path.t1 == there.planned and _comfortable(there):
            away = (back.state.coordinates[-1] - there.state.coordinates[0] + math.pi) % (2 * math.pi) - math.pi
            assert away == pytest.approx(np.zeros(4), abs=1e-7)
    larger = moved(four_bar(size * a, size * b, size * c, size * d, start, mode, drivers=turn(start, start + 50, 25)))
    assert larger.path.t1 == pytest.approx(there.path.t1, abs=1e-7)
    tree = four_bar(a, b, c, d, start, mode, drivers=turn(start, start + 50, 25))
    for section in ("parts", "joints"):
        tree[section] = dict(reversed(tree[section].items()))
    other = moved(tree)
    if there.stop is None:
        assert larger.state.coordinates[-1] == pytest.approx(end, abs=1e-7)
        assert dict(zip(other.system.coordinates.ids, other.state.coordinates[-1], strict=True)) == pytest.approx(
            dict(zip(there.system.coordinates.ids, end, strict=True)), abs=1e-7
        )


def _comfortable(motion: Motion) -> bool:
    """Whether coupler and rocker stay clear of lying in line, where the way back is ill-conditioned."""
    return bool((np.abs(np.sin(angles(motion, "elbow"))) > 0.02).all())


@settings(max_examples=25, deadline=None)
@given(st.floats(0.3, 1.2), st.floats(2.0, 4.0), st.floats(-0.5, 0.5), st.floats(0.5, 20))
def test_rates_are_the_derivatives_of_positions(a, b, offset, speed):
    motion = moved(slider_crank(a, b, offset, drivers=turn(60, 420, 36, rate=f"{speed} rad/s")))
    t, h = motion.state.t[2:-2], 1e-5 * motion.planned
    before, here, after = (motion.at(t + way * h) for way in (-1, 0, 1))
    for value, rate, size in ((before.q, here.v, after.q), (before.v, here.a, after.v)):
        scale = np.abs(rate).max()
        assert (size - value) / (2 * h) == pytest.approx(rate, abs=2e-6 * scale)
    assert (after.coordinates - before.coordinates) / (2 * h) == pytest.approx(
        here.rates, abs=2e-6 * np.abs(here.rates).max()
    )


def test_a_dead_point_is_located_and_named():
    """A double rocker's crank stops where coupler and rocker lie in line: cos θ = (a² + d² − (b + c)²) / 2ad."""
    a, b, c, d = 70.0, 40.0, 60.0, 80.0
    motion = moved(four_bar(a, b, c, d, drivers=turn(40, 180, 140)))
    limit = math.degrees(math.acos((a * a + d * d - (b + c) ** 2) / (2 * a * d)))
    assert motion.stop is not None and motion.stop.reason == "dead point"
    assert math.degrees(motion.stop.driver) == pytest.approx(limit, abs=1e-9)
    assert "'coupler' and 'rocker' lie in line at joint 'elbow'" in motion.stop.text
    assert len(motion.state.t) == math.floor(limit) - 40 + 1


def test_a_limit_stops_the_motion_exactly():
    tree = slider_crank(30, 100, 0, drivers=turn(60, 240, 18))
    tree["joints"]["ram"]["limits"] = {"min": 80}
    motion = moved(tree)
    assert motion.stop is not None and motion.stop.reason == "limit" and motion.stop.joint == "ram"
    end = motion.at(np.array([motion.path.t1]))
    assert end.coordinates[0, motion.system.coordinates.index("ram")] == pytest.approx(80, abs=1e-7)
    # 30 cos θ + √(100² − 30² sin² θ) = 80: cos θ = (30² + 80² − 100²) / (2 · 30 · 80).
    assert math.degrees(motion.stop.driver) == pytest.approx(
        math.degrees(math.acos((30**2 + 80**2 - 100**2) / (2 * 30 * 80))), abs=1e-6
    )


def coupled_wheels(rods: int, start: float = 30.0, stop: float = 750.0):
    """Two wheels 100 apart with side rods, the second rod a quarter turn ahead, as on coupled driving wheels."""
    parts = {"frame": {"points": {"A": [0, 0], "B": [100, 0]}}}
    joints = {}
    for wheel, x in (("A", 0), ("B", 100)):
        parts[f"wheel{wheel}"] = {"points": {"O": [0, 0], "P0": [20, 0], "P1": [0, 20]}, "pose": [x, 0, start]}
        joints[f"axle{wheel}"] = {"type": "revolute", "a": f"frame.{wheel}", "b": f"wheel{wheel}.O"}
    for k in range(rods):
        angle = math.radians(start + 90 * k)
        parts[f"rod{k}"] = {
            "points": {"P": [0, 0], "Q": [100, 0]},
            "pose": [20 * math.cos(angle), 20 * math.sin(angle), 0],
        }
        joints[f"p{k}"] = {"type": "revolute", "a": f"wheelA.P{k}", "b": f"rod{k}.P"}
        joints[f"q{k}"] = {"type": "revolute", "a": f"rod{k}.Q", "b": f"wheelB.P{k}"}
    return document(parts, joints, drivers=turn(start, stop, 360, joint="axleA"))


@pytest.mark.parametrize("rods", [1, 2])
def test_coupled_wheels_turn_together_through_the_dead_points(rods):
    motion = moved(coupled_wheels(rods))
    assert motion.stop is None
    assert angles(motion, "axleB") == pytest.approx(angles(motion, "axleA"), abs=1e-8)
    assert motion.state.rates[:, motion.system.coordinates.index("axleB")] == pytest.approx(
        motion.state.rates[:, motion.system.coordinates.index("axleA")], rel=1e-5
    )
    assert motion.mobility.dof == 1
    assert motion.mobility.redundant == (() if rods == 1 else ("q1",))


def test_a_parallelogram_placed_flat_moves_as_a_parallelogram():
    motion = moved(coupled_wheels(1, start=0.0, stop=360.0))
    assert motion.stop is None and motion.mobility.dof == 1
    assert angles(motion, "axleB") == pytest.approx(angles(motion, "axleA"), abs=1e-8)


def test_mobility_is_that_of_a_generic_position():
    """A parallelogram placed flat and left alone: its one degree of freedom counts, not the second of being flat."""
    tree = coupled_wheels(2, start=0.0)
    del tree["drivers"]
    tree["parts"].pop("rod1")
    tree["joints"].pop("p1"), tree["joints"].pop("q1")
    motion = moved(tree)
    assert motion.mobility.dof == 1 and motion.mobility.count == 1 and motion.mobility.redundant == ()
    assert motion.drive.held == ("axleA",)


def test_a_start_out_of_reach_is_told():
    """Kite whose crank can't be where it was placed: assembled at its dead point, from where the driver can't go on."""
    motion = moved(four_bar(1.7, 1.4, 1.4, 1.7, start=140, drivers=turn(140, 500, 36)))
    assert motion.stop is not None and motion.stop.reason == "dead point"


def test_undriven_freedoms_move_least_and_are_named():
    """A flag that hangs on its pin is carried along without turning; what nothing carries stays where it is."""
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36))
    tree["parts"]["flag"] = {"points": {"P": [0, 0]}, "pose": [220, 50, 10]}
    tree["joints"]["hinge"] = {"type": "revolute", "a": "rocker.B", "b": "flag.P"}
    tree["parts"]["loose"] = {"pose": [5, 6, 7]}
    motion = moved(tree)
    assert motion.mobility.dof == 5
    assert set(motion.drive.held) == {"hinge", "loose.angle", "loose.x", "loose.y"}
    assert np.ptp(motion.state.q[:, motion.system.body("flag"), 2]) < 1e-9
    assert np.ptp(angles(motion, "hinge")) == pytest.approx(np.ptp(angles(motion, "pivot")), rel=1e-6)
    loose = motion.state.q[:, motion.system.body("loose")]
    assert loose == pytest.approx(np.tile([5, 6, math.radians(7)], (37, 1)))


def test_two_drivers_run_over_one_time():
    """A two-link arm with both joints driven at rates of their own: the one that arrives first waits."""
    parts = {"frame": {"points": {"O": [0, 0]}}, "upper": {"points": {"O": [0, 0], "E": [3, 0]}}}
    parts["fore"] = {"points": {"E": [0, 0], "H": [2, 0]}, "pose": [3, 0, 0]}
    joints = {
        "shoulder": {"type": "revolute", "a": "frame.O", "b": "upper.O"},
        "elbow": {"type": "revolute", "a": "upper.E", "b": "fore.E"},
    }
    drivers = {
        "lift": {"joint": "shoulder", "from": 0, "to": 90, "steps": 10, "rate": "45 deg/s"},
        "bend": {"joint": "elbow", "from": 0, "to": -90, "steps": 4, "duration": "1 s"},
    }
    motion = moved(document(parts, joints, drivers=drivers))
    assert motion.planned == 2.0 and motion.steps == 10
    assert np.degrees(angles(motion, "shoulder")) == pytest.approx(9.0 * np.arange(11))
    assert np.degrees(angles(motion, "elbow")) == pytest.approx(-90 * np.minimum(np.arange(11) / 5, 1), abs=1e-9)


def test_a_pin_runs_round_an_arc_slot_and_its_angle_counts_on():
    parts = {"frame": {"points": {"C": [0, 0]}}, "pin": {"points": {"P": [0, 0]}, "pose": [9, 1, 0]}}
    joints = {"slot": {"type": "pin-slot", "a": "frame.C", "b": "pin.P", "radius": 10}}
    motion = moved(document(parts, joints, drivers=turn(0, 900, 90, joint="slot")))
    assert np.degrees(angles(motion, "slot")) == pytest.approx(10.0 * np.arange(91), abs=1e-8)
    assert np.hypot(*motion.state.q[:, motion.system.body("pin"), :2].T) == pytest.approx(10 * np.ones(91))


def broken_loop():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400))
    tree["parts"]["coupler"]["points"]["B"] = [20, 0]
    tree["parts"]["rocker"]["points"]["B"] = [20, 0]
    return tree


def locked():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400))
    tree["joints"]["stay"] = {"type": "fixed", "a": "frame.O", "b": "coupler.A"}
    tree["joints"]["stay"]["a"] = "frame.S"
    tree["parts"]["frame"]["points"]["S"] = [40 * math.cos(math.radians(40)), 40 * math.sin(math.radians(40))]
    return tree


def fighting():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400))
    tree["drivers"]["other"] = {"joint": "pivot", "to": 90}
    return tree


@pytest.mark.parametrize(
    ("tree", "message"),
    [
        (broken_loop(), "stay open by about"),
        (locked(), "joint 'main' is locked by the other joints"),
        (fighting(), "fights with 'turn': together they command one motion twice; remove one"),
        ({"anakinema": 1}, "there are no parts"),
    ],
)
def test_what_makes_no_sense_is_told(tree, message):
    with pytest.raises(DocumentError) as caught:
        moved(tree)
    assert message in str(caught.value)


@settings(max_examples=30, deadline=None)
@given(st.floats(-7, -1), st.floats(-60, 60), st.booleans())
def test_no_locked_gap_is_stepped_over_however_narrow(size, start, longer):
    """A throw a hair longer than its rod locks at asin(rod / throw); a hair shorter goes round, though its branches
    nearly touch. A kite whose sides are a hair off locks before it is flat (closed geometry)."""
    over = 10.0**size * (1 if longer else -1)
    motion = moved(slider_crank(88 * (1 + over), 88, 0.0, start, drivers=turn(start, start + 360)))
    if longer:
        at = math.degrees(math.asin(1 / (1 + over)))
        assert motion.stop is not None and "dead point" in motion.stop.text
        assert math.degrees(motion.driver_value(motion.stop.t)) == pytest.approx(at, abs=1e-4)
    else:
        assert motion.stop is None
    kite = moved(four_bar(40, 100 * (1 + over), 40, 100, 60, drivers=turn(60, 420)))
    # Too long a coupler can't be flat at 0°, where it would have to span 100 mm; too short a one not at 180°.
    span = 100 * (1 + over) + (-40 if longer else 40)
    at = math.acos((40**2 + 100**2 - span**2) / (2 * 40 * 100))
    assert kite.driver_value(kite.stop.t) == pytest.approx(2 * math.pi - at if longer else at, abs=2e-6)


@pytest.mark.parametrize("off", [0.0, 1e-15, -1e-15, 1e-14, -1e-14])
def test_lengths_equal_but_for_rounding_pass_their_change_point(off):
    assert moved(four_bar(40, 100 * (1 + off), 40, 100, 60, drivers=turn(60, 420))).stop is None
    assert moved(slider_crank(88 * (1 + off), 88, 0.0, drivers=turn(60, 420))).stop is None
