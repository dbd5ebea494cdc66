"""Where the keyboard is: what is typed into a field stays there, and what is meant for the bench reaches it."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton, QWidget

from anakinema_desk import keyboard
from hands import KEY
from windows import click_line, line_of, settle

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def key(name, modifiers=Qt.KeyboardModifier.NoModifier):
    """A key as the user strikes it: to whatever has the keyboard."""
    QTest.keyClick(QApplication.focusWidget(), name, modifiers)


def type_(text):
    for letter in text:
        key(letter)


@pytest.fixture
def throw(window):
    """The field of a parameter on the document's card, clicked."""
    for button in (Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton):
        QTest.mouseRelease(window.canvas, button)  # a test before may have left one down, as no hand could
    window.session.selection.select("")
    QApplication.processEvents()
    assert "throw" in window.session.document.parameters
    field = window.properties.fields["parameters.throw.value"]
    window.properties.ensureWidgetVisible(field)
    QTest.mouseClick(field, Qt.MouseButton.LeftButton)
    field.selectAll()
    return field



def test_enter_gives_the_keyboard_back_and_undo_then_is_the_model_s(window, throw):
    before, steps = throw.text(), len(window.session.editor.undo_stack)
    type_("17 mm")
    key(KEY.Key_Return)
    assert window.canvas.hasFocus()
    assert len(window.session.editor.undo_stack) == steps + 1
    key(KEY.Key_M)  # a tool, and no letter in the value
    assert window.canvas.tool is not None
    assert throw.text() == "17 mm"
    key(KEY.Key_M)
    throw.setFocus()
    key(KEY.Key_Z, CONTROL)  # nothing is being typed: the model's step goes back
    assert len(window.session.editor.undo_stack) == steps
    assert throw.text() == before
    key(KEY.Key_Z, CONTROL | SHIFT)
    assert throw.text() == "17 mm"
    assert len(window.session.editor.undo_stack) == steps + 1


def test_what_was_undone_in_a_field_is_not_taken_in_by_leaving_it(window, throw):
    before, steps = throw.text(), len(window.session.editor.undo_stack)
    type_("1")
    key(KEY.Key_Left)
    type_("9")
    key(KEY.Key_Z, CONTROL)
    assert throw.text() == before
    key(KEY.Key_Tab)
    window.canvas.setFocus()
    assert len(window.session.editor.undo_stack) == steps
    throw.setFocus()
    throw.selectAll()
    type_("21 mm")
    key(KEY.Key_Return)
    throw.undo()  # as the field's own menu does it
    assert throw.text() == "21 mm"
    window.canvas.setFocus()
    assert len(window.session.editor.undo_stack) == steps + 1


def test_escape_leaves_a_field_and_a_wrong_text_keeps_the_keyboard(window, throw):
    before = throw.text()
    type_("17 +")
    key(KEY.Key_Return)
    assert throw.hasFocus()
    assert throw.fault
    type_("1")  # goes on where it was
    assert throw.text() == "17 +1"
    key(KEY.Key_Escape)
    assert throw.text() == before
    assert window.canvas.hasFocus()
    throw.setFocus()
    key(KEY.Key_Escape)  # nothing typed, too
    assert window.canvas.hasFocus()


def test_letters_that_outlive_their_field_start_nothing(window, throw, monkeypatch):
    session, now = window.session, [100.0]
    monkeypatch.setattr(keyboard.time, "monotonic", lambda: now[0])
    type_("17")
    click = session.selection.select
    click("parts.rod")  # something else is selected meanwhile, and the field goes
    QApplication.processEvents()
    assert not isinstance(QApplication.focusWidget(), QLineEdit)
    steps = len(session.editor.undo_stack)
    for letter in " mhxp":
        key(letter)
        now[0] += 0.5
    assert window.canvas.tool is None
    assert not session.display_state.hidden
    assert not session.playing
    assert len(session.editor.undo_stack) == steps
    now[0] += 1.0
    key(KEY.Key_M)  # a moment later it is a shortcut again
    assert window.canvas.tool is not None


def test_letters_are_no_shortcuts_in_a_panel_and_a_clicked_button_keeps_no_keys(qtbot, window):
    session = window.session
    session.selection.select("drivers.turn")
    QApplication.processEvents()
    box = next(box for box in window.properties.findChildren(QComboBox) if box.isVisible())
    chosen = box.currentText()
    box.setFocus(Qt.FocusReason.TabFocusReason)
    type_("hmbsl")
    assert box.currentText() == chosen
    assert window.canvas.tool is None
    key(KEY.Key_Escape)
    assert window.canvas.hasFocus()
    session.selection.select("joints.ram")
    QApplication.processEvents()
    button = next(button for button in window.properties.findChildren(QPushButton) if button.isVisible())
    pressed = []
    button.clicked.disconnect()
    button.clicked.connect(lambda: pressed.append(1))
    window.properties.ensureWidgetVisible(button)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(window.canvas.hasFocus)
    button.setFocus(Qt.FocusReason.TabFocusReason)
    key(KEY.Key_Space)  # by keys it is pressed, and nothing plays
    assert len(pressed) == 2
    assert not session.playing


def test_a_card_made_anew_leaves_the_keyboard_with_its_field_or_with_the_bench(window, throw):
    session = window.session
    type_("17")
    session.edit(("parameters", "more"), "3 mm", "another row")
    QApplication.processEvents()
    field = window.properties.fields["parameters.throw.value"]
    assert field is not throw
    assert QApplication.focusWidget() is field
    type_(" mm")
    assert field.text() == "17 mm"
    key(KEY.Key_Escape)
    session.selection.select("joints.ram")
    QApplication.processEvents()
    window.properties.findChildren(QPushButton)[0].setFocus()
    session.selection.select("parts.rod")
    QApplication.processEvents()
    assert window.canvas.hasFocus()


@pytest.mark.parametrize("tool", ["tool-measure", "tool-join", "tool-plate", "tool-outline", "tool-angle", "tool-hole"])
def test_tab_never_leaves_the_bench_while_a_tool_is_in_hand(window, tool):
    window.registry.refresh()
    window.session.selection.select("parts.rod")
    window.registry.actions[tool].trigger()
    if window.canvas.tool is None:
        pytest.fail(f"{tool} is not in hand")
    QTest.mouseMove(window.canvas, QPoint(300, 200))
    for _ in range(4):
        key(KEY.Key_Tab)
        key(KEY.Key_Backtab, SHIFT)
        assert window.canvas.hasFocus()


def test_after_the_palette_the_keyboard_is_where_it_was(window, throw):
    type_("17")
    key(KEY.Key_K, CONTROL)
    assert window.palette_box.isVisible()
    type_("jointsy")
    key(KEY.Key_Escape)
    assert QApplication.focusWidget() is throw
    assert not window.palette_box.isVisible()
    key(KEY.Key_Escape)
    key(KEY.Key_K, CONTROL)
    type_("joint sym")
    key(KEY.Key_Return)
    assert window.canvas.hasFocus()
    assert not window.canvas.show_symbols


def test_f6_goes_from_panel_to_panel_and_back(window):
    def place():
        at = QApplication.focusWidget()
        return next(one for one in window.keyboard.places if one is at or one.isAncestorOf(at))

    window.session.selection.select("parts.rod")
    QApplication.processEvents()
    window.canvas.setFocus()
    seen = []
    for _ in range(12):
        key(KEY.Key_F6)
        seen.append(place())
        assert window.keyboard.here.isVisible()
        if place() is window.canvas:
            break
    assert seen[:3] == [window.model_tree, window.properties, window.transport]
    assert seen[-1] is window.canvas
    key(KEY.Key_F6)
    key(KEY.Key_F6)
    key(KEY.Key_F6, SHIFT)
    assert place() is window.model_tree
    QTest.mouseClick(window.canvas, Qt.MouseButton.LeftButton, pos=QPoint(5, 300))
    assert not window.keyboard.here.isVisible()


def test_f2_changes_what_the_make_up_shows(qtbot, window):
    session = window.session
    session.edit(("parts", "rod", "label"), "Long rod", "label")
    settle(qtbot, window)
    for place, shown in (("parts.rod", "Long rod"), ("joints.ram", None), ("drivers.turn", None)):
        click_line(window, place)
        assert shown is None or line_of(window, place).text(0) == shown
        key(KEY.Key_F2)
        QApplication.focusWidget().selectAll()
        type_("fresh")
        key(KEY.Key_Return)
        settle(qtbot, window)
        kind = place.split(".")[0]
        here = place if shown else f"{kind}.fresh"
        assert "fresh" in line_of(window, here).text(0)
        session.undo()
        settle(qtbot, window)


def test_enter_in_a_study_that_makes_no_sense_keeps_the_keyboard(qtbot, window):
    window.registry.actions["study-tune"].trigger()
    QApplication.processEvents()
    page: QWidget = window.studies
    line = next(line for line in page.findChildren(QLineEdit) if line.isVisible() and line.isEnabled())
    line.setFocus()
    line.selectAll()
    type_("nonsense +")
    key(KEY.Key_Return)
    assert line.hasFocus()
    line.selectAll()
    key(KEY.Key_Backspace)
    key(KEY.Key_Escape)
    assert window.canvas.hasFocus()
