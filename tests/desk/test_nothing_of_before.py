"""Nothing on screen is of another document or another moment: whatever was done before, a window shows what a fresh one
shows of the same document at the same moment."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QTableView, QWidget

from anakinema_desk.session import Session
from anakinema_desk.settings import Settings
from anakinema_desk.window import Window
from patience import patient

LEFT, ENTER = Qt.MouseButton.LeftButton, Qt.Key.Key_Return


def settled(qtbot, window):
    """Waits until all is known and drawn."""
    session = window.session
    qtbot.waitUntil(lambda: not session.analysis.busy and not session.study_client.busy, timeout=patient(60_000))
    QTest.qWait(250)


def texts(window: Window) -> list[str]:
    """All that stands in the window, widget by widget in order: labels, buttons, fields, tables."""
    found = []
    for widget in window.findChildren(QWidget):
        if not widget.isVisible():
            continue
        if isinstance(widget, (QLabel, QAbstractButton, QLineEdit)):
            found.append(f"{type(widget).__name__}: {widget.text()}")
        elif isinstance(widget, QComboBox):
            found.append(f"QComboBox: {widget.currentText()}")
        elif isinstance(widget, QTableView) and widget.isEnabled():
            model = widget.model()
            found += [f"cell {row},{column}: {model.index(row, column).data()}" for row in range(model.rowCount())
                      for column in range(model.columnCount())]  # fmt: skip
    return sorted(found)


def fresh(qtbot, name, act):
    """What a new window shows of an example, after what must not matter was left out."""
    session = Session()
    window = Window(session, Settings())
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    session.open_example(name)
    settled(qtbot, window)
    act(window)
    settled(qtbot, window)
    return window, texts(window)


def panel(name):
    def act(window):
        window.registry.actions[name].trigger()

    return act


def strip(window):
    window.session.go(0.37 * window.session.end)


def card(window):
    window.session.selection.select(f"joints.{next(iter(window.session.document.joints))}")
    window.session.go(0.6 * window.session.end)


VIEWS = {
    "strip": strip, "card": card, "gaps": panel("gaps"), "timing": panel("timing"), "parameters": panel("parameters"),
    "tolerances": panel("study-tolerances"), "sweep": panel("study-sweep"), "tune": panel("study-tune"),
    "plot": panel("study-plot"), "trials": panel("study-trials"),
}  # fmt: skip


def busy_life(qtbot, window, act):
    """Another document: played in, changed, studied, resized, its panels shown and hidden."""
    session = window.session
    session.open_example("sewing-head")
    settled(qtbot, window)
    session.go(0.81 * session.end)
    act(window)
    settled(qtbot, window)
    page = window.studies.pages.get(window.studies.chosen) if window.studies.isVisible() else None
    if page is not None and hasattr(page, "count"):
        page.count.setValue(10)
        page.by.setFocus()
        QTest.keyClicks(page.by, "0.1 mm")
        QTest.keyClick(page.by, ENTER)
        settled(qtbot, window)
        page.count.setValue(1000)  # a habit, no number of a document
    elif hasattr(page, "run"):
        if hasattr(page, "wanted"):
            QTest.keyClicks(page.wanted, "31 mm")
        QTest.mouseClick(page.run, LEFT)
        settled(qtbot, window)
    elif hasattr(page, "across"):  # the plot: a choice of its own
        page.across.setCurrentIndex(page.across.count() - 1)
    session.edit(("parameters", "throw", "value"), "13 mm", "Change throw")
    window.resize(1024, 700)
    settled(qtbot, window)
    session.selection.select("joints.ram")
    session.editor.source = None
    session.editor.saved = session.document


@pytest.mark.parametrize("view", VIEWS)
def test_a_window_shows_what_a_fresh_one_shows(qtbot, monkeypatch, view):
    act = VIEWS[view]
    _, expected = fresh(qtbot, "folder-drive", act)
    session = Session()
    window = Window(session, Settings())
    qtbot.addWidget(window)
    monkeypatch.setattr(window.asking, "kept", lambda *_: True)
    window.resize(1280, 800)
    window.show()
    busy_life(qtbot, window, act)
    session.open_example("folder-drive")
    window.resize(1280, 800)
    settled(qtbot, window)
    session.selection.select("")
    if act in (strip, card):
        act(window)
    elif not window.studies.isVisible() or view not in ("tolerances", "sweep", "tune"):
        session.go(0.0)
    settled(qtbot, window)
    assert texts(window) == expected
