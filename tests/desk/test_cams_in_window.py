"""Cams in the window: made with two clicks, shaped on the desk, bettered by a proposal, written for the workshop."""

import cmath
import json
import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from anakinema.document import read_document
from cams import cam
from hands import KEY
from patience import patient
from windows import retype, settle

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def opened(qtbot, window, tmp_path):
    def open_(tree):
        path = tmp_path / "cam.anakinema"
        path.write_text(json.dumps(tree), encoding="utf-8")
        window.session.open(path)
        settle(qtbot, window)
        window.canvas.fit()
        return window.session

    return open_


@pytest.fixture
def desk(window, qtbot):
    """The cam desk, shown by its keys."""

    def show():
        QTest.keyClick(window, Qt.Key.Key_7, Qt.KeyboardModifier.ControlModifier)
        qtbot.waitUntil(lambda: window.cam_desk.isVisible() and window.cam_desk.model.cam is not None)
        qtbot.wait(30)
        return window.cam_desk

    return show


def click(window, z):
    spot = window.canvas.to_screen(QPointF(z.real, z.imag)).toPoint()
    QTest.mouseMove(window.canvas, spot)
    QTest.mouseClick(window.canvas, LEFT, pos=spot)


def dragged(chart, start, end):
    """Drags over the chart, as a hand does."""
    one, two = (QPointF(*place).toPoint() if isinstance(place, tuple) else place.toPoint() for place in (start, end))
    QTest.mousePress(chart, LEFT, pos=one)
    for share in (0.1, 0.4, 0.7, 1.0):
        QTest.mouseMove(chart, QPoint(round(one.x() + (two.x() - one.x()) * share),
                                      round(one.y() + (two.y() - one.y()) * share)))  # fmt: skip
    yield
    QTest.mouseRelease(chart, LEFT, pos=two)
    yield


@pytest.mark.parametrize("swings", [False, True])
def test_a_shaft_and_a_follower_become_a_cam_with_two_clicks(qtbot, window, opened, swings):
    """With a first program that lifts the follower away from the shaft, a roller, and the outline on the part."""
    tree = cam(swings=swings, at=40)
    del tree["joints"]["ride"], tree["programs"]
    tree["parts"]["cam"]["shapes"] = [{"kind": "disc", "center": "C", "diameter": 20}]
    tree["parts"]["foot"]["shapes"] = [{"kind": "rectangle", "center": "F", "size": [14, 8]}]
    session = opened(tree)
    QTest.keyClick(window.canvas, KEY.Key_C, Qt.KeyboardModifier.ShiftModifier)
    click(window, 5 + 5j)
    assert window.canvas.tool.shaft == "turn" and "is to move" in window.canvas.tool.hint
    click(window, (10 + 0j if swings else 40j) + 3)
    settle(qtbot, window)
    coupling = session.document.couplings["cam"]
    assert coupling.cam is not None and coupling.follower.kind == "roller" and session.selection.place == "joints.cam"
    motion = session.findings.motion
    at = motion.positions(np.linspace(0, motion.path.t1, 50))
    body = motion.system.body("foot")
    tip = [complex(q[body, 0], q[body, 1]) + (-50 * cmath.exp(1j * q[body, 2]) if swings else 0) for q in at]
    assert max(map(abs, tip)) > abs(tip[0]) + 2  # away from the shaft
    assert session.findings.cams["cam"].undercut == ()
    session.undo()
    settle(qtbot, window)
    assert not session.document.couplings


def test_a_click_on_what_is_not_guided_says_so(qtbot, window, opened):
    tree = cam()
    tree["parts"]["loose"] = {"pose": [40, 0, 0], "shapes": [{"kind": "disc", "center": [0, 0], "diameter": 10}]}
    session = opened(tree)
    said = []
    session.message.connect(said.append)
    QTest.keyClick(window.canvas, KEY.Key_C, Qt.KeyboardModifier.ShiftModifier)
    click(window, 3 + 3j)
    click(window, 40 + 0j)
    assert "is not guided by what carries the shaft" in said[-1]
    QTest.keyClick(window.canvas, KEY.Key_Escape)
    assert window.canvas.tool.shaft == ""


def test_ends_of_segments_are_dragged_along_and_up(qtbot, window, opened, desk):
    session = opened(cam())
    shown = desk()
    chart = shown.chart
    end = chart.spot(0, *chart.ends()[0])
    before = session.document.tree["programs"]["rise"]["segments"]
    hand = dragged(chart, end, end + QPointF(chart.across(0.35) - chart.across(0.0), 2))
    next(hand)
    assert shown.model.held is not None and shown.model.cam != session.document.couplings["ride"].cam
    next(hand)
    settle(qtbot, window)
    after = session.document.tree["programs"]["rise"]["segments"]
    assert after[0] == {"over": "110 deg", "to": "12 mm", "law": "cycloidal"} and after[1] == {"over": "40 deg"}
    assert after[2:] == before[2:]
    end = chart.spot(0, *chart.ends()[0])
    hand = dragged(chart, end, end + QPointF(1, 30))
    next(hand), next(hand)
    settle(qtbot, window)
    lower = session.document.tree["programs"]["rise"]["segments"][0]["to"]
    assert lower.endswith(" mm") and 4 < float(lower.split()[0]) < 11
    session.undo(), session.undo()
    assert session.document.tree["programs"]["rise"]["segments"] == before


def test_an_end_catches_at_that_of_another_cam_of_the_shaft(qtbot, window, opened, desk):
    tree = cam()
    tree["programs"]["late"] = {"segments": [{"over": "113.7 deg"}, {"over": "90 deg", "to": "5 mm", "law": "345"},
                                             {"over": "90 deg", "to": 0, "law": "345"}]}  # fmt: skip
    tree["parts"]["second"] = {"pose": [0, -30, 0], "points": {"F": [0, 0]}}
    tree["joints"]["drop"] = {"type": "prismatic", "a": "frame.W", "b": "second.F", "direction": -90}
    tree["joints"]["other"] = {"type": "cam", "a": "turn", "b": "drop", "program": "late",
                               "follower": {"kind": "knife", "at": "second.F"}}  # fmt: skip
    session = opened(tree)
    session.selection.select("joints.ride")
    chart = desk().chart
    assert chart.model.beside() == ["other"]
    end = chart.spot(0, *chart.ends()[0])
    near = chart.across(math.radians(112.8)) - chart.across(math.radians(90))
    hand = dragged(chart, end, end + QPointF(near, 0))
    next(hand), next(hand)
    settle(qtbot, window)
    assert session.document.tree["programs"]["rise"]["segments"][0]["over"] == "113.7 deg"


def test_segments_are_typed_split_removed_and_closed_by_a_dwell(qtbot, window, opened, desk):
    tree = cam(segments=[{"over": "90 deg", "to": "12 mm", "law": "345"}, {"over": "90 deg", "to": 0, "law": "345"}])
    session = opened(tree)
    shown = desk()

    def button(text):
        (found,) = (one for one in shown.segment.findChildren(QPushButton) if one.text().startswith(text)
                    and one.isVisible())  # fmt: skip
        return found

    QTest.mouseClick(button("Dwell for the other 180"), LEFT)
    settle(qtbot, window)
    qtbot.wait(30)
    assert session.document.tree["programs"]["rise"]["segments"][2] == {"over": "180 deg"}
    QTest.mouseClick(button("Split"), LEFT)
    settle(qtbot, window)
    qtbot.wait(30)
    assert [one["over"] for one in session.document.tree["programs"]["rise"]["segments"][:2]] == ["45 deg", "45 deg"]
    assert session.document.tree["programs"]["rise"]["segments"][0]["to"] == "6 mm"
    QTest.mouseClick(button("Remove"), LEFT)
    settle(qtbot, window)
    qtbot.wait(30)
    assert session.document.tree["programs"]["rise"]["segments"][0] == {"over": "90 deg", "to": "12 mm", "law": "345"}
    fields = [one for one in shown.segment.findChildren(type(shown.fields.itemAt(2).widget())) if one.isVisible()]
    retype(fields[1], "9 mm")
    settle(qtbot, window)
    assert session.document.couplings["ride"].law.extent()[1] == pytest.approx(9)


def test_a_proposal_is_seen_then_taken_and_the_profile_is_written(qtbot, window, opened, desk, tmp_path, monkeypatch):
    steep = [{"over": "60 deg", "to": "24 mm", "law": "cycloidal"}, {"over": "200 deg", "to": 0, "law": "cycloidal"}]
    session = opened(cam(segments=steep))
    shown = desk()
    qtbot.waitUntil(lambda: bool(shown.proposals), timeout=patient(30_000))
    first = shown.proposals[0]
    assert first.title.startswith("Larger") and first.told[0].what == "pressure angle"
    take = next(one for one in shown.findChildren(QPushButton) if one.accessibleName() == f"Take: {first.title}")
    QTest.mouseClick(take, LEFT)
    settle(qtbot, window)
    assert session.document.couplings["ride"].base == pytest.approx(62.5)
    assert "29.9°" in shown.values["pressure"].text()
    path = tmp_path / "cam.dxf"
    monkeypatch.setattr(window.study.asking, "new_file", lambda *_: path)
    QTest.mouseClick(shown.write, LEFT)
    assert path.stat().st_size > 1000
    session.selection.select("joints.ride")
    qtbot.wait(60)
    kind = next(one for one in window.properties.findChildren(QPushButton) if "lowest instead" in one.text())
    QTest.mouseClick(kind, LEFT)
    settle(qtbot, window)
    again = read_document(session.document.tree).couplings["ride"]
    assert again.base is None and again.cam.least_radius() == pytest.approx(62.5)
