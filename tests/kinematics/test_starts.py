"""Where a motion starts: on the branch that is placed, however turns are counted and lengths are written."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import read_document
from anakinema.kinematics.simulation import simulate
from mechanisms import document, four_bar, strand, turn

ANGLE = st.floats(-180, 180, exclude_min=True)


def cylinder(reach: float, length: float, tilt: float, turns: int, angle: float) -> dict:
    """A tube pinned at O and a rod pinned at D, `reach` away; the rod slides in the tube, turned by `angle` in it. The
    rod's pose is written whole turns off."""
    parts = {
        "frame": {"points": {"O": [0, 0], "D": [reach, 0]}},
        "arm": {"points": {"D": [0, 0], "E": [length, 0]}, "pose": [reach, 0, tilt]},
        "tube": {"points": {"O": [0, 0]}, "pose": [0, 0, 0]},
        "rod": {"points": {"E": [0, 0]}, "pose": [0, 0, 0]},
    }
    end = complex(reach, 0) + length * np.exp(1j * math.radians(tilt))
    way = math.degrees(math.atan2(end.imag, end.real))
    parts["tube"]["pose"] = [0, 0, way]
    parts["rod"]["pose"] = [end.real, end.imag, way + angle + 360 * turns]
    joints = {
        "main": {"type": "revolute", "a": "frame.D", "b": "arm.D"},
        "foot": {"type": "revolute", "a": "frame.O", "b": "tube.O"},
        "eye": {"type": "revolute", "a": "arm.E", "b": "rod.E"},
        "bore": {"type": "prismatic", "a": "tube.O", "b": "rod.E", "direction": 0, "angle": angle},
    }
    return document(parts, joints, drivers={"lift": {"joint": "main", "from": tilt, "to": tilt + 20, "steps": 4}})


@settings(max_examples=60, deadline=None)
@given(st.floats(50, 300), st.floats(20, 45), st.floats(10, 140), st.integers(-2, 2), ANGLE)
def test_a_cylinder_starts_as_it_is_placed(reach, length, tilt, turns, angle):
    motion = simulate(read_document(cylinder(reach, length, tilt, turns, angle)))
    column = motion.system.coordinates.index("bore")
    end = abs(complex(reach, 0) + length * np.exp(1j * math.radians(tilt)))
    assert motion.stop is None
    assert motion.at(0.0).coordinates[0, column] == pytest.approx(end, abs=1e-7)  # not slid through to the other side


@settings(max_examples=40, deadline=None)
@given(st.integers(-3, 3), ANGLE, ANGLE)
def test_a_fixed_joint_does_not_count_turns(turns, angle, rough):
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "plate": {"points": {"P": [0, 0]}, "pose": [1, 2, rough]},
        "lug": {"points": {"P": [0, 0]}, "pose": [1, 2, rough + angle + 360 * turns]},
    }
    joints = {
        "pin": {"type": "revolute", "a": "frame.O", "b": "plate.P"},
        "weld": {"type": "fixed", "a": "plate.P", "b": "lug.P", "angle": angle},
    }
    motion = simulate(read_document(document(parts, joints)))
    q = motion.positions(np.zeros(1))[0]
    plate, lug = (q[motion.system.body(part), 2] for part in ("plate", "lug"))
    assert math.remainder(plate - math.radians(rough), math.tau) == pytest.approx(0, abs=1e-9)  # it stays as placed
    assert math.remainder(lug - plate - math.radians(angle), math.tau) == pytest.approx(0, abs=1e-9)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.1, 0.9), st.integers(-6, 6), st.floats(20, 200))
def test_rounding_is_no_length(x, digits, radius):
    """Two wheels on one axle, one placed by a number, the other by a sum that rounds: the span between is noise."""
    rounded = f"{x!r} + {10.0**digits!r} - {10.0**digits!r}"
    parts = {
        "frame": {"points": {"O": [x, 0], "P": [rounded, 0], "Q": [radius + x, 0]}},
        "sun": {"points": {"C": [0, 0]}, "pose": [x, 0, 0]},
        "planet": {"points": {"C": [0, 0]}, "pose": [radius + x, 0, 0]},
        "arm": {"points": {"C": [0, 0], "R": [radius, 0]}, "pose": [x, 0, 0]},
    }
    joints = {
        "sun": {"type": "revolute", "a": "frame.O", "b": "sun.C"},
        "carrier": {"type": "revolute", "a": "frame.P", "b": "arm.C"},
        "planet": {"type": "revolute", "a": "arm.R", "b": "planet.C"},
        "mesh": {"type": "gear", "a": "sun", "b": "planet", "teeth": [20, 40], "carrier": "arm"},
    }
    drivers = {"turn": {"joint": "carrier", "from": 0, "to": 90, "steps": 3}}
    drivers["hold"] = {"joint": "sun", "from": 0, "to": 0, "steps": 3}
    motion = simulate(read_document(document(parts, joints, drivers=drivers)))
    assert motion.stop is None and motion.state.t.size == 4


@settings(max_examples=12, deadline=None)
@given(ANGLE, st.integers(-2, 2))
def test_coordinates_start_within_half_a_turn(start, turns):
    """docs/joints.md promises (−180°, 180°], whatever the poses say; a driver's `from` names the turn it begins in."""
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "arm": {"points": {"O": [0, 0], "E": [30, 0]}, "pose": [0, 0, start + 360 * turns]},
        "hand": {"points": {"E": [0, 0]}, "pose": [30, 0, 250]},
    }
    joints = {
        "main": {"type": "revolute", "a": "frame.O", "b": "arm.O"},
        "wrist": {"type": "revolute", "a": "arm.E", "b": "hand.E", "zero": 100},
    }
    motion = simulate(read_document(document(parts, joints)))
    values = np.degrees(motion.at(0.0).coordinates[0])
    assert ((values > -180 - 1e-9) & (values <= 180 + 1e-9)).all()
    drivers = {"turn": {"joint": "main", "from": start + 360, "to": start + 400, "steps": 2}}
    driven = simulate(read_document(document(parts, joints, drivers=drivers)))
    assert math.degrees(driven.at(0.0).coordinates[0, 0]) == pytest.approx(start + 360, abs=1e-9)


@pytest.mark.parametrize("away", [4e4, 1e6, 9e7])
def test_a_part_put_down_far_away_is_fetched(away):
    """To where it was, for its turn still tells the branch; a link of a chain too, with all that hang on it."""
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 60, 4))
    placed = simulate(read_document(tree)).at(0.0).coordinates
    tree["parts"]["coupler"]["pose"][0] += away
    motion = simulate(read_document(tree))
    assert motion.stop is None and np.abs(motion.at(0.0).coordinates - placed).max() < 1e-9
    tree = strand(40)
    tree["parts"]["link20"]["pose"][1] -= away
    del tree["drivers"]
    assert simulate(read_document(tree)).stop is None
