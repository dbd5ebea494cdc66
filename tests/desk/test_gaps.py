"""The table of clearances and the hatched spans of the strip, driven with mouse and keyboard."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from anakinema_desk.panels.gaps import IGNORED, LEAST, MARGIN, PAIR, STATE, WANTED
from windows import settle


def shown(window, row: int, column: int) -> str:
    return window.gaps.rows.index(row, column).data()


def spot(window, row: int, column: int):
    return window.gaps.table.visualRect(window.gaps.rows.index(row, column)).center()


def typed(qtbot, window, row: int, column: int, text: str) -> None:
    """Double-clicks a cell, types over what stands there, and presses Enter."""
    table = window.gaps.table
    at = spot(window, row, column)
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseDClick(table.viewport(), Qt.MouseButton.LeftButton, pos=at)
    field = QApplication.focusWidget()
    field.selectAll()
    QTest.keyClick(field, Qt.Key.Key_Delete)
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    QApplication.processEvents()  # the table takes what was typed from there
    settle(qtbot, window)


@pytest.fixture
def table(qtbot, window):
    QTest.mouseClick(window.transport.gaps, Qt.MouseButton.LeftButton)
    assert window.gaps.isVisible() and not window.timeline.isVisible()
    return window


def test_the_table_leads_to_the_worst_position(table):
    session = table.session
    assert [shown(table, row, PAIR) for row in range(3)] == ["rod – frame", "needle-bar – crank", "crank – rocker"]
    assert shown(table, 0, LEAST) == "1.734 mm" and shown(table, 0, MARGIN) == "−0.266 mm"
    assert all(shown(table, row, STATE) == "clear, proven" for row in range(3))
    for row in (1, 0):
        QTest.mouseClick(table.gaps.table.viewport(), Qt.MouseButton.LeftButton, pos=spot(table, row, PAIR))
        assert session.time == session.findings.gaps[row].t
    assert "3 pairs, 3 proven" in table.gaps.line.text()


def test_a_wanted_gap_becomes_a_check_and_goes_again(qtbot, table):
    session = table.session
    typed(qtbot, table, 2, WANTED, "30 mm")
    assert session.document.checks["gap-1"].parts == ("crank", "rocker")
    assert shown(table, 0, PAIR) == "crank – rocker"  # the least margin comes first
    assert shown(table, 0, MARGIN).startswith("−3.8") and table.verdict.checks.text() == "2 of 7 checks fail"
    typed(qtbot, table, 0, WANTED, "3 parsec")
    assert session.document.checks["gap-1"].at_least == 30 and "parsec" in table.banner.body.text()
    typed(qtbot, table, 0, WANTED, "")
    assert "gap-1" not in session.document.checks


def test_a_pair_is_ignored_for_a_reason_that_is_kept(qtbot, table, tmp_path):
    session = table.session
    typed(qtbot, table, 2, IGNORED, "a guard stands between them")
    assert shown(table, 2, STATE) == "not watched" and "1 not watched" in table.gaps.line.text()
    assert len(session.findings.approaches) == 2
    assert session.save(tmp_path / "kept.anakinema") and session.open(tmp_path / "kept.anakinema")
    settle(qtbot, table)
    assert shown(table, 2, IGNORED) == "a guard stands between them"
    typed(qtbot, table, 2, IGNORED, "")
    assert len(session.findings.approaches) == 3 and session.document.pairs == {}


def test_spans_with_less_than_is_wanted_are_hatched(window):
    track = next(track for track in window.timeline.tracks if track.curve.parts == ("rod", "frame"))
    assert track.plot.spans == list(track.curve.short)
    (start, stop), = track.curve.short
    assert start < track.curve.low_t < stop
    for t in (start, stop):
        assert track.curve.near(t) == pytest.approx(2.0, abs=0.05)
    assert all(not track.plot.spans for track in window.timeline.tracks if track.curve.parts is None)
