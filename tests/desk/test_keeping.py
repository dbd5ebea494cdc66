"""Unsaved work outlives the program: copies are kept, offered at the next start, and gone when the work is safe."""

import errno
import json
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
from patience import patient
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
        deadline = time.monotonic() + patient(60)
        while not list(kept.glob("*.json")) and time.monotonic() < deadline:
            time.sleep(0.05)
        program.send_signal(signal.SIGKILL)
    window.files.keeper.folder = kept
    left = window.files.keeper.left()
    assert len(left) == 1 and left[0].path == file and left[0].title == "Half done"
    asked = []

    def answer(box):
        asked.append(box.text())
        opening = next(button for button in box.buttons() if button.text() == "Open it")
        box.clickedButton = lambda: opening
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    window.files.offer_left()
    settle(qtbot, window)
    assert asked[0].startswith("head.anakinema: the program ended before this was saved")
    assert window.session.document.title == "Half done" and window.session.path == file and window.session.modified
    assert project.load(file)[0].title != "Half done"
    assert list(kept.glob("*.anakinema")) == [window.files.keeper.copy]
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
    qtbot.waitUntil(keeper.copy.exists, timeout=patient(5000))  # by itself, when the hand rests
    editor.new()
    assert not keeper.copy.exists()


def test_a_damaged_copy_is_told_and_stays(window, tmp_path):
    kept = tmp_path / "kept"
    kept.mkdir()
    (kept / "999999999.anakinema").write_text("{", encoding="utf-8")
    window.files.keeper.folder = kept
    (left,) = window.files.keeper.left()
    window.files.restore_left(left)
    assert window.banner.isVisible() and left.copy.exists() and window.session.document.title
    window.files.keeper.folder = left.copy  # a folder that can't be one: nothing is disturbed
    said = []
    window.files.keeper.unkept.connect(said.append)
    assert not window.session.edit(("title",), "y", "Retitle")
    window.files.keeper.keep()
    window.files.keeper.keep()
    assert len(said) == 1 and str(window.files.keeper.folder) in said[0] and "save often" in said[0]


def keeper_of(folder, title=""):
    """A keeper, as of a program of its own, with work of a title unsaved."""
    editor = Editor()
    made = Keeper(editor, folder)
    editor.new()
    if title:
        editor.apply([Set(["title"], title)], "Retitle")
        made.keep()
    return made


def ended(keeper):
    """What the system does when a program ends however it does: its locks go."""
    for handle in keeper._locks.values():
        os.close(handle)
    keeper._locks = {}


def test_each_program_keeps_its_own_and_no_copy_is_offered_twice_or_lost(qtbot, tmp_path):
    """Two programs of one number, as in containers that share a home: neither takes the other's work for its own."""
    one, two = keeper_of(tmp_path, "one"), keeper_of(tmp_path, "two")
    third = keeper_of(tmp_path)
    assert one.left() == two.left() == third.left() == []  # both run
    ended(one)
    third.clear()  # it has kept nothing, and takes nothing away
    (offered,) = third.left()
    assert offered.title == "one" and two.left() == []  # while it is offered, nobody else offers it
    ended(third)
    ended(two)
    fourth = keeper_of(tmp_path)
    assert {left.title for left in fourth.left()} == {"one", "two"}
    fourth.restore(next(left for left in fourth.left() if left.title == "two"))
    assert fourth.editor.document.title == "two" and fourth.editor.modified
    assert sorted(left.title for left in fourth.left()) == ["one"] and fourth.copy.exists()


@pytest.mark.parametrize(
    ("changed", "offered"),
    [({}, False), ({"since": "1"}, True), ({"number": "4194999"}, True), ({"boot": "before"}, True),
     ({"host": "another"}, False), ({"host": "another", "boot": "before"}, False), (None, False),
     ({"number": 7}, False)],
)  # fmt: skip
def test_where_no_lock_can_be_had_a_copy_is_offered_when_its_process_has_ended(
    qtbot, tmp_path, monkeypatch, changed, offered
):
    def none(*_):
        raise OSError(errno.ENOLCK, "No locks available")

    monkeypatch.setattr("fcntl.flock", none)
    one = keeper_of(tmp_path, "one")
    note = one.copy.with_suffix(".json")
    told = json.loads(note.read_text())
    told["of"] = None if changed is None else {**told["of"], **changed}
    note.write_text(json.dumps(told))
    assert [left.title for left in keeper_of(tmp_path).left()] == ["one"] * offered
    assert one.copy.exists()


def test_whatever_lies_in_the_folder_what_was_kept_is_offered(qtbot, tmp_path):
    kept = keeper_of(tmp_path, "kept")
    ended(kept)
    (tmp_path / "dangling.anakinema").symlink_to(tmp_path / "nowhere")
    (tmp_path / "circle.anakinema").symlink_to(tmp_path / "circle.anakinema")
    (tmp_path / "folder.anakinema").mkdir()
    os.mkfifo(tmp_path / "pipe.anakinema")
    os.mkfifo(kept.copy.with_suffix(".json.pipe"))
    (tmp_path / "note.anakinema").write_text("{}")
    os.mkfifo(tmp_path / "note.json")
    (tmp_path / "deep.anakinema").write_text("{}")
    (tmp_path / "deep.json").write_text("[" * 50_000)
    before = {path.name for path in tmp_path.iterdir()}
    found = keeper_of(tmp_path).left()
    assert {left.title for left in found} == {"kept", ""} and len(found) == 3
    assert before <= {path.name for path in tmp_path.iterdir()}
