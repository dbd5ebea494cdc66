"""Tangent and rolling contacts against exact relations; real edges end where they end."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.kinematics.contacts import touch
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from mechanisms import document, turn


def moved(tree) -> Motion:
    return simulate(read_document(tree))


def column(motion: Motion, joint: str) -> np.ndarray:
    return motion.state.coordinates[:, motion.system.coordinates.index(joint)]


def eccentric(follower_edges: dict, contact: str, height: float, **more):
    """A disc of radius 20, 8 off its shaft, under a follower that slides upward at x = 0."""
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "cam": {"points": {"O": [0, 0]}, "edges": {"rim": {"center": [8, 0], "radius": 20}}},
        "follower": {"points": {"F": [0, 0]}, "edges": follower_edges, "pose": [0, height, 0]},
    }
    joints = {
        "main": {"type": "revolute", "a": "frame.O", "b": "cam.O"},
        "guide": {"type": "prismatic", "a": "frame.O", "b": "follower.F", "direction": 90},
        "touch": {"type": "tangent", "a": "cam.rim", "b": f"follower.{contact}", **more},
    }
    return document(parts, joints, drivers=turn(0, 360, 72))


def test_a_flat_follower_on_an_eccentric_moves_harmonically():
    """Any cam text: lift e sin θ over the base r; the contact wanders e cos θ along the face."""
    motion = moved(eccentric({"face": {"from": [-30, 0], "to": [30, 0]}}, "face", 20))
    theta = column(motion, "main")
    assert column(motion, "guide") == pytest.approx(20 + 8 * np.sin(theta), abs=1e-8)
    assert column(motion, "touch") == pytest.approx(30 + 8 * np.cos(theta), abs=1e-8)
    rate = motion.state.rates[:, motion.system.coordinates.index("guide")]
    assert rate == pytest.approx(8 * 2 * math.pi * np.cos(theta), abs=1e-6)
    at = touch(motion.document, motion.document.joints["touch"], motion.state.q, motion.system.body_ids)
    assert at.real == pytest.approx(8 * np.cos(theta), abs=1e-8)


def test_a_roller_follower_on_an_eccentric_is_a_slider_crank():
    """The line of centres is a rod of length r + roller between crank e and slide."""
    motion = moved(eccentric({"roller": {"center": [0, 0], "radius": 6}}, "roller", 26))
    theta = column(motion, "main")
    wanted = 8 * np.sin(theta) + np.sqrt(26**2 - (8 * np.cos(theta)) ** 2)
    assert column(motion, "guide") == pytest.approx(wanted, abs=1e-8)


@pytest.mark.parametrize("at_end", ["stop", "lost"])
def test_a_contact_ends_with_the_real_edge(at_end):
    """A face from −5 to 5 is left where e cos θ = 5 going out of the dead centre: at θ = 300° coming from 90°."""
    tree = eccentric({"face": {"from": [-5, 0], "to": [5, 0]}}, "face", 28, at_end=at_end)
    tree["parts"]["cam"]["pose"] = [0, 0, 90]
    tree["drivers"] = turn(90, 400, 310)
    findings = analyse(read_document(tree))
    motion = findings.motion
    left = math.degrees(math.acos(-5 / 8))
    if at_end == "stop":
        assert motion.stop is not None and motion.stop.reason == "contact"
        assert math.degrees(motion.stop.driver) == pytest.approx(left, abs=1e-6)
        assert "runs off the end of 'follower.face'" in motion.stop.text
    else:
        assert motion.stop is None and len(motion.state.t) == 311
        (lost,) = motion.lost
        assert math.degrees(lost.driver) == pytest.approx(left, abs=1e-6)
        assert any("is lost at the end of 'follower.face'" in entry.text for entry in findings.advice)


def test_an_arc_that_is_no_full_circle_ends_too():
    tree = eccentric({"face": {"from": [-30, 0], "to": [30, 0]}}, "face", 20)
    tree["parts"]["cam"]["edges"]["rim"] |= {"from": -80, "to": 120}
    motion = moved(tree)  # the contact lies at 90° − θ on the cam: it leaves the arc at −80°, where θ = 170°
    assert math.degrees(motion.stop.driver) == pytest.approx(170, abs=1e-6)
    assert "'cam.rim'" in motion.stop.text


def wheel_on(edge: dict, pose: list, kind: str = "rolling", radius: float = 10.0):
    parts = {
        "frame": {"points": {"O": [0, 0]}, "edges": {"way": edge}},
        "wheel": {
            "points": {"C": [0, 0], "P": [radius, 0]},
            "edges": {"rim": {"center": "C", "radius": radius}},
            "pose": pose,
        },
    }
    return document(parts, {"roll": {"type": kind, "a": "wheel.rim", "b": "frame.way"}})


def test_a_wheel_rolls_along_a_straight_edge():
    tree = wheel_on({"from": [0, 0], "to": [200, 0]}, [20, 10, 0])
    tree["drivers"] = turn(20, 20 + 20 * math.pi, 40, joint="roll")
    motion = moved(tree)
    assert motion.mobility.dof == 1
    wheel = motion.state.q[:, motion.system.body("wheel")]
    assert np.degrees(wheel[:, 2]) == pytest.approx(-np.linspace(0, 360, 41), abs=1e-7)
    assert wheel[:, 1] == pytest.approx(10 * np.ones(41))
    tree["drivers"] = turn(20, 300, 40, joint="roll")
    assert "runs off the end of 'frame.way'" in moved(tree).stop.text


def test_a_point_of_a_wheel_in_a_ring_of_twice_its_size_moves_straight():
    """The Tusi couple (Nasir al-Din al-Tusi; La Hire's theorem), from memory."""
    tree = wheel_on({"center": [0, 0], "radius": 20}, [10, 0, 0])
    tree["drivers"] = turn(180, 900, 60, joint="roll")  # seen from the wheel the ring turns twice
    motion = moved(tree)
    wheel = motion.state.q[:, motion.system.body("wheel")]
    z = wheel[:, 0] + 1j * wheel[:, 1] + 10 * np.exp(1j * wheel[:, 2])
    assert z.imag == pytest.approx(np.zeros(61), abs=1e-8)
    assert z.real.min() == pytest.approx(-20, abs=1e-6)


def test_a_wheel_rolls_round_another():
    """A coin rolled once round a coin of its own size turns twice (common practice, no source)."""
    tree = wheel_on({"center": [0, 0], "radius": 10}, [20, 0, 0])
    tree["drivers"] = turn(0, 360, 36, joint="roll")
    motion = moved(tree)
    wheel = motion.state.q[:, motion.system.body("wheel")]
    seen = tree["joints"]["roll"]
    assert seen["a"] == "wheel.rim"
    round_about = np.unwrap(np.arctan2(wheel[:, 1], wheel[:, 0]))
    assert wheel[:, 2] == pytest.approx(2 * round_about, abs=1e-7)


@pytest.mark.parametrize(
    ("edges", "message"),
    [
        ({"rim": {"from": [0, 0], "to": [0, 0]}}, "parts.wheel.edges.rim: 'from' and 'to' are the same point"),
        ({"rim": {"center": [0, 0], "radius": -1}}, "parts.wheel.edges.rim.radius: must be greater than zero"),
        ({"rim": {"center": [0, 0], "radius": 1, "from": 50, "to": 40}}, "'to' must exceed 'from'"),
        ({"rim": {"from": [0, 0], "to": [1, 0]}}, "joints.roll: both edges are straight"),
        ({"rum": {"center": [0, 0], "radius": 1}}, "part 'wheel' has no edge 'rim' (did you mean 'rum'?)"),
        ({"C": {"center": [0, 0], "radius": 1}}, "a point of the part has this name already"),
    ],
)
def test_faults_of_edges(edges, message):
    tree = wheel_on({"from": [0, 0], "to": [200, 0]}, [20, 10, 0])
    tree["parts"]["wheel"]["edges"] = edges
    with pytest.raises(DocumentError) as caught:
        read_document(tree)
    assert message in str(caught.value)
