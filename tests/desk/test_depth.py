"""Depth in the window: parts dragged to another layer, joints pinned, what no longer fits, cautions gone to."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog

from anakinema.document.copies import extent
from anakinema.operations.section import meetings
from patience import patient
from windows import ENTER, click_line, retype, settle

KEY, ALT = Qt.Key, Qt.KeyboardModifier.AltModifier


@pytest.fixture
def press(qtbot, window):
    window.files.open_example("nipping-press")
    settle(qtbot, window)
    return window


def act(window, name: str) -> None:
    window.registry.refresh()
    window.registry.actions[name].trigger()
    QApplication.processEvents()


def lies(window, part: str) -> tuple[float, float]:
    return extent([window.session.document.parts[part]])


def drag(view, at: QPointF, by: QPointF) -> None:
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=at.toPoint())
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(view, (at + by * share).toPoint())
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=(at + by).toPoint())


def test_a_part_is_dragged_to_another_layer_face_to_face_in_one_step(qtbot, press) -> None:
    QTest.keyClick(press, KEY.Key_2, ALT)
    assert press.bench.currentWidget() is press.side and press.view_switch.buttons["depth"].isChecked()
    press.side.grab()
    box = next(box for box, name in press.side._boxes if name == "lower")
    QTest.mouseClick(press.side, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    assert press.session.selection.place == "parts.lower"  # selected here, selected there
    press.side.grab()
    before, steps = lies(press, "lower"), len(press.session.editor.undo_stack)
    per = press.side.depth_per_pixel(box.center().y())
    drag(press.side, box.center(), QPointF(0, 4.3 / per))  # nearly into the frame's rails: its faces stop at theirs
    settle(qtbot, press)
    after = lies(press, "lower")
    assert after != before and after[1] - after[0] == pytest.approx(before[1] - before[0])
    faces = {end for name in press.session.document.parts if name != "lower" for end in lies(press, name)}
    middles = any(abs((a + b) - sum(after)) < 1e-9 for a in faces for b in faces)
    assert any(abs(end - face) < 1e-9 for end in after for face in faces) or middles
    assert len(press.session.editor.undo_stack) == steps + 1
    act(press, "undo")
    assert lies(press, "lower") == before


def test_the_cut_tells_gaps_in_numbers_and_layers_can_be_spread(qtbot, press) -> None:
    click_line(press, "joints.knee")
    act(press, "cut-stack")
    assert press.bench.currentWidget() is press.side
    click_line(press, "parts.knee-screw")
    press.side.grab()
    told = {(one.behind, one.front): (one.words, round(one.gap, 6)) for one in meetings(press.side.slices())}
    assert told["lower", "knee-washer"] == ("touch", 0.0)
    assert told["upper", "lower"] == ("touch", 0.0)
    # 28 + 6 + 1.6 are the depths of lower link and washer; the screw of 25 ends 10.6 before the plane of the plate, 8.
    assert told["frame", "knee-screw"] == ("gap", 2.6)
    tall = {round(box.height()) for box, name in press.side._boxes if name in ("lower", "knee-washer")}
    act(press, "spread")
    press.side.grab()
    assert {round(box.height()) for box, name in press.side._boxes if name in ("lower", "knee-washer")} != tall
    act(press, "cut-stack")
    assert press.session.display_state.cut is None


def test_the_lifted_view_is_picked_and_moves_with_the_play_head(qtbot, press) -> None:
    act(press, "lifted")
    press.lifted.grab()
    last = {name: k for k, (*_, name) in enumerate(press.lifted._painted)}
    assert last["frame"] < last["upper"] < last["lower"] < last["knee-screw"]
    path, placed, _ = next(each for each in press.lifted._painted if each[2] == "platen")
    at = placed.map(path.boundingRect().bottomLeft() + QPointF(2, -2))
    QTest.mouseClick(press.lifted, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert press.session.selection.place == "parts.platen"
    before = placed.map(QPointF(0, 0))
    press.session.go(press.session.end)
    press.lifted.grab()
    after = next(each for each in press.lifted._painted if each[2] == "platen")[1].map(QPointF(0, 0))
    assert after.y() > before.y() + 5
    spread = [each[1].map(QPointF(0, 0)).y() for each in press.lifted._painted if each[2] == "lower"]
    press.lifted.spread.setValue(80)
    press.lifted.grab()
    assert [each[1].map(QPointF(0, 0)).y() for each in press.lifted._painted if each[2] == "lower"] != spread


def test_a_joint_is_pinned_by_one_command(qtbot, window, monkeypatch) -> None:
    window.files.open_example("jogger-table")
    settle(qtbot, window)
    asked = []

    def one_of(title, text, words):
        asked.append(list(words))
        return words[0]

    monkeypatch.setattr(window.asking, "one_of", one_of)
    before = set(window.session.document.parts)
    name = next(name for name, joint in window.session.document.joints.items() if joint.kind.pin)
    click_line(window, f"joints.{name}")
    act(window, "pin-joint")
    settle(qtbot, window)
    new = set(window.session.document.parts) - before
    assert {f"{name}-screw", f"{name}-washer", f"{name}-nut"} <= new
    assert asked[1][0].endswith("(proposed)") and window.session.selection.place == f"parts.{name}-screw"
    assert window.session.document.parts[f"{name}-screw"].hardware.unfit == ""
    act(window, "undo")
    assert set(window.session.document.parts) == before


def test_a_screw_becomes_too_short_when_a_plate_grows_and_is_mended(qtbot, press) -> None:
    click_line(press, "parts.knee-screw")
    settle(qtbot, press)
    box = next(box for box in press.properties.findChildren(QComboBox) if box.accessibleName() == "length")
    assert box.currentText() == "as it fits"
    box.setFocus()
    QTest.keyClick(box, KEY.Key_F4)
    QTest.keyClicks(box.view(), "25")
    QTest.keyClick(box.view(), ENTER)
    settle(qtbot, press)
    assert press.session.document.parts["knee-screw"].hardware.given == 25.0
    click_line(press, "parts.lower")
    settle(qtbot, press)
    retype(press.properties.fields["lower.thickness"], "12")
    settle(qtbot, press)
    act(press, "workshop")
    settle(qtbot, press)
    names = [press.workshop.table.item(row, 0).text() for row in range(press.workshop.table.rowCount())]
    assert "too short" in names and "is too short" in press.session.findings.advice[0].text
    row = names.index("too short")
    spot = press.workshop.table.visualItemRect(press.workshop.table.item(row, 0)).center()
    QTest.mouseClick(press.workshop.table.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    assert press.session.selection.place == "parts.knee-screw"
    QTest.mouseClick(press.workshop.mend, Qt.MouseButton.LeftButton)
    settle(qtbot, press)
    piece = press.session.document.parts["knee-screw"].hardware
    assert piece.given is None and piece.length == 30.0


def test_a_caution_is_gone_to_and_a_finding_is_left_with_a_reason(qtbot, press, monkeypatch) -> None:
    act(press, "workshop")
    settle(qtbot, press)
    table = press.workshop.table
    row = next(row for row in range(table.rowCount()) if table.item(row, 0).text() == "caution: crush")
    spot = table.visualItemRect(table.item(row, 2)).center()
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    assert press.session.time == pytest.approx(press.session.end) and press.session.selection.place == "parts.platen"
    assert "local codes and licensed practice decide" in press.workshop.usual.text()
    assert not press.workshop.waive.isEnabled()  # a caution can't be waived
    click_line(press, "parts.frame")
    press.session.edit(("parts", "lower", "shapes", 2, "diameter"), 9, "Wide hole")
    settle(qtbot, press)
    names = [table.item(row, 0).text() for row in range(table.rowCount())]
    table.selectRow(names.index("clearance hole"))
    monkeypatch.setattr(press.asking, "word", lambda *_: "an old part, drilled so")
    QTest.mouseClick(press.workshop.waive, Qt.MouseButton.LeftButton)
    settle(qtbot, press)
    assert [one.reason for one in press.session.document.waived.values()] == ["an old part, drilled so"]
    assert "1 left as they are" in press.workshop.line.text()


def test_layers_are_arranged_as_a_proposal_and_taken_in_one_step(qtbot, window) -> None:
    window.files.open_example("quick-return")
    settle(qtbot, window)
    act(window, "study-arrange")
    page = window.studies.pages["arrange"]
    QTest.mouseClick(page.run, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: page.table.rowCount() > 0, timeout=patient(30_000))
    assert "fewer are impossible" in page.message.text()
    before = window.session.document
    QTest.mouseClick(page.use, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.session.document is not before and not window.session.findings.same_depth
    assert extent([window.session.document.parts["crank"]])[0] == 6.0
    act(window, "undo")
    assert window.session.document.tree == before.tree


def test_a_swept_area_is_a_ghost_on_the_bench_and_a_drawing(qtbot, window, tmp_path, monkeypatch) -> None:
    window.files.open_example("quick-return")
    settle(qtbot, window)
    act(window, "study-swept")
    page = window.studies.pages["swept"]
    page.what.setCurrentIndex(page.what.findData("lever"))
    retype(page.room, "5")
    qtbot.waitUntil(lambda: page.found is not None, timeout=patient(30_000))
    assert window.session.display_state.swept is page.found and "may be off by" in page.told.text()
    bare = window.canvas.grab().toImage()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "lever.dxf"), ""))
    QTest.mouseClick(page.save, Qt.MouseButton.LeftButton)
    assert (tmp_path / "lever.dxf").read_bytes().startswith(b"  0")
    QTest.mouseClick(page.away, Qt.MouseButton.LeftButton)
    assert window.session.display_state.swept is None
    assert window.canvas.grab().toImage() != bare


def test_the_views_show_nothing_of_another_document(qtbot, press) -> None:
    for name in ("depth", "lifted"):
        act(press, name)
        press.bench.currentWidget().grab()
    press.session.display_state.cut_along((0j, 1 + 0j))
    act(press, "new")
    settle(qtbot, press)
    assert press.session.display_state.cut is None
    for view in (press.side, press.lifted):
        view.grab()
        assert view.pick(QPointF(200, 200)) == ""
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(200, 200))


def test_the_cut_goes_with_its_joint_or_is_drawn_across_the_plan(qtbot, press) -> None:
    click_line(press, "joints.knee")
    act(press, "cut-stack")
    press.session.go(press.session.end)
    assert {"knee-screw", "upper", "lower", "frame"} <= {one.part for one in press.side.slices()}
    act(press, "cut-stack")
    act(press, "plan")
    QTest.keyClick(press.canvas, KEY.Key_L, ALT)
    for spot in (-44 - 115j, 44 - 115j):
        at = press.canvas.pixel(spot).toPoint()
        QTest.mouseMove(press.canvas, at)
        QTest.mouseClick(press.canvas, Qt.MouseButton.LeftButton, pos=at)
    QTest.keyClick(press.canvas, KEY.Key_Escape)
    cut = press.session.display_state.cut
    assert cut is not None and cut[0].imag == pytest.approx(-115, abs=4)
    met = {one.part for one in press.side.slices()}
    assert {"frame", "platen"} <= met and not {"upper", "knee-screw"} & met
