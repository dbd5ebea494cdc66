"""Hands that build at the bench with mouse and keyboard, as a designer does."""

import cmath

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from patience import patient

KEY = Qt.Key


class Hands:
    """Does at the bench what a designer does; places are in the plane."""

    def __init__(self, qtbot, window):
        self.qtbot, self.window, self.canvas, self.session = qtbot, window, window.canvas, window.session
        self.count = 0
        """Clicks and keys so far."""
        window.registry.actions["new"].trigger()
        self.settle()

    def settle(self):
        self.qtbot.waitUntil(lambda: not self.session.analysis.busy, timeout=patient(60_000))

    def pixel(self, z):
        return self.canvas.to_screen(QPointF(z.real, z.imag)).toPoint()

    def click(self, z):
        self.count += 1
        QTest.mouseMove(self.canvas, self.pixel(z))
        QTest.mouseClick(self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self.pixel(z))
        self.settle()

    def point(self, z):
        QTest.mouseMove(self.canvas, self.pixel(z))

    def shift_click(self, z):
        self.count += 1
        QTest.mouseMove(self.canvas, self.pixel(z))
        QTest.mouseClick(self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, self.pixel(z))
        self.settle()

    def plate(self, one, two):
        """A plate between two corners; gives its name."""
        self.press(KEY.Key_P)
        self.click(one)
        self.click(two)
        self.press(KEY.Key_Escape)
        return self.newest()

    def bar(self, *spots):
        """A bar with a hole at each spot; gives its name."""
        self.press(KEY.Key_B)
        self.click(spots[0])
        for spot in spots[1:-1]:
            self.shift_click(spot)
        self.click(spots[-1])
        self.press(KEY.Key_Escape)
        return self.newest()

    def hole(self, at, diameter="8", pinned=False):
        """A hole in the part under a place; `pinned` to what of another part lies there."""
        self.press(KEY.Key_O)
        self.point(at)
        held = Qt.KeyboardModifier.ControlModifier if pinned else Qt.KeyboardModifier.NoModifier
        QTest.mouseClick(self.canvas, Qt.MouseButton.LeftButton, held, self.pixel(at))
        self.count += 1
        self.settle()
        self.type(diameter)
        self.press(KEY.Key_Return, KEY.Key_Escape)

    def slot(self, one, two, width="8"):
        """A slot in the part at its first end."""
        self.press(KEY.Key_S)
        self.click(one)
        self.point(two)
        self.press(KEY.Key_Tab)
        self.type(width)
        self.press(KEY.Key_Backtab)
        self.click(two)
        self.press(KEY.Key_Escape)

    def pick(self, z, part=""):
        """Clicks the feature at a place; where several are there, Tab goes on to that of a part."""
        self.point(z + 8 / self.canvas.scale)  # a move to where the mouse is already would be none
        self.point(z)
        QApplication.processEvents()
        for _ in range(8):
            now = self.canvas.tool.now
            if not part or (now.grab is not None and now.grab.part == part):
                break
            self.press(KEY.Key_Tab)
        self.click(z)

    def join(self, one, two, *keys, parts=("", "")):
        """Joins by the features at two places, of `parts` where that is given; the keys change what is proposed. Gives
        the joint's name."""
        self.press(KEY.Key_J)
        self.pick(one, parts[0])
        self.pick(two, parts[1])
        self.press(*keys, KEY.Key_Return, KEY.Key_Escape, KEY.Key_Escape)
        return list(self.session.document.joints)[-1]

    def near(self, z):
        """What a click at a place means: a round place where there is no feature."""
        return self.canvas.picking.snap(QPointF(self.pixel(z))).at

    def newest(self):
        """The part that was made last."""
        return list(self.session.document.parts)[-1]

    def do(self, command, *selected):
        """A command, with something selected first."""
        self.count += 1 + len(selected)
        if selected:
            self.session.selection.select_all(selected)
        self.window.registry.refresh()
        action = self.window.registry.actions[command]
        assert action.isEnabled(), command
        action.trigger()
        self.settle()

    def choose(self, text):
        """Takes the line of the list that is open whose words are these."""
        box = self.window.palette_box
        assert box.isVisible()
        QTest.keyClicks(box.field, text)
        self.count += len(text) + 1
        QTest.keyClick(box.field, Qt.Key.Key_Return)
        self.settle()

    def drive(self, joint, to=None):
        """Drives a joint, to a value in document units where that is given."""
        self.do("drive", f"joints.{joint}")
        if to is not None:
            name = list(self.session.document.drivers)[-1]
            self.retype(f"drivers.{name}.to", str(to))

    def retype(self, place, text):
        """Another text in a field of the card."""
        self.count += 2 + len(text)
        field = self.window.properties.fields[place]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, KEY.Key_Return)
        self.settle()

    def through(self):
        """The motion and where all parts stand along it (S, P, 3)."""
        self.settle()
        motion = self.session.motion
        assert motion is not None and motion.stop is None, self.session.analysis.faults or motion.stop
        return motion, motion.positions(motion.grid)

    def press(self, *keys):
        self.count += len(keys)
        for key in keys:
            QTest.keyClick(self.canvas, key)
        self.settle()

    def type(self, text):
        self.count += len(text)
        QTest.keyClicks(self.canvas, text)

    def stands(self, part, point):
        """Where a point of a part stands now."""
        x, y, angle = self.session.posing.poses()[part]
        own = complex(*self.session.document.parts[part].points[point])
        return complex(x, y) + own * cmath.rect(1.0, angle)

    def between(self, part, share):
        """A place between the first two points of a part, where it stands now."""
        first, second = (self.stands(part, point) for point in list(self.session.document.parts[part].points)[:2])
        return first + share * (second - first)

    def travel(self, joint):
        self.qtbot.waitUntil(lambda: self.session.findings is not None, timeout=patient(60_000))
        motion = self.session.findings.motion
        assert motion.stop is None
        column = motion.system.coordinates.index(joint)
        return motion.extremes.high[column] - motion.extremes.low[column]


def point_of(motion, q, part, point):
    """Where a point of a part is along a motion (S,), by the positions (S, P, 3) there."""
    at = q[:, motion.system.body(part)]
    return at[:, 0] + 1j * at[:, 1] + complex(*motion.document.parts[part].points[point]) * np.exp(1j * at[:, 2])
