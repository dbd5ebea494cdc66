"""Checks, tracks and advice of cams."""

import math

import pytest

from anakinema.document import changed, read_document
from anakinema.findings import analyse
from cams import cam, geometry

HARMONIC = [{"over": "180 deg", "to": "10 mm", "law": "harmonic"}, {"over": "180 deg", "to": 0, "law": "harmonic"}]


def checked(tree, **checks):
    tree["checks"] = {name: {"measure": name, **one} for name, one in checks.items()}
    return analyse(read_document(tree))


def test_measures_of_a_cam():
    found = checked(
        cam(segments=HARMONIC, at=36),
        cam_pressure_angle={"cam": "ride", "at_most": 90}, cam_curvature={"cam": "ride", "at_least": 1},
        cam_undercut={"cam": "ride", "at_most": 0}, cam_sliding={"cam": "ride", "at_most": 1e-9},
        cam_face={"cam": "ride", "at_most": 1},
        leaves_cam_at={"cam": "ride", "preload": 20, "mass": 0.5, "at_least": "100 rpm"},
    ).verdicts  # fmt: skip
    assert found["cam_pressure_angle"].value == pytest.approx(found_pressure(cam(segments=HARMONIC, at=36)), rel=1e-7)
    assert found["cam_undercut"].value == 0 and found["cam_undercut"].passed
    assert found["cam_sliding"].value == pytest.approx(0)
    assert found["cam_face"].outcome == "not judged" and "no flat face" in found["cam_face"].reason
    # At the top harmonic motion slows down by h ω² / 2: there the spring must give m h ω² / 2.
    assert found["leaves_cam_at"].value == pytest.approx(math.sqrt(20 * 1000 / (0.5 * 10 / 2)), rel=1e-6)


def found_pressure(tree):
    import numpy as np

    made = geometry(tree)
    return float(np.abs(made.course(np.linspace(0, 2 * math.pi, 200001)).pressure).max())


def test_timing_between_two_cams_of_a_shaft():
    tree = cam()
    tree["programs"]["late"] = {"segments": [{"over": "100 deg"}, {"over": "90 deg", "to": "5 mm", "law": "345"},
                                             {"over": "90 deg", "to": 0, "law": "345"}]}  # fmt: skip
    tree["parts"]["second"] = {"pose": [0, -30, 0], "points": {"F": [0, 0]}}
    tree["joints"]["drop"] = {"type": "prismatic", "a": "frame.W", "b": "second.F", "direction": -90}
    tree["joints"]["other"] = {"type": "cam", "a": "turn", "b": "drop", "program": "late", "start": "20 deg"}
    timing = {"cam": "ride", "segment": 1, "next": "other", "next_segment": 2, "at_least": "25 deg"}
    found = checked(tree, cam_timing=timing).verdicts["cam_timing"]
    assert math.degrees(found.value) == pytest.approx(30) and found.passed
    found = checked(tree, cam_timing={**timing, "segment": 9}).verdicts["cam_timing"]
    assert "has segments 1 to 4" in found.reason


def test_what_is_wrong_is_advised_with_what_mends_it():
    """An undercut, a steep pressure angle, a narrow face and a blow: each is gone after its mend."""
    steep = [{"over": "60 deg", "to": "24 mm", "law": "cycloidal"}, {"over": "200 deg", "to": 0, "law": "cycloidal"}]
    for tree, says in (
        (cam({"kind": "roller", "radius": 20}, at=22), "is undercut from"),
        (cam(segments=steep, at=30), "above 30° followers may bind"),
        (cam({"kind": "flat", "direction": 0, "width": 10}, at=60), "are needed"),
    ):
        document = read_document(tree)
        (advice,) = (one for one in analyse(document).advice if says in one.text)
        assert advice.place == "joints.ride" and advice.mend
        again = analyse(changed(document, *advice.mend))
        assert not any(says in one.text for one in again.advice)
    sharp = [{"over": "90 deg", "to": "5 mm"}, {"over": "270 deg", "to": 0, "law": "345"}]
    texts = [one.text for one in analyse(read_document(cam(segments=sharp))).advice]
    assert any("changes its speed at once, at 0° by 3.183 mm/rad" in text for text in texts)


def test_a_cam_and_its_follower_are_certified_to_touch():
    """Named in a check the pair is proven not to overlap, and to keep within a millionth of the cam's size."""
    found = checked(cam(), clearance={"parts": ["cam", "foot"], "at_least": 0})
    (pair,) = found.approaches
    assert pair.proven and 0 < pair.distance < 36e-6
    assert found.verdicts["clearance"].passed
    assert not analyse(read_document(cam())).approaches  # tied, as joined parts are
