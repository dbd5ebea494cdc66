"""Building at the bench with mouse and keyboard, from an empty document, against closed forms."""

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from anakinema.document import read_document
from anakinema.document.changes import lookup
from anakinema_desk.canvas.tools import TOOLS
from patience import patient

KEY = Qt.Key


def slider_crank(hands):
    """Plate, hole, crank, rod, block, pin, slide, drive; gives how high the slide lies and the steps to undo."""
    hands.press(KEY.Key_P)
    hands.click(-80 - 30j)
    hands.click(80 + 10j)
    hands.press(KEY.Key_O)
    hands.click(-50 + 0j)
    hands.type("6")
    hands.press(KEY.Key_Return, KEY.Key_B)
    hands.click(-50 + 0j)
    hands.point(-40 + 8j)
    hands.type("20")
    hands.press(KEY.Key_Tab)
    hands.type("8 mm")
    hands.press(KEY.Key_Return)
    crank, rod = "bar", "bar2"
    assert hands.session.document.tree["parts"][crank]["points"]["B"] == [20, 0]
    assert hands.session.document.tree["parts"][crank]["shapes"][0]["width"] == "8 mm"
    hands.click(hands.stands(crank, "B"))
    hands.point(40 - 2j)
    hands.type("7 cm")
    hands.press(KEY.Key_Return, KEY.Key_P)
    hands.click(-20 + 50j)
    hands.point(0 + 60j)
    hands.type("20")
    hands.press(KEY.Key_Tab)
    hands.type("12")
    hands.press(KEY.Key_Return, KEY.Key_J)
    assert "click a feature" in hands.canvas.tool.hint
    hands.click(hands.stands(rod, "B"))
    hands.click(hands.stands("plate", "A"))
    assert "revolute, brought together" in hands.canvas.tool.hint
    hands.press(KEY.Key_Return)
    level = hands.stands("plate", "A").imag
    hands.click(0 + 10j)  # the middle of the plate's upper side
    hands.click(hands.stands("plate", "A"))
    hands.press(KEY.Key_T, KEY.Key_W)
    assert "prismatic, where they stand" in hands.canvas.tool.hint
    steps = [step.text for step in hands.session.editor.undo_stack]
    hands.press(KEY.Key_Return, KEY.Key_Escape, KEY.Key_Escape)
    assert hands.canvas.tool is None and steps[-2:] == ["Join pin3", "Join slide"]
    hands.session.selection.select("joints.pin")
    hands.press(KEY.Key_R)
    return level, steps


def test_an_offset_slider_crank_from_nothing(hands):
    """25 clicks and keys. Stroke by R. L. Norton (from memory)."""
    level, steps = slider_crank(hands)
    stroke = math.sqrt(90**2 - level**2) - math.sqrt(50**2 - level**2)
    assert hands.travel("slide") == pytest.approx(stroke, abs=1e-6)
    assert hands.session.findings.motion.mobility.dof == 1
    read_document(hands.session.document.tree)
    for _ in steps:
        hands.session.undo()
    hands.session.undo()
    assert not hands.session.document.parts


def test_a_rough_layout_is_tuned_by_one_number_until_its_travel_is_right(hands, monkeypatch):
    """The size of the crank becomes a parameter, its stroke a check, and the throw that gives 55 is that of the closed
    form."""
    level, _ = slider_crank(hands)
    window = hands.window
    hands.session.selection.select("parts.bar")
    hands.retype("parts.bar.points.B.0", "throw = 20")
    hands.session.selection.select("joints.slide")
    hands.do("check-this", "joints.slide")
    hands.choose("Travel")
    check = hands.session.selection.current()[1]
    hands.do("study-tune")
    page = window.studies.pages["tune"]
    page.parameter.setCurrentText("throw")
    page.finding.setCurrentIndex(page.finding.findData(f"checks.{check}"))
    QTest.keyClicks(page.wanted, "55")
    QTest.keyClick(page.wanted, KEY.Key_Return)
    hands.qtbot.waitUntil(lambda: not hands.session.study_client.busy, timeout=patient(20_000))
    QTest.qWait(60)
    hands.count += 6
    QTest.mouseClick(page._offered[0], Qt.MouseButton.LeftButton)
    hands.qtbot.waitUntil(lambda: hands.session.trying.motion is not None, timeout=patient(20_000))
    QTest.mouseClick(page.take_trial, Qt.MouseButton.LeftButton)
    hands.settle()
    hands.settle()
    throw = hands.session.document.parameters["throw"].quantity.magnitude
    ends = math.sqrt((70 + throw) ** 2 - level**2) - math.sqrt((70 - throw) ** 2 - level**2)
    assert ends == pytest.approx(55.0, abs=5.5e-3)  # written as a hand would, within 1e-4 of what is wanted
    assert hands.travel("slide") == pytest.approx(ends, abs=1e-6)
    print(f"tuned: {hands.count} clicks and keys")


def test_a_plunger_that_locks_past_its_dead_centre(hands):
    """The slider-crank as a push plunger: its handle is limited from 100 degrees before the dead centre, which is read
    off the strip, to four behind it; there the plunger stands a little back from its farthest reach (slider-crank by
    R. L. Norton, from memory), so that what pushes on it turns the handle against its limit."""
    level, _ = slider_crank(hands)
    session, window = hands.session, hands.window
    QTest.qWait(100)
    track = next(track for track in window.timeline.tracks if track.curve and track.curve.place == "joints.slide")
    at = track.plot.across(track.curve.high_t) + 2  # the mark takes a click that is a little beside it
    hands.count += 1
    QTest.mouseClick(track.plot, Qt.MouseButton.LeftButton,
                     pos=QPoint(round(at), track.plot.height() // 2))  # fmt: skip
    motion = session.motion
    dead = math.degrees(session.posing.coordinates()[motion.system.coordinates.index("pin")]) - 360
    assert dead == pytest.approx(math.degrees(math.asin(level / 90)), abs=1e-4)
    session.selection.select("joints.pin")
    lock, free = round(dead - 4, 3), round(dead + 100, 3)
    hands.retype("joints.pin.limits.min", str(lock))
    hands.retype("joints.pin.limits.max", str(free))
    session.selection.select("drivers.drive")
    hands.retype("drivers.drive.from", str(free))
    hands.retype("drivers.drive.to", str(lock))
    motion, _ = hands.through()

    def reach(degrees):
        angle = math.radians(degrees)
        return 20 * math.cos(angle) + math.sqrt(70**2 - (20 * math.sin(angle) - level) ** 2)

    assert hands.travel("slide") == pytest.approx(math.sqrt(90**2 - level**2) - reach(free), abs=1e-6)
    session.go(session.end)
    column = motion.system.coordinates.index("slide")
    back = motion.extremes.high[column] - session.posing.coordinates()[column]
    assert back == pytest.approx(reach(dead) - reach(lock), abs=1e-6) and back > 0.05


def test_a_parallelogram_drawn_from_hole_to_hole(hands):
    """Each bar begins and ends on the last: all four pins come by themselves. The coupler keeps its direction."""
    hands.press(KEY.Key_B)
    for one, two in ((0j, 80 + 0j), (0j, 30j), (80 + 0j, 80 + 30j), (30j, 80 + 30j)):
        hands.click(one)
        hands.click(two)
    hands.press(KEY.Key_Escape)
    document = hands.session.document
    assert len(document.parts) == 4 and len(document.joints) == 4 and document.parts["frame"].fixed
    depths = [document.parts[name].depth for name in document.parts]
    assert len({low for low, _ in depths}) == 3  # frame, both cranks, the coupler: each before what it is pinned to
    hands.session.selection.select("joints.pin")
    hands.press(KEY.Key_R)
    hands.travel("pin")
    motion = hands.session.findings.motion
    assert abs(motion.state.q[:, motion.system.body("bar3"), 2]).max() < 1e-9


def test_sides_of_an_outline_are_typed_while_drawn_and_on_the_bench(hands):
    """A right-angled L: its sides as typed, expressions kept; a side that is typed anew takes its neighbour along."""
    hands.session.edit(("parameters", "wide"), "60 mm", "New parameter")
    hands.press(KEY.Key_U)
    hands.click(0j)
    for toward, text in ((40 + 1j, "wide"), (60 + 30j, "20"), (30 + 20j, "wide-25")):
        hands.point(toward)
        hands.type(text)
        hands.press(KEY.Key_Return)
    hands.point(25 + 50j)
    hands.type("20")
    hands.press(KEY.Key_Tab)
    hands.type("90")
    hands.press(KEY.Key_Return)
    hands.point(5 + 40j)
    hands.type("x")
    hands.press(KEY.Key_Return)
    assert "unknown" in hands.canvas.tool.fault and len(hands.canvas.tool.spots) == 5
    hands.press(KEY.Key_Escape)  # takes back what is typed, not the corners
    hands.type("25")
    hands.press(KEY.Key_Return)
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    name = hands.newest()
    place = ("parts", name, "shapes", 0, "vertices")

    def vertices():
        return lookup(hands.session.document.tree, place)

    inner = "wide - (wide-25)"
    assert vertices() == [[0, 0], ["wide", 0], ["wide", 20], [inner, 20], [inner, 40], [0, 40]]
    assert hands.session.document.parts[name].shapes[0].vertices[3] == (25, 20)
    hands.session.selection.select(f"parts.{name}")
    hands.canvas.grab()
    sides = {where[-1]: box for where, box in hands.canvas.dimensions.boxes.items() if "side" in where}
    assert len(sides) == 6
    QTest.mouseClick(hands.canvas, Qt.MouseButton.LeftButton, pos=sides[1].center().toPoint())
    field = hands.canvas.dimensions.field
    assert field.text() == "20"
    QTest.keyClicks(field, "wide/2")
    QTest.keyClick(field, KEY.Key_Return)
    assert vertices()[2:4] == [["wide", "wide/2"], [inner, "wide/2"]]
    hands.session.undo()
    assert vertices()[2] == ["wide", 20]


@pytest.mark.parametrize("tool", TOOLS)
def test_what_is_typed_after_a_click_that_no_move_came_before(hands, tool):
    """The window was brought to the front by that very click: the tool has seen no mouse yet."""
    hands.plate(-60 - 20j, 60 + 20j)
    hands.canvas.take(tool)
    QTest.mouseClick(hands.canvas, Qt.MouseButton.LeftButton, pos=hands.pixel(10 + 5j))
    hands.type("20")
    hands.press(KEY.Key_Return)
    hands.type("30")
    hands.press(KEY.Key_Tab)
    hands.type("90")
    hands.press(KEY.Key_Return, KEY.Key_Escape, KEY.Key_Escape, KEY.Key_Escape, KEY.Key_Escape)
    assert hands.session.findings is not None or hands.session.analysis.shown.faults


def test_an_arc_of_an_outline_gets_its_radius_on_the_bench(hands):
    """A rounded flag: the radius that is drawn, another that is typed, one by a parameter, one that is too small."""
    hands.session.edit(("parameters", "round"), "15 mm", "New parameter")
    hands.press(KEY.Key_U)
    for spot in (0j, 40 + 0j):
        hands.click(spot)
    hands.press(KEY.Key_A)
    hands.click(50 + 10j)  # through here
    hands.click(40 + 20j)
    hands.click(0 + 20j)
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    name = hands.newest()

    def arc():
        return hands.session.document.parts[name].shapes[0].segments[1]

    assert arc().center == pytest.approx((40, 10))

    def typed(text):
        hands.session.selection.select(f"parts.{name}")
        hands.canvas.grab()
        box = next(box for where, box in hands.canvas.dimensions.boxes.items() if where[-2:] == ("side", 1))
        QTest.mouseClick(hands.canvas, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
        field = hands.canvas.dimensions.field
        before = field.text()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, KEY.Key_Return)
        return before

    assert typed("12.5") == "10" and arc().center == pytest.approx((40 - 7.5, 10))  # the ends stay: Pythagoras
    assert typed("round") == "12.5" and abs(complex(*arc().center) - 40) == pytest.approx(15)
    hands.session.edit(("parameters", "round", "value"), "30 mm", "Edit")
    assert abs(complex(*arc().center) - (40 + 20j)) == pytest.approx(30)
    assert typed("9") == "round" and "10 or more" in hands.canvas.dimensions.field.fault
    assert hands.canvas.dimensions.field.fault_label.parent() is hands.canvas  # no window of its own
    hands.press(KEY.Key_Escape)


def test_a_row_of_legs_arrives_joined_at_both_ends(hands, monkeypatch):
    """One leg of a parallelogram, and a second by the row: the beam keeps its direction all the way."""
    hands.plate(-20 - 10j, 120 + 10j)
    hands.hole(0j)
    leg = hands.bar(0j, 30j)
    beam = hands.bar(30j, 30j + 90)
    assert hands.session.motion.mobility.dof == 2
    monkeypatch.setattr(hands.window.asking, "word", lambda *_: "1 at 60 mm")
    hands.do("row", f"parts.{leg}")
    document = hands.session.document
    assert len(document.joints) == 4 and hands.session.motion.mobility.dof == 1
    foot = next(joint.id for joint in document.joints.values() if "frame" in (joint.a.part, joint.b.part))
    hands.do("drive", f"joints.{foot}")
    motion = hands.session.findings.motion
    assert np.ptp(motion.state.q[:, motion.system.body(leg), 2]) > 1
    assert np.ptp(motion.state.q[:, motion.system.body(beam), 2]) < 1e-9


def test_a_count_that_is_an_expression_makes_as_many_as_it_is_worth(hands, monkeypatch):
    """A strand of n links, made by one command, longer and shorter by its number; its card, its pins, undone."""
    session = hands.session
    session.edit(("parameters", "n"), 5, "New parameter")
    hands.plate(-90 - 90j, 90 - 60j)
    link = hands.bar(-40 - 20j, -20 - 20j)
    message = []
    session.message.connect(message.append)
    for answer in ("n at 5 mm at", "2.5"):
        monkeypatch.setattr(hands.window.asking, "word", lambda *_, answer=answer: answer)
        hands.do("strand", f"parts.{link}")
    assert len(message) == 2 and "n at 5 mm at" in message[0] and session.selection.current()[0] == "parts"
    monkeypatch.setattr(hands.window.asking, "word", lambda *_: "n")
    hands.do("strand", f"parts.{link}")
    assert session.selection.current() == ("uses", "bars") and len(session.document.parts) == 2 + 4
    hands.retype("parts.bars.count", "2*n")
    assert len(session.document.parts) == 2 + 9 and hands.session.motion.mobility.dof == 12
    session.selection.select("parts.bars/7")
    hands.settle()
    assert [line.text for line in hands.window.model_tree._lines if line.place == "uses.bars"] == ["bars"]
    hands.retype(f"parts.{link}.shapes.0.width", "3")
    assert session.document.parts["bars/7"].shapes[0].width == 3
    monkeypatch.setattr(hands.window.asking, "word", lambda *_: "n over 90 deg")
    hands.do("around", f"parts.{link}")
    assert session.document.uses["bars2"].count == 5
    hands.do("delete", "parts.bars2/3")
    assert "bars2" not in session.document.uses and link in session.document.parts
    hands.do("unique", "uses.bars")
    assert not session.document.uses and len(session.document.joints) == 9 and hands.session.motion.mobility.dof == 12
    for _ in range(8):
        session.undo()
    hands.settle()
    assert not session.document.parts


def test_escape_backs_out_one_step_and_a_joint_tried_is_taken_back(hands):
    hands.press(KEY.Key_B)
    hands.click(0j)
    hands.type("p ")  # no shortcut now: neither for the plate nor for playing
    assert hands.canvas.tool.name == "bar" and hands.canvas.tool.typed.texts["length"] == "p "
    hands.press(KEY.Key_Backspace, KEY.Key_Backspace)
    hands.type("30+")
    hands.press(KEY.Key_Return)
    assert "ends too early" in hands.canvas.tool.fault and not hands.session.document.parts
    hands.press(KEY.Key_Escape)
    assert hands.canvas.tool.typed.texts["length"] == "" and hands.canvas.tool.first is not None
    hands.press(KEY.Key_Escape)
    assert hands.canvas.tool.first is None
    hands.click(0j)
    hands.click(50 + 0j)
    hands.press(KEY.Key_Escape)
    assert hands.canvas.tool is None
    hands.press(KEY.Key_D)
    hands.click(0 + 40j)
    hands.type("2*10")
    hands.press(KEY.Key_Return, KEY.Key_J)
    hands.click(50 + 0j)
    hands.click(0 + 40j)
    assert len(hands.session.document.joints) == 1 and hands.stands("disc", "A") == pytest.approx(50)
    hands.press(KEY.Key_Escape)
    assert not hands.session.document.joints and hands.stands("disc", "A") == pytest.approx(40j)
    hands.press(KEY.Key_Escape)
    hands.click(200 + 90j)
    assert hands.canvas.tool is None


def test_names_are_changed_on_the_card_and_what_needs_a_part_goes_with_it(hands, monkeypatch):
    hands.press(KEY.Key_B)
    for one, two in ((0j, 80 + 0j), (0j, 30j)):
        hands.click(one)
        hands.click(two)
    hands.press(KEY.Key_Escape)
    window, session = hands.window, hands.session
    session.selection.select("parts.bar")
    hands.press(KEY.Key_F2)
    field = window.properties.fields["parts.bar"]
    field.setText("crank")
    field.setModified(True)
    QTest.keyClick(field, KEY.Key_Return)
    hands.settle()
    assert session.selection.place == "parts.crank" and session.document.joints["pin"].b.part == "crank"
    field = window.properties.fields["parts.crank"]
    field.setText("frame")
    field.setModified(True)
    field.commit()
    assert "taken already" in field.fault and "crank" in session.document.parts
    asked = []
    monkeypatch.setattr(window.asking, "choice", lambda *words: asked.append(words) or "")
    window.registry.actions["delete"].trigger()
    assert "joint pin" in asked[0][1] and "crank" in session.document.parts
    monkeypatch.setattr(window.asking, "choice", lambda *words: words[2][-1])
    window.registry.actions["delete"].trigger()
    hands.settle()
    assert list(session.document.parts) == ["frame"] and not session.document.joints
    session.undo()
    assert session.document.joints["pin"].b.part == "crank"


def test_a_parameter_is_made_in_any_field(hands):
    hands.press(KEY.Key_B)
    hands.click(0j)
    hands.click(80 + 0j)
    hands.press(KEY.Key_Escape)
    session = hands.session
    session.selection.select("parts.frame")
    field = hands.window.properties.fields["parts.frame.points.B.0"]
    for text, message in (("sin = 4", "a unit or a function already"), ("base = 5 cm", "")):
        field.setText(text)
        field.setModified(True)
        field.commit()
        assert message in field.fault
    hands.settle()
    assert session.document.tree["parameters"] == {"base": "5 cm"}
    assert session.document.parts["frame"].points["B"][0] == 50
    assert hands.window.properties.fields["parts.frame.points.B.0"].text() == "base"
    assert session.editor.undo_stack[-1].text == "Name base"


def test_a_slide_is_set_aside_by_what_is_typed_while_it_is_tried(hands):
    hands.plate(-80 - 30j, 80 - 10j)
    block = hands.plate(-20 + 30j, 0 + 42j)
    hands.press(KEY.Key_J)
    hands.click(0 - 10j)  # the middle of the upper side
    hands.click(hands.stands(block, "A"))
    hands.press(KEY.Key_T)
    assert hands.session.document.joints["slide"].type == "prismatic"
    hands.type("6.5")
    assert "figures set it aside (6.5)" in hands.canvas.tool.hint
    hands.settle()
    steps = len(hands.session.editor.undo_stack)
    hands.press(KEY.Key_Return, KEY.Key_Escape, KEY.Key_Escape)
    assert len(hands.session.editor.undo_stack) == steps
    assert hands.stands(block, "A").imag == pytest.approx(-10 + 6.5)
    hands.session.undo()
    assert not hands.session.document.joints
