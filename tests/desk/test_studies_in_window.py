"""Studies through the real window: free travel taken over, a stroke tuned, a bar of the timing dragged, a run pinned, a
trial gone back to."""

import json
import math

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from anakinema.document import Set, read_document
from patience import patient
from windows import settle

ENTER, LEFT = Qt.Key.Key_Return, Qt.MouseButton.LeftButton


def studied(qtbot, window):
    """Waits until a study and the analysis are done."""
    session = window.session
    qtbot.waitUntil(lambda: not session.study_client.busy and not session.analysis.busy, timeout=patient(20_000))
    settle(qtbot, window)
    QTest.qWait(60)  # cards and strips follow a moment later


def opened(qtbot, window, name):
    window.session.open_example(name)
    settle(qtbot, window)
    return window.session


def button(parent, text):
    return next(each for each in parent.findChildren(QPushButton) if each.text() == text and each.isVisible())


def dragged(widget, start, end, modifiers=Qt.KeyboardModifier.NoModifier):
    start, end = (QPointF(each).toPoint() for each in (start, end))
    QTest.mousePress(widget, LEFT, modifiers, start)
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(widget, start + QPoint(round((end - start).x() * share), round((end - start).y() * share)))
    QTest.mouseRelease(widget, LEFT, modifiers, end)


def test_a_stroke_is_tuned_and_taken(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    QTest.keyClick(window, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    page = window.studies.pages["tune"]
    page.parameter.setCurrentText("throw")
    page.finding.setCurrentIndex(page.finding.findData("checks.stroke"))
    QTest.keyClicks(page.wanted, "31 mm")
    QTest.keyClick(page.wanted, ENTER)
    studied(qtbot, window)
    assert len(page.found.solutions) == 1 and page.graph.line and page.graph.gaps
    tree = session.document.tree
    QTest.mouseClick(page._offered[0], LEFT)
    studied(qtbot, window)
    card = window.trial_card
    assert session.document.tree is tree and card.isVisible() and card.head.text().startswith("Tried: throw = ")
    told = {cells[0].text(): (cells[2].text(), cells[3].text()) for cells in card.cells}
    assert told["stroke"] == ("31 mm", "passes") and told["guide-gap"][1] == "fails"
    assert session.trying.judged and session.trying.verdicts["guide-gap"].value is not None
    QTest.mouseClick(card.take, LEFT)
    studied(qtbot, window)
    assert not card.isVisible()
    assert session.findings.verdicts["stroke"].value == pytest.approx(31.0, abs=3.1e-3)
    assert len(str(session.document.tree["parameters"]["throw"]["value"])) < 11  # written as a hand would
    assert session.editor.undo_stack[-1].text == "Change throw"
    page.wanted.setText("5 deg")
    QTest.keyClick(page.wanted, ENTER)
    assert "a length is wanted" in page.message.text()
    page.wanted.setText("900")
    QTest.keyClick(page.wanted, ENTER)
    studied(qtbot, window)
    assert "nearest that can be had" in page.message.text()


def test_a_trial_that_comes_when_the_document_is_another_is_not_shown(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    for k in range(6):
        session.trying.turn(session.motion, {"throw": 16.0 + 0.1 * k})
        qtbot.wait(8 * k)  # now it is under way, now it has come
        session.rename(("parts", f"wheel{k - 1}" if k else "crank"), f"wheel{k}")
        window.grab()
        studied(qtbot, window)
        window.grab()
        assert session.trying.motion is None and "crank" not in session.document.parts
    assert window.guard.caught == 0


def test_the_slider_tries_a_value_and_leaves_the_document_as_it_is(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    tree = session.document.tree
    window.registry.actions["study-tune"].trigger()
    page = window.studies.pages["tune"]
    page.slider.setValue(600)
    studied(qtbot, window)
    trial = session.trying.motion
    assert trial is not None and session.document.tree is tree
    assert trial.document.parameters["throw"].quantity.magnitude == pytest.approx(16.5)
    window.grab()
    frame = window.canvas.frame
    assert frame.trial.traced.paths.keys() == frame.traced.paths.keys()  # symbols and traces are those of the trial
    pin = frame.trial.world(frame.trial.document.joints["big-end"].b)
    assert abs(pin - frame.world(frame.document.joints["big-end"].b)) == pytest.approx(1.5, abs=1e-6)
    QTest.mouseClick(page.leave, LEFT)
    assert session.trying.motion is None and not window.trial_card.isVisible()
    page.slider.setValue(900)
    studied(qtbot, window)
    assert "limit" in page.message.text()
    page.slider.setValue(550)
    studied(qtbot, window)
    QTest.mouseClick(page.take_trial, LEFT)
    studied(qtbot, window)
    assert session.document.parameters["throw"].quantity.magnitude == pytest.approx(15.75)


def test_a_sweep_shows_what_passes_and_a_cell_is_taken(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    window.registry.actions["study-sweep"].trigger()
    page = window.studies.pages["sweep"]
    page.one_range.setText("13 : 17 : 5")
    QTest.keyClick(page.one_range, ENTER)
    studied(qtbot, window)
    assert page.map.states == ["fails", "fails", "open", "open", "open"]  # clearances, which fail, were not judged
    assert "2 fail; 3 pass all checks but 2 of clearances, not judged" in page.message.text()
    page.clearance.setChecked(True)
    page.one_range.setText("9.2 : 15 : 3")
    QTest.keyClick(page.one_range, ENTER)
    studied(qtbot, window)
    assert "passes" not in page.map.states
    page.clearance.setChecked(False)
    page.one_range.setText("13 : 17 : 5")
    QTest.keyClick(page.one_range, ENTER)
    studied(qtbot, window)
    QTest.mouseClick(page.map, LEFT, pos=page.map.cell(3).center().toPoint())
    studied(qtbot, window)
    assert session.trying.motion is not None and "throw = 16" in page.message.text()
    QTest.mouseClick(page.use, LEFT)
    studied(qtbot, window)
    assert session.document.tree["parameters"]["throw"]["value"] == "16.0 mm"
    heads, rows = page.map.as_table()
    assert heads == ["throw", "outcome"] and [row[0] for row in rows] == [13, 14, 15, 16, 17]
    page.one_range.setText("13 : 17")
    QTest.keyClick(page.one_range, ENTER)
    assert "from, to and how many" in page.message.text()


def test_tolerances_are_given_and_built(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    window.registry.actions["study-tolerances"].trigger()
    page = window.studies.pages["tolerances"]
    assert not page.run.isEnabled()
    page.count.setValue(40)
    page.by.setFocus()
    QTest.keyClicks(page.by, "0.2 mm")
    QTest.keyClick(page.by, ENTER)  # it is written down first, then built with
    studied(qtbot, window)
    assert session.document.tree["parameters"]["throw"]["tolerance"] == "0.2 mm"
    assert page.found.document.parameters["throw"].tolerance.by == pytest.approx(0.2) and page.of is session.document
    assert page.table.isEnabled() and page.old.isHidden()
    session.edit(("parameters", "throw", "value"), "16 mm", "Change throw")
    studied(qtbot, window)
    qtbot.waitUntil(lambda: not page.table.isEnabled() and page.old.isVisible())  # it is of before the change
    QTest.mouseClick(page.old, LEFT)
    studied(qtbot, window)
    assert page.table.isEnabled() and page.old.isHidden()
    session.undo()
    studied(qtbot, window)
    qtbot.waitUntil(page.old.isVisible)
    QTest.mouseClick(page.run, LEFT)
    studied(qtbot, window)
    assert page.table.item(0, 0).text() == "stroke" and page.bars.counts
    assert "40 builds of seed 1" in page.message.text()
    page.by.setFocus()
    page.by.clear()
    QTest.keyClick(page.by, ENTER)
    studied(qtbot, window)
    assert "tolerance" not in session.document.tree["parameters"]["throw"]


def test_free_travel_is_found_and_made_the_limits(qtbot, window):
    session = opened(qtbot, window, "transfer-arm")
    session.selection.select("joints.elbow")
    QTest.qWait(50)
    QTest.mouseClick(button(window.properties, "Find its free travel"), LEFT)
    studied(qtbot, window)
    travel = session.trying.travel
    assert travel.low.reason == "contact" and travel.high.reason in ("contact", "full turn")
    window.grab()
    QTest.mouseClick(button(window.properties, "Make these the limits"), LEFT)
    studied(qtbot, window)
    limits = session.document.joints["elbow"].limits
    assert limits.min == pytest.approx(travel.low.value, abs=1e-6)


def test_the_end_of_a_limit_is_dragged_on_the_bench(qtbot, window):
    session = opened(qtbot, window, "transfer-arm")
    session.selection.select("joints.shoulder")
    settle(qtbot, window)
    window.grab()
    limits = window.canvas.limits
    start = limits.ends["max"]
    joint = session.document.joints["shoulder"]
    end = limits._spot(joint, True, math.radians(150))
    dragged(window.canvas, start, end)
    settle(qtbot, window)
    assert math.degrees(session.document.joints["shoulder"].limits.max) == pytest.approx(150, abs=1.5)
    assert session.editor.undo_stack[-1].text == "Limit shoulder"
    window.grab()
    QTest.mousePress(window.canvas, LEFT, pos=limits.ends["max"].toPoint())
    QTest.mouseMove(window.canvas, limits._spot(joint, True, math.radians(90)).toPoint())
    QTest.keyClick(window.canvas, Qt.Key.Key_Escape)
    QTest.mouseRelease(window.canvas, LEFT)
    assert math.degrees(session.document.joints["shoulder"].limits.max) == pytest.approx(150, abs=1.5)


def test_limits_that_leave_the_start_out_offer_to_widen_or_to_move(qtbot, window):
    session = opened(qtbot, window, "transfer-arm")
    session.selection.select("joints.shoulder")
    session.edit(("joints", "shoulder", "limits", "max"), 90, "x")
    studied(qtbot, window)
    assert session.motion.stop.t == 0.0
    button(window.properties, "Start at the limit instead")
    QTest.mouseClick(button(window.properties, "Widen the limit to hold it"), LEFT)
    studied(qtbot, window)
    assert session.document.tree["joints"]["shoulder"]["limits"]["max"] == 100
    assert session.motion.stop is None


def test_a_bar_of_the_timing_is_dragged_and_made_longer(qtbot, window):
    session = opened(qtbot, window, "transfer-arm")
    window.registry.actions["timing"].trigger()
    settle(qtbot, window)
    chart = window.timing.chart
    begin, end = chart.extent("reach")
    box = chart.bar("reach")
    dragged(chart, box.center(), QPointF(box.center().x() + chart.across(0.3) - chart.across(0.0), box.center().y()))
    studied(qtbot, window)
    assert chart.extent("reach") == pytest.approx((begin + 0.3, end + 0.3), abs=0.03)
    box = chart.bar("lift")
    dragged(chart, QPointF(box.right() - 2, box.center().y()), QPointF(chart.across(1.0) - 2, box.center().y()))
    studied(qtbot, window)
    assert session.document.drivers["lift"].duration == pytest.approx(1.0, abs=0.03)
    QTest.mouseClick(window.timing.row, LEFT)
    studied(qtbot, window)
    assert session.document.drivers["reach"].after == "lift" and session.document.drivers["reach"].at == 0.0
    QTest.mouseClick(window.timing.together, LEFT)
    studied(qtbot, window)
    assert chart.extent("reach")[0] == 0.0
    session.apply([Set(("parameters", "pause"), "0.3 s"), Set(("drivers", "reach", "at"), "2*pause")], "Wait")
    studied(qtbot, window)
    QTest.mouseClick(window.timing.row, LEFT)
    assert window.timing.line.text().startswith("This would drop: reach begins at 2*pause")
    assert session.document.tree["drivers"]["reach"]["at"] == "2*pause"
    QTest.mouseClick(window.timing.row, LEFT)
    studied(qtbot, window)
    assert session.document.drivers["reach"].after == "lift" and "at" not in session.document.tree["drivers"]["reach"]
    session.edit(("drivers", "reach", "at"), "2*pause", "Wait after it")
    studied(qtbot, window)
    QTest.mouseClick(window.timing.row, LEFT)  # it waits after it already: that stays
    studied(qtbot, window)
    assert session.document.tree["drivers"]["reach"]["at"] == "2*pause"
    before = session.document.tree
    box = chart.bar("level")
    dragged(chart, box.center(), box.center() + QPointF(60, 0))
    assert session.document.tree is before  # one that follows has no time of its own


def test_a_run_is_pinned_beneath_the_next(qtbot, window):
    session = opened(qtbot, window, "quick-return")
    assert [track.curve.name for track in window.timeline.tracks[:2]] == ["slide", "slide velocity"]
    window.registry.actions["pin"].trigger()
    session.edit(("parameters", "crank", "value"), "20 mm", "x")
    studied(qtbot, window)
    track = window.timeline.tracks[0]
    x, y = track.plot.before
    assert len(x) > 20 and max(y) > track.curve.high + 10
    window.registry.actions["pin"].trigger()
    QTest.qWait(50)
    assert not len(track.plot.before[0])


def test_a_track_is_chosen_moved_and_saved(qtbot, window, tmp_path, monkeypatch):
    session = opened(qtbot, window, "sewing-head")
    shown = len(window.timeline.tracks)
    session.selection.select("joints.ram")
    QTest.qWait(60)
    QTest.keyClick(window, Qt.Key.Key_Y)
    chosen(window, "Velocity")
    studied(qtbot, window)
    names = list(session.document.tracks)
    assert names[-1] == "ram-velocity" and len(names) == shown + 1
    assert window.timeline.tracks[-1].curve.name == "ram velocity"
    window.registry.actions["track-up"].trigger()
    studied(qtbot, window)
    assert list(session.document.tracks)[-2] == "ram-velocity"
    window.registry.actions["track-taller"].trigger()
    studied(qtbot, window)
    assert session.document.tracks["ram-velocity"].height == 70
    out = tmp_path / "tracks.csv"
    monkeypatch.setattr(window.asking, "new_file", lambda *_: out)
    window.registry.actions["save-tracks"].trigger()
    assert out.read_text().splitlines()[0].startswith("time,") and "ram velocity (mm/s)" in out.read_text()
    window.registry.actions["delete"].trigger()
    studied(qtbot, window)
    assert "ram-velocity" not in session.document.tracks
    window.timeline.zoom.about(0.5, 0.25)
    assert (window.timeline.zoom.low, window.timeline.zoom.high) == pytest.approx((0.375, 0.625))


def chosen(window, text):
    """Takes a line of the list that is open."""
    QTest.keyClicks(window.palette_box.field, text)
    QTest.keyClick(window.palette_box.field, Qt.Key.Key_Return)


def test_a_check_is_made_of_what_is_selected(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    session.selection.select("traces.eye")
    if session.selection.current()[0] != "traces":
        session.selection.select(f"traces.{next(iter(session.document.traces))}")
    QTest.qWait(60)
    QTest.keyClick(window, Qt.Key.Key_Y, Qt.KeyboardModifier.ShiftModifier)
    box = window.palette_box
    speed = next(row for row in range(box.list.count()) if box.list.item(row).text().startswith("Speed"))
    assert "mm/s" in box.list.item(speed).text()  # the value now
    chosen(window, "Speed")
    studied(qtbot, window)
    kind, name = session.selection.current()
    assert kind == "checks" and session.document.checks[name].measure == "speed"
    assert session.findings.verdicts[name].margin == pytest.approx(0.0, abs=1e-3)


def test_a_trial_is_gone_back_to_and_the_log_is_saved(qtbot, window, tmp_path):
    session = opened(qtbot, window, "sewing-head")
    for value in ("16 mm", "14 mm"):
        session.edit(("parameters", "throw", "value"), value, "x")
        studied(qtbot, window)
    window.registry.actions["study-trials"].trigger()
    page = window.studies.pages["trials"]
    settle(qtbot, window)
    assert page.table.rowCount() == 2 and "stroke" in page.table.item(1, 5).text()
    page.table.setCurrentCell(0, 0)
    QTest.mouseClick(page.star, LEFT)
    assert session.log.rows[0]["star"] is True
    page.table.item(0, 6).setText("the one to keep")
    QTest.mouseClick(page.back, LEFT)
    studied(qtbot, window)
    assert session.document.tree["parameters"]["throw"]["value"] == "16 mm"
    assert page.table.rowCount() == 3
    QTest.mouseClick(page.before, LEFT)
    studied(qtbot, window)
    assert session.document.tree["parameters"]["throw"]["value"] == "15 mm"
    path = tmp_path / "kept.anakinema"
    assert session.save(path) and not session.modified
    tree = json.loads(path.read_text())
    assert [row.get("note") for row in tree["trials"]] == ["the one to keep", None, None, None]
    read_document(tree)
    assert session.open(path)
    settle(qtbot, window)
    assert len(session.log.rows) == 4


def test_a_table_becomes_a_program_of_the_driver(qtbot, window, tmp_path, monkeypatch):
    session = opened(qtbot, window, "transfer-arm")
    table = tmp_path / "lift.csv"
    table.write_text("time;angle\n0;0\n0.5;-20\n1;-35\n1.5;0\n")
    monkeypatch.setattr(window.asking, "file", lambda *_: table)
    session.selection.select("drivers.lift")
    window.registry.actions["read-table"].trigger()
    studied(qtbot, window)
    assert session.document.drivers["lift"].program.id == "lift"
    found = math.degrees(session.motion.coordinates([1.0])[0, 0])
    assert found == pytest.approx(65.0, abs=1e-6)
    table.write_text("0;0\n0.5;abc\n")
    window.registry.actions["read-table"].trigger()
    assert "line 2" in window.banner.body.text()
    session.selection.select("drivers.lift")
    QTest.qWait(50)
    window.grab()


def test_the_wheel_over_a_driven_joint_turns_the_crank(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    canvas = window.canvas
    at = canvas.pixel(canvas.frame.spot(session.document.joints["main"]))
    QTest.mouseMove(canvas, at.toPoint())
    canvas.hover = "joints.main"
    before, scale = session.time, canvas.scale
    from PySide6.QtGui import QWheelEvent
    from PySide6.QtWidgets import QApplication

    event = QWheelEvent(at, canvas.mapToGlobal(at), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
                        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(canvas, event)
    assert session.time == pytest.approx(before + 3 * session.motion.planned / session.motion.steps)
    assert canvas.scale == scale


def test_a_point_is_traced_and_its_speed_becomes_a_track_from_its_menu(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    canvas, before = window.canvas, len(session.document.traces)
    QTest.keyClick(canvas, Qt.Key.Key_E)
    assert canvas.tool is not None and canvas.tool.name == "trace"
    at = canvas.pixel(canvas.frame.spot(session.document.joints["elbow"])).toPoint()
    QTest.mouseMove(canvas, at)
    QTest.mouseClick(canvas, LEFT, pos=at)
    QTest.mouseClick(canvas, LEFT, pos=QPoint(20, canvas.height() - 60))
    studied(qtbot, window)
    assert len(session.document.traces) == before + 1 and session.selection.current()[0] == "traces"
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    session.selection.select(f"traces.{list(session.document.traces)[-1]}")
    QTest.qWait(60)
    window.offered.open(window.mapToGlobal(QPoint(300, 300)))
    inner = next(action.menu() for action in window.offered.menu.actions() if action.text() == "Show as a track")
    next(action for action in inner.actions() if action.text() == "Speed").trigger()
    window.offered.menu.close()
    studied(qtbot, window)
    assert list(session.document.tracks.values())[-1].measured.kind == "speed"


def test_a_study_is_given_up_and_another_asked(qtbot, window):
    session = opened(qtbot, window, "sewing-head")
    window.registry.actions["study-sweep"].trigger()
    page = window.studies.pages["sweep"]
    page.one_range.setText("10 : 18 : 900")
    QTest.mouseClick(page.run, LEFT)
    qtbot.waitUntil(lambda: page.progress.value() > 0, timeout=patient(20_000))
    QTest.mouseClick(page.stop, LEFT)
    assert page.message.text() == "Given up." and not page.stop.isEnabled() and page.progress.value() == 0
    page.one_range.setText("14 : 16 : 2")
    QTest.mouseClick(page.run, LEFT)
    studied(qtbot, window)
    assert page.map.states == ["fails", "open"] and session.document is not None


def test_a_track_draws_as_many_bounds_as_there_are(qtbot, window):
    session = opened(qtbot, window, "transfer-arm")
    check = {"measure": "coordinate", "joint": "shoulder", "at_least": 55, "at_most": 105}
    session.edit(("checks", "within"), check, "x")
    session.edit(("checks", "closer"), {**check, "at_least": 58, "at_most": 101}, "x")
    studied(qtbot, window)
    track = next(each for each in window.timeline.tracks if each.curve.name == "shoulder")
    assert len(track.curve.bounds) == 6
    near = {value for value, _ in track.plot.bounds}
    assert near <= set(track.curve.bounds) and len(near) >= 2
