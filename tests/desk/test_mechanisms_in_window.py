"""Couplings, contacts, other ways to assemble, motions left and what makes no sense, all in the window."""

import json

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel

from mechanisms import four_bar, turn
from patience import patient
from windows import click_line, retype, settle


def message(window) -> str:
    return "\n".join(label.text() for label in window.properties.findChildren(QLabel) if label.isVisible())


def opened(qtbot, window, name: str):
    window.registry.actions[f"example-{name}"].trigger()
    settle(qtbot, window)
    return window.session


def test_a_gear_pair_is_shown_and_edited(qtbot, window):
    session = opened(qtbot, window, "folder-drive")
    click_line(window, "joints.mesh")
    assert session.selection.current() == ("couplings", "mesh")
    assert "axle = −0.333333 × shaft" in message(window)
    retype(window.properties.fields["joints.mesh.teeth.0"], "27")
    settle(qtbot, window)
    column = session.motion.system.coordinates.index("axle")
    assert session.motion.state.coordinates[-1, column] == pytest.approx(
        session.motion.state.coordinates[0, column] - 3 * 3.141592653589793
    )
    box = next(box for box in window.properties.findChildren(QComboBox) if box.accessibleName() == "mesh")
    box.setCurrentText("internal")
    settle(qtbot, window)
    assert session.document.tree["joints"]["mesh"]["mesh"] == "internal"
    assert window.canvas.grab().width() == window.canvas.width()


def test_a_contact_that_runs_off_its_edge_is_told(qtbot, window):
    session = opened(qtbot, window, "paper-lift")
    assert session.motion.stop is None
    click_line(window, "parameters.face")
    retype(window.properties.fields["parameters.face.value"], "12 mm")
    settle(qtbot, window)
    assert "off the end of 'lift.face'" in window.verdict.next.toolTip() or "beyond" in window.verdict.next.toolTip()
    assert session.motion.stop.reason == "contact"


def test_the_next_way_to_put_it_together(qtbot, window):
    session = window.session
    before = session.document.parts["rocker"].pose
    QTest.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: "way 2 of 2" in window.banner.head.text(), timeout=patient(20_000))
    assert "2 more outside the limits of ram" in window.banner.head.text()
    settle(qtbot, window)
    second = session.document.parts["rocker"].pose
    assert second != pytest.approx(before)
    QTest.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert "way 1 of 2" in window.banner.head.text()
    settle(qtbot, window)
    assert session.document.parts["rocker"].pose != second
    session.undo()
    session.undo()
    assert session.document.parts["rocker"].pose == before


def test_the_card_tells_motions_left_and_centres(qtbot, window):
    click_line(window, "parts.rod")
    assert "turns about (" in message(window)
    box = next(box for box in window.properties.findChildren(QComboBox) if box.accessibleName() == "against which part")
    box.setCurrentText("crank")
    assert window.session.posing.instant_center("rod", "crank") is not None
    window.session.selection.select("joints.ram")
    QTest.qWait(20)
    assert "1.0" in message(window) and "BEHAVIOUR" in message(window)  # the time ratio of the offset slider-crank
    window.session.selection.select("")
    QTest.qWait(20)
    assert "crank-rocker" in message(window)


def locked():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400))
    tree["joints"]["weld"] = {"type": "fixed", "a": "frame.O", "b": "crank.O"}
    return tree


def fighting():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400))
    tree["drivers"]["other"] = {"joint": "pivot", "to": 90}
    return tree


def contradictory():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400))
    tree["joints"]["strut"] = {"type": "distance", "a": "frame.O", "b": "coupler.A", "length": 75}
    return tree


@pytest.mark.parametrize(
    ("tree", "words"),
    [
        (locked(), "joint 'main' is locked by the other joints"),
        (fighting(), "Fights with 'turn'"),
        (contradictory(), "'frame.O' and 'coupler.A' stay open by about"),
    ],
)
def test_what_makes_no_sense_is_told_and_the_document_stays(qtbot, window, tmp_path, tree, words):
    path = tmp_path / "odd.anakinema"
    path.write_text(json.dumps(tree))
    assert window.files.open_path(path)
    settle(qtbot, window)
    assert words.lower() in window.verdict.next.toolTip().lower()
    assert window.session.document.tree == tree and window.session.findings is None
    assert window.grab().width() == window.width()
    assert json.loads(path.read_text()) == tree
