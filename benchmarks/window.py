"""The window as its user feels it: how long the interface thread is held, how soon Cancel and Close answer."""

import json
import os
import random
import statistics
import tempfile
import time
from collections.abc import Callable
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["ANAKINEMA_CONFIG"] = tempfile.mkdtemp()

from PySide6.QtCore import QEventLoop, QPoint, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from anakinema.document.model import Part
from anakinema.formats import project
from anakinema.operations import Grab, features
from anakinema_desk.application import make_application
from anakinema_desk.session import Session
from anakinema_desk.settings import Settings
from anakinema_desk.window import Window

from . import mechanisms

BEAT = 2
"""Milliseconds between two looks at the clock."""


class Watched:
    """A window, and the longest gaps of its event loop."""

    def __init__(self) -> None:
        make_application()
        self.session = Session()
        self.window = Window(self.session, Settings())
        self.window.resize(1280, 800)
        self.window.show()
        self.gaps: list[float] = []
        self._last = time.perf_counter()
        self._timer = QTimer()
        self._timer.timeout.connect(self._beat)
        self._timer.start(BEAT)

    def _beat(self) -> None:
        now = time.perf_counter()
        self.gaps.append(now - self._last - BEAT / 1000)
        self._last = now

    def wait(self, seconds: float) -> None:
        """Lets the event loop run."""
        loop = QEventLoop()
        QTimer.singleShot(round(1000 * seconds), loop.quit)
        loop.exec()

    def settle(self) -> None:
        """Waits until all is judged and painted."""
        while self.session.analysis.busy:
            self.wait(0.01)
        self.wait(0.05)

    def open(self, tree: dict[str, Any]) -> None:
        """Opens a document, and waits for it."""
        self.session.editor.begin(*project.loads(json.dumps(tree).encode()), None)
        self.settle()

    def close(self) -> float:
        """Seconds until the window is closed and all work has ended."""
        self._timer.stop()
        self.session.editor.source = None
        start = time.perf_counter()
        self.window.close()
        self.session.stop()
        return time.perf_counter() - start


def edits() -> None:
    print("\nOne edit: how long it holds the interface thread, when the new motion is painted, when all is judged")
    watched = Watched()
    trees = {
        "the demo": json.loads(project.dumps(project.demo()[0])),
        "40 loops, 121 parts": mechanisms.four_bars(40),
        "a chain of 300 parts": mechanisms.chain(300),
        "100 loops, 301 parts": mechanisms.four_bars(100),
    }
    for what, tree in trees.items():
        watched.open(tree)
        held, painted, whole = [], [], []
        joint = [name for name, joint in tree["joints"].items() if joint["type"] == "revolute"][-1]
        watched.session.selection.select(f"joints.{joint}")
        watched.settle()
        for k in range(6):
            watched.gaps.clear()
            start = time.perf_counter()
            before = watched.session.motion
            assert not watched.session.edit(("joints", joint, "limits"), {"max": 5000 + k}, "Edit")
            while watched.session.motion in (None, before):
                watched.wait(0.001)
            watched.window.canvas.repaint()
            painted.append(time.perf_counter() - start)
            watched.settle()
            whole.append(time.perf_counter() - start)
            held.append(max(watched.gaps))
        print(f"  {what:<24} held {statistics.median(held) * 1e3:5.0f} ms, "
              f"new motion painted after {statistics.median(painted) * 1e3:5.0f} ms, "
              f"judged and painted after {statistics.median(whole) * 1e3:5.0f} ms")
    print("  (wanted for 300 parts: held 100 ms at most, the new motion painted within 300 ms)")
    watched.close()


def cancelling() -> None:
    print("\nCancel and Close at random moments of an analysis; until the process is free again")
    chance = random.Random(7)
    watched = Watched()
    session = watched.session
    watched.open(json.loads(project.dumps(project.demo()[0])))
    for what in ("sewing-head", "delivery-chain", "all ways of the delivery chain", "40 loops"):
        times = []
        for _ in range(15):
            if what == "40 loops":
                session.editor.begin(*project.loads(json.dumps(mechanisms.four_bars(40)).encode()), None)
            elif what.startswith("all"):
                session.open_example("delivery-chain")
                watched.settle()
                session.next_mode()
            else:
                session.open_example(what)
            watched.wait(chance.uniform(0.0, 0.4))
            process = session.analyst.engage()
            start = time.perf_counter()
            session.analysis.cancel()
            while not process.idle and time.perf_counter() - start < 20:
                time.sleep(0.0005)
            times.append(time.perf_counter() - start)
        print(f"  {what:<32} median {statistics.median(times) * 1e3:5.1f} ms, longest {max(times) * 1e3:5.1f} ms")
    print("  (wanted: 100 ms)")
    session.open_example("delivery-chain")
    watched.settle()
    session.next_mode()
    watched.wait(0.05)
    took = watched.close()
    print(f"  closed during the search for all ways of the delivery chain: {took * 1e3:.0f} ms (wanted: 1 s)")


def frames() -> None:
    print("\nOne frame of the whole window at 1280 × 800, painted by the processor")
    watched = Watched()
    for name in (*project.EXAMPLES, "a chain of 300 parts"):
        if name in project.EXAMPLES:
            watched.session.open_example(name)
        else:
            watched.open(mechanisms.chain(300))
        watched.settle()
        times = []
        for k in range(12):
            watched.session.go(watched.session.end * k / 12)
            start = time.perf_counter()
            watched.window.repaint()
            times.append(time.perf_counter() - start)
        print(f"  {name:<24} {statistics.median(times) * 1e3:5.1f} ms")
    watched.close()


def hands() -> None:
    print("\nWhat the hand feels, at the widget: medians (and the longest) in ms")
    watched = Watched()
    session, canvas = watched.session, watched.window.canvas
    demo = json.loads(project.dumps(project.demo()[0]))
    trees = {"the demo": demo, "100 loops, 301 parts": mechanisms.four_bars(100)}
    for what, tree in trees.items():
        start = time.perf_counter()
        watched.open(tree)
        opened = time.perf_counter() - start
        part = [part.id for part in session.document.parts.values() if not part.fixed][-1]
        x, y, _ = session.posing.poses()[part]

        def played(k: int) -> None:  # all that changes is painted, and no more, as when it plays
            session.go(session.end * (k + 1) / 20)
            QApplication.processEvents()

        def moved(k: int) -> None:
            QTest.mouseMove(canvas, QPoint(200 + 7 * k, 200 + 3 * k))
            canvas.repaint()

        every = [grab for one in session.document.parts.values() for grab in _grabs(one)]

        def lit(k: int, every: list[Grab] = every) -> None:  # from the move until the feature is lit
            grab = every[(37 * k) % len(every)]
            QTest.mouseMove(canvas, canvas.pixel(canvas.frame.grabbed(grab)).toPoint())
            canvas.repaint()

        def pulled(k: int, x: float = x, y: float = y) -> None:
            canvas.hand.pull(x + 0.5 * k, y + 0.2 * k)
            canvas.repaint()

        message = [f"opened and judged {opened:.2f} s", f"a played frame {_spread(played)}"]
        message.append(f"the mouse moved {_spread(moved)}")
        canvas.take("join")
        message.append(f"with a tool {_spread(moved)}")
        message.append(f"a feature lit {_spread(lit)}")
        canvas.take("")
        session.pause()
        canvas.hand.press(part, (1.0, 0.0))
        message.append(f"a dragged frame {_spread(pulled)}")
        canvas.hand.let_go()
        session.posing.unpose()
        print(f"  {what:<22} {', '.join(message)}")
    print("  (wanted for 300 parts: opened within 2 s, 33 ms a frame, 8 ms for the mouse, 16 ms to a lit feature; "
          "8 ms a frame for 20 parts)")  # fmt: skip
    watched.close()


def _grabs(part: Part) -> list[Grab]:
    return [Grab(part.id, feature) for feature in features(part)]


def _spread(act: Callable[[int], None]) -> str:
    times = []
    for k in range(15):
        start = time.perf_counter()
        act(k)
        times.append((time.perf_counter() - start) * 1e3)
    return f"{statistics.median(times):.0f} ({max(times):.0f})"


ALL = (edits, cancelling, frames, hands)
