"""A joint that is there is changed: its type, its sides, what it joins; an outline is replaced; joints go over."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QComboBox, QPushButton

from anakinema.document import Set

KEY = Qt.Key


def picked(hands, name):
    """The list of the card with a name."""
    QApplication.processEvents()
    boxes = hands.window.properties.findChildren(QComboBox)
    return next(box for box in boxes if box.accessibleName() == name)


def crank_and_rod(hands):
    hands.plate(-80 - 40j, 80 + 20j)
    hands.hole(-50 + 0j, "6")
    hands.hole(-30 - 20j, "6")
    hands.session.selection.select("")
    crank = hands.bar(-50 + 0j, -30 + 0j)
    rod = hands.bar(-30 + 0j, 40 + 0j)
    return crank, rod


def test_the_type_is_changed_with_what_means_the_same_kept_and_the_rest_said(hands):
    crank, _ = crank_and_rod(hands)
    session = hands.session
    session.selection.select("joints.pin")
    hands.retype("joints.pin.limits.min", "-90")
    hands.drive("pin", 20)
    told = []
    session.warned.connect(lambda text, _: told.append(text))
    session.selection.select("joints.pin")
    picked(hands, "as").setCurrentText("Prismatic")
    hands.settle()
    joint = session.document.joints["pin"]
    assert joint.type == "prismatic" and joint.limits.min is None and not session.document.drivers
    assert "limits" in told[-1] and "driver" in told[-1]
    session.undo()
    hands.settle()
    assert session.document.joints["pin"].limits.min is not None and session.document.drivers
    session.selection.select("joints.pin2")
    hands.retype("joints.pin2.limits.max", "40")
    picked(hands, "as").setCurrentText("Pin in slot")
    hands.settle()
    session.selection.select("joints.pin2")
    picked(hands, "as").setCurrentText("Prismatic")  # both count a way along the slot
    hands.settle()
    assert crank in (session.document.joints["pin2"].a.part, session.document.joints["pin2"].b.part)


def test_a_joint_is_taken_to_another_hole_on_the_bench_and_on_its_card(hands):
    crank, rod = crank_and_rod(hands)
    session = hands.session
    session.selection.select("joints.pin")
    hands.do("tool-rejoin")
    hands.press(KEY.Key_S)  # the frame's side
    hands.click(-30 - 20j)
    hands.press(KEY.Key_Escape)
    assert session.document.joints["pin"].a.part == "frame"
    assert hands.stands(crank, "A") == pytest.approx(-30 - 20j, abs=1e-6)
    session.selection.select("joints.pin2")
    picked(hands, f"of {rod}").setCurrentText("B")
    hands.settle()
    assert session.document.joints["pin2"].b.point == "B"
    before = session.document
    session.selection.select("joints.pin2")
    hands.do("tool-rejoin")
    refused = []
    session.faults_raised.connect(lambda text, faults: refused.append((text, faults)))
    hands.click(hands.stands(crank, "A"))
    hands.press(KEY.Key_Escape)
    assert refused and session.document.joints["pin2"] == before.joints["pin2"]


def test_a_joint_of_edges_is_taken_to_another_rim(hands):
    """A roller that rides on a disc is given to another; a hole has no edge that it could ride on."""
    session = hands.session
    session.new()
    session.apply([Set(("parts",), {
        "frame": {"fixed": True, "points": {"O": [0, 0]}, "shapes": [{"kind": "disc", "center": "O", "diameter": 40}]},
        "post": {"fixed": True, "pose": [80, 0, 0], "points": {"O": [0, 0]},
                 "shapes": [{"kind": "disc", "center": "O", "diameter": 60}]},
        "roller": {"pose": [0, 30, 0], "points": {"A": [0, 0]},
                   "shapes": [{"kind": "disc", "center": "A", "diameter": 20}],
                   "edges": {"rim": {"center": "A", "radius": 10}}},
    }), Set(("parts", "frame", "edges"), {"rim": {"center": "O", "radius": 20}}),
        Set(("joints", "ride"), {"type": "rolling", "a": "frame.rim", "b": "roller.rim"})], "Start")
    hands.settle()
    hands.window.canvas.fit()
    session.selection.select("joints.ride")
    hands.do("tool-rejoin")
    hands.press(KEY.Key_S)
    hands.click(80 + 30j)
    hands.press(KEY.Key_Escape)
    assert session.document.joints["ride"].a.part == "post"
    edge = session.document.parts["post"].edges[session.document.joints["ride"].a.point]
    assert edge.radius == pytest.approx(30)
    assert abs(hands.stands("roller", "A") - 80) == pytest.approx(40, abs=1e-6)


def test_where_nothing_closes_the_change_is_taken_back_and_says_why(hands):
    """A rod of 70 between two holes that are 300 apart."""
    _, rod = crank_and_rod(hands)
    session = hands.session
    session.apply([Set(("parts", "frame", "points", "far"), [400, 0])], "A far point")
    hands.settle()
    session.apply([Set(("joints", "out"), {"type": "revolute", "a": "frame.A", "b": f"{rod}.B"})], "Join")
    hands.settle()
    told = []
    session.faults_raised.connect(lambda text, faults: told.append((text, faults)))
    before = session.document.tree["joints"]["out"]
    session.selection.select("joints.out")
    picked(hands, "of frame").setCurrentText("far")
    hands.qtbot.waitUntil(lambda: bool(told))
    hands.settle()
    assert told[0][0].startswith("Taken back") and told[0][1]
    assert session.document.tree["joints"]["out"] == before


def test_sides_are_exchanged_and_the_mechanism_stands_as_it_did(hands):
    crank, _ = crank_and_rod(hands)
    session = hands.session
    hands.drive("pin", 60)
    before = hands.session.posing.poses()
    session.selection.select("joints.pin")
    QApplication.processEvents()
    buttons = hands.window.properties.findChildren(QPushButton)
    next(button for button in buttons if button.text() == "Exchange its sides").click()
    hands.settle()
    assert session.document.joints["pin"].b.part == "frame"
    assert session.posing.poses()[crank] == pytest.approx(before[crank])


def test_an_outline_is_replaced_and_joints_stay_at_their_holes(hands):
    crank, _ = crank_and_rod(hands)
    session = hands.session
    new = hands.plate(-78 + 24j, 60 + 44j)
    session.selection.select(f"parts.{new}")
    hands.hole(-48 + 34j, "6")
    hands.hole(40 + 34j, "12")
    at = hands.stands(new, "B")
    hands.do("outline-of", f"parts.{new}", "parts.frame")
    assert new not in session.document.parts
    frame = session.document.parts["frame"]
    assert len(frame.shapes) == 3
    hands.settle()
    assert hands.stands("frame", session.document.joints["pin"].a.point) == pytest.approx(at, abs=1e-6)
    assert hands.stands(crank, "A") == pytest.approx(at, abs=1e-6)


def test_joints_go_over_to_another_part(hands):
    crank, _ = crank_and_rod(hands)
    session = hands.session
    session.selection.select("")
    new = hands.plate(-78 + 24j, 60 + 44j)
    at = hands.stands(crank, "A")
    hands.do("reanchor", f"parts.{new}", "parts.frame")
    joint = session.document.joints["pin"]
    assert joint.a.part == new
    assert hands.stands(new, joint.a.point) == pytest.approx(at, abs=1e-6)
