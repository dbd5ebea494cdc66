"""Every panel follows the document while its own widgets are in use: keys come and go by keyboard and mouse."""

import json
import math
import sys
from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QLabel, QToolButton, QWidget
from shiboken6 import Shiboken

from anakinema.document.changes import lookup
from anakinema.formats import project
from anakinema.kinematics.masses import holding, mass_of
from anakinema_desk import overrides
from anakinema_desk.panels.fields import TextField
from anakinema_desk.panels.properties.properties import KINDS
from patience import patient
from windows import ENTER, click_line, retype, settle

LEAVING = {
    "Enter": lambda window, field: QTest.keyClick(field, ENTER),
    "Tab": lambda window, field: QTest.keyClick(field, Qt.Key.Key_Tab),
    "Shift+Tab": lambda window, field: QTest.keyClick(field, Qt.Key.Key_Backtab),
    "a click on the bench": lambda window, field: (
        QTest.mouseClick(window.canvas, Qt.MouseButton.LeftButton, pos=QPoint(6, 300))
    ),
    "a click on another line": lambda window, field: click_line(window, "parameters.throw"),
    "Ctrl+D": lambda window, field: QTest.keyClick(window, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier),
}


def typed(window, place: tuple, text: str, leave: str) -> None:
    """Types into the field of a place and leaves it in some way."""
    field = window.properties.fields[".".join(map(str, place))]
    field.setFocus()
    field.selectAll()
    if text:
        QTest.keyClicks(field, text)
    else:
        QTest.keyClick(field, Qt.Key.Key_Delete)
    LEAVING[leave](window, field)
    QApplication.processEvents()


@pytest.mark.parametrize("leave", LEAVING)
def test_a_limit_that_was_not_there_comes_and_goes(qtbot, window, leave):
    place = ("joints", "pivot", "limits", "max")
    session = window.session
    assert lookup(session.document.tree, place) is None
    session.selection.select("joints.pivot")
    typed(window, place, "4000", leave)
    assert lookup(session.document.tree, place) == 4000
    settle(qtbot, window)
    session.selection.select("joints.pivot")
    typed(window, place, "", leave)
    assert lookup(session.document.tree, place) is None
    settle(qtbot, window)
    session.undo()
    session.undo()
    assert not session.modified and window.guard.caught == 0


def test_a_blank_in_an_empty_limit_changes_nothing_and_hinders_no_save(qtbot, window, tmp_path):
    session = window.session
    session.selection.select("joints.pivot")
    for text in (" ", "   "):
        typed(window, ("joints", "pivot", "limits", "max"), text, "Enter")
    assert not session.modified and not session.editor.undo_stack
    typed(window, ("joints", "pivot", "limits", "min"), "-300", "Tab")
    field = window.properties.fields["joints.pivot.limits.max"]
    field.setFocus()
    QTest.keyClicks(field, " ")
    assert session.save(tmp_path / "saved.anakinema")
    assert json.loads((tmp_path / "saved.anakinema").read_text())["joints"]["pivot"]["limits"] == {"min": -300}
    assert window.guard.caught == 0


def optional_places(document) -> list[str]:
    """Everything that can be selected in a document."""
    kinds = ("parameters", "parts", "joints", "drivers", "traces", "checks")
    return ["", *(f"{kind}.{name}" for kind in kinds for name in document.tree.get(kind, {}))]


SENSIBLE = {"zero": "10", "angle": "5", "from": "100", "min": "-5000", "max": "5000", "rest": "1", "rate": "90 deg/s"}


@pytest.mark.parametrize("name", ["sewing-head", "folder-drive", "paper-lift"])
def test_every_optional_key_of_every_kind_comes_and_goes(qtbot, window, name):
    """Through its own field, left by Tab, Enter and a click, cleared again, and by the switches and choices."""
    session = window.session
    session.open_example(name)
    settle(qtbot, window)
    start, tried = session.document, set()
    for selected in optional_places(start):
        session.selection.select(selected)
        for place, field in list(window.properties.fields.items()):
            if not field.optional or (isinstance(field, TextField) and field.place[-1] in tried):
                continue
            before = lookup(session.document.tree, field.place)
            key, path = place.rsplit(".", 1)[-1], field.place
            tried.add(key)
            for leave, text in (("Tab", SENSIBLE.get(key, "3")), ("Enter", ""), ("Shift+Tab", SENSIBLE.get(key, "3"))):
                typed(window, path, text, leave)
                if place not in window.properties.fields:
                    break
            if place in window.properties.fields:
                typed(window, path, "" if before is None else str(before), "Enter")
        for text in [box.text() for box in window.properties.findChildren(QCheckBox)] * 2:  # on, and off again
            box = next(box for box in window.properties.findChildren(QCheckBox) if box.text() == text)
            QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
            QApplication.processEvents()
        for box in window.properties.findChildren(QComboBox):
            box.setFocus()
            QTest.keyClick(box, Qt.Key.Key_Down)
            QTest.keyClick(box, Qt.Key.Key_Up)
    assert {"min", "max", "rest", "zero"} <= tried
    while session.editor.undo_stack:
        session.undo()
    assert project.same(session.document.tree, start.tree)
    settle(qtbot, window)
    assert window.guard.caught == 0 and window.grab().width() == window.width()


def test_suspending_follows_in_every_panel(qtbot, window):
    session = window.session
    click_line(window, "joints.elbow")
    box = window.properties.findChild(QCheckBox)
    QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    settle(qtbot, window)
    assert session.document.joints["elbow"].suspended
    assert "3 degrees of freedom" in window.verdict.mobility.text()
    session.undo()
    settle(qtbot, window)
    assert window.verdict.mobility.text().startswith("1 degree of freedom")


def test_what_is_being_typed_outlives_the_arrival_of_findings(qtbot, window):
    """The card of the document gets new rows when its findings come; what stands half typed in a field stays."""
    session = window.session
    session.selection.select("")
    session.edit(("parameters", "throw", "value"), "14 mm", "edit")
    field = window.properties.fields["parameters.rod.value"]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "61 m")
    session.edit(("checks", "gap"), {"measure": "clearance", "parts": ["rod", "rocker"], "at_least": 1}, "other")
    settle(qtbot, window)
    QTest.keyClicks(QApplication.focusWidget(), "m")
    assert window.properties.fields["parameters.rod.value"].text() == "61 mm"
    QTest.keyClick(QApplication.focusWidget(), ENTER)
    assert session.document.parameters["rod"].quantity.in_units("mm") == 61


@pytest.mark.parametrize(
    ("text", "keys", "after"),
    [
        ("12345678.25", [Qt.Key.Key_Up], "12345679.25"),
        ("12345678.25", [Qt.Key.Key_Down, Qt.Key.Key_Down], "12345676.25"),
        ("0.1 mm", [Qt.Key.Key_Up] * 3, "3.1 mm"),
        ("-0.3", [Qt.Key.Key_Up], "0.7"),
    ],
)
def test_nudging_keeps_all_digits(qtbot, window, text, keys, after):
    session = window.session
    session.edit(("parameters", "free"), {"value": "1"}, "add")
    session.selection.select("parameters.free")
    field = window.properties.fields["parameters.free.value"]
    retype(field, text)
    for key in keys:
        QTest.keyClick(window.properties.fields["parameters.free.value"], key)
    assert window.properties.fields["parameters.free.value"].text() == after


def test_rates_say_their_unit(qtbot, window):
    session = window.session
    session.edit(("parameters", "speed"), {"value": "60 rpm"}, "add")
    session.edit(("parameters", "feed"), {"value": "2 m/s"}, "add")
    session.selection.select("parameters.speed")
    assert window.properties.fields["parameters.speed.value"].value_label.text() == "= 360 °/s"
    session.selection.select("parameters.feed")
    assert window.properties.fields["parameters.feed.value"].value_label.text() == "= 2000 mm/s"


def test_a_hover_label_goes_with_its_part(qtbot, window):
    canvas, session = window.canvas, window.session
    tag = {"shapes": [{"kind": "disc", "center": [0, 0], "diameter": 30}], "pose": [60, 0, 0]}
    session.edit(("parts", "tag"), tag, "add")
    settle(qtbot, window)
    QTest.mouseMove(canvas, canvas.to_screen(QPointF(60, 0)).toPoint())
    assert canvas.hover == "parts.tag"
    session.undo()
    assert canvas.hover == ""
    canvas.grab()


def test_another_theme_keeps_view_and_switches(qtbot, window):
    canvas = window.canvas
    canvas.zoom(2.0)
    window.registry.actions["symbols"].trigger()
    scale, center = canvas.scale, canvas.center
    window.registry.actions["dark"].trigger()
    window.registry.actions["dark"].trigger()  # before all views are dark
    window.registry.actions["dark"].trigger()
    settle(qtbot, window)
    assert (canvas.scale, canvas.center, canvas.show_symbols) == (scale, center, False)
    picture, paper = window.grab().toImage(), QColor(window.tokens.paper)
    assert window.tokens.name == "dark" and canvas.tokens is window.tokens
    assert picture.pixelColor(canvas.mapTo(window, QPoint(8, 200))) == paper
    window.registry.actions["dark"].trigger()
    assert window.tokens.name == "light"


def test_a_chain_of_a_thousand_parts_can_be_edited(qtbot, window):
    parts, joints = {"frame": {"fixed": True, "points": {"P": [0, 0]}}}, {}
    for i in range(1000):
        parts[f"k{i}"] = {"points": {"A": [0, 0], "B": [10, 0]}, "pose": [10 * i, 0, 0]}
        joints[f"j{i}"] = {"type": "revolute", "a": f"k{i - 1}.B" if i else "frame.P", "b": f"k{i}.A"}
    data = json.dumps({"anakinema": 1, "parts": parts, "joints": joints}).encode()
    session = window.session
    session.editor.begin(*project.loads(data), None)
    assert window.model_tree.topLevelItemCount() > 0
    assert session.edit(("joints", "j999", "limits"), {"max": 90}, "limit") == ()
    session.selection.select("joints.j999")
    QApplication.processEvents()
    assert "joints.j999.limits.max" in window.properties.fields
    session.undo()
    window.grab()
    session.analysis.cancel()


def test_a_list_of_many_is_turned_page_by_page(qtbot, window):
    """A plate of thirty holes: each can be changed, the last of them too, and the card never holds them all."""
    holes = [{"kind": "disc", "center": [10 * k, 0], "diameter": 6, "cut": True} for k in range(30)]
    shapes = [{"kind": "rectangle", "center": [145, 0], "size": [310, 20]}, *holes]
    session = window.session
    session.editor.begin(*project.loads(json.dumps({"anakinema": 1, "parts": {"sieve": {"shapes": shapes}}}).encode()),
                         None)  # fmt: skip
    session.selection.select("parts.sieve")

    def listed():
        places = (place.split(".") for place in window.properties.fields if ".shapes." in place)
        return sorted({int(place[3]) for place in places})

    def turn(name):
        qtbot.waitUntil(lambda: button(name) is not None)
        QTest.mouseClick(button(name), Qt.MouseButton.LeftButton)

    def button(name):
        found = [each for each in window.properties.findChildren(QToolButton) if each.accessibleName() == name]
        return next((each for each in found if each.isVisible()), None)

    assert listed() == list(range(12))
    turn("The next shapes")
    assert listed() == list(range(12, 24))
    turn("The next shapes")
    assert listed() == list(range(24, 31)) and not button("The next shapes").isEnabled()
    retype(window.properties.fields["parts.sieve.shapes.30.diameter"], "7")
    assert session.document.tree["parts"]["sieve"]["shapes"][30]["diameter"] == 7
    assert listed() == list(range(24, 31))
    session.remove(("parts", "sieve", "shapes", 30), "less")
    turn("The shapes before")
    assert listed() == list(range(12, 24))


def test_a_mistake_of_this_program_is_told_once_and_the_work_is_kept(qtbot, window, monkeypatch):
    window.guard.install()
    try:
        session = window.session
        session.edit(("title",), "Precious", "edit")
        monkeypatch.setitem(KINDS, "parts", lambda *_: 1 / 0)
        session.selection.select("parts.rod")
        QTest.qWait(30)
        assert window.guard.caught >= 1 and "A mistake of this program" in window.banner.head.text()
        kept = window.guard.folder / "rescued.anakinema"
        assert json.loads(kept.read_text())["title"] == "Precious"
    finally:
        sys.excepthook = sys.__excepthook__


MISTAKES = {
    "a text": (lambda: 5 % 0, ZeroDivisionError), "another text": (lambda: int(math.nan), ValueError),
    "nothing at all": (lambda: next(iter(())), StopIteration), "a key": (lambda: {}["x"], KeyError),
}  # fmt: skip


@pytest.mark.parametrize(("mistake", "kind"), MISTAKES.values(), ids=MISTAKES)
def test_what_only_c_has_raised_in_a_handler_does_not_end_the_program(qtbot, mistake, kind):
    """PySide takes the text with which C raises for the exception itself: the program died of that."""

    class Clumsy(QWidget):
        def mouseMoveEvent(self, event):
            mistake()

    moved = QMouseEvent(QMouseEvent.Type.MouseMove, QPointF(5, 5), QPointF(5, 5), Qt.MouseButton.NoButton,
                        Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier)  # fmt: skip
    clumsy = Clumsy()
    clumsy.setMouseTracking(True)
    qtbot.addWidget(clumsy)
    with pytest.raises(kind):
        QApplication.sendEvent(clumsy, moved)


def test_all_handlers_of_our_widgets_are_held():
    ours = {name: module for name, module in sys.modules.items() if name.startswith("anakinema_desk.")}
    held = [f"{cls.__name__}.{name}" for module in ours.values() for cls in vars(module).values()
            if isinstance(cls, type) and cls.__module__ == module.__name__ and issubclass(cls, Shiboken.Object)
            for name, function in vars(cls).items() if hasattr(function, "__code__") and name != "__init__"
            and any(name in vars(base) for base in cls.__mro__[1:] if base.__module__.startswith("PySide6."))
            and function.__code__ is not overrides.whole(print).__code__]  # fmt: skip
    assert held == []


def test_what_can_not_be_drawn_is_told_once_and_the_bench_lives_on(qtbot, window, monkeypatch):
    message = []
    monkeypatch.setattr(sys, "excepthook", lambda kind, error, trace: message.append(error))
    with monkeypatch.context() as patch:
        patch.setattr("anakinema_desk.canvas.layers.Layers.draw", lambda *_: 1 / 0)
        for _ in range(3):
            window.canvas.grab()
    assert len(message) == 1
    window.canvas.grab()
    assert len(message) == 1 and not window.canvas._undrawn


def test_the_transport_wakes_with_the_motion(qtbot, window):
    session, play = window.session, window.registry.actions["play"]
    assert play.isEnabled()
    session.edit(("parameters", "takeup", "value"), "120 mm", "edit")  # it can't be put together
    settle(qtbot, window)
    assert not play.isEnabled() and window.timeline.empty.isVisible()
    session.undo()
    qtbot.waitUntil(lambda: session.motion is not None, timeout=patient(20_000))
    assert play.isEnabled()  # before all is judged


def test_tracks_of_a_version_before_are_pale(qtbot, window):
    session = window.session
    session.edit(("parameters", "throw", "value"), "15.5 mm", "edit")
    assert not session.analysis.shown.fresh and window.timeline.tracks
    QApplication.processEvents()
    assert not session.analysis.shown.fresh and not any(track.name.isEnabled() for track in window.timeline.tracks)
    assert "judging" in window.verdict._next_text and "Nothing left" not in window.verdict.next.text()
    session.analysis.cancel()
    assert "Not judged" in window.verdict._next_text
    assert not any(track.name.isEnabled() for track in window.timeline.tracks)
    QTest.mouseClick(window.verdict.next, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert all(track.name.isEnabled() for track in window.timeline.tracks)


def test_the_weight_is_told_once_a_material_is_chosen_and_follows_the_play_head(qtbot, window):
    session = window.session

    def said() -> dict[str, str]:
        """Each caption with what stands after it."""
        words = [label.text() for label in window.properties.findChildren(QLabel) if label.isVisible()]
        return dict(pairwise(words))

    session.selection.select("")
    assert "hold with" not in said()
    click_line(window, "parts.link")
    settle(qtbot, window)
    choice = next(box for box in window.properties.findChildren(QComboBox) if box.findText("steel") >= 0)
    choice.setFocus()
    QTest.keyClick(choice, Qt.Key.Key_F4)
    QTest.keyClicks(choice.view(), "steel")
    QTest.keyClick(choice.view(), ENTER)
    settle(qtbot, window)
    session.selection.select("")
    settle(qtbot, window)
    link = mass_of(session.document, session.document.parts["link"])
    assert said()["mass"] == said()["of it moves"] == f"{link.mass:.4g} kg"
    for t in (0.011, 0.041):
        session.go(t)
        QApplication.processEvents()
        held = holding(session.motion, session.time)
        assert said()["hold with"] == f"{held.effort:.4g} N·m at turn"
        assert said()["let go"] == ("turn goes on" if held.effort < 0 else "turn goes back")
