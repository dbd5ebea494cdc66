"""Whatever a document, a drawing or a file's name holds is shown letter by letter; nothing that it names is fetched."""

import json
import os

import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QHelpEvent
from PySide6.QtWidgets import QApplication, QLabel, QTableView, QToolTip, QTreeWidget, QWidget

from anakinema.formats import project
from anakinema_desk.theme.labels import Label, tip, words
from windows import settle


@pytest.fixture
def pipe(tmp_path):
    """A pipe that nobody writes into: who opens it to read waits for ever."""
    path = tmp_path / "pipe.png"
    os.mkfifo(path)
    return path


def test_markup_from_a_document_is_read_nowhere(qtbot, window, pipe):
    """In notes, labels, titles, reasons and expressions; in labels, tooltips of widgets, trees and tables."""
    hostile = f"<img src='{pipe}'> <b>bold</b> & more"
    tree = json.loads(project.dumps(project.demo()[0]))
    tree["title"] = hostile
    for part in tree["parts"].values():
        part |= {"note": hostile, "label": hostile}
    tree["parameters"]["throw"] = {"value": "15 mm", "note": hostile}
    for check in tree["checks"].values():
        check["note"] = hostile
    tree["pairs"] = {"one": {"parts": ["rod", "frame"], "ignore": hostile}}
    window.session.editor.begin(*project.loads(json.dumps(tree).encode()), None)
    settle(qtbot, window)
    for place in ("parts.rod", "checks.gap" if "checks.gap" in tree["checks"] else "checks.stroke", "joints.main", ""):
        window.session.selection.select(place)
        QApplication.processEvents()
        for panel in ("gaps", "parameters"):
            window.registry.actions[panel].trigger()
            settle(qtbot, window)
            hovered(window)
    for label in window.findChildren(QLabel):
        if label.objectName() == "qtooltip_label":  # that of Qt's own: it gets nothing unescaped
            continue
        assert label.textFormat() is Qt.TextFormat.PlainText or not label.text(), label.text()
    assert "<img" in "".join(label.text() for label in window.findChildren(Label))  # and it is shown as it is


def hovered(window):
    """Asks for the tooltip of everything that is there, as a hand that rests on it would."""
    for widget in window.findChildren(QWidget):
        if not widget.isVisible():
            continue
        spots = [widget.rect().center()]
        if isinstance(widget.parent(), QTreeWidget | QTableView):
            spots += [QPoint(x, y) for x in range(4, widget.width(), 60) for y in range(4, widget.height(), 14)]
        for spot in spots:
            QApplication.sendEvent(widget, QHelpEvent(QEvent.Type.ToolTip, spot, widget.mapToGlobal(spot)))
            assert "<img" not in QToolTip.text()
            QToolTip.hideText()


@pytest.mark.parametrize("text", ["<b>bold</b>", "a < b and c > d", "3 < 4", "<img src='x'>\nnext", "plain & simple"])
def test_a_tooltip_shows_every_letter(qtbot, text):
    label = QLabel(tip(text))  # as the one that Qt shows tips in
    qtbot.addWidget(label)
    shown = label.text() if not label.text().startswith("<qt>") else plain(label.text())
    assert " ".join(shown.split()) == " ".join(text.split())
    assert words("nuts & bolts") == "nuts && bolts"


def plain(rich):
    from PySide6.QtGui import QTextDocument

    document = QTextDocument()
    document.setHtml(rich)
    return document.toPlainText()
