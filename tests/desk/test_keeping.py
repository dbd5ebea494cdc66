"""Unsaved work outlives the program: copies are kept, offered at the next start, and gone when the work is safe."""

import os
import signal
import subprocess
import sys
import time

import pytest
from PySide6.QtWidgets import QMessageBox

from anakinema.document import Set
from anakinema.formats import project
from anakinema_desk.state.editor import Editor
from anakinema_desk.state.keeper import Keeper
from windows import settle

WORK = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from anakinema_desk.application import make_application, open_window
application = make_application()
window = open_window(Path(sys.argv[1]), False)
def work():
    window.session.edit(("title",), "Half done", "Retitle")
    window.session.edit(("parameters", "throw", "value"), "16 mm", "Lengthen")
QTimer.singleShot(200, work)
application.exec()
"""


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "head.anakinema"
    project.save(path, project.demo()[0])
    return path


def test_work_outlives_a_program_that_is_killed(qtbot, window, file, tmp_path, monkeypatch):
    kept = tmp_path / "settings" / "kept"
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "ANAKINEMA_CONFIG": str(kept.parent)}
    with subprocess.Popen([sys.executable, "-c", WORK, str(file)], env=environment) as program:
        deadline = time.monotonic() + 60
        while not list(kept.glob("*.json")) and time.monotonic() < deadline:
            time.sleep(0.05)
        program.send_signal(signal.SIGKILL)
    window.keeper.folder = kept
    left = window.keeper.left()
    assert len(left) == 1 and left[0].path == file and left[0].title == "Half done"
    asked = []

    def answer(box):
        asked.append(box.text())
        opening = next(button for button in box.buttons() if button.text() == "Open it")
        box.clickedButton = lambda: opening
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    window.keeper.copy = kept / f"{os.getpid()}.anakinema"
    window.offer_left()
    settle(qtbot, window)
    assert asked[0].startswith("head.anakinema: the program ended before this was saved")
    assert window.session.document.title == "Half done" and window.session.path == file and window.session.modified
    assert project.load(file)[0].title != "Half done"
    assert [copy.stem for copy in kept.glob("*.anakinema")] == [str(os.getpid())]
    assert window.session.save(file) and not list(kept.iterdir())


def test_copies_come_and_go_with_what_is_unsaved(qtbot, file, tmp_path):
    editor = Editor()
    keeper = Keeper(editor, tmp_path / "kept")
    editor.open(file)
    keeper.keep()
    assert not keeper.copy.exists()
    editor.apply([Set(["title"], "x")], "Retitle")
    keeper.keep()
    assert project.load(keeper.copy)[0].title == "x" and keeper.left() == []  # this program still runs
    editor.undo()
    keeper.keep()
    assert not keeper.copy.exists()
    editor.redo()
    qtbot.waitUntil(keeper.copy.exists, timeout=5000)  # by itself, when the hand rests
    editor.new()
    assert not keeper.copy.exists()


def test_a_damaged_copy_is_told_and_stays(window, tmp_path):
    kept = tmp_path / "kept"
    kept.mkdir()
    (kept / "999999999.anakinema").write_text("{", encoding="utf-8")
    (kept / "notes.anakinema").write_text("{", encoding="utf-8")
    window.keeper.folder = kept
    (left,) = window.keeper.left()
    window.restore_left(left)
    assert window.banner.isVisible() and left.copy.exists() and window.session.document.title
    window.keeper.folder = tmp_path / "kept" / "notes.anakinema"  # a folder that can't be one: nothing is disturbed
    window.keeper.copy = window.keeper.folder / "1.anakinema"
    assert not window.session.edit(("title",), "y", "Retitle")
    window.keeper.keep()
