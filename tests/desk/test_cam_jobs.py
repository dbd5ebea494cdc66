"""Jobs with cams and teeth, built from an empty bench with mouse and keyboard."""

import math

import numpy as np
import pytest
from test_jobs import disc

from anakinema.operations import Offer, offers
from hands import KEY, point_of

SCALE = 3.0


def test_a_hand_cranked_box_of_three_cams(hands):
    """Job 19. Three followers in guides, one swinging: each lifts as its program says, and waits for the other."""
    hands.plate(-80 - 60j, 80 + 90j)
    hands.hole(0j, "6")
    wheel = disc(hands, 0j, "16")
    reader = hands.plate(-6 + 40j, 6 + 70j)
    hands.join(80 + 15j, hands.stands(reader, "A"), KEY.Key_T, KEY.Key_W, parts=("frame", reader))
    page = hands.plate(-75 - 5j, -45 + 5j)
    hands.join(0 - 60j, hands.stands(page, "A"), KEY.Key_T, KEY.Key_W, parts=("frame", page))
    hands.session.selection.select("parts.frame")
    hands.hole(60 - 40j, "6")
    lamp = hands.bar(60 - 40j, 45 + 0j)
    kinds = [joint.type for joint in hands.session.document.joints.values()]
    assert sorted(kinds) == ["prismatic", "prismatic", "revolute", "revolute"]
    hands.canvas.setFocus()
    hands.do("tool-cam")
    for spot in (hands.stands(reader, "A") + 5 + 8j, hands.stands(page, "A") - 8 + 3j, hands.between(lamp, 0.5)):
        hands.click(5 + 3j)
        hands.click(spot)
    hands.press(KEY.Key_Escape)
    document = hands.session.document
    assert list(document.couplings) == ["cam", "cam2", "cam3"], hands.session.analysis.faults
    shaft = document.couplings["cam"].a
    hands.drive(shaft, 360)
    motion, _ = hands.through()
    found = hands.session.findings
    assert motion.mobility.dof == 1
    for name, coupling in document.couplings.items():
        travel = found.cams[name].lift
        column = motion.system.coordinates.index(coupling.b)
        assert (motion.extremes.high - motion.extremes.low)[column] == pytest.approx(travel, abs=1e-8)
        assert not found.cams[name].undercut
    assert sum(shape.kind == "cam" for shape in hands.session.document.parts[wheel].shapes) == 3
    known = offers(document, {"couplings": ["cam"]})
    (timing,) = (one for one in known if "segment 1 to segment 3 of cam2" in one.words)
    assert isinstance(timing, Offer)
    hands.window.study.add_check(timing)
    hands.settle()
    check = next(iter(hands.session.findings.verdicts.values()))
    assert math.degrees(check.value) == pytest.approx(60) and check.passed
    print(f"box of cams: {hands.count} clicks and keys")


def test_a_handle_whose_slot_is_found_from_its_motion(hands, monkeypatch):
    """Job 18. The path of a pin on the coupler of a four-bar is cut into the plate; its ends are the limits."""
    hands.plate(-80 - 60j, 80 + 60j)
    hands.hole(-40 - 40j, "6")
    hands.session.selection.select("parts.frame")
    hands.hole(40 - 40j, "6")
    handle = hands.bar(-40 - 40j, -40 + 0j)
    coupler = hands.bar(-40 + 0j, 30 + 20j)
    hands.bar(30 + 20j, 40 - 40j)
    hands.drive(next(iter(hands.session.document.joints)), 50)
    hands.do("tool-trace")
    hands.click(hands.stands(coupler, "B"))
    hands.click(70 + 50j)  # the plate
    hands.press(KEY.Key_Escape)
    trace = next(iter(hands.session.document.traces))
    monkeypatch.setattr(hands.window.asking, "word", lambda *_: "5")
    before = hands.session.document.drivers[next(iter(hands.session.document.drivers))]
    hands.do("slot-along", f"traces.{trace}")
    document = hands.session.document
    cut = [shape for shape in document.parts["frame"].shapes if shape.cut and shape.kind == "path"]
    assert len(cut) == 1, hands.session.analysis.faults
    limits = document.joints[before.joint].limits
    motion, q = hands.through()
    ends = sorted(motion.driver_value(t) for t in (0.0, motion.path.t1))
    assert (limits.min, limits.max) == pytest.approx(tuple(ends), abs=1e-6)
    path = point_of(motion, q, coupler, "B")
    side = np.array([complex(*one.to) for one in cut[0].segments])
    pose = document.parts["frame"].pose
    side = complex(pose[0], pose[1]) + side
    gaps = np.abs(side[:, None] - path[None, :]).min(axis=1)
    assert gaps.min() > 2.4 and gaps.max() < 2.6
    hands.session.selection.select(f"drivers.{before.id}")
    hands.qtbot.wait(60)
    hands.retype(f"drivers.{before.id}.to", "30")
    assert hands.session.motion.stop.reason == "limit" and handle
    print(f"slot from the motion: {hands.count} clicks and keys")
