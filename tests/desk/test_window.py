"""The real window, driven offscreen with mouse and keyboard: open, play, scrub, edit, see a check turn, undo, save."""

import json

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from anakinema.document.model import PointRef
from anakinema.errors import Fault
from anakinema.formats import project
from anakinema_desk.application import open_window
from anakinema_desk.panels.properties.joints import joint_text
from anakinema_desk.panels.properties.study import check_text
from anakinema_desk.settings import Settings
from patience import patient
from windows import ENTER, click_line, failing, leave, retype, settle


def test_the_whole_round(qtbot, window, tmp_path, monkeypatch):
    session = window.session
    assert window.verdict.checks.text() == "1 of 6 checks fails"
    assert "guide-gap" in failing(window)

    # Play, and the picture moves.
    before = window.canvas.poses["rod"]
    QTest.mouseClick(window.transport.buttons["play"], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session.time > 0.02 * session.end, timeout=patient(5000))
    assert window.canvas.poses["rod"] != before
    QTest.keyClick(window, Qt.Key.Key_Space)
    assert not session.playing

    # Scrub on the ruler and on a track.
    ruler = window.timeline.ruler
    QTest.mouseClick(ruler, Qt.MouseButton.LeftButton, pos=QPoint(ruler.width() // 2, 10))
    middle = session.time
    assert 0.3 * session.end < middle < 0.7 * session.end
    plot = window.timeline.tracks[0].plot
    QTest.mouseClick(plot, Qt.MouseButton.LeftButton, pos=QPoint(plot.width() // 4, 20))
    assert session.time == pytest.approx(session.end / 4, rel=0.02)

    # The verdict leads to the failing check, and to where it is worst.
    QTest.mouseClick(window.verdict.checks, Qt.MouseButton.LeftButton)
    assert session.selection.place == "checks.guide-gap"
    assert session.time == session.findings.verdicts["guide-gap"].t
    assert check_text(window.properties, "guide-gap", "margin").endswith("fails")

    # One dimension mends it.
    click_line(window, "parameters.guide")
    field = window.properties.fields["parameters.guide.value"]
    assert field.text() == "rod + throw + 8.5 mm"
    retype(field, "rod + throw + 9 mm")
    settle(qtbot, window)
    assert failing(window) == [] and window.verdict.checks.text() == "all 6 checks pass"
    assert window.isWindowModified()

    # Undo and redo.
    window.setFocus()
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert failing(window) == ["guide-gap"] and not window.isWindowModified()
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle(qtbot, window)
    assert failing(window) == []

    # Save, and open what was saved.
    path = tmp_path / "mended"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    QTest.keyClick(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    saved = path.with_suffix(".anakinema")
    assert json.loads(saved.read_text())["parameters"]["guide"]["value"] == "rod + throw + 9 mm"
    assert not window.isWindowModified()
    window.registry.actions["new"].trigger()
    assert not session.document.parts
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(saved), ""))
    QTest.keyClick(window, Qt.Key.Key_O, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert session.path == saved and failing(window) == []
    assert Settings().recent == [saved]


def test_an_edit_shows_its_fault_and_changes_nothing(qtbot, window):
    click_line(window, "parameters.throw")
    field = window.properties.fields["parameters.throw.value"]
    document = window.session.document
    retype(field, "15 deg")
    assert field.property("wrong") and field.fault_label.isVisible()
    assert window.session.document is document
    retype(field, "15 mn")
    assert "did you mean" in field.fault
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "15 mm" and not field.property("wrong")
    QTest.keyClick(field, Qt.Key.Key_Up)
    assert window.session.document.parameters["throw"].quantity.in_units("mm") == 16


def test_what_can_not_be_assembled_is_told_and_undone(qtbot, window):
    click_line(window, "parameters.takeup")
    retype(window.properties.fields["parameters.takeup.value"], "120 mm")
    settle(qtbot, window)
    assert window.session.findings is None
    assert "stay open by about" in window.verdict.next.toolTip()
    assert window.grab().width() == window.width()
    window.registry.actions["undo"].trigger()
    settle(qtbot, window)
    assert failing(window) == ["guide-gap"]


def test_the_bench_selects_zooms_to_the_cursor_and_fits(qtbot, window):
    canvas = window.canvas
    joint = window.session.document.joints["elbow"]
    spot = canvas.to_screen(canvas.world(joint.b)).toPoint()
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=spot)
    assert window.session.selection.place == "joints.elbow"
    assert window.model_tree.currentItem().data(0, Qt.ItemDataRole.UserRole) == "joints.elbow"
    at = QPointF(spot)
    before = canvas.to_world(at)
    wheel = QWheelEvent(
        at,
        canvas.mapToGlobal(at),
        QPoint(),
        QPoint(0, 240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    scale = canvas.scale
    QApplication.sendEvent(canvas, wheel)
    assert canvas.scale > 1.2 * scale
    assert (canvas.to_world(at) - before).manhattanLength() < 1e-9
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=QPoint(20, 300))
    QTest.mouseMove(canvas, QPoint(80, 300))
    QTest.mouseMove(canvas, QPoint(90, 300))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPoint(90, 300))
    assert (canvas.to_world(at) - before).manhattanLength() > 1
    QTest.keyClick(window, Qt.Key.Key_0, Qt.KeyboardModifier.ControlModifier)
    assert canvas.scale == pytest.approx(scale)
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert window.session.selection.place == ""


def test_a_part_is_pulled_by_hand_and_placed_there(qtbot, window):
    canvas, session = window.canvas, window.session
    rocker = session.document.parts["rocker"]
    here = canvas.to_screen(canvas.world(PointRef("rocker", "D"))) * 0.4
    grip = (here + canvas.to_screen(canvas.world(PointRef("rocker", "C"))) * 0.6).toPoint()
    assert canvas.pick_part(QPointF(grip)) == "parts.rocker"
    before = canvas.poses["rocker"][2]
    center = QPointF(canvas.center)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=grip)
    for k in range(1, 9):
        QTest.mouseMove(canvas, grip + QPoint(-2 * k, -4 * k))
    moved = lambda: session.posing.posed is not None and abs(canvas.poses["rocker"][2] - before) > 0.05  # noqa: E731
    qtbot.waitUntil(moved, timeout=patient(5000))
    assert canvas.center == center  # the view stays: it is the part that moves
    turned = canvas.poses["crank"][2]
    assert turned != session.motion.positions(np.zeros(1))[0][session.motion.system.body("crank"), 2]
    QTest.mouseMove(canvas, grip + QPoint(-900, -900))
    qtbot.waitUntil(lambda: bool(canvas.hand.reason), timeout=patient(5000))
    assert canvas.grab().width() == canvas.width()
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=grip)
    assert "put by hand" in window.transport.readout.text()

    # Escape goes back; placing it is an edit like any other.
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert session.posing.posed is None and canvas.poses["rocker"][2] == pytest.approx(before)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=grip)
    QTest.mouseMove(canvas, grip + QPoint(-10, -20))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=grip)
    put = canvas.poses["rocker"][2]
    QTest.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert session.document.parts["rocker"].pose[2] == pytest.approx(put, abs=1e-6)
    assert window.registry.actions["undo"].text() == "Undo place by hand"
    session.undo()
    assert session.document.parts["rocker"].pose == rocker.pose


def test_every_command_is_found_in_the_palette_and_none_twice(qtbot, window):
    box = window.palette_box
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    assert box.isVisible() and box.field.hasFocus()
    QTest.keyClicks(box.field, "jointsym")
    assert box.list.item(0).text().startswith("Joint symbols")
    QTest.keyClick(box.field, ENTER)
    assert not box.isVisible() and not window.canvas.show_symbols
    keys = [key.toString() for action in window.registry.actions.values() for key in action.shortcuts()]
    assert len(keys) == len(set(keys))
    for menu in window.menus.values():
        assert [action for action in menu.actions() if action.text() and not action.menu()]


def test_unsaved_changes_are_guarded(qtbot, window, monkeypatch):
    window.session.edit(("title",), "Changed", "Change title")
    asked = []

    def answer(box):
        asked.append(box.text())
        return QMessageBox.StandardButton.Cancel

    monkeypatch.setattr(QMessageBox, "exec", answer)
    assert not window.close() and window.isVisible()
    window.registry.actions["new"].trigger()
    assert window.session.document.title == "Changed" and len(asked) == 2


def test_damaged_files_leave_the_document_alone(qtbot, window, tmp_path):
    bad = tmp_path / "bad.anakinema"
    bad.write_text('{"anakinema": 1, "joints": {"j": {"type": "hinge", "a": "x.y", "b": "x.z"}}}')
    document = window.session.document
    assert not window.files.open_path(bad)
    assert window.banner.isVisible() and "joints.j" in window.banner.body.text()
    assert window.session.document is document
    window.session.faults_raised.emit("Many", [Fault("place", "text")] * 9)
    assert "and 3 more" in window.banner.body.text()


@pytest.mark.parametrize("theme", ["light", "dark"])
@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (2560, 1440)])
def test_nothing_is_cut_off_at_any_size_in_either_theme(qtbot, window, theme, size):
    if window.tokens.name != theme:
        window.registry.actions["dark"].trigger()
    window.resize(*size)
    settle(qtbot, window)
    for view in (
        window.model_tree,
        window.canvas,
        window.properties,
        window.timeline,
        window.transport,
        window.verdict,
    ):
        corner = view.mapTo(window, QPoint(view.width(), view.height()))
        assert view.isVisible() and corner.x() <= size[0] and corner.y() <= size[1]
        assert view.width() > 150
    for button in (window.verdict.mobility, window.verdict.checks, window.verdict.closest):
        assert button.width() >= button.fontMetrics().horizontalAdvance(button.text())
    picture = window.canvas.grab().toImage()
    spots = ((x, y) for x in range(0, picture.width(), 7) for y in range(0, picture.height(), 7))
    colours = {picture.pixelColor(*spot).name() for spot in spots}
    assert len(colours) > 8  # parts, symbols and grid are there


def test_a_new_document_says_what_to_do(qtbot, window):
    window.session.new()
    settle(qtbot, window)
    assert window.verdict.next.toolTip().startswith("There are no parts")
    assert not window.timeline.isVisible()  # nothing is driven: the bench has the room
    assert window.grab().width() == window.width()


def test_the_window_opens_painted_first_and_fits_the_whole_motion(qtbot):
    window = open_window(demo=True)
    qtbot.addWidget(window, before_close_func=leave)
    window.resize(1280, 800)
    assert window.session.motion is None
    qtbot.waitUntil(lambda: window.session.findings is not None, timeout=patient(60_000))
    canvas = window.canvas
    for t in (0.0, 0.4 * window.session.end, 0.6 * window.session.end):
        window.session.go(t)
        tip = canvas.to_screen(canvas.world(PointRef("needle-bar", "tip")))
        assert 0 < tip.y() < canvas.height()


def test_steps_and_loop(qtbot, window):
    session = window.session
    control = Qt.KeyboardModifier.ControlModifier
    QTest.keyClick(window, Qt.Key.Key_End, control)
    assert session.time == session.end
    QTest.keyClick(window, Qt.Key.Key_Left, control)
    assert session.time == pytest.approx(session.end * 359 / 360)
    QTest.keyClick(window, Qt.Key.Key_Home, control)
    assert session.time == 0
    QTest.keyClick(window, Qt.Key.Key_L, control)
    assert not session.player.looping
    window.transport.speed.setCurrentIndex(4)
    session.go(0.98 * session.end)
    session.play()
    qtbot.waitUntil(lambda: not session.playing, timeout=patient(5000))
    assert session.time == session.end


def test_the_window_and_the_command_line_tell_the_same_numbers(qtbot, window):
    from anakinema.findings import analyse
    from anakinema.formats.results import results

    document, _ = project.demo()
    assert results(window.session.findings) == results(analyse(document))
    column = window.session.motion.system.coordinates.index("ram")
    click_line(window, "joints.ram")
    window.session.go(0.4 * window.session.end)
    value = window.session.motion.at(np.array([window.session.time])).coordinates[0, column]
    assert joint_text(window.properties, "ram", "now") == f"{value:.4f} mm"


def test_nothing_is_saved_over_unasked(qtbot, window, tmp_path, monkeypatch):
    """Neither what another program has written meanwhile, nor a file that the dialog could not know of."""
    session, asked = window.session, []
    monkeypatch.setattr(window.asking, "agreed", lambda title, *_: asked.append(title))  # and it is not agreed to
    path = tmp_path / "shared.anakinema"
    assert session.save(path)
    session.edit(("title",), "Mine", "edit")
    path.write_text("theirs")
    window.registry.actions["save"].trigger()
    assert asked == ["Changed outside"] and path.read_text() == "theirs" and session.modified
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "shared"), ""))
    window.registry.actions["save-as"].trigger()
    assert asked == ["Changed outside", "Already there"] and path.read_text() == "theirs"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / ("n" * 300)), ""))
    window.registry.actions["save-as"].trigger()
    assert "Not saved" in window.banner.head.text()
    path.chmod(0o444)
    monkeypatch.setattr(window.asking, "agreed", lambda *_: True)
    window.registry.actions["save"].trigger()
    assert "read-only" in window.banner.body.text() and path.read_text() == "theirs"
    path.chmod(0o644)
    window.registry.actions["save"].trigger()
    assert json.loads(path.read_text())["title"] == "Mine" and not session.modified


def test_a_file_that_has_gone_is_asked_about_and_never_silently_made_anew(qtbot, window, tmp_path, monkeypatch):
    session, asked, answer = window.session, [], [""]
    monkeypatch.setattr(window.asking, "choice", lambda title, text, words: asked.append(words) or answer[0])
    folder = tmp_path / "stick"
    folder.mkdir()
    path, elsewhere = folder / "press.anakinema", tmp_path / "elsewhere.anakinema"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(elsewhere), ""))
    assert session.save(path)
    session.edit(("title",), "Mine", "edit")
    moved = path.rename(tmp_path / "moved.anakinema")
    window.registry.actions["save"].trigger()
    assert asked == [("Save as…", "Write it there anew")] and not path.exists() and session.modified
    folder.rmdir()  # its disk is taken away
    answer[0] = "Save as…"
    window.registry.actions["save"].trigger()
    assert asked[1:] == [("Save as…",)] and not folder.exists()
    assert session.path == elsewhere and not session.modified
    elsewhere.unlink()
    answer[0] = "Write it there anew"
    session.edit(("title",), "Again", "edit")
    window.registry.actions["save"].trigger()
    assert json.loads(elsewhere.read_text())["title"] == "Again" and json.loads(moved.read_text())["title"] != "Mine"


@pytest.mark.parametrize("command", ["save-strip", "save-tracks"])
def test_a_picture_or_table_is_written_whole_or_not_at_all(qtbot, window, tmp_path, monkeypatch, command):
    target = tmp_path / "out.bin"
    monkeypatch.setattr(window.asking, "new_file", lambda *_: target)
    window.registry.actions[command].trigger()
    whole = target.read_bytes()
    assert len(whole) > 500

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    window.registry.actions[command].trigger()
    assert "Not saved" in window.banner.head.text()
    assert "out.bin" in window.banner.body.text() and "No space left" in window.banner.body.text()
    assert target.read_bytes() == whole and [entry.name for entry in tmp_path.iterdir()] == ["out.bin"]


ODD_SETTINGS = (
    "[" * 5000, "[]", '{"recent": [[[]], 3], "theme": {"x": 1}, "geometry": 7}', '{"recent": ["\\ud800"]}', "",
)  # fmt: skip


@pytest.mark.parametrize("text", ODD_SETTINGS)
def test_settings_of_any_kind_never_raise(tmp_path, text):
    path = tmp_path / "settings.json"
    path.write_text(text)
    settings = Settings(path)
    assert settings.recent == [] and settings.get("theme", "light") == "light"
    settings.used(tmp_path / "x\ud800")
    path.unlink(missing_ok=True)
    path.mkdir()
    settings.put("theme", "dark")
    Settings(tmp_path / "no" / "where" / "settings.json").put("theme", "dark")
    assert Settings(path).get("theme", "light") == "light"
