"""Changing how a joint counts leaves the motion as it was: zero, sign; and traces made of features."""

import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import Document, changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.operations import Grab, features, reversed_sign, trace_point, zero_here


def crank(**more: Any) -> Document:
    """An offset slider-crank with limits, a position and checks that speak of its coordinates."""
    return read_document({
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "way": [0, 12]}},
            "crank": {"points": {"O": [0, 0], "P": [30, 0]}, "pose": [0, 0, 20]},
            "rod": {"points": {"P": [0, 0], "Q": [100, 0]}, "pose": [28, 10, 0]},
            "ram": {"points": {"Q": [0, 0]}, "pose": [128, 12, 0]},
        },
        "joints": {
            "main": {"type": "revolute", "a": "frame.O", "b": "crank.O", "limits": {"min": 0, "max": 400}},
            "big": {"type": "revolute", "a": "crank.P", "b": "rod.P", "zero": 5},
            "small": {"type": "revolute", "a": "rod.Q", "b": "ram.Q"},
            "slide": {"type": "prismatic", "a": "frame.way", "b": "ram.Q", "direction": 0, "limits": {"min": 20, "max":
            140}},
        },
        "drivers": {"turn": {"joint": "main", "from": 20, "to": 380, "steps": 40}},
        "positions": {"far": {"drivers": {"turn": 90}}, "near": {"joints": {"slide": 100}}},
        "checks": {"range": {"measure": "coordinate", "joint": "main", "at_least": 10, "at_most": 390},
                   "there": {"measure": "coordinate", "joint": "slide", "at": 90, "at_least": 50, "at_most": 130}},
        **more,
    })  # fmt: skip


@pytest.mark.parametrize(("change", "joint"), [
    (lambda document: zero_here(document, "main", math.radians(20)), "main"),
    (lambda document: reversed_sign(document, "main"), "main"),
    (lambda document: reversed_sign(document, "slide"), "slide"),
    (lambda document: reversed_sign(document, "big"), "big"),
    (lambda document: zero_here(document, "big", 0.3), "big"),
])  # fmt: skip
def test_the_mechanism_moves_as_before(change: Any, joint: str) -> None:
    document = crank()
    after = changed(document, *change(document).changes)
    one, two = analyse(document), analyse(after)
    t = np.linspace(0, one.motion.planned, 21)
    np.testing.assert_allclose(one.motion.at(t).q, two.motion.at(t).q, atol=1e-7)
    assert two.motion.stop is None
    for name, verdict in one.verdicts.items():
        assert two.verdicts[name].margin == pytest.approx(verdict.margin, abs=1e-6)
    column = one.motion.system.coordinates.index(joint)
    a, b = (found.motion.coordinates(t)[:, column] for found in (one, two))
    slope = float(np.polyfit(a, b, 1)[0])
    assert abs(abs(slope) - 1.0) < 1e-6 and not np.allclose(a, b)


def test_the_sign_twice_is_as_it_was() -> None:
    document = crank()
    twice = changed(document, *reversed_sign(document, "main").changes)
    assert twice.joints["main"].limits.min == pytest.approx(math.radians(-400))
    twice = changed(twice, *reversed_sign(twice, "main").changes)
    assert twice.joints["main"] == document.joints["main"]
    assert twice.positions["far"].drivers == pytest.approx(document.positions["far"].drivers)


def test_what_can_not_follow_is_told() -> None:
    with pytest.raises(DocumentError, match="only a revolute"):
        zero_here(crank(), "slide", 1.0)
    tied = crank(drivers={"turn": {"joint": "main", "program": "p"}}, positions={}, checks={},
                 programs={"p": {"segments": [{"over": "1 s", "to": "90 deg"}]}})  # fmt: skip
    with pytest.raises(DocumentError, match=r"drivers\.turn: runs by a program"):
        reversed_sign(tied, "main")


def test_a_feature_leaves_its_path_on_the_frame_or_on_a_part() -> None:
    document = crank()
    eye = next(one for one in features(document.parts["rod"]) if one.at == 100)
    made = trace_point(document, Grab("rod", eye))
    document = changed(document, *made.changes)
    assert str(document.traces[made.place[1]].point) == "rod.Q"
    on = trace_point(document, Grab("rod", eye), "crank")
    document = changed(document, *on.changes)
    assert document.traces[on.place[1]].on == "crank"
    for again in ("crank", "rod"):
        with pytest.raises(DocumentError, match=r"already|stands still"):
            trace_point(document, Grab("rod", eye), again)
