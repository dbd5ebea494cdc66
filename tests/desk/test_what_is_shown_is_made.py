"""What a tool shows before the click is what the click makes: over all tools that draw, the outline that is painted
beside that of what is then there."""

import math

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QTransform
from PySide6.QtWidgets import QApplication
from scipy.ndimage import binary_erosion

from anakinema.document import read_document
from anakinema.formats import project
from anakinema_desk.canvas.paths import region_path
from anakinema_desk.canvas.tools import TOOLS
from anakinema_desk.canvas.tools.drawing import Drawing
from anakinema_desk.canvas.tools.onpart import ArcSlotTool, OnPart, PictureTool, PointTool

KEY = Qt.Key
SCALE = 4.0
"""Pixels a millimetre, so that a figure that is off is some pixels off."""
DRAWN = [name for name, tool in TOOLS.items()
         if issubclass(tool, Drawing) and tool not in (PictureTool, PointTool)]  # fmt: skip
"""All but those that make no shape."""


def covered(canvas, paint):
    """The pixels that something covers (H, W)."""
    image = QImage(canvas.size(), QImage.Format.Format_ARGB32)
    image.fill(0)
    painter = QPainter(image)
    painter.setPen(QPen(QColor("black"), 0.1))
    painter.setBrush(QBrush(QColor("black")))
    paint(painter)
    painter.end()
    words = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return words[:, : image.width(), 3] > 20


def standing(canvas, name, which):
    """The outlines of a part as it stands, of some of its slabs, in pixels."""
    path = QPainterPath()
    for slab in canvas.session.document.parts[name].slabs[which]:
        path.addPath(region_path(slab.region))
    x, y, angle = canvas.session.posing.poses()[name]
    zero, one = canvas.pixel(complex(x, y)), canvas.scale
    turn = QTransform(one * math.cos(angle), -one * math.sin(angle), -one * math.sin(angle), -one * math.cos(angle),
                      zero.x(), zero.y())  # fmt: skip
    return turn.map(path)


def shown(hands):
    """What the tool shows now."""
    tool = hands.canvas.tool
    return covered(hands.canvas, lambda painter: tool.outline(painter, tool.values()))


def same(one, two):
    """Whether two sets of pixels are the same, but for a rim one wide and for thin lines."""
    cores = binary_erosion(one, np.ones((3, 3))), binary_erosion(two, np.ones((3, 3)))
    assert all(np.count_nonzero(core) > 30 for core in cores)
    return not (cores[0] & ~two).any() and not (cores[1] & ~one).any()


def draw(hands, tool, typed, start=-4 + 3j, end=11 - 4j):
    """Draws by two clicks, sizes typed on the way; gives what was shown just before the last."""
    hands.canvas.take(tool)
    hands.click(start)
    if issubclass(TOOLS[tool], ArcSlotTool):
        hands.click(start + 18)
    hands.point(end)
    for size in typed:
        hands.type(size)
        hands.press(KEY.Key_Tab)
    before = shown(hands)
    hands.click(end)
    hands.press(KEY.Key_Escape, KEY.Key_Escape)
    return before


def bench(hands, parameters, **more):
    """A base with a width, and what else there is, opened large."""
    tree = {
        "anakinema": 1, "parameters": parameters,
        "parts": {"base": {"fixed": True, "points": {"A": [-40, 25], "B": [-20, 25]},
                           "shapes": [{"kind": "rectangle", "center": [0, 0], "size": [90, 60]},
                                      {"kind": "bar", "through": ["A", "B"], "width": 7}]}},
    } | more  # fmt: skip
    hands.session.editor.begin(*project.loads(project.dumps(read_document(tree))), None)
    hands.settle()
    hands.canvas.scale, hands.canvas.center = SCALE, QPointF(0, 0)


def pixels(hands, name, which=slice(None)):
    """The pixels that some slabs of a part cover."""
    return covered(hands.canvas, lambda painter: painter.drawPath(standing(hands.canvas, name, which)))


def made_by(hands, tool, typed, part):
    """What was shown before the last click, and what was then there."""
    inside = issubclass(TOOLS[tool], OnPart)
    start, end = (-4 + 3j, -15 + 14j) if inside else (-30 - 50j, -8 - 41j)
    was = pixels(hands, part)
    before = draw(hands, tool, typed[: len(TOOLS[tool].sizes)], start, end)
    if tool == "boss":
        return before, pixels(hands, part, slice(-1, None))
    return before, was & ~pixels(hands, part) if inside else pixels(hands, hands.newest())


@pytest.mark.parametrize("typed", [(), ("wide/2",), ("1/4 in", "3 mm"), ("", "wide/8")])
@pytest.mark.parametrize("tool", DRAWN)
def test_a_tool_shows_what_its_click_makes(hands, tool, typed):
    """Beside a part that has a width, and in it where it is made in one; a size may be an expression."""
    bench(hands, {"wide": 20})
    assert same(*made_by(hands, tool, typed, "base"))


@pytest.mark.parametrize("tool", [name for name in DRAWN if issubclass(TOOLS[name], OnPart)])
def test_in_a_sub_assembly_a_size_is_worth_what_it_is_in_that_use(hands, tool):
    """A name may be worth one thing in the document, another in the definition, and a third in this use of it."""
    base = {"points": {}, "shapes": [{"kind": "rectangle", "center": [0, 0], "size": [90, 60]}]}
    jaw = {"parameters": {"wide": 20}, "parts": {"base": base}}
    use = {"assembly": "jaw", "pose": [0, 0, 20], "fixed": True, "parameters": {"wide": 12}}
    bench(hands, {"wide": 40}, assemblies={"jaw": jaw}, parts={"one": use})
    assert same(*made_by(hands, tool, ["wide/2", "wide/4"], "one/base"))
    hands.session.selection.select("parts.one/base")
    hands.settle()
    QApplication.processEvents()
    beside = [field.value_label.text() for place, field in hands.window.properties.fields.items()
              if place.startswith("assemblies.") and "wide" in field.text()]  # fmt: skip
    assert beside and set(beside) <= {"= 6 mm", "= 3 mm"}


def test_a_bar_of_several_holes_is_shown_through_all(hands):
    bench(hands, {})
    hands.canvas.take("bar")
    hands.click(-30 - 50j)
    hands.shift_click(-20 - 40j)
    hands.point(-5 - 50j)
    before = shown(hands)
    hands.click(-5 - 50j)
    assert same(before, pixels(hands, hands.newest()))
