"""Checks with margin and place, transmission angles, traces, the kinematic chain, what to do next."""

import math

import numpy as np
import pytest

from anakinema.document import Set, changed, read_document
from anakinema.findings import analyse
from anakinema.findings.chain import chain
from anakinema.findings.checks import Outcome
from anakinema.formats import project
from anakinema.kinematics.traces import trace
from mechanisms import four_bar, slider_crank, turn


def test_the_demo_fails_one_check_by_a_little_and_one_dimension_mends_it():
    document, _ = project.demo()
    findings = analyse(document)
    assert len(findings.verdicts) >= 5
    assert [verdict.check.id for verdict in findings.failed] == ["guide-gap"]
    assert -0.5 < findings.failed[0].margin < 0
    assert "Clearance of rod–frame is 1.734 mm, wanted ≥ 2 mm" in findings.advice[0].text
    mended = analyse(changed(document, Set(["parameters", "guide", "value"], "rod + throw + 9 mm")))
    assert mended.open == [] and all(approach.proven for approach in mended.approaches)


def test_transmission_angle_of_a_four_bar():
    """Worst at crank and ground in line: cos μ = (b² + c² − (d ± a)²) / 2bc (any textbook)."""
    a, b, c, d = 40.0, 120.0, 80.0, 100.0
    checks = {"push": {"measure": "transmission_angle", "joint": "elbow", "at_least": 20}}
    verdict = analyse(read_document(four_bar(a, b, c, d, drivers=turn(40, 400, 36), checks=checks))).verdicts["push"]
    worst = min(
        min(angle, math.pi - angle)
        for angle in (math.acos((b * b + c * c - (d + way * a) ** 2) / (2 * b * c)) for way in (-1, 1))
    )
    assert verdict.value == pytest.approx(worst, abs=1e-8)
    assert math.sin(verdict.driver) == pytest.approx(0, abs=1e-5)


def test_transmission_angle_of_a_slider_crank():
    """The rod's angle to the normal of the slide: cos μ = (a + e) / b at its worst (any textbook)."""
    checks = {"push": {"measure": "transmission_angle", "joint": "small-end", "at_least": 20}}
    verdict = analyse(read_document(slider_crank(30, 100, 12, drivers=turn(60, 420, 36), checks=checks))).verdicts[
        "push"
    ]
    assert verdict.value == pytest.approx(math.acos((30 + 12) / 100), abs=1e-8)
    checks["push"]["joint"] = "main"
    found = analyse(read_document(slider_crank(30, 100, 12, drivers=turn(60, 420, 36), checks=checks)))
    verdict = found.verdicts["push"]
    assert verdict.outcome is Outcome.NOT_JUDGED and verdict.reason.startswith("lies on the frame")
    assert found.open == [verdict] and found.failed == []


def test_checks_tell_the_tighter_bound_and_where():
    checks = {"ram": {"measure": "coordinate", "joint": "ram", "at_least": 60, "at_most": 120}}
    verdict = analyse(read_document(slider_crank(30, 100, 0, drivers=turn(60, 420, 7), checks=checks))).verdicts["ram"]
    assert verdict.value == pytest.approx(130) and verdict.margin == pytest.approx(-10)
    assert math.degrees(verdict.driver) == pytest.approx(360, abs=1e-4) and not verdict.passed


def test_a_trace_seen_from_a_moving_part_has_that_parts_rates():
    """The rocker's end seen from the crank: rates are the derivatives of the place in the crank's axes."""
    traces = {"end": {"point": "rocker.B", "on": "crank"}, "home": {"point": "rocker.B"}}
    findings = analyse(read_document(four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36), traces=traces)))
    motion = findings.motion
    h = 1e-5
    around = motion.at(0.3 + h * np.array([-1.0, 0.0, 1.0]))
    for wanted in motion.document.traces.values():
        path = trace(motion, around, wanted)
        assert (path.place[2] - path.place[0]) / (2 * h) == pytest.approx(path.velocity[1], rel=1e-6)
        assert (path.velocity[2] - path.velocity[0]) / (2 * h) == pytest.approx(path.acceleration[1], rel=1e-6)
        assert np.hypot(*path.place[1]) > 1


def test_the_chain_runs_from_the_frame_and_shows_where_loops_close():
    document = read_document(four_bar(40, 120, 80, 100))
    (root,) = chain(document)
    assert root.place == "parts.frame"
    assert [(link.place, link.joint) for link in root.children] == [("parts.crank", "main"), ("parts.rocker", "pivot")]
    closing = [link for child in root.children for link in child.children if link.closes]
    assert [(link.place, link.joint) for link in closing] in ([("parts.coupler", "elbow")], [("parts.rocker", "elbow")])


@pytest.mark.parametrize(
    ("change", "message"),
    [
        (lambda tree: tree["parts"]["frame"].pop("fixed"), "No part is fixed: choose the frame"),
        (lambda tree: tree["joints"].pop("main") and tree["joints"].pop("crankpin"), "1 part is not joined: crank"),
        (lambda tree: tree["joints"]["elbow"].update(suspended=True), "Joint elbow suspended"),
        (lambda tree: tree.pop("drivers"), "Nothing is driven: add a driver"),
        (lambda tree: tree["parts"]["rocker"].update(fixed=True) or tree.pop("drivers"),
         "Nothing is left to move, and 2 parts are fixed: frame, rocker; set one of them free"),
        (lambda tree: None, "No checks yet"),
        (lambda tree: (tree.update(parts={"frame": tree["parts"]["frame"]}, joints={}), tree.pop("drivers")),
         "Nothing can move yet: draw the next part, and join it"),
        (lambda tree: tree["parts"]["flag"]["points"].update(Q=[0, 0]), "hold 'flag' at one and the same point"),
    ],
)
def test_what_next(change, message):
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36))
    if "1 part" in message:
        tree["drivers"] = turn(57, 80, 36, joint="pivot")
    if "flag" in message:
        tree["parts"]["flag"] = {"points": {"P": [0, 0]}, "pose": [220, 50, 0]}
        tree["parts"]["tag"] = {"points": {"P": [0, 0]}, "pose": [220, 50, 0]}
        tree["joints"]["hinge"] = {"type": "revolute", "a": "rocker.B", "b": "flag.P"}
        tree["joints"]["hang"] = {"type": "revolute", "a": "flag.Q", "b": "tag.P"}
    change(tree)
    advice = analyse(read_document(tree)).advice
    assert any(message in entry.text for entry in advice), [entry.text for entry in advice]
