"""A random user of the real window: clicks, drags, wheels, hovers, types sense and nonsense, runs every command, opens
menus and files. `hour.py` lets it loose for long."""

import json
import os
import random
import signal
import sys
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from types import FrameType

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the command sets it

from machine import Clocks
from PySide6.QtCore import QEvent, QEventLoop, QPoint, QPointF, Qt, QTimer, QtMsgType, qInstallMessageHandler
from PySide6.QtGui import QContextMenuEvent, QHelpEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMenu,
    QMessageBox,
    QToolTip,
    QTreeWidgetItemIterator,
    QWidget,
)
from shiboken6 import isValid

from anakinema.errors import DocumentError
from anakinema.formats.drawings import write_drawing
from anakinema.formats.project import EXAMPLES, example
from anakinema.operations import Grab, features
from anakinema.operations.importing import outlines_of
from anakinema_desk.canvas.tools import TOOLS
from anakinema_desk.panels.drawing import DrawingDialog
from anakinema_desk.session import Session
from anakinema_desk.settings import Settings
from anakinema_desk.window import Window

LONG, VERY_LONG = 0.1, 1.0
"""Gaps of the event loop that are felt, and that no one may have to bear (s)."""
BEAT = 5
"""Milliseconds between two looks at the clock."""
SENSE = (
    "4000", "0", "-12.5", "1/2 in", "90 deg", "2*throw", "60 rpm", "rod + 3 mm", "sqrt(2)*30 mm", "0.1 + 0.2", "30",
)  # fmt: skip
NONSENSE = (
    "", " ", "-", "1e400", "nan", "12 mn", "rod +", "15 deg mm", "((((", "ruler", "π", "9" * 400, "1e308*10", "1/0",
    "2**2**2**2**9", "\ud800", "\x00", "<b>x</b>", "a" * 10_000, "null", "true", "[1]", '{"a": 1}', "1e12", "-1e9 mm",
    "5e-324", "1e-160", "1e-7", "1e8", "0.1 + 0.2 - 0.3",
)  # fmt: skip
WORDS = (
    "unit", "", "a b", "x" * 300, "jaw", "3 at 20 mm", "2", "3 over 2*throw", "4 over 90 deg", "throw/5 mm", "0", "1/0",
)  # fmt: skip
"""What is answered where a name, a count or a row is asked for."""
ENDS = (Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Escape)
KEYS = (
    Qt.Key.Key_Escape, Qt.Key.Key_Space, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right,
    Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Return, Qt.Key.Key_Home,
    Qt.Key.Key_End, Qt.Key.Key_PageDown, Qt.Key.Key_A, Qt.Key.Key_7, Qt.Key.Key_Minus, Qt.Key.Key_F1, Qt.Key.Key_F10,
)  # fmt: skip
LETTERS = (Qt.Key.Key_T, Qt.Key.Key_W, Qt.Key.Key_F, Qt.Key.Key_S, Qt.Key.Key_A)
MODIFIERS = (Qt.KeyboardModifier.NoModifier,) * 5 + (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def chain_of(count: int) -> dict:
    """A chain of links that hangs in a frame, one pin after the other."""
    parts: dict = {"frame": {"fixed": True, "points": {"P": [0, 0]}}}
    joints = {}
    for i in range(count):
        parts[f"k{i}"] = {"points": {"A": [0, 0], "B": [10, 0]}, "pose": [10 * i, 0, 0]}
        before = f"k{i - 1}.B" if i else "frame.P"
        joints[f"j{i}"] = {"type": "revolute", "a": before, "b": f"k{i}.A"}
    return {"anakinema": 1, "title": f"Chain of {count}", "parts": parts, "joints": joints}


class RandomUser:
    """Does random things to a window, one after the other."""

    def __init__(self, seed: int, folder: Path, log: Callable[[str], None] = lambda _: None):
        self.chance = random.Random(seed)
        self.folder, self.log = folder, log
        self.done: Counter[str] = Counter()
        self.warnings: Counter[str] = Counter()
        self.gaps: list[float] = []
        self.worst: list[tuple[float, float, float, float, float, str]] = []
        """Gaps over `LONG`: the whole, our own part, on the processor, in line for it, stolen by the host (s)."""
        self.doing = "start"
        self._patch()
        self.files = self._files()
        self.session = Session()
        self.window = Window(self.session, Settings(folder / "settings.json"))
        self.window.guard.install()
        self.window.resize(1280, 800)
        self.window.show()
        self.mistakes = self.kept = 0
        """How often the process that computes made one."""
        for worker in (self.session.analyst, self.session.study_client):
            worker.failed.connect(self._failed)
        self.session.open_demo()
        self._last = Clocks.read()
        self.stuck: Counter[str] = Counter()
        self.timer = QTimer()
        self.timer.timeout.connect(self._beat)
        self.timer.start(BEAT)
        signal.signal(signal.SIGALRM, self._watch)
        signal.setitimer(signal.ITIMER_REAL, 0.03, 0.03)
        weights: dict[Callable[[], None], int] = {
            self.click: 14, self.line: 10, self.retype: 14, self.type: 6, self.key: 8, self.drag: 10, self.wheel: 6,
            self.command: 12, self.undo: 6, self.open: 2, self.structure: 3, self.choose: 3, self.build: 10,
            self.resize: 1, self.wait: 6, self.suspend: 3, self.close: 1, self.hover: 8, self.menu: 4,
            self.type_on: 5, self.paste_elsewhere: 2, self.ask: 2,
        }  # fmt: skip
        self.actions, self.weights = list(weights), list(weights.values())

    @property
    def exceptions(self) -> int:
        """How many the guard has caught, and the process that computes has told."""
        return self.window.guard.caught + self.mistakes

    def run(self, seconds: float, most: int = 10**9) -> None:
        """Goes on for a time, or until so many things are done."""
        end = time.perf_counter() + seconds
        while time.perf_counter() < end and self.done.total() < most:
            self.act()

    def act(self) -> None:
        """One thing, and a short breath."""
        action = self.chance.choices(self.actions, self.weights)[0]
        self.doing = action.__name__
        self.log(self.doing)
        try:
            action()
        except Exception:  # raised in a handler, and handed through by what this user called
            sys.excepthook(*sys.exc_info())
        self.done[self.doing] += 1
        if self.exceptions > self.kept:
            self.keep()
        self.breathe(self.chance.choice((0, 0, 1, 5, 20, 60)))
        self._close_popups()

    def keep(self) -> None:
        """Keeps the document in which something has gone wrong, and tells where."""
        self.kept = self.exceptions
        document, folder = self.session.document, os.environ.get("ANAKINEMA_KEEP")
        if document is not None and folder:
            place = Path(folder) / f"{os.getpid()}-{self.kept}.anakinema"
            place.write_text(json.dumps(document.tree))
            print(f"kept {place}, at {self.session.time} s, after {self.doing}", flush=True)

    def leave(self) -> None:
        """Ends it all, nothing asked."""
        signal.setitimer(signal.ITIMER_REAL, 0.0)
        self.timer.stop()
        self.session.stop()
        self.session.editor.source = None
        self.window.close()
        self.window.deleteLater()
        QApplication.processEvents()

    # -- what a user does --------------------------------------------------------------------------------------

    def click(self) -> None:
        """Somewhere on some widget, with some button."""
        self._click(self.chance.choice(self._widgets()))

    def line(self) -> None:
        """A line of the make-up."""
        tree, walk, items = self.window.model_tree, QTreeWidgetItemIterator(self.window.model_tree), []
        while walk.value():
            items.append(walk.value())
            walk += 1
        if items:
            item = self.chance.choice(items)
            tree.scrollToItem(item)
            spot = tree.visualItemRect(item).center()
            QTest.mouseClick(tree.viewport(), Qt.MouseButton.LeftButton, pos=spot)
            self.breathe()

    def retype(self) -> None:
        """Another text in a field of the card, left in some way."""
        fields = self.window.properties.fields
        if not fields:
            return
        place = self.chance.choice(list(fields))
        fields[place].setFocus()
        fields[place].selectAll()
        self.type()
        end = self.chance.choice((*ENDS, None))
        self.log(f"  {place[:60]} {end}")
        focus = QApplication.focusWidget()  # the card may have been made anew meanwhile
        if end is None or focus is None:
            self.click()
        else:
            QTest.keyClick(focus, end)

    def type_on(self) -> None:
        """Goes on typing after Enter or Escape, or while something else is selected: to whatever has the keys then."""
        fields = self.window.properties.fields
        if not fields:
            return
        field = fields[self.chance.choice(list(fields))]
        QTest.mouseClick(field, Qt.MouseButton.LeftButton)
        field.selectAll()
        self._write()
        end = self.chance.choice((Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape, Qt.Key.Key_Tab, None))
        self.log(f"  {end}")
        if end is not None:
            QTest.keyClick(QApplication.focusWidget() or self.window, end)
        else:
            self.line()
        for letter in self.chance.choice((" mm", "95m", "z", "bhx ", "0.5 deg", "k")):
            held = Qt.KeyboardModifier.ControlModifier if letter == "z" else Qt.KeyboardModifier.NoModifier
            QTest.keyClick(QApplication.focusWidget() or self.window, letter, held)
            self.breathe(self.chance.choice((0, 0, 30)))

    def hover(self) -> None:
        """The mouse goes over some widgets and rests there, until what they have to say is shown."""
        for widget in self.chance.choices(self._widgets(), k=3):
            if not isValid(widget):
                continue
            spot = self._spot(widget)
            QTest.mouseMove(widget, spot)
            self.breathe(self.chance.choice((0, 5, 70)))
            if isValid(widget):
                at = widget.mapToGlobal(spot)
                QApplication.sendEvent(widget, QHelpEvent(QEvent.Type.ToolTip, spot, at))
                self.breathe()
        QToolTip.hideText()

    def menu(self) -> None:
        """Opens a menu of the bar, or what a right click offers, and looks at some of it, or chooses."""
        if self.chance.random() < 0.5:
            menu = self.chance.choice(list(self.window.menus.values()))
            menu.popup(self.window.mapToGlobal(QPoint(40, 30)))
        else:
            view = self.chance.choice((self.window.canvas, self.window.model_tree.viewport(), self.window.timeline))
            spot = self._spot(view)
            reason = QContextMenuEvent.Reason.Mouse
            QApplication.sendEvent(view, QContextMenuEvent(reason, spot, view.mapToGlobal(spot)))
        self.breathe()
        for _ in range(self.chance.randint(1, 8)):
            popup = QApplication.activePopupWidget()
            if popup is None:
                break
            ways = (Qt.Key.Key_Down, Qt.Key.Key_Down, Qt.Key.Key_Up, Qt.Key.Key_Right)
            QTest.keyClick(popup, self.chance.choice(ways))
            self.breathe()

    def paste_elsewhere(self) -> None:
        """Copies some parts, goes to another document, and puts them in there."""
        document = self.session.document
        if document is None or not document.parts:
            return
        some = self.chance.sample(list(document.parts), min(self.chance.randint(1, 4), len(document.parts)))
        self.session.selection.select_all([f"parts.{name}" for name in some])
        self._do("clip")
        example_, whole = self.chance.choice(list(EXAMPLES)), self.chance.random()
        self.log(f"  {some} into {example_ if whole < 0.7 else 'an empty one'}")
        if whole < 0.7:
            self.window.files.open_example(example_)
        else:
            self.window.files.new()
        self.breathe(self.chance.choice((0, 40)))
        for _ in range(self.chance.randint(1, 3)):
            self._do("paste")
            self.breathe()

    def ask(self) -> None:
        """Looks for a command by some letters, and runs it or not; or goes round the panels."""
        focus = QApplication.focusWidget() or self.window
        if self.chance.random() < 0.4:
            for _ in range(self.chance.randint(1, 6)):
                QTest.keyClick(QApplication.focusWidget() or self.window, Qt.Key.Key_F6)
            return
        QTest.keyClick(focus, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
        for letter in self.chance.choice(("fit", "drive", "copy", "zzz", "theme", "hide", "")):
            QTest.keyClick(QApplication.focusWidget() or self.window, letter)
            self.breathe()
        QTest.keyClick(QApplication.focusWidget() or self.window, self.chance.choice(ENDS))

    def _do(self, name: str) -> None:
        self.window.registry.refresh()
        action = self.window.registry.actions[name]
        if action.isEnabled():
            action.trigger()

    def type(self) -> None:
        """Text into whatever has the focus."""
        focus = QApplication.focusWidget()
        if isinstance(focus, QLineEdit):
            self._write()
        elif focus is not None:
            QTest.keyClicks(focus, self.chance.choice(("a", "7", "ram", "-")))

    def key(self) -> None:
        """A few keys."""
        for _ in range(self.chance.randint(1, 5)):
            focus = QApplication.focusWidget() or self.window
            QTest.keyClick(focus, self.chance.choice(KEYS), self.chance.choice(MODIFIERS))
            self.breathe()

    def drag(self) -> None:
        """Presses on bench or strip, moves, lets go."""
        view = self.chance.choice(
            (self.window.canvas, self.window.canvas, self.window.timeline.ruler, self.window.timeline)
        )
        if not view.isVisible():
            return
        button = self.chance.choice((Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton))
        spot = self._spot(view)
        QTest.mousePress(view, button, pos=spot)
        for _ in range(self.chance.randint(0, 12)):
            spot += QPoint(self.chance.randint(-40, 40), self.chance.randint(-40, 40))
            QTest.mouseMove(view, spot)
            self.breathe(self.chance.choice((0, 0, 8)))
        if self.chance.random() < 0.1:
            self.command()
        QTest.mouseRelease(view, button, pos=spot)

    def build(self) -> None:
        """Takes a tool and clicks with it, often where something can be grabbed; types sizes, keeps or backs out."""
        canvas = self.window.canvas
        canvas.take(self.chance.choice([*TOOLS, ""]))
        for _ in range(self.chance.randint(1, 5)):
            spot = self._spot(canvas)
            document = self.session.document
            if document is not None and document.parts and self.chance.random() < 0.7:
                part = self.chance.choice(list(document.parts.values()))
                grabs = features(part)
                if grabs and part.id in canvas.poses:
                    spot = canvas.pixel(canvas.frame.grabbed(Grab(part.id, self.chance.choice(grabs)))).toPoint()
            QTest.mouseMove(canvas, spot)
            self.breathe()
            QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, self.chance.choice(MODIFIERS), spot)
            self.breathe()
            if self.chance.random() < 0.4:
                for letter in self.chance.choice(("20", "2*", "-3", "t", "w", "1/0", "throw", "1e9", "5 deg")):
                    QTest.keyClick(canvas, letter)
                    self.breathe()  # no hand strikes two keys within one turn of the event loop
            if self.chance.random() < 0.5:
                keys = (Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape, Qt.Key.Key_Backspace, *LETTERS)
                QTest.keyClick(canvas, self.chance.choice(keys))
            self.breathe(self.chance.choice((0, 0, 20)))

    def wheel(self) -> None:
        """Turns the wheel over some view."""
        views = (
            self.window.canvas,
            self.window.timeline,
            self.window.properties.viewport(),
            self.window.model_tree.viewport(),
        )
        view = self.chance.choice(views)
        for _ in range(self.chance.randint(1, 8)):
            at = QPointF(self._spot(view))
            turned = QPoint(0, self.chance.choice((120, -120, 15, -960, 960)))
            none, held, phase = Qt.MouseButton.NoButton, self.chance.choice(MODIFIERS), Qt.ScrollPhase.NoScrollPhase
            event = QWheelEvent(at, view.mapToGlobal(at), QPoint(), turned, none, held, phase, False)
            QApplication.sendEvent(view, event)
            self.breathe()

    def command(self) -> None:
        """Any command that is offered."""
        self.window.registry.refresh()
        name, action = self.chance.choice(list(self.window.registry.actions.items()))
        if action.isEnabled() and name != "quit":
            self.log(f"  {name}")
            action.trigger()

    def undo(self) -> None:
        """Some steps back and forth."""
        for _ in range(self.chance.randint(1, 6)):
            self.chance.choice((self.session.undo, self.session.undo, self.session.redo))()
            self.breathe()

    def open(self) -> None:
        """Another file, whole or damaged."""
        path = self.chance.choice(self.files)
        self.log(f"  {path.name}")
        self.window.files.open_path(path)

    def structure(self) -> None:
        """Puts a thing into the document that no field makes yet, or takes one out."""
        document = self.session.document
        if document is None:
            return
        parts, joints = list(document.parts), list(document.joints)
        some, disc = self.chance.choice, {"kind": "disc", "center": [0, 0], "diameter": 20}
        made: list[tuple[tuple[str, ...], object]] = [
            (("parts", f"p{self.chance.randint(0, 99)}"), {}),
            (("parts", f"p{self.chance.randint(0, 99)}"), {"shapes": [disc], "points": {"O": [0, 0]}}),
            (("checks", "c1"), {"measure": "coordinate", "joint": some(joints or ["j"]), "at_most": 3}),
        ]  # fmt: skip
        if len(joints) > 1:
            pair = self.chance.sample(joints, 2)
            made.append((("joints", "wheels"), {"type": "gear", "a": pair[0], "b": pair[1], "teeth": [20, 31]}))
        if len(parts) > 1:
            two = self.chance.sample(parts, 2)
            made.append((("checks", "c2"), {"measure": "clearance", "parts": two, "at_least": 1}))
        if self.chance.random() < 0.25:
            section = some(("parts", "joints", "checks", "drivers", "traces", "parameters"))
            names = list(document.tree.get(section, {}))
            if names:
                self.session.remove((section, some(names)), "Remove")
            return
        place, value = some(made)
        self.log(f"  {place} {value}")
        self.session.edit(place, value, "Put")

    def choose(self) -> None:
        """Another entry of a combo box."""
        boxes = [box for box in self.window.findChildren(QComboBox) if box.isVisible() and box.count()]
        if boxes:
            box = self.chance.choice(boxes)
            box.setCurrentIndex(self.chance.randrange(box.count()))

    def suspend(self) -> None:
        """Suspends a joint, or resumes it, by its switch."""
        joints = list(self.session.document.tree.get("joints", {})) if self.session.document else []
        if joints:
            self.session.selection.select(f"joints.{self.chance.choice(joints)}")
            self.breathe()
            for box in self.window.properties.findChildren(QWidget):
                if isValid(box) and box.isVisible() and box.metaObject().className() == "QCheckBox":
                    QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
                    self.breathe()

    def resize(self) -> None:
        """Another size of the window."""
        self.window.resize(*self.chance.choice(((1024, 700), (1280, 800), (1600, 1000), (860, 560))))

    def close(self) -> None:
        """Closes the window, and opens it again."""
        self.window.close()
        self.breathe()
        self.window.show()

    def wait(self) -> None:
        """Waits for the analysis, or not."""
        self.breathe(self.chance.choice((30, 100, 300)))

    # -- hands -------------------------------------------------------------------------------------------------

    def breathe(self, milliseconds: int = 0) -> None:
        """Lets the event loop run, and sleep when there is nothing to do, as it does under a real user."""
        loop = QEventLoop()
        QTimer.singleShot(milliseconds, loop.quit)
        loop.exec()

    def _widgets(self) -> list[QWidget]:
        """All that can be seen; bench and strip oftener."""
        seen = [w for w in self.window.findChildren(QWidget) if w.isVisible() and w.width() > 1 and w.height() > 1]
        return [*seen, self.window.canvas, self.window.timeline]

    def _spot(self, widget: QWidget) -> QPoint:
        return QPoint(self.chance.randrange(max(widget.width(), 1)), self.chance.randrange(max(widget.height(), 1)))

    def _click(self, widget: QWidget) -> None:
        buttons = (Qt.MouseButton.LeftButton,) * 4 + (Qt.MouseButton.RightButton,)
        press = self.chance.choice((QTest.mouseClick,) * 4 + (QTest.mouseDClick,))
        self.log(f"  {type(widget).__name__}")
        press(widget, self.chance.choice(buttons), self.chance.choice(MODIFIERS), self._spot(widget))

    def _write(self) -> None:
        """Types a short text letter by letter; pastes a long or an odd one."""
        text = self.chance.choice(SENSE if self.chance.random() < 0.55 else NONSENSE)
        self.log(f"  {text[:60]!r}")
        if text.isascii() and text.isprintable() and len(text) < 20:
            for letter in text:
                QTest.keyClick(QApplication.focusWidget() or self.window, letter)
                self.breathe()
        elif isinstance(field := QApplication.focusWidget(), QLineEdit):
            field.insert(text)
            field.setModified(True)

    def _close_popups(self) -> None:
        """Menus that are open are chosen from, or left."""
        for _ in range(5):
            popup = QApplication.activePopupWidget()
            if popup is None:
                return
            if isinstance(popup, QMenu) and self.chance.random() < 0.3 and popup.actions():
                QTest.keyClick(popup, Qt.Key.Key_Down)
                QTest.keyClick(popup, Qt.Key.Key_Return)
            else:
                QTest.keyClick(popup, Qt.Key.Key_Escape)
            self.breathe()
            if QApplication.activePopupWidget() is popup:
                popup.close()

    def _patch(self) -> None:
        """Questions are answered at random, for a dialog would wait for ever."""
        standard = QMessageBox.StandardButton

        def answer(box: QMessageBox) -> int:
            buttons = box.buttons()
            chosen = self.chance.choice(buttons)
            box.clickedButton = lambda: chosen  # type: ignore[method-assign]
            kind = box.standardButton(chosen)
            return kind if kind != standard.NoButton else 0

        def name(*_: object) -> tuple[str, str]:
            some = self.chance.choice(("", "a", "b.anakinema", "c.json", "no/such/place", "d" * 250))
            return (str(self.folder / some) if some else "", "")

        QMessageBox.exec = answer  # type: ignore[method-assign, assignment]
        QMessageBox.about = staticmethod(lambda *_: standard.Ok)  # type: ignore[assignment]
        QFileDialog.getSaveFileName = staticmethod(name)  # type: ignore[assignment]
        QFileDialog.getOpenFileName = staticmethod(lambda *_: (str(self.chance.choice(self.files)), ""))  # type: ignore[assignment]
        word = lambda *_, **__: (self.chance.choice(WORDS), self.chance.random() < 0.8)  # noqa: E731
        QInputDialog.getText = staticmethod(word)  # type: ignore[assignment]
        QInputDialog.getItem = staticmethod(lambda *given: (given[3][0], self.chance.random() < 0.2))  # type: ignore[assignment]
        DrawingDialog.exec = lambda dialog: self._look_at_drawing(dialog)  # type: ignore[method-assign]
        qInstallMessageHandler(self._warned)

    def _look_at_drawing(self, dialog: DrawingDialog) -> int:
        """Waits for a drawing, and mostly takes it; or thinks better of it before it is there."""
        patient, end = self.chance.random() < 0.8, time.monotonic() + 20
        while patient and not dialog.ready and time.monotonic() < end:
            QTest.qWait(5)
        wanted = bool(dialog.outlines) and self.chance.random() < 0.8
        dialog.done(wanted)
        return wanted

    def _warned(self, kind: QtMsgType, _: object, text: str) -> None:
        if kind != QtMsgType.QtDebugMsg:
            self.warnings[text[:160]] += 1

    def _files(self) -> list[Path]:
        """Examples, larger mechanisms, damaged files."""
        from importlib.resources import files

        made = []
        for name in EXAMPLES:
            data = files("anakinema").joinpath(f"examples/{name}.anakinema").read_bytes()
            made.append(self.folder / f"{name}.anakinema")
            made[-1].write_bytes(data)
            cut = self.folder / f"{name}-cut.anakinema"
            cut.write_bytes(data[: self.chance.randrange(len(data))])
            made.append(cut)
        for ending in (".dxf", ".svg"):
            document, _ = example("folder-drive")
            poses = {part.id: part.pose for part in document.parts.values()}
            made.append(self.folder / f"drawing{ending}")
            write_drawing(made[-1], outlines_of(document, poses, document.parts), "mm")
        for count in (30, 120):
            made.append(self.folder / f"chain-{count}.anakinema")
            made[-1].write_text(json.dumps(chain_of(count)))
        odd = {"empty": "", "list": "[]", "deep": "[" * 5000, "huge": '{"anakinema": 1, "x": 1e400}'}
        for name, text in odd.items():
            made.append(self.folder / f"{name}.anakinema")
            made[-1].write_text(text)
        return [*made, self.folder / "missing.anakinema", self.folder]

    def _watch(self, _: int, frame: FrameType | None) -> None:
        """Looks where the program is while the event loop stands still. A signal, for another thread that looked into
        the frames would keep widgets alive, and end them on the wrong thread."""
        if time.perf_counter() - self._last.now > LONG:
            stack = [f"{Path(f.filename).name}:{f.lineno} {f.name}" for f in traceback.extract_stack(frame)]
            self.stuck[" < ".join(reversed(stack[-7:]))] += 1

    def _failed(self, _: int, error: Exception) -> None:
        if not isinstance(error, DocumentError):
            self.mistakes += 1
            self.log(f"  a mistake: {error!r}")

    def _beat(self) -> None:
        now = Clocks.read()
        spent, self._last = now.since(self._last), now
        gap = max(spent.now - BEAT / 1000, 0.0)
        self.gaps.append(gap)
        if gap > LONG:
            own = min(gap, spent.own)
            self.worst.append((gap, own, spent.worked, spent.waited, max(spent.stolen), self.doing))
