"""Dragging: the point follows the hand, the rest moves least, limits hold, nothing jumps, and the reason is told."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.kinematics.dragging import Grip
from anakinema.kinematics.simulation import simulate
from anakinema.kinematics.system import compile_system
from mechanisms import document, four_bar, slider_crank


def grip(tree, part: str, local=(0.0, 0.0)):
    made = read_document(tree)
    system = compile_system(made)
    start = simulate(made).at(np.zeros(1))
    return Grip(made, system, start.q[0], start.coordinates[0], part, local)


def place(hand: Grip, q: np.ndarray, part: str, local=(0.0, 0.0)) -> np.ndarray:
    x, y, angle = q[hand.system.body(part)]
    z = complex(x, y) + complex(*local) * np.exp(1j * angle)
    return np.array([z.real, z.imag])


def open_by(hand: Grip, q: np.ndarray) -> float:
    size = np.array([hand.system.scale, hand.system.scale, 1.0])
    return float(np.abs(hand.system.constraints.residual(np.ascontiguousarray(q / size), np.zeros(1))).max())


def test_a_free_arm_brings_its_end_to_the_hand():
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "upper": {"points": {"O": [0, 0], "E": [30, 0]}, "pose": [0, 0, 20]},
        "fore": {"points": {"E": [0, 0], "H": [20, 0]}, "pose": [28, 10, -30]},
    }
    joints = {
        "shoulder": {"type": "revolute", "a": "frame.O", "b": "upper.O"},
        "elbow": {"type": "revolute", "a": "upper.E", "b": "fore.E"},
    }
    hand = grip(document(parts, joints), "fore", (20, 0))
    found = hand.pull(10, 30)
    assert found.settled and found.reason == "" and found.away < 1e-4
    assert place(hand, found.q, "fore", (20, 0)) == pytest.approx([10, 30], abs=1e-4)
    assert open_by(hand, found.q) < 1e-8
    for _ in range(3):
        far = hand.pull(200, 0)
    assert far.settled and "reaches no further this way" in far.reason
    assert place(hand, far.q, "fore", (20, 0)) == pytest.approx([50, 0], abs=0.5)  # stretched toward the hand


@pytest.mark.parametrize("target", [(-400.0, 300.0), (0.0, -500.0), (38.0, 12.0)])
def test_a_wild_hand_never_changes_the_circuit(target):
    """However far the mouse jumps, the four-bar stays on its side of the diagonal."""
    hand = grip(four_bar(40, 120, 80, 100), "crank", (40, 0))
    rng = np.random.default_rng(1)
    for _ in range(30):
        found = hand.pull(target[0] + rng.uniform(-60, 60), target[1] + rng.uniform(-60, 60), steps=8)
        crank, coupler = (found.q[hand.system.body(name), 2] for name in ("crank", "coupler"))
        across = 120 * math.sin(coupler) * (100 - 40 * math.cos(crank)) + 120 * math.cos(coupler) * 40 * math.sin(crank)
        assert across > 0 and open_by(hand, found.q) < 1e-8


def test_the_path_is_continuous_whatever_the_mouse_does():
    hand = grip(four_bar(40, 120, 80, 100), "crank", (40, 0))
    before = hand.q.copy()
    for x, y in ((-900, 0), (900, 5), (0, 900), (-3, -900)):
        for _ in range(25):
            found = hand.pull(x, y, steps=1)
            assert np.abs(hand.q - before)[:, 2].max() < 0.4
            before = hand.q.copy()
            if found.settled:
                break


def test_limits_hold_and_are_named():
    tree = slider_crank(30, 100, 0)
    tree["joints"]["ram"]["limits"] = {"min": 90, "max": 120}
    hand = grip(tree, "slider")
    found = hand.pull(400, 0)
    assert found.settled and place(hand, found.q, "slider")[0] == pytest.approx(120, abs=1e-6)
    assert found.reason == "'ram' is at its limit (max 120 mm)"
    found = hand.pull(-400, 0)
    assert place(hand, found.q, "slider")[0] == pytest.approx(90, abs=1e-6)
    assert "min 90 mm" in found.reason
    assert hand.pull(105, 30).away == pytest.approx(30, abs=0.1)  # back off the limit at once


def test_turns_beyond_a_full_one_count_against_limits():
    parts = {"frame": {"points": {"O": [0, 0]}}, "knob": {"points": {"O": [0, 0]}}}
    joints = {"pin": {"type": "revolute", "a": "frame.O", "b": "knob.O", "limits": {"min": -10, "max": 400}}}
    hand = grip(document(parts, joints), "knob", (10, 0))
    angle = 0.0
    for _ in range(60):
        angle += 0.15
        found = hand.pull(10 * math.cos(angle), 10 * math.sin(angle))
    assert math.degrees(found.q[hand.system.body("knob"), 2]) == pytest.approx(400, abs=1e-3)
    assert "max 400°" in found.reason


def test_limits_beyond_half_a_turn_are_those_of_the_joint():
    """A knob placed at −90° that is limited to 200° … 340° stands at 270°, and turns between its limits."""
    parts = {"frame": {"points": {"O": [0, 0]}}, "knob": {"points": {"O": [0, 0]}, "pose": [0, 0, -90]}}
    joints = {"pin": {"type": "revolute", "a": "frame.O", "b": "knob.O", "limits": {"min": 200, "max": 340}}}
    hand = grip(document(parts, joints), "knob", (10, 0))
    found = hand.pull(10, -1)
    assert math.degrees(found.q[hand.system.body("knob"), 2]) == pytest.approx(-20, abs=1e-3)
    assert "max 340°" in found.reason
    assert hand.pull(2, -10).away < 0.2


def test_fixed_and_locked_parts_say_so():
    tree = four_bar(40, 120, 80, 100)
    assert grip(tree, "frame").pull(5, 5).reason == "part 'frame' is fixed"
    tree["joints"]["weld"] = {"type": "fixed", "a": "frame.O", "b": "crank.O"}
    found = grip(tree, "rocker", (80, 0)).pull(0, 0)
    assert found.settled and found.reason.startswith("nothing is left free")


def test_a_strand_follows_as_a_whole_and_straightens():
    links, length = 60, 10.0
    parts = {"frame": {"points": {"O": [0, 0]}}}
    joints, x, y = {}, 0.0, 0.0
    for k in range(links):
        lean = 60 if k % 2 else -60
        parts[f"l{k}"] = {"points": {"A": [0, 0], "B": [length, 0]}, "pose": [x, y, lean]}
        joints[f"p{k}"] = {"type": "revolute", "a": f"l{k - 1}.B" if k else "frame.O", "b": f"l{k}.A"}
        x, y = x + length * math.cos(math.radians(lean)), y + length * math.sin(math.radians(lean))
    hand = grip(document(parts, joints), f"l{links - 1}", (length, 0))
    found = hand.pull(x + 40, 0)
    turned = np.abs(np.degrees(found.q[1 : links + 1, 2]) - [-60 if k % 2 == 0 else 60 for k in range(links)])
    assert (turned > 0.2).mean() > 0.9  # not just the links next to the hand
    for _ in range(40):
        found = hand.pull(links * length + 30, 0, steps=20)
    assert np.abs(found.q[1 : links + 1, 2]).max() < 0.1
    assert place(hand, found.q, f"l{links - 1}", (length, 0))[0] == pytest.approx(links * length, rel=2e-3)


def test_redundant_joints_do_not_hinder():
    tree = four_bar(40, 120, 40, 120, start=60)
    tree["parts"]["crank"]["points"]["M"], tree["parts"]["rocker"]["points"]["M"] = [20, 0], [20, 0]
    c, s = 20 * math.cos(math.radians(60)), 20 * math.sin(math.radians(60))
    tree["parts"]["second"] = {"points": {"P": [0, 0], "Q": [120, 0]}, "pose": [c, s, 0]}
    tree["joints"]["m1"] = {"type": "revolute", "a": "crank.M", "b": "second.P"}
    tree["joints"]["m2"] = {"type": "revolute", "a": "second.Q", "b": "rocker.M"}
    hand = grip(tree, "coupler", (60, 0))
    found = hand.pull(60, 40)
    assert found.away < 1e-3 and open_by(hand, found.q) < 1e-8
