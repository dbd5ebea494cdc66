"""What the views read, without any widget: editor, analyst, player, what is shown."""

import gc
import os
import signal
import threading

import numpy as np
import pytest

from anakinema import compiling
from anakinema.document import read_document
from anakinema.formats import project
from anakinema_desk.collecting import Collector
from anakinema_desk.session import Session
from anakinema_desk.state import Analyst, Editor, Player, Shown, Stage
from anakinema_desk.state.shown import carried
from mechanisms import four_bar, slider_crank, turn
from patience import patient

AXES = [("throw", 10.0, 20.0, 300), ("rod", 40.0, 60.0, 300)]
"""Of a sweep that takes longer than anybody waits."""


@pytest.fixture
def session(qtbot):
    made = Session()
    yield made
    made.stop()


def settled(qtbot, session):
    qtbot.waitUntil(lambda: not session.analysis.busy, timeout=patient(60_000))


def test_where_no_process_can_be_had_it_is_told(qtbot, session, monkeypatch):
    def none(_):
        raise OSError(11, "Resource temporarily unavailable")

    with monkeypatch.context() as patch:
        patch.setattr("anakinema_desk.state.worker.engaged", none)
        session.open_demo()
        settled(qtbot, session)
    assert session.analysis.shown.stage is Stage.FAILED and "temporarily unavailable" in session.analysis.faults[0].text
    session.analysis.again()
    settled(qtbot, session)
    assert session.findings is not None


def test_every_edit_is_one_step_back_and_on(qtbot, tmp_path):
    editor, versions = Editor(), []
    editor.begin(*project.demo(), None)
    editor.changed.connect(lambda: versions.append(editor.document))
    first = editor.document
    assert editor.edit(("parameters", "throw", "value"), "16 mm", "a") == ()
    assert editor.edit(("parameters", "throw", "value"), "16 mm", "the same") == () and len(editor.undo_stack) == 1
    assert editor.edit(("parameters", "throw", "value"), "16 mn", "wrong")[0].place.startswith("parameters.throw")
    assert editor.remove(("joints", "ram", "limits", "rest"), "nothing there") == () and len(versions) == 1
    assert editor.remove(("joints", "ram", "limits", "min"), "b") == ()
    editor.undo()
    editor.undo()
    editor.undo()
    assert editor.document is first and not editor.modified and len(editor.redo_stack) == 2
    editor.redo()
    assert editor.modified and editor.document is versions[0]
    editor.save(tmp_path / "x.anakinema")
    assert not editor.modified and not editor.changed_outside(tmp_path / "x.anakinema")
    (tmp_path / "x.anakinema").write_text("{}")
    assert editor.changed_outside(tmp_path / "x.anakinema")


def test_only_the_newest_task_is_told(qtbot):
    analyst, message = Analyst(), []
    analyst.judged.connect(lambda number, findings: message.append((number, findings.document)))
    documents = [read_document(four_bar(40, 120, 80, 100 + k, drivers=turn(40, 400, 36))) for k in range(8)]
    numbers = [analyst.analyse(document) for document in documents]
    qtbot.waitUntil(lambda: not analyst.busy, timeout=patient(60_000))
    qtbot.wait(50)
    assert message == [(numbers[-1], documents[-1])]
    analyst.stop()


def test_cancel_and_stop_end_at_once(qtbot):
    analyst, message, document = Analyst(), [], project.demo()[0]
    analyst.judged.connect(lambda *_: message.append("judged"))
    for _ in range(3):
        with qtbot.waitSignal(analyst.progressed, timeout=patient(30_000)):
            analyst.ask("study", "sweep", document, AXES, [], False, None, None)
        analyst.cancel()
        assert not analyst.busy
        qtbot.waitUntil(lambda: analyst.engage().idle, timeout=patient(2_000))
    analyst.analyse(document)
    qtbot.waitUntil(lambda: message == ["judged"], timeout=patient(60_000))
    analyst.ask("study", "sweep", document, AXES, [], False, None, None)
    process = analyst.engage()
    analyst.stop()
    assert not process.alive  # it was at work: ended at once, not waited for


def test_the_window_outlives_the_process_that_computes(qtbot, session):
    session.open_demo()
    settled(qtbot, session)
    os.kill(session.analyst.engage()._process.pid, signal.SIGSEGV)  # while it has nothing to do: nobody need know
    qtbot.waitUntil(lambda: not session.analyst.engage().alive or session.analyst.engage().idle)
    assert session.analysis.shown.stage is Stage.DONE
    session.edit(("parameters", "throw", "value"), "16 mm", "edit")
    os.kill(session.analyst.engage()._process.pid, signal.SIGSEGV)
    settled(qtbot, session)
    assert session.analysis.shown.stage is Stage.FAILED and "signal 11" in session.analysis.faults[0].text
    session.analysis.again()
    settled(qtbot, session)
    assert session.findings is not None and session.findings.document is session.document


def test_a_mistake_in_the_analysis_is_told_and_the_next_goes_on(qtbot, monkeypatch, session):
    with monkeypatch.context() as patch:
        patch.setattr(session.analyst, "analyse", lambda _: session.analyst.ask("analyse", "no document"))
        session.open_demo()
        settled(qtbot, session)
    assert session.analysis.shown.stage is Stage.FAILED and "mistake of this program" in session.analysis.faults[0].text
    assert set(session.posing.poses()) == set(session.document.parts)
    session.open_demo()
    settled(qtbot, session)
    assert session.findings is not None


def test_findings_are_marked_until_they_are_of_this_version(qtbot, session):
    session.open_demo()
    settled(qtbot, session)
    before = session.findings
    assert session.analysis.shown.fresh and before is not None
    session.edit(("parameters", "throw", "value"), "16 mm", "edit")
    assert session.findings is None and session.analysis.shown.findings is before and not session.analysis.shown.fresh
    assert session.motion is None and session.analysis.shown.busy
    session.analysis.cancel()
    assert session.analysis.shown.stage is Stage.CANCELLED and session.findings is None and not session.analysis.busy
    qtbot.wait(300)
    assert session.analysis.shown.stage is Stage.CANCELLED  # nothing comes after
    session.analysis.again()
    settled(qtbot, session)
    assert session.findings is not None and session.findings is not before
    assert session.motion.document is session.document is session.findings.document


def test_cancelled_at_random_moments_nothing_stale_is_fresh(qtbot, session):
    chance = np.random.default_rng(11)
    session.open_demo()
    for k in range(25):
        session.edit(("parameters", "throw", "value"), f"{14 + k % 3} mm", "edit")
        qtbot.wait(int(chance.integers(0, 60)))
        if chance.random() < 0.5:
            session.analysis.cancel()
        shown = session.analysis.shown
        assert shown.document is session.document
        assert shown.motion is None or shown.motion.document is shown.document
        assert set(session.posing.poses()) == set(session.document.parts)
    session.analysis.again()
    settled(qtbot, session)
    assert session.findings is not None


NEW_THINGS = [
    (("parts", "bare"), {}),
    (("parts", "disc"), {"shapes": [{"kind": "disc", "center": [0, 0], "diameter": 9}], "points": {"O": [0, 0]}}),
    (("joints", "wheels"), {"type": "gear", "a": "main", "b": "pivot", "teeth": [20, 30]}),
    (("joints", "again"), {"type": "revolute", "a": "frame.O", "b": "rod.P"}),
    (("traces", "point"), {"point": "rod.Q"}),
    (("checks", "gap"), {"measure": "clearance", "parts": ["rod", "rocker"], "at_least": 1}),
]


@pytest.mark.parametrize(("place", "value"), NEW_THINGS)
def test_new_things_can_be_shown_before_they_are_judged(qtbot, window, place, value):
    """In the window: everything is painted at once, with the motion of nothing yet known."""
    session = window.session
    session.selection.select(".".join(place))
    faults = session.edit(place, value, "Add")
    assert not faults or place == ("joints", "again")
    session.selection.select(".".join(place))
    for view in (window.canvas, window.model_tree, window.properties, window.timeline, window.verdict):
        assert not view.grab().isNull()
    assert set(session.posing.poses()) == set(session.document.parts)
    settled(qtbot, session)
    window.grab()
    session.undo()
    window.grab()
    settled(qtbot, session)
    assert window.guard.caught == 0


def test_poses_are_carried_over_an_edit():
    document, _ = project.demo()
    before = dict.fromkeys(document.parts, (1.0, 2.0, 3.0))
    after = carried(document, {**before, "gone": (0.0, 0.0, 0.0)})
    assert set(after) == set(document.parts)
    assert after["rod"] == (1.0, 2.0, 3.0) and after["frame"] == document.parts["frame"].pose
    assert not Shown(document).fresh and Shown(document).busy


def test_the_player_stays_within_its_motion(qtbot):
    player = Player()
    player.play()
    assert not player.playing and not player.go(5.0)
    player.last(2.0)
    assert player.go(5.0) and player.time == 2.0
    player.play()
    assert player.playing and player.time == 0.0
    player.last(0.0)
    assert not player.playing and player.time == 0.0


def test_without_a_driver_there_is_nothing_to_play(qtbot, session):
    session.editor.begin(*project.loads(project.dumps(read_document(slider_crank(30, 100, 0)))), None)
    settled(qtbot, session)
    assert session.end == 0.0
    session.play()
    assert not session.playing
    session.step(1)
    session.go(3.0)
    assert session.time == 0.0


def test_garbage_is_collected_on_the_interface_thread_only(qtbot):
    """A widget in a cycle that another thread collects dies behind the event loop's back."""

    class Marked:
        where = ""

        def __del__(self):
            Marked.where = threading.current_thread().name

    def littering():
        one, two = Marked(), []
        one.self, two_ = one, two
        two_.append(two_)
        del one
        for _ in range(200_000):
            [].append([])

    from PySide6.QtCore import QObject

    owner = QObject()
    collector = Collector(owner)
    try:
        thread = threading.Thread(target=littering, name="another")
        thread.start()
        thread.join()
        kept = [[] for _ in range(2000)]
        for _ in range(400):
            kept.append([])
            collector.look()
        gc.collect()
        assert Marked.where == threading.main_thread().name
        assert not gc.isenabled()
    finally:
        owner.deleteLater()
        gc.enable()


def test_the_first_start_says_that_it_compiles_and_how_far_it_is(qtbot, session):
    said, shares = [], []
    session.message.connect(said.append)
    session.analysis.progress_changed.connect(shares.append)
    session.open_demo()
    for share in (0.0, 0.25, 0.1, 1.0):
        session.analyst.compiling.emit(session.analyst.wanted, share)
    assert len(said) == 1 and "are compiled" in said[0] and shares == [0.0, 0.25, 0.25, 0.99]
    settled(qtbot, session)
    assert shares[-1] == 1.0


def test_machine_code_is_counted():
    assert compiling.compiled_share() > 0.5


def test_a_play_head_far_beyond_the_motion_is_drawn_nowhere(qtbot, window):
    """While another motion is being found, its length may be next to nothing, and the head still where it was."""
    plot = window.timeline.tracks[0].plot
    plot.end = 1e-12
    plot.follow(0.5)
    assert not plot.grab().isNull() and window.guard.caught == 0
    assert abs(plot.across(0.5)) < 2**31 and plot.across(plot.end / 2) == pytest.approx(plot.width() / 2)
