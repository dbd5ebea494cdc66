"""What a designer tries first: features are picked, moved, typed to their place; drawing keeps to what is there."""

import math

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QPushButton

from anakinema.document import Set
from anakinema.geometry.features import FeatureKind
from anakinema_desk.panels.properties.stack import StackView

KEY = Qt.Key
LEFT = Qt.MouseButton.LeftButton


def drag(hands, one, two, modifier=Qt.KeyboardModifier.NoModifier):
    """Presses at one place of the plane and lets go at another."""
    canvas = hands.canvas
    start, end = (canvas.pixel(z).toPoint() for z in (one, two))
    QTest.mouseMove(canvas, start)
    QTest.mousePress(canvas, LEFT, modifier, start)
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(canvas, start + (end - start) * share)
    QTest.mouseRelease(canvas, LEFT, modifier, end)
    hands.settle()
    hands.count += 2


def test_sides_and_centre_lines_are_picked_anywhere_along_them(hands):
    """A side is taken far from its middle, lit and said before the click; an end near the hand wins."""
    hands.plate(-60 - 30j, 60 + 30j)
    hands.session.selection.select("")
    bar = hands.bar(-40 + 46j, 50 + 46j)
    hands.press(KEY.Key_J)
    hands.point(32 + 30j)
    now = hands.canvas.tool.now
    assert now.grab.feature.kind is FeatureKind.SIDE and now.grab.part == "frame" and now.at == 32 + 30j
    assert "side of frame" in now.word
    hands.point(20 + 46j)
    assert hands.canvas.tool.now.grab.feature.kind is FeatureKind.CENTRE_LINE
    hands.point(49 + 46j)
    assert hands.canvas.tool.now.grab.feature.name == "B"  # the end is near
    hands.click(20 + 46j)
    hands.click(32 + 30j)
    joint = list(hands.session.document.joints.values())[-1]
    assert joint.type == "prismatic" and {joint.a.part, joint.b.part} == {"frame", bar}


def test_what_lies_behind_is_taken_by_tab_only(hands):
    """A hole that a plate covers is not meant; Tab says so and takes it, and each click begins anew."""
    hands.plate(-60 - 30j, 60 + 30j)
    hands.hole(40 + 0j, "8")
    hands.session.selection.select("")
    lid = hands.plate(20 - 20j, 70 + 20j)
    hands.session.apply([Set(("parts", lid, "depth"), [1, 2])], "In front")
    hands.settle()
    hands.session.selection.select("")
    hands.press(KEY.Key_B)
    hands.point(40.5 + 0j)
    now = hands.canvas.tool.now
    assert now.grab is None and "behind" in now.word
    hands.press(KEY.Key_Tab)
    assert hands.canvas.tool.now.grab.part == "frame"
    hands.click(40.5 + 0j)
    assert hands.canvas.picking.turn == 0
    hands.press(KEY.Key_Escape, KEY.Key_Escape)
    hands.session.selection.select("parts.frame")
    hands.press(KEY.Key_B)
    hands.point(41 + 0j)
    assert hands.canvas.tool.now.grab.part == "frame"  # the part that is selected comes first


def test_a_hole_is_selected_dragged_typed_and_deleted(hands):
    """Dragging moves the hole; what was done is taken back; a place outside is drawn and warned of."""
    hands.plate(-60 - 30j, 60 + 30j)
    hands.hole(-20 + 10j, "8")
    hands.hole(30 + 0j, "6")
    session = hands.session
    session.selection.select("parts.frame")
    hands.click(-20 + 10j)
    assert session.selection.current() == ("features", "frame#shapes.1")
    drag(hands, -20 + 10j, -10 + 16j)
    point = session.document.tree["parts"]["frame"]["shapes"][1]["center"]
    assert session.document.parts["frame"].points[point] == (-10, 16)
    session.undo()
    hands.settle()
    assert session.document.parts["frame"].points[point] == (-20, 10)
    session.selection.select("features.frame#shapes.1")
    QApplication.processEvents()
    boxes = hands.window.properties.findChildren(QComboBox)
    box = next(each for each in boxes if each.accessibleName() == "from what")
    box.setCurrentText("the left edge")
    hands.retype("frame#shapes.1.from.x", "25")
    assert session.document.parts["frame"].points[point] == pytest.approx((-35, 10))
    warned = []
    session.warned.connect(lambda text, _: warned.append(text))
    hands.retype("frame#shapes.1.from.x", "-90")
    assert warned and "outside frame" in warned[0]
    session.undo()
    hands.settle()
    session.selection.select("features.frame#shapes.1")
    hands.do("delete")
    assert len(session.document.parts["frame"].shapes) == 2 and point not in session.document.parts["frame"].points
    center = hands.canvas.center
    drag(hands, 45 - 20j, 20 - 10j)
    assert hands.canvas.center == center  # on what is fixed nothing moves, the view neither
    drag(hands, 75 + 40j, 70 + 35j)
    assert hands.canvas.center != center


def test_a_pin_keeps_its_hole_when_that_is_dragged(hands):
    hands.plate(-60 - 30j, 60 + 30j)
    hands.hole(-20 + 10j, "8")
    bar = hands.bar(-20 + 10j, 40 + 10j)
    session = hands.session
    session.selection.select("parts.frame")
    hands.click(-20 + 10j)  # the pin lies there too
    if session.selection.current()[0] == "joints":
        hands.click(-20 + 10j)
    session.selection.select("features.frame#shapes.1")
    drag(hands, -20 + 10j, -30 + 20j)
    hands.settle()
    assert hands.stands(bar, "A") == pytest.approx(-30 + 20j, abs=1e-6)


def test_a_bar_drawn_from_a_slot_is_a_pin_in_it_and_swings_onto_one(hands):
    """Anywhere along; an end with a typed length goes to where the slot is at that length."""
    hands.plate(-80 - 40j, 80 + 40j)
    hands.slot(-60 + 0j, 60 + 0j, "6")
    hands.session.selection.select("")
    bar = hands.bar(20 + 0j, 20 + 60j)
    joint = list(hands.session.document.joints.values())[-1]
    assert joint.type == "pin-slot" and (joint.limits.min, joint.limits.max) == (-60, 60)
    hands.press(KEY.Key_B)
    hands.click(hands.stands(bar, "B"))
    hands.point(-20 + 1j)
    hands.type("70")
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    new = hands.newest()
    end = hands.stands(new, "B")
    assert abs(end - hands.stands(bar, "B")) == pytest.approx(70, abs=1e-6) and end.imag == pytest.approx(0, abs=1e-6)
    assert [joint.type for joint in hands.session.document.joints.values()] == ["pin-slot", "revolute", "pin-slot"]


def test_drawing_keeps_to_directions_points_and_lengths(hands):
    hands.plate(-80 - 60j, 80 + 60j)
    hands.hole(-50 - 20j, "6")
    hands.hole(30 + 34j, "6")
    hands.session.selection.select("")
    hands.press(KEY.Key_B)
    hands.click(-50 - 20j)
    hands.point(-20 - 19.5j)
    tool = hands.canvas.tool
    assert tool.now.at.imag == pytest.approx(-20) and tool.guided.guides[0].words == "level"
    hands.point(-10 + 33.4j)
    assert tool.now.at.imag == pytest.approx(34) and tool.guided.guides[0].words == "in line"
    QTest.mouseMove(hands.canvas, hands.canvas.pixel(-10 + 33.4j).toPoint())
    hands.type("40")
    hands.press(KEY.Key_Tab, KEY.Key_Tab)
    hands.type("30 deg")
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    bar = hands.newest()
    way = hands.stands(bar, "B") - hands.stands(bar, "A")
    assert (abs(way), math.degrees(math.atan2(way.imag, way.real))) == pytest.approx((40, 30))
    hands.press(KEY.Key_B)
    hands.click(30 + 34j)
    hands.point(30 + 34j - 24 - 31.5j)
    assert abs(hands.canvas.tool.now.at - (30 + 34j)) == pytest.approx(40)
    assert "as long as bar" in hands.canvas.tool.guided.guides[-1].words
    hands.canvas.grab()


def test_a_third_hole_between_two_lies_on_their_line(hands):
    bar = hands.bar(-40 - 20j, 40 + 10j)
    hands.session.selection.select(f"parts.{bar}")
    hands.hole(0 - 5.3j, "5")
    own = list(hands.session.document.parts[bar].points.values())[-1]
    assert own[1] == pytest.approx(0, abs=1e-6)



def test_a_crank_is_mirrored_about_the_side_of_a_slot(hands):
    """The hole on the other side is found; the driver of the one drives the other."""
    hands.plate(-60 - 40j, 60 + 20j)
    for at in (-30 + 0j, 30 + 0j):
        hands.hole(at, "6")
    hands.slot(0 - 30j, 0 + 16j, "6")
    hands.session.selection.select("")
    crank = hands.bar(-30 + 0j, -22 - 18j)
    hands.drive("pin", -60)
    hands.session.selection.select(f"parts.{crank}")
    hands.press(KEY.Key_M, KEY.Key_Escape)
    hands.do("tool-mirror-about")
    hands.press(KEY.Key_D)
    hands.click(0.4 - 20j)
    hands.press(KEY.Key_Escape)
    document = hands.session.document
    other = next(part for part in document.parts.values() if part.of == crank)
    assert [joint.type for joint in document.joints.values()] == ["revolute", "revolute"]
    motion, q = hands.through()
    one, two = (q[:, motion.system.body(name)] for name in (crank, other.id))
    assert two[:, 0] == pytest.approx(-one[:, 0], abs=1e-9)
    assert two[-1, 2] - two[0, 2] == pytest.approx(one[0, 2] - one[-1, 2], abs=1e-9)


def test_a_part_is_layered_on_its_card_and_in_the_stack(hands):
    """Two depths in any order, a thickness, in front of another, and dragged from the side until faces meet."""
    hands.plate(-60 - 40j, 60 + 20j)
    hands.session.selection.select("")
    arm = hands.bar(-30 + 0j, 30 + 0j)
    session, window = hands.session, hands.window
    session.selection.select(f"parts.{arm}")
    hands.retype(f"{arm}.depth", "from 7 to 4")
    assert session.document.parts[arm].depth == (4, 7)
    hands.retype(f"{arm}.thickness", "0")
    assert "greater than zero" in window.properties.fields[f"{arm}.thickness"].fault
    hands.retype(f"{arm}.thickness", "2.5")
    assert session.document.parts[arm].depth == (4, 6.5)
    stack = window.properties.findChild(StackView)
    assert [part.id for part in stack.stack()] == ["frame", arm]
    stack.resize(240, stack.height())
    box = stack.bar(1, session.document.parts[arm])[0]
    face = stack.pixel(session.document.parts["frame"].depth[1])
    start = box.center().toPoint()
    QTest.mousePress(stack, LEFT, Qt.KeyboardModifier.NoModifier, start)
    QTest.mouseMove(stack, start + QPoint(round(face - box.left()) + 3, 0))
    QTest.mouseRelease(stack, LEFT, Qt.KeyboardModifier.NoModifier, start)
    hands.settle()
    assert session.document.parts[arm].depth == (1, 3.5)
    boxes = {box.accessibleName(): box for box in window.properties.findChildren(QComboBox)}
    boxes["behind"].setCurrentText("frame")
    hands.settle()
    assert session.document.parts[arm].depth == (-2.5, 0)


def test_a_boss_reaches_into_the_part_whose_slot_it_runs_in_and_a_slide_keeps_its_ends(hands):
    """The arm lies in front of the frame: its boss goes back through the frame's slot; T keeps the slot's ends."""
    hands.plate(-60 - 40j, 60 + 20j)
    hands.slot(-40 + 0j, 40 + 0j, "6")
    hands.session.selection.select("")
    arm = hands.bar(-10 - 30j, 10 + 30j)
    session = hands.session
    session.selection.select(f"parts.{arm}")
    hands.retype(f"{arm}.depth", "2 to 3")
    hands.do("tool-boss")
    hands.point(0j)
    assert "slot of frame, behind" in hands.canvas.tool.now.word
    hands.press(KEY.Key_Tab)
    hands.click(0j)
    hands.type("6")
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    boss = session.document.parts[arm].shapes[-1]
    assert boss.depth == (session.document.parts["frame"].depth[0], session.document.parts[arm].depth[0])
    session.selection.select("")
    name = hands.join(-40 + 0j, hands.stands(arm, "B"), KEY.Key_T, KEY.Key_T, parts=("frame", arm))
    joint = session.document.joints[name]
    assert joint.type != "pin-slot" and None not in (joint.limits.min, joint.limits.max)


def test_a_hole_over_another_parts_hole_is_pinned_to_it_with_ctrl(hands):
    """Without Ctrl it is a hole; with it both parts hang together there, by a pin in a slot where that is a slot."""
    hands.plate(-60 - 30j, 60 + 30j)
    hands.hole(20 + 0j, "8")
    hands.slot(-40 + 10j, -10 + 10j, "6")
    hands.session.selection.select("")
    arm = hands.plate(-50 - 15j, 50 + 15j)
    session, control = hands.session, Qt.KeyboardModifier.ControlModifier
    for number, (at, kind) in enumerate(((20 + 0j, "revolute"), (-40 + 10j, "pin-slot"))):
        session.selection.select(f"parts.{arm}")
        hands.press(KEY.Key_O)
        hands.point(at)
        for _ in range(6):
            if hands.canvas.tool.now.grab is not None and abs(hands.canvas.tool.now.at - at) < 1e-6:
                break
            hands.press(KEY.Key_Tab)
        QTest.mouseClick(hands.canvas, LEFT, control, hands.canvas.pixel(at).toPoint())
        assert "it is pinned to" in hands.canvas.tool.hint and "frame" in hands.canvas.tool.hint
        hands.type("5")
        hands.press(KEY.Key_Return, KEY.Key_Escape)
        joint = list(session.document.joints.values())[number]
        assert joint.type == kind and {joint.a.part, joint.b.part} == {"frame", arm}
        assert session.selection.place == f"joints.{joint.id}"
    assert session.findings.motion.mobility.dof == 0


def test_holes_that_are_chosen_are_brought_in_order(hands):
    hands.plate(-60 - 30j, 60 + 30j)
    spots = (-50 + 12j, -20 - 8j, -9 + 20j, 40 - 16j)
    for at in spots:
        hands.hole(at, "6")
    session, canvas = hands.session, hands.canvas
    session.selection.select("parts.frame")
    hands.click(spots[0])
    for at in spots[1:]:
        QTest.mouseClick(canvas, LEFT, Qt.KeyboardModifier.ControlModifier, canvas.pixel(at).toPoint())
        hands.settle()
    assert len(session.selection.chosen("features")) == 4

    def order(word):
        assert hands.window.properties.fields  # the card is there
        next(each for each in hands.window.properties.findChildren(QPushButton) if each.text() == word).click()
        hands.settle()
        frame = session.document.parts["frame"]
        holes = [shape.center for shape in frame.shapes if shape.cut]
        return [complex(*at) + complex(*frame.pose[:2]) for at in holes]

    first = spots[0].imag
    assert [z.imag for z in order("Level")] == pytest.approx([first] * 4, abs=1e-9)
    assert [z.real for z in order("Evenly spaced")] == pytest.approx([-50, -20, 10, 40], abs=1e-9)
    assert session.editor.undo_stack[-1].text == "Bring evenly spaced"
    assert [z.real for z in order("Upright")] == pytest.approx([-50] * 4, abs=1e-9)
