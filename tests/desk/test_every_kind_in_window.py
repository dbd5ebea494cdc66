"""Contracts of the registries in the window: every kind has a symbol, a card and a line, and can be drawn."""

import json

import pytest
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QApplication

from anakinema.formats import project
from anakinema.geometry.shapes import SHAPES
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.kinds import FieldForm
from anakinema.measures import MEASURE_TYPES
from anakinema_desk.canvas.tools import AT_HAND, TOOLS
from anakinema_desk.commands.build import TOLD
from anakinema_desk.theme import symbols
from samples import joined, wearing
from windows import line_of, settle


def opened(qtbot, window, tree):
    window.session.editor.begin(*project.loads(json.dumps(tree).encode()), None)
    settle(qtbot, window)
    qtbot.wait(30)


def drawn(window, place):
    """Selects a thing: its line, its card, and a picture of the whole without a fault."""
    window.session.selection.select(place)
    QApplication.processEvents()
    assert line_of(window, place).text(0)
    assert window.properties.fields
    window.canvas.grab()
    assert not window.canvas._undrawn


def test_joints_and_couplings(qtbot, window):
    for kind in (*JOINT_TYPES.values(), *COUPLING_TYPES.values()):
        opened(qtbot, window, joined(kind))
        drawn(window, "joints.new")
        for field in kind.fields:
            place = f"joints.new.{field.name}"
            known = window.properties.fields
            given = joined(kind)["joints"]["new"]
            if field.name in given and not field.words and field.form is not FieldForm.PROGRAM:
                assert place in known or f"{place}.0" in known, f"{kind.name} has no field for {field.name}"


@pytest.mark.parametrize("kind", list(JOINT_TYPES))
def test_symbols_leave_ink(kind):
    picture = QImage(80, 80, QImage.Format.Format_ARGB32)
    picture.fill(QColor("white"))
    painter = QPainter(picture)
    painter.translate(40, 40)
    symbols.draw(painter, JOINT_TYPES[kind].symbol, QColor("black"), QColor("white"), grounded=True)
    painter.end()
    assert any(picture.pixelColor(x, y).lightness() < 128 for x in range(80) for y in range(80))


def test_shapes(qtbot, window):
    for shape in SHAPES:
        tree, part = wearing(shape)
        opened(qtbot, window, tree)
        drawn(window, f"parts.{part}")
        for field in shape.fields:
            if field.form in ("number", "pair"):
                place = f"parts.{part}.shapes.0.{field.name}"
                assert place in window.properties.fields or f"{place}.0" in window.properties.fields


def test_measures(qtbot, window):
    for kind in MEASURE_TYPES.values():
        if kind.named:
            tree = joined(JOINT_TYPES["fixed"])
            sides = {"a": "one.A", "b": "four.A"} if kind.name == "distance" else {"a": "one", "b": "four"}
            opened(qtbot, window, tree | {"measures": {"m": {"measure": kind.name, **sides}}})
            drawn(window, "measures.m")
            assert "m" in window.canvas.scene.measured


def test_tools():
    assert set(AT_HAND) <= set(TOOLS) == set(TOLD)
    keys = [tool.keys for tool in TOOLS.values() if tool.keys]
    assert len(set(keys)) == len(keys)
