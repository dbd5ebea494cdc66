"""Hands for the tests of the window: waiting, typing, clicking."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QTreeWidgetItemIterator

from patience import patient

ENTER = Qt.Key.Key_Return


def leave(window):
    """Nothing is asked about when a test's window is closed."""
    window.session.stop()
    window.session.editor.source = None


def settle(qtbot, window):
    """Waits until the analysis of the document is in the views, and they in their theme."""
    qtbot.waitUntil(lambda: not window.session.analysis.busy and not window.dressing.busy, timeout=patient(60_000))
    QApplication.processEvents()


def retype(field: QLineEdit, text: str, end=ENTER):
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, end)


def failing(window) -> list[str]:
    return [verdict.check.id for verdict in window.session.findings.failed]


def line_of(window, place: str):
    walk = QTreeWidgetItemIterator(window.model_tree)
    while walk.value():
        if walk.value().data(0, Qt.ItemDataRole.UserRole) == place:
            return walk.value()
        walk += 1
    raise AssertionError(f"no line for {place}")


def click_line(window, place: str):
    item = line_of(window, place)
    window.model_tree.scrollToItem(item)
    spot = window.model_tree.visualItemRect(item).center()
    QTest.mouseClick(window.model_tree.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    QApplication.processEvents()  # the card is made a moment later
