"""What the hands do besides drawing: selecting several, the clipboard, sizes on the bench, tables, menus, the guide."""

import json

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QContextMenuEvent, QGuiApplication, QMouseEvent, QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollBar,
    QWidget,
)
from shiboken6 import isValid

from anakinema.errors import Fault
from anakinema.formats.drawings import read_drawing, write_drawing
from anakinema.operations.importing import outlines_of
from anakinema_desk.canvas.tools import TOOLS
from anakinema_desk.panels.drawing import DrawingDialog
from anakinema_desk.panels.properties import joints as joint_card
from hands import KEY
from patience import patient
from windows import click_line, settle

SHIFT = Qt.KeyboardModifier.ShiftModifier


def drag(canvas, start, end, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, modifier, start)
    QTest.mouseMove(canvas, end)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, modifier, end)


def test_several_are_selected_by_shift_and_by_a_rectangle_and_nudged(hands):
    one = hands.plate(-60 + 0j, -40 + 20j)
    two = hands.plate(20 + 0j, 40 + 20j)
    session, canvas = hands.session, hands.canvas
    session.selection.select("")
    hands.click(-50 + 10j)
    hands.shift_click(30 + 10j)
    assert session.selection.chosen("parts") == [one, two]
    hands.shift_click(30 + 10j)
    assert session.selection.chosen("parts") == [one]
    session.selection.select("")
    drag(canvas, hands.pixel(-70 - 20j), hands.pixel(50 + 40j), SHIFT)
    assert set(session.selection.chosen("parts")) == {one, two}
    before = [session.document.parts[name].pose for name in (one, two)]
    steps = len(session.editor.undo_stack)
    for _ in range(3):
        QTest.keyClick(canvas, KEY.Key_Right)
    QTest.keyClick(canvas, KEY.Key_Up, SHIFT)
    after = [session.document.parts[name].pose for name in (one, two)]
    moved = np.subtract(after, before)
    assert moved[0] == pytest.approx(moved[1])
    assert moved[0][0] == pytest.approx(3 * moved[0][1] / 10)
    assert len(session.editor.undo_stack) == steps + 1  # nudging on is one step


def test_copy_and_paste_through_the_clipboard_also_into_another_document(hands):
    hands.bar(0j, 80 + 0j)
    hands.bar(0j, 30j)
    hands.do("clip", "parts.bar", "parts.frame")
    text = QGuiApplication.clipboard().text()
    assert set(json.loads(text)["parts"]) == {"frame", "bar"}
    hands.do("paste")
    assert len(hands.session.document.parts) == 4
    assert len(hands.session.document.joints) == 2
    assert hands.session.document.fixed_parts == ["frame"]
    hands.do("new")
    hands.do("paste")
    assert set(hands.session.document.parts) == {"frame", "bar"}
    hands.do("all")
    hands.do("cut")
    assert not hands.session.document.parts
    QGuiApplication.clipboard().setText("no mechanism")
    hands.do("paste")
    assert "Not pasted" in hands.window.banner.head.text()
    hands.do("undo")
    assert set(hands.session.document.parts) == {"frame", "bar"}


def test_a_size_is_clicked_on_the_bench_and_typed(hands):
    hands.bar(-40 + 0j, 40 + 0j)
    hands.session.selection.select("parts.frame")
    hands.canvas.grab()  # painted, so that its sizes stand somewhere
    boxes = hands.canvas.dimensions.boxes
    place = ("parts", "frame", "points", "B", 0)
    assert place in boxes
    QTest.mouseClick(hands.canvas, Qt.MouseButton.LeftButton, pos=boxes[place].center().toPoint())
    field = hands.canvas.dimensions.field
    QTest.keyClicks(field, "base = 10 cm")
    QTest.keyClick(field, KEY.Key_Return)
    hands.settle()
    assert hands.session.document.parts["frame"].points["B"][0] == 100
    assert hands.session.document.tree["parts"]["frame"]["points"]["B"][0] == "base"
    assert hands.canvas.dimensions.field is None
    hands.canvas.grab()
    QTest.mouseClick(
        hands.canvas, Qt.MouseButton.LeftButton, pos=hands.canvas.dimensions.boxes[place].center().toPoint()
    )
    QTest.keyClicks(hands.canvas.dimensions.field, "nonsense +")
    QTest.keyClick(hands.canvas.dimensions.field, KEY.Key_Escape)
    assert hands.session.document.parts["frame"].points["B"][0] == 100


def test_the_table_of_parameters(qtbot, window):
    session, table = window.session, window.parameters
    window.registry.actions["parameters"].trigger()
    QApplication.processEvents()
    rows = table.rows
    assert rows.names == list(session.document.parameters)
    assert "crank" in rows.data(rows.index(0, 5))
    table.filter.setText("centre to centre")
    assert 0 < table.shown.rowCount() < len(rows.names)
    table.filter.clear()
    assert rows.setData(rows.index(0, 0), "crankthrow")
    assert session.document.tree["parts"]["crank"]["points"]["P"][0] == "crankthrow"
    assert not rows.setData(rows.index(0, 1), "15 deg")
    assert "Not changed" in window.banner.head.text()
    assert rows.setData(rows.index(0, 3), "± 0.1")
    assert rows.data(rows.index(0, 3)) == "± 0.1"
    assert rows.setData(rows.index(0, 4), "radius")
    assert session.document.parameters["crankthrow"].note == "radius"
    count = len(rows.names)
    table.add()
    assert len(rows.names) == count + 1
    settle(qtbot, window)


def test_a_menu_offers_what_applies_and_hidden_parts_are_not_picked(qtbot, window):
    canvas, session = window.canvas, window.session
    spot = canvas.to_screen(canvas.world(session.document.joints["big-end"].b)).toPoint()
    QApplication.sendEvent(canvas, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, spot, canvas.mapToGlobal(spot)))
    offered = [action.text() for action in window.offered.menu.actions() if action.text()]
    assert "Wiggle" in offered
    assert "Hide" not in offered
    window.offered.menu.close()
    first = window.offered.menu
    QApplication.sendEvent(canvas, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, spot, canvas.mapToGlobal(spot)))
    window.offered.menu.close()
    qtbot.waitUntil(lambda: not isValid(first))  # else every click would leave one
    session.selection.select("parts.rod")
    window.registry.refresh()
    window.registry.actions["isolate"].trigger()
    assert session.display_state.hidden == set(session.document.parts) - {"rod"}
    crank = canvas.frame.transform("crank").map(QPointF(0, 0))
    assert canvas.pick_part(canvas.to_screen(crank)) in ("", "parts.rod")
    window.registry.actions["show-all"].trigger()
    assert not session.display_state.hidden


def test_positions_are_kept_and_gone_to_on_the_mechanism_s_own_way(qtbot, window, monkeypatch):
    session = window.session
    monkeypatch.setattr(window.asking, "word", lambda *_: "")
    window.registry.actions["keep-position"].trigger()
    assert not session.document.positions  # the user thought better of it
    monkeypatch.setattr(window.asking, "word", lambda title, what, usual: usual)
    session.go(0.25 * session.end)
    window.registry.refresh()
    window.registry.actions["keep-position"].trigger()
    settle(qtbot, window)
    assert session.selection.place == "positions.position"
    session.go(0.0)
    session.going.to_position("position")
    qtbot.waitUntil(lambda: session.posing.posed is not None and not session.going.way, timeout=patient(20_000))
    column = session.motion.system.coordinates.index("main")
    wanted = session.document.positions["position"].drivers["turn"]
    assert session.posing.coordinates()[column] == pytest.approx(wanted, abs=1e-6)
    session.selection.select("joints.ram")
    session.posing.unpose()
    before = session.posing.poses()["rod"]
    window.registry.actions["wiggle"].trigger()
    qtbot.waitUntil(lambda: session.posing.posed is not None, timeout=patient(20_000))
    qtbot.waitUntil(lambda: session.posing.posed is None, timeout=patient(20_000))  # it goes back by itself
    assert session.posing.poses()["rod"] == pytest.approx(before)


def test_parts_from_a_drawing(hands, tmp_path, monkeypatch, window, qtbot):
    hands.plate(-40 - 20j, 40 + 20j)
    hands.hole(0j, "10")
    document = hands.session.document
    path = tmp_path / "plate.dxf"
    write_drawing(path, outlines_of(document, hands.session.posing.poses(), document.parts), "mm")
    hands.do("new")
    shown = []
    monkeypatch.setattr(window.asking, "file", lambda *_: path)

    def taken(dialog):
        qtbot.waitUntil(lambda: dialog.ready, timeout=patient(20_000))
        shown.append(dialog.report.text())
        return bool(dialog.outlines)

    monkeypatch.setattr(DrawingDialog, "exec", taken)
    hands.do("read-drawing")
    assert "1 part with 1 cut, 80 mm across" in shown[0]
    part = hands.session.document.parts["frame"]
    assert [shape.kind for shape in part.shapes] == ["polygon", "disc"]
    assert part.points["A"] == (0, 0)  # the middle of its hole, to be joined by
    back = tmp_path / "back.svg"
    monkeypatch.setattr(window.asking, "new_file", lambda *_: back)
    hands.do("write-drawing")
    qtbot.waitUntil(lambda: window.banner.head.text() == "Written: back.svg", timeout=patient(20_000))
    assert len(read_drawing(back).layers["frame"]) == 4 + 3  # its sides, and its hole in three arcs
    monkeypatch.setattr(window.asking, "new_file", lambda *_: tmp_path / "no" / "such.svg")
    hands.do("write-drawing")
    qtbot.waitUntil(lambda: window.banner.head.text() == "Not written", timeout=patient(20_000))
    path.write_bytes(b"no drawing")
    hands.do("read-drawing")
    assert "can't be read" in window.banner.head.text()


def test_a_picture_is_laid_under_the_bench_and_scaled_by_two_places(hands, tmp_path, monkeypatch, window):
    path = tmp_path / "sketch.png"
    picture = QPixmap(200, 100)
    picture.fill(Qt.GlobalColor.red)
    picture.save(str(path))
    monkeypatch.setattr(window.asking, "file", lambda *_: path)
    hands.do("lay-picture")
    before = hands.session.document.picture
    corner = complex(*before.at)
    one, two = corner + 0.25 * before.width, corner + 0.75 * before.width  # places half a width apart
    hands.click(one)
    hands.click(two)
    hands.type("2*60 mm")
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    after = hands.session.document.picture
    assert after.width == pytest.approx(before.width * 120 / abs(hands.near(two) - hands.near(one)), rel=1e-6)
    assert "60 mm" in str(hands.session.document.tree["picture"]["width"])
    spot = hands.pixel(complex(*after.at) + 0.4 * after.width + 0.1j * after.width)
    assert QColor(hands.canvas.grab().toImage().pixel(spot)).red() > QColor(hands.canvas.tokens.paper).green()
    path.write_bytes(b"no picture")
    hands.do("lay-picture")
    assert "can't be laid" in window.banner.head.text()
    hands.do("take-picture")
    assert hands.session.document.picture is None


def test_the_guide_leads_to_a_crank_rocker(hands):
    window, session = hands.window, hands.session
    assert window.start.isVisible()
    window.guide.start()
    assert window.guide.text.startswith("1 of 6")
    hands.press(KEY.Key_B)
    for spots in ((-50 - 20j, 50 - 20j), (-50 - 20j, -50 + 4j), (50 - 20j, 50 + 44j)):
        for spot in spots:
            hands.click(spot)
    assert window.guide.text.startswith("4 of 6")
    hands.click(-50 + 4j)
    hands.click(50 + 44j)
    hands.press(KEY.Key_Escape, KEY.Key_Escape)
    session.selection.select("joints.pin")
    QApplication.processEvents()
    hands.press(KEY.Key_R)
    assert window.guide.text.startswith("6 of 6")
    window.registry.actions["play"].trigger()
    assert not window.guide.text
    session.pause()
    assert session.motion.mobility.dof == 1


def test_joints_of_a_part_that_goes_are_tied_to_another_at_the_same_place(hands, monkeypatch):
    hands.bar(-40 + 0j, 40 + 0j)
    lower = hands.bar(-40 + 0j, -40 + 40j)
    upper = hands.bar(-40 + 40j, 20 + 60j)
    plate = hands.plate(-60 + 20j, -20 + 60j)
    hands.session.selection.select(f"parts.{plate}")
    hands.hole(-40 + 40j, "4")
    asked = []
    monkeypatch.setattr(hands.window.asking, "choice", lambda *words: asked.append(words) or words[2][0])
    hands.do("delete", f"parts.{lower}")
    assert "1 of its joints could be tied to other parts" in asked[0][1]
    document = hands.session.document
    assert lower not in document.parts
    (joint,) = document.joints.values()
    assert {joint.a.part, joint.b.part} == {upper, plate}
    hands.do("undo")
    assert len(hands.session.document.joints) == 2


def test_two_joints_that_are_selected_are_tied_by_what_suits_them(qtbot, window):
    session = window.session
    session.selection.select("joints.main")
    session.selection.select("joints.ram", more=True)
    window.registry.refresh()
    actions = window.registry.actions
    kinds = [kind for kind in ("gear", "rack", "belt", "ratio") if actions[f"tie-{kind}"].isEnabled()]
    assert kinds == ["rack", "ratio"]
    actions["tie-ratio"].trigger()
    assert session.document.couplings["ratio"].a == "main"
    settle(qtbot, window)
    window.canvas.grab()  # its symbol too
    session.undo()
    assert "ratio" not in session.document.couplings


def test_the_make_up_selects_what_a_sub_assembly_holds(qtbot, window):
    window.session.open_example("clamp")
    settle(qtbot, window)
    QTest.qWait(40)
    click_line(window, "uses.upper")
    assert window.session.selection.place == "uses.upper"
    assert set(window.session.selection.chosen("parts")) == {"upper/back", "upper/front", "upper/grip"}
    QTest.mouseClick(window.model_tree.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    click_line(window, "assemblies.jaw")
    assert "DEFINITION" in window.properties.widget().findChildren(type(window.banner.head))[0].text()


def test_playing_rests_while_nobody_sees_it_and_goes_on_by_itself(qtbot, window):
    session = window.session
    session.play()
    qtbot.waitUntil(lambda: session.time > 0)
    window.showMinimized()
    qtbot.waitUntil(lambda: not session.player._timer.isActive(), timeout=patient(20_000))
    assert session.playing
    at = session.time
    QTest.qWait(60)
    assert session.time == at
    window.showNormal()
    qtbot.waitUntil(lambda: session.time != at, timeout=patient(20_000))
    session.pause()
    window.showMinimized()
    window.showNormal()
    QTest.qWait(60)
    assert not session.playing and not session.player._timer.isActive()


def test_buttons_on_the_card_of_a_sub_assembly_lead_to_what_they_name(qtbot, window):
    session = window.session
    session.open_example("clamp")
    settle(qtbot, window)

    def buttons():
        session.selection.select("uses.upper")
        QApplication.processEvents()
        return {button.text(): button for button in window.properties.findChildren(QPushButton) if button.isVisible()}

    names = [text for text in buttons() if "/" in text]
    assert names == [name for name in session.document.joints if name.startswith("upper/")]
    for name in names:
        button = buttons()[name]
        window.properties.ensureWidgetVisible(button)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        assert session.selection.place == f"joints.{name}"


def test_a_limit_is_set_from_where_a_joint_stands_also_in_one_that_is_turned_over(qtbot, window):
    session = window.session
    session.open_example("clamp")
    settle(qtbot, window)
    session.go(0.5 * session.end)
    for use in ("upper", "lower"):
        session.selection.select(f"joints.{use}/wrist")
        column = session.motion.system.coordinates.index(f"{use}/wrist")
        now = float(session.posing.coordinates()[column])
        joint_card.limit_here(window.properties, f"{use}/wrist", "max")
        assert session.document.joints[f"{use}/wrist"].limits.max == pytest.approx(now, abs=1e-6)
        other = session.document.joints["lower/wrist" if use == "upper" else "upper/wrist"].limits
        assert other.min == pytest.approx(-now, abs=1e-6)  # one definition, seen from the other side
        session.undo()
        settle(qtbot, window)
        session.go(0.5 * session.end)


def wheeled(widget, notches):
    """The wheel turned over a widget, as a mouse does it."""
    window = widget.window().windowHandle()
    at = QPointF(widget.mapTo(widget.window(), widget.rect().center()))
    QTest.wheelEvent(window, at, QPoint(0, 120 * notches))


def test_the_wheel_over_a_field_changes_nothing_and_scrolls_the_card(qtbot, window):
    """Over every field, list and box of every card and panel; where there is more than is seen, it comes into sight."""
    session, scrolled = window.session, 0
    window.resize(1024, 700)
    for place in ("drivers.turn", "joints.ram", "parts.rod", "checks.stroke"):
        session.selection.select(place)
        settle(qtbot, window)
        QApplication.processEvents()
        before, steps = session.document, len(session.editor.undo_stack)
        for widget in window.findChildren(QWidget):
            if isinstance(widget, QComboBox | QAbstractSpinBox | QLineEdit | QAbstractSlider) and widget.isVisible() \
                    and not isinstance(widget, QScrollBar):  # fmt: skip
                bar = window.properties.verticalScrollBar()
                told = widget.currentText() if isinstance(widget, QComboBox) else ""
                seen = bar.value()
                wheeled(widget, -1)
                scrolled += bar.value() != seen
                assert session.document is before and len(session.editor.undo_stack) == steps
                assert not isinstance(widget, QComboBox) or widget.currentText() == told
    assert scrolled


def test_a_right_click_and_escape_leave_nothing_in_the_hand(qtbot, window, monkeypatch):
    """The menu takes the release of the button; the view then stays where it is, whatever the mouse does."""
    canvas = window.canvas
    settle(qtbot, window)
    monkeypatch.setattr(QMenu, "exec", lambda *_: None)
    spot = canvas.rect().center()
    QTest.mousePress(canvas, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, spot)
    QTest.keyClick(canvas, KEY.Key_Escape)
    center = canvas.center
    for step in range(5):
        QTest.mouseMove(canvas, spot + QPoint(20 * step, 9 * step))
    assert canvas.center == center and canvas.dragged is None
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(9, canvas.height() - 60))
    moved(canvas, QPoint(60, canvas.height() - 90), Qt.MouseButton.NoButton)  # as when the release went elsewhere
    assert canvas.center == center and canvas.dragged is None


def moved(widget, spot, buttons):
    at = QPointF(spot)
    event = QMouseEvent(QEvent.Type.MouseMove, at, widget.mapToGlobal(at), Qt.MouseButton.NoButton, buttons,
                        Qt.KeyboardModifier.NoModifier)  # fmt: skip
    QApplication.sendEvent(widget, event)


def test_a_message_lies_over_the_bench_moves_nothing_and_can_be_had_again(qtbot, window):
    banner, faults = window.banner, [Fault("parts.rod", "no such thing"), Fault("joints.ram", "nor this")]
    before = [widget.geometry() for widget in (window.canvas, window.model_tree, window.properties, window.timeline)]
    window.session.message.emit("A note")
    assert banner.isVisible() and banner.mark.text() == "i"
    low = banner.height()
    window.session.faults_raised.emit("Not changed", faults)
    QApplication.processEvents()
    assert banner.mark.text() == "×" and banner.height() > low
    after = [widget.geometry() for widget in (window.canvas, window.model_tree, window.properties, window.timeline)]
    assert before == after and banner.parentWidget() is window.canvas
    window.resize(1024, 700)
    QApplication.processEvents()
    assert window.canvas.rect().contains(banner.geometry())
    QTest.mouseClick(banner.close_button, Qt.MouseButton.LeftButton)
    assert not banner.isVisible()
    action = window.registry.actions["last-message"]
    action.trigger()
    assert banner.isVisible() and "no such thing" in banner.body.text()
    action.trigger()
    assert banner.head.text() == "A note" and not banner.body.isVisible()
    window.session.warned.emit("Goes on", ())
    looks = {banner.property("level"): banner.mark.palette().windowText().color().name()}
    for _ in range(2):
        action.trigger()
        looks[banner.property("level")] = banner.mark.palette().windowText().color().name()
    assert looks.keys() == {"note", "warning", "fault"} and len(set(looks.values())) == 3


@pytest.mark.parametrize("tool", sorted(TOOLS))
def test_a_tool_leaves_the_moment_that_is_shown(qtbot, window, tool):
    settle(qtbot, window)
    window.session.go(0.83 * window.session.end)
    shown = window.session.time
    window.canvas.take(tool)
    assert window.session.time == shown


def dyad(hands):
    """A driven crank and a rocker on a frame, shown a fifth of a turn on."""
    hands.bar(-40 + 0j, 40 + 0j)
    crank, rocker = hands.bar(-40 + 0j, -40 + 20j), hands.bar(40 + 0j, 40 + 60j)
    hands.drive("pin")
    start = float(hands.session.posing.coordinates()[hands.session.motion.system.coordinates.index("pin")])
    (driver,) = hands.session.document.drivers
    hands.session.edit(("drivers", driver, "from"), f"{start} rad", "held at its start")
    hands.settle()
    hands.session.go(0.2 * hands.session.end)
    return crank, rocker


def test_what_is_drawn_in_mid_motion_stands_there_as_it_was_drawn(hands):
    crank, rocker = dyad(hands)
    now, (here, there) = hands.session.time, (hands.stands(crank, "B"), hands.stands(rocker, "B"))
    assert abs(here - (-40 + 20j)) > 10
    coupler = hands.bar(here, there)
    assert hands.session.time == pytest.approx(now)
    assert [hands.stands(coupler, name) for name in "AB"] == pytest.approx([here, there], abs=1e-6)
    assert hands.stands(rocker, "B") == pytest.approx(there, abs=1e-6)
    motion, _ = hands.through()
    assert motion.mobility.dof == 1
    begins = hands.session.posing.start_poses()[crank]
    hands.session.go(0.0)
    assert hands.session.posing.poses()[crank] == pytest.approx(begins)
    assert hands.stands(crank, "B") == pytest.approx(hands.stands(coupler, "A"), abs=1e-6)


@pytest.mark.parametrize("kind", ["join", "copy", "disc"])
def test_what_is_brought_or_copied_in_mid_motion_meets_what_stands_there(hands, kind):
    crank, rocker = dyad(hands)
    here = hands.stands(crank, "B")
    if kind == "join":
        free = hands.plate(-20 - 60j, 20 - 40j)
        hands.join(here, -20 - 60j)
    elif kind == "copy":
        hands.session.selection.select(f"parts.{rocker}")
        hands.press(KEY.Key_C)
        hands.click(here)
        free = hands.newest()
        hands.press(KEY.Key_Escape)
    else:
        hands.press(KEY.Key_D)
        hands.click(here)
        hands.click(here + 15)
        free = hands.newest()
        hands.press(KEY.Key_Escape)
    document = hands.session.document
    joint = list(document.joints.values())[-1]
    assert {joint.a.part, joint.b.part} == {crank, free}
    for share in (0.2, 0.0, 0.7):
        hands.session.go(share * hands.session.end)
        a, b = (hands.stands(ref.part, ref.point) for ref in (joint.a, joint.b))
        assert a == pytest.approx(b, abs=1e-6)
    hands.session.go(0.0)
    placed = complex(*document.parts[free].pose[:2]) + 0j  # near to where it is put together: nothing leaps
    assert abs(placed - complex(*hands.session.posing.poses()[free][:2])) < 1e-6


def test_the_demo_is_shown_step_by_step_and_can_be_left_at_any(qtbot, window):
    window.open_demo()
    settle(qtbot, window)
    session, card = window.session, window.guide_card
    assert card.isVisible() and card.text.text().startswith("1 of 4")
    QTest.keyClick(window.canvas, Qt.Key.Key_Space)
    QTest.keyClick(window.canvas, Qt.Key.Key_Space)
    assert card.text.text().startswith("2 of 4")
    worst = session.findings.failed[0]
    session.selection.select(f"checks.{worst.check.id}")
    session.go(worst.t)
    assert card.text.text().startswith("3 of 4")
    QTest.mouseClick(card.next, Qt.MouseButton.LeftButton)
    assert card.text.text().startswith("4 of 4")
    window.registry.actions["study-tune"].trigger()
    window.studies.pages["tune"].slider.setValue(600)
    qtbot.waitUntil(lambda: not card.isVisible(), timeout=patient(20_000))
    window.open_demo()
    settle(qtbot, window)
    QTest.mouseClick(card.leave, Qt.MouseButton.LeftButton)
    assert not card.isVisible() and not window.guide.text


def test_help_is_searched_and_knows_all_keys(qtbot, window):
    QTest.keyClick(window, Qt.Key.Key_F1)
    help = window.help
    assert help.isVisible() and help.list.item(0).text() == "Building at the bench"
    QTest.keyClicks(help.search, "mirror depth")
    names = [help.list.item(row).text() for row in range(help.list.count())]
    assert "Building at the bench: Mirroring" in names and len(names) < 12
    help.search.clear()
    QTest.keyClicks(help.search, "no such word anywhere")
    assert not help.list.count() and help.none.isVisible()
    window.registry.actions["keys"].trigger()
    assert help.list.currentItem().text() == "Keys"
    for command in window.registry.commands.values():
        assert not command.keys or command.keys.split(" | ")[0] in help.page.toPlainText()
    help.close()
