"""Behaviour against closed forms and rules of the field; motions left; the ways to put a mechanism together."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.findings.behaviour import dwells, grashof, instant_center, linkages
from anakinema.kinematics.freedoms import freedoms
from anakinema.kinematics.modes import modes, placed
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from anakinema.measures.base import column
from anakinema.measures.dwelling import STILL
from anakinema.measures.force import moved_by_driver
from anakinema.measures.strokes import time_ratio
from mechanisms import document, four_bar, slider_crank, turn, watt_six_bar


def moved(tree) -> Motion:
    return simulate(read_document(tree))


@pytest.mark.parametrize(
    ("lengths", "kind"),
    [
        ((100, 40, 120, 80), "crank-rocker"),
        ((20, 70, 80, 60), "drag link"),
        ((60, 70, 20, 55), "double rocker, its coupler turns fully"),
        ((70, 60, 45, 50), "double rocker, no link turns fully"),
        ((100, 40, 100, 40), "change-point four-bar"),
    ],
)
def test_linkage_classes(lengths, kind):
    d, a, b, c = lengths
    assert grashof(d, a, b, c) == kind
    (found,) = linkages(read_document(four_bar(a, b, c, d, start=70)))
    assert found.kind == kind and sorted(found.lengths) == pytest.approx(sorted(lengths))


@pytest.mark.parametrize(("a", "b", "offset"), [(30, 100, 25), (20, 70, -30)])
def test_time_ratio_of_a_quick_return(a, b, offset):
    """Offset slider-crank (any textbook): (180° + α) / (180° − α) with α = asin(e/(b − a)) − asin(e/(b + a))."""
    motion = moved(slider_crank(a, b, offset, drivers=turn(60, 420, 36)))
    alpha = abs(math.asin(offset / (b - a)) - math.asin(offset / (b + a)))
    assert time_ratio(motion, column(motion, "ram")) == pytest.approx((math.pi + alpha) / (math.pi - alpha), rel=1e-6)
    assert time_ratio(motion, column(motion, "main")) is None


def test_dwells_are_found_where_the_output_waits():
    """A second driver that has arrived waits: the joint dwells from then on."""
    parts = {"frame": {"points": {"O": [0, 0], "B": [50, 0]}}}
    parts |= {name: {"points": {"O": [0, 0]}, "pose": [x, 0, 0]} for name, x in (("one", 0), ("two", 50))}
    joints = {
        "main": {"type": "revolute", "a": "frame.O", "b": "one.O"},
        "out": {"type": "revolute", "a": "frame.B", "b": "two.O"},
    }
    drivers = {
        "first": {"joint": "main", "from": 0, "to": 360, "steps": 36, "duration": "2 s"},
        "second": {"joint": "out", "from": 0, "to": 90, "duration": "0.5 s"},
    }
    motion = moved(document(parts, joints, drivers=drivers))
    (found,) = dwells(motion, "out")
    assert (found.start, found.stop) == pytest.approx((0.5 * (1 - STILL), 2.0), abs=1e-9)
    assert math.degrees(found.value) == pytest.approx(90 * (1 - STILL / 2), abs=1e-9)
    assert dwells(motion, "main") == []


def test_instant_centres_lie_where_kennedy_says():
    """Aronhold–Kennedy (from memory): the coupler's centre against the ground lies on both arms' lines, that of crank
    and rocker on the lines of coupler and ground; the advantage is the ratio of its distances from the two pivots."""
    motion = moved(four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36)))
    state = motion.state
    frame, crank, coupler, rocker = (motion.system.body(name) for name in ("frame", "crank", "coupler", "rocker"))
    for step in (0, 7, 20):
        theta, phi = state.q[step, crank, 2], state.q[step, rocker, 2]
        pole = instant_center(state, step, coupler, frame)
        assert (pole * np.exp(-1j * theta)).imag == pytest.approx(0, abs=1e-6 * abs(pole))
        assert ((pole - 100) * np.exp(-1j * phi)).imag == pytest.approx(0, abs=1e-6 * abs(pole))
        both = instant_center(state, step, crank, rocker)
        assert both.imag == pytest.approx(0, abs=1e-6 * abs(both))
        end = complex(*state.q[step, coupler, :2])
        assert ((both - end) * np.exp(-1j * state.q[step, coupler, 2])).imag == pytest.approx(0, abs=1e-6 * abs(both))
        gain = 1 / moved_by_driver(motion, "pivot", state.t[step : step + 1])[0]
        assert abs(gain) == pytest.approx(abs(both - 100) / abs(both), rel=1e-6)
    assert instant_center(state, 0, frame, frame) is None


def test_motions_left_to_parts():
    motion = moved(slider_crank(30, 100, 0, drivers=turn(60, 420, 36)))
    left = freedoms(motion.system, motion.positions(np.zeros(1))[0])
    assert left["frame"] == ()
    (crank,), (slider,), (rod,) = left["crank"], left["slider"], left["rod"]
    assert crank.kind == "turn" and abs(crank.center) < 1e-6
    assert slider.kind == "slide" and slider.direction == pytest.approx(1 + 0j)
    pole = instant_center(motion.state, 0, motion.system.body("rod"), motion.system.body("frame"))
    assert rod.kind == "turn" and rod.center == pytest.approx(pole, rel=1e-6)

    tree = four_bar(40, 120, 80, 100)
    tree["joints"]["weld"] = {"type": "fixed", "a": "frame.O", "b": "crank.O"}
    tree["parts"]["loose"] = {}
    tree["parts"]["pad"] = {"points": {"P": [0, 0]}}
    tree["joints"]["groove"] = {"type": "pin-slot", "a": "frame.O", "b": "pad.P", "direction": 90}
    locked = moved(tree)
    left = freedoms(locked.system, locked.positions(np.zeros(1))[0])
    assert left["rocker"] == () and len(left["loose"]) == 3
    assert [freedom.kind for freedom in left["pad"]] == ["slide", "turn"]
    assert left["pad"][0].direction == pytest.approx(1j)


def test_all_ways_to_put_a_mechanism_together():
    motion = moved(four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36)))
    open_way, crossed = modes(motion).ways
    assert open_way.q == pytest.approx(motion.positions(np.zeros(1))[0], abs=1e-8)
    chosen = simulate(placed(motion.document, motion, crossed.q))
    rocker = math.degrees(chosen.state.q[0, chosen.system.body("rocker"), 2])
    assert math.remainder(rocker, 360) == pytest.approx(-98.005, abs=1e-3)
    assert chosen.document.parts["crank"].points == motion.document.parts["crank"].points
    assert len(modes(moved(slider_crank(30, 100, 10, drivers=turn(60, 420, 36)))).ways) == 2


def test_a_watt_six_bar_has_six_configurations_at_most_and_all_close():
    tree = watt_six_bar(drivers=turn(40, 80, 4))
    motion = moved(tree)
    found = modes(motion).ways
    assert len(found) == 4  # two of the four-bar times two of the dyad
    size = np.array([motion.system.scale, motion.system.scale, 1.0])
    for mode in found:
        residual = motion.system.constraints.residual(np.ascontiguousarray(mode.q / size), np.zeros(1))
        assert np.abs(residual).max() < 1e-9
