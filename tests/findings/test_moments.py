"""Moments of a motion: what happens when, how one is typed, what is where at one."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.findings.moments import MomentKind, joint_now, moments, part_now, point_now, told_moment
from mechanisms import slider_crank, turn


@pytest.fixture(scope="module")
def found():
    return analyse(read_document(slider_crank(20, 60, 5, 60, drivers=turn(60, 420, 360, rate="60 rpm"))))


def test_events_are_in_order_and_say_the_dead_centres(found):
    every = moments(found)
    assert [one.t for one in every] == sorted(one.t for one in every)
    dead = [one for one in every if one.kind is MomentKind.DEAD_CENTRE]
    assert dead
    for one in dead:  # there a joint turns back: its rate is none
        joint = one.place.partition(".")[2]
        _, rate, _ = joint_now(found.motion, joint, one.t)
        size = np.abs(found.motion.state.rates[:, found.motion.system.coordinates.index(joint)]).max()
        assert abs(rate) < 1e-6 * size


def test_a_moment_is_typed_as_a_step_a_time_or_a_value_of_the_driver(found):
    motion = found.motion
    assert told_moment(motion, "step 3", 0.0) == pytest.approx(3 * motion.planned / motion.steps)
    assert told_moment(motion, "0.01 s", 0.0) == pytest.approx(0.01)
    half = math.degrees((motion.driver_value(0.0) + motion.driver_value(motion.path.t1)) / 2)
    t = told_moment(motion, f"{half!r} deg", 0.0)
    assert math.degrees(motion.driver_value(t)) == pytest.approx(half, abs=1e-7)
    wrong = (("step 9999999", "steps"), ("1e9 deg", "never at"), ("-1 s", "goes from"), ("2*nothing", "step"))
    for text, word in wrong:
        with pytest.raises(DocumentError, match=word):
            told_moment(motion, text, 0.0)


def test_rates_at_a_moment_are_those_of_differences(found):
    motion, h, t = found.motion, 1e-5, 0.37 * found.motion.path.t1
    part = next(name for name in motion.document.parts if not motion.document.parts[name].fixed)
    ends = [point_now(motion, part, 5 + 3j, t + k * h)[0] for k in (-1, 0, 1)]
    at, v, a = point_now(motion, part, 5 + 3j, t)
    assert at == ends[1]
    assert v == pytest.approx((ends[2] - ends[0]) / (2 * h), rel=1e-6)
    assert a == pytest.approx((ends[2] - 2 * ends[1] + ends[0]) / h**2, rel=1e-3)
    turned = [part_now(motion, part, t + k * h) for k in (-1, 1)]
    assert part_now(motion, part, t)[1] == pytest.approx((turned[1][0] - turned[0][0]) / (2 * h), rel=1e-6, abs=1e-9)
